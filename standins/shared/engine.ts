import { createTransport } from 'nodemailer';
import { createHash, randomBytes } from 'node:crypto';
import { afterBusinessDays, dayIn } from './days.ts';
import { HTTPException } from 'hono/http-exception';
import { Journal } from './journal.ts';
import { timeNow } from './clock.ts';

/** What a stand-in is made of that does not differ from house to house. Sums are minor units of their currency. */
export type Mode = 'live' | 'test';

export interface Account {
	id: string;
	name: string;
	country: string;
	settles: string;
	zone: string;
	/** methods that are switched off on this account */
	off: string[];
	/** methods that wait for the house's approval */
	waiting: string[];
	/** other switches of the account, by name */
	switches: Record<string, boolean>;
	tier?: string;
	rhythm?: string;
	/** payouts are held until this day */
	heldUntil?: string;
	/** wallet domains, by name: proven or why not */
	/** what was agreed upon with this account apart from the published prices */
	terms?: Record<string, string>;
	domains?: Record<string, { state: 'proven' | 'failing' | 'not looked at'; says: string; file: string }>;
}

/** A key, a token or whatever else opens an account. */
export interface Key {
	key: string;
	kind: string;
	mode: Mode;
	account: string;
	made: string;
	revoked?: string;
}

export interface CardReport {
	scheme: string;
	funding: string;
	issuedIn: string;
	lastFour: string;
	expires: string;
}

export interface Token {
	token: string;
	account: string;
	mode: Mode;
	card: CardReport;
	outcome: string;
	used: boolean;
	/** of a wallet on the device, where it is not told by a card's number */
	by?: 'card' | 'tapfold';
}

/** A card or a mandate that a payer let the house keep: the shop can charge it again. */
export interface Kept {
	id: string;
	account: string;
	mode: Mode;
	method: string;
	card?: CardReport;
	bank?: string;
	lastFour?: string;
	at: string;
	/** why it works no more */
	ended?: string;
}

/** What a payer signed, so that money may be taken from their account: once, or again and again. */
export interface Signed {
	id: string;
	at: string;
	bank: string;
	lastFour: string;
	again: boolean;
}

export interface Refund {
	id: string;
	minor: number;
	at: string;
	/** of the fee, in minor units of the settlement currency */
	feeBack: number;
}

export interface Priced {
	currency: string;
	fee: number;
	/** what the fee was taken from, in the settlement currency */
	base: number;
	rate?: { day: string; value: string };
	label: string;
	/** exact share of the fee that follows the amount, as a fraction */
	share: { top: string; bottom: string };
	parts?: Record<string, number>;
}

export interface Payment {
	id: string;
	account: string;
	mode: Mode;
	ours: string;
	method: string;
	currency: string;
	minor: number;
	card?: CardReport;
	descriptor: string;
	/** taken by a second act, not at once */
	later: boolean;
	tier?: string;
	/** waiting: the payer has not acted yet; held: authorised; pending: promised; back: returned after it was taken */
	state: 'waiting' | 'held' | 'pending' | 'taken' | 'refused' | 'ended' | 'back';
	why?: string;
	at: string;
	heldAt?: string;
	pendingAt?: string;
	takenAt?: string;
	endedAt?: string;
	backAt?: string;
	settledAt?: string;
	payout?: string;
	paidOutAt?: string;
	charged?: Priced;
	refunds: Refund[];
	disputed?: {
		at: string;
		minor: number;
		reason?: string;
		answerBy?: string;
		answered?: { at: string; text: string; files: string[] };
		outcome?: 'won' | 'lost';
		endedAt?: string;
	};
	returnTo?: string;
	payer?: { name: string; mail: string; country: string };
	/** what a payer writes into a transfer so that it is matched */
	reference?: string;
	/** opens the page on which the payer acts */
	door?: string;
	/** the payer lets the house keep what they pay by */
	keeps?: boolean;
	/** what was kept by this payment, or what it was paid by */
	kept?: string;
	signed?: Signed;
	/** of a transfer that came without a request: what its payer wrote, and who they are */
	came?: { words: string; from: string; iban: string };
}

export type Happening =
	| 'held'
	| 'pending'
	| 'taken'
	| 'refused'
	| 'ended'
	| 'refunded'
	| 'disputed'
	| 'settled'
	| 'back'
	| 'paid out'
	| 'hello'
	| 'account';

export interface Answered {
	key: string;
	content: string;
	state: 'working' | 'done' | 'closed';
	status?: number;
	body?: string;
}

export interface Listener {
	id: string;
	account: string;
	mode: Mode;
	address: string;
	topics: string[];
	secret: string;
	/** who is told by mail when nothing gets there, and when that was said last */
	troubleMail?: string;
	toldAt?: number;
}

/** The server by which a house sends its mails. */
export interface MailServer {
	id: 'mail';
	port: number;
	user: string;
	password: string;
}

export interface Delivery {
	id: string;
	listener: string;
	topic: string;
	body: string;
	tries: { at: string; result: string }[];
	next?: number;
	done: boolean;
}

export interface Grant {
	id: string;
	kind: 'code' | 'access' | 'refresh';
	client: string;
	mode: Mode;
	scope: string;
	challenge?: string;
	returnTo?: string;
	until: number;
	/** all grants that stem from one consent end together */
	consent: string;
	used?: boolean;
}

export interface Faults {
	id: 'faults';
	slow: number;
	errors: boolean;
	silent: boolean;
	wrongFee: boolean;
	loseAnswer: boolean;
	/** what became of a key is not told */
	keepsOutcomes: boolean;
	nonsense: boolean;
	down: boolean;
	/** what is asked is done, and answered a byte at a time */
	drips: boolean;
	forgedHooks: boolean;
	shortTokens: boolean;
}

export const NO_FAULTS: Faults = {
	id: 'faults',
	slow: 0,
	errors: false,
	silent: false,
	wrongFee: false,
	loseAnswer: false,
	keepsOutcomes: false,
	nonsense: false,
	down: false,
	drips: false,
	forgedHooks: false,
	shortTokens: false
};

export interface Application {
	number: string;
	mail: string;
	state: 'received' | 'in review' | 'papers wanted' | 'open' | 'refused';
	papers: string[];
	at: string;
}

export type Tables = {
	accounts: Account;
	keys: Key;
	tokens: Token;
	kept: Kept;
	payments: Payment;
	answered: Answered;
	listeners: Listener;
	deliveries: Delivery;
	grants: Grant;
	applications: Application;
	faults: Faults;
	mail: MailServer;
};

export interface PayoutNotice {
	id: string;
	at: string;
	currency: string;
	minor: number;
	payments: Payment[];
}

/** What differs from house to house. */
export interface House {
	readonly name: string;
	/** begins the ids of its objects */
	readonly prefix: string;
	readonly accounts: readonly Account[];
	/** the keys and tokens that each account has from the start */
	seed(account: Account, mode: Mode): Key[];
	price(payment: Payment, account: Account, faults: Faults): Priced;
	/** of a fee, what is given back in all once so much of the payment is refunded */
	givenBack(payment: Payment, refunded: number): number;
	readonly topics: Partial<Record<Happening, string>>;
	body(event: {
		id: string;
		topic: string;
		at: string;
		account: Account;
		mode: Mode;
		payment?: Payment;
		payout?: PayoutNotice;
	}): string;
	headers(listener: Listener, delivery: Pick<Delivery, 'id' | 'body'>, at: Date): Record<string, string>;
	/** business days from taking to settlement, and from taking to payout */
	readonly settleAfter: (payment: Payment) => number;
	readonly payOutAfter: (payment: Payment, account: Account) => number;
	/** whether a payout leaves on a day */
	payoutDay?(account: Account, day: string): boolean;
	/** seconds after which a payer who does not act is too late */
	readonly patience?: number;
}

/** Waits between the tries of one notification, in seconds. */
const WAITS = [2, 10, 60, 300, 1800, 7200, 36_000];
/** After so many tries in vain of one notification a mail is sent. */
const FAILED_UNTIL_MAIL = 3;
const LETTERS = 'ABCDEFGHJKLMNPQRSTUVWXYZ23456789';
export const randomText = (length: number, letters = LETTERS): string =>
	[...randomBytes(length)].map((byte) => letters[byte % letters.length]).join('');

/** One house at work: payments, refunds, payouts, notifications; everything survives a restart. */
export class Engine {
	readonly state: Journal<Tables>;
	private timer: NodeJS.Timeout | undefined;
	private nights: NodeJS.Timeout | undefined;
	private readonly busy = new Set<string>();
	private readonly ending = new AbortController();

	constructor(
		readonly house: House,
		file: string,
		private readonly haste: number
	) {
		this.state = new Journal<Tables>(file);
		for (const account of house.accounts)
			if (!this.state.get('accounts', account.id)) {
				this.state.put('accounts', account.id, account);
				for (const mode of ['live', 'test'] as const)
					for (const key of house.seed(account, mode)) this.state.put('keys', key.key, key);
			}
		// a request that was under way when the process ended never answered: it may be asked for again
		for (const one of this.state.all('answered')) if (one.state === 'working') this.state.remove('answered', one.key);
		if (!this.state.get('faults', 'faults')) this.state.put('faults', 'faults', NO_FAULTS);
		this.nights = setInterval(() => this.night(), 60_000);
		this.night();
		this.wake(500);
	}

	/** Ends it as a killed process would: what is being sent is cut off, and nothing is written any more. */
	stop(): void {
		this.state.close();
		this.ending.abort();
		clearTimeout(this.timer);
		clearInterval(this.nights);
	}

	get faults(): Faults {
		return { ...NO_FAULTS, ...this.state.get('faults', 'faults')! };
	}
	setFaults(changes: Partial<Faults>): Faults {
		const after = this.state.put('faults', 'faults', { ...this.faults, ...changes, id: 'faults' });
		this.wake(0);
		return after;
	}
	account(id: string): Account {
		return this.state.get('accounts', id)!;
	}
	change(id: string, changes: Partial<Account>): Account {
		const after = this.state.put('accounts', id, { ...this.account(id), ...changes });
		for (const mode of ['live', 'test'] as const) this.tell(id, mode, 'account', {});
		return after;
	}

	/** Keeps a payment that somebody asked for. Cards are decided at once, everything else waits for the payer. */
	begin(
		asked: Pick<Payment, 'account' | 'mode' | 'ours' | 'method' | 'currency' | 'minor' | 'descriptor' | 'later'> &
			Partial<Pick<Payment, 'returnTo' | 'payer' | 'reference' | 'tier' | 'keeps'>>,
		token?: Token
	): Payment {
		const id = `${this.house.prefix}${randomText(14)}`;
		const payment: Payment = {
			id,
			...asked,
			card: token?.card,
			state: 'waiting',
			at: new Date(timeNow()).toISOString(),
			refunds: [],
			door: randomText(20)
		};
		this.state.put('payments', id, payment);
		if (!token) return payment;
		this.state.put('tokens', token.token, { ...token, used: true });
		if (token.outcome !== 'approved') return this.refuse(id, token.outcome.replace('declined: ', ''));
		if (asked.keeps) this.keepMethod(payment, { card: token.card });
		return asked.later ? this.hold(id) : this.take(id);
	}

	/** Keeps what a payment is paid by, so that it can be charged again. */
	private keepMethod(payment: Payment, what: Pick<Kept, 'card' | 'bank' | 'lastFour'>, id?: string): void {
		const { account, mode, method } = payment;
		const kept: Kept = {
			id: id ?? `${this.house.prefix}S${randomText(20)}`,
			account,
			mode,
			method,
			at: new Date(timeNow()).toISOString(),
			...what
		};
		this.state.put('kept', kept.id, kept);
		this.state.put('payments', payment.id, { ...this.payment(payment.id), kept: kept.id });
	}

	/** Money that came to the house's account and that no request asked for. */
	receive(
		asked: Pick<Payment, 'account' | 'mode' | 'currency' | 'minor'>,
		came: { words: string; from: string; iban: string }
	): Payment {
		const { id } = this.begin({ ...asked, ours: '', method: 'transfer', descriptor: '', later: false });
		this.state.put('payments', id, { ...this.payment(id), came });
		return this.take(id);
	}

	/** Charges what was kept: a card is decided at once, a mandate is on its way at once. */
	beginAgain(asked: Parameters<Engine['begin']>[0], kept: Kept): Payment {
		const { id } = this.begin(asked);
		const signed = kept.method === 'bank debit' && {
			id: kept.id,
			at: kept.at,
			bank: kept.bank ?? '',
			lastFour: kept.lastFour ?? '',
			again: true
		};
		this.state.put('payments', id, {
			...this.payment(id),
			card: kept.card,
			kept: kept.id,
			...(signed ? { signed } : {})
		});
		if (signed) return this.promise(id);
		return asked.later ? this.hold(id) : this.take(id);
	}

	/** Ends what was kept, as the shop asks or as a hand does at the console. */
	endKept(id: string, why: string): boolean {
		const kept = this.state.get('kept', id);
		if (!kept) return false;
		this.state.put('kept', id, { ...kept, ended: kept.ended ?? why });
		return true;
	}

	/** Payments from before the house was started, with what had become of them by then. Nobody is told. */
	remember(
		account: Account,
		past: readonly Pick<Payment, 'id' | 'method' | 'currency' | 'minor' | 'takenAt'>[]
	): number {
		const today = dayIn(account.zone);
		let count = 0;
		for (const one of past) {
			if (this.state.get('payments', one.id)) continue;
			const payment: Payment = {
				account: account.id,
				mode: 'live',
				ours: '',
				descriptor: '',
				later: false,
				state: 'taken',
				at: one.takenAt!,
				refunds: [],
				...one
			};
			const taken = dayIn(account.zone, new Date(one.takenAt!));
			let refunded = 0;
			payment.refunds = payment.refunds.map((refund) => {
				const before = this.house.givenBack(payment, refunded);
				refunded += refund.minor;
				return { ...refund, feeBack: this.house.givenBack(payment, refunded) - before };
			});
			const settled = afterBusinessDays(taken, this.house.settleAfter(payment));
			const paidOut = afterBusinessDays(taken, this.house.payOutAfter(payment, account));
			if (settled < today) payment.settledAt = `${settled}T22:00:00.000Z`;
			if (paidOut < today) {
				payment.payout = `${this.house.prefix}O${paidOut.replaceAll('-', '')}`;
				payment.paidOutAt = `${paidOut}T23:00:00.000Z`;
			}
			this.state.put('payments', payment.id, payment);
			count++;
		}
		return count;
	}

	private put(payment: Payment, happening: Happening): Payment {
		this.state.put('payments', payment.id, payment);
		this.tell(payment.account, payment.mode, happening, { payment });
		return payment;
	}
	payment(id: string): Payment {
		return this.state.get('payments', id)!;
	}

	refuse(id: string, why: string): Payment {
		return this.put(
			{ ...this.payment(id), state: 'refused', why, endedAt: new Date(timeNow()).toISOString() },
			'refused'
		);
	}
	hold(id: string): Payment {
		return this.put({ ...this.payment(id), state: 'held', heldAt: new Date(timeNow()).toISOString() }, 'held');
	}
	/** @param account of the payer, as they typed it at the house's page */
	promise(
		id: string,
		account: { bank: string; lastFour: string } = { bank: 'Scheldt Bank', lastFour: '7034' }
	): Payment {
		const at = new Date(timeNow()).toISOString();
		const before = this.payment(id);
		if (!before.signed) {
			const signed: Signed = {
				id: `${this.house.prefix}M${randomText(12)}`,
				at,
				...account,
				again: before.keeps === true
			};
			this.state.put('payments', id, { ...before, signed });
			if (signed.again) this.keepMethod(before, account, signed.id);
		}
		return this.put({ ...this.payment(id), state: 'pending', pendingAt: at }, 'pending');
	}
	/** Takes the money, whole or a part of what is held. */
	take(id: string, minor?: number): Payment {
		const before = this.payment(id);
		const payment: Payment = {
			...before,
			minor: minor ?? before.minor,
			state: 'taken',
			takenAt: new Date(timeNow()).toISOString()
		};
		payment.charged = this.house.price(payment, this.account(payment.account), this.faults);
		return this.put(payment, 'taken');
	}
	end(id: string, why: string): Payment {
		return this.put({ ...this.payment(id), state: 'ended', why, endedAt: new Date(timeNow()).toISOString() }, 'ended');
	}
	/** A debit that comes back after it was taken. */
	bounce(id: string, why: string): Payment {
		return this.put({ ...this.payment(id), state: 'back', why, backAt: new Date(timeNow()).toISOString() }, 'back');
	}

	leftToRefund(payment: Payment): number {
		if (payment.state !== 'taken') return 0;
		return (
			payment.minor -
			payment.refunds.reduce((sum, one) => sum + one.minor, 0) -
			(payment.disputed && payment.disputed.outcome !== 'won' ? payment.disputed.minor : 0)
		);
	}
	/** Gives money back; the caller has checked the sum against `leftToRefund`. */
	refund(id: string, minor: number): { payment: Payment; refund: Refund } {
		const payment = this.payment(id);
		const before = payment.refunds.reduce((sum, one) => sum + one.minor, 0);
		const refund: Refund = {
			id: `${this.house.prefix}R${randomText(13)}`,
			minor,
			at: new Date(timeNow()).toISOString(),
			feeBack: this.house.givenBack(payment, before + minor) - this.house.givenBack(payment, before)
		};
		return { payment: this.put({ ...payment, refunds: [...payment.refunds, refund] }, 'refunded'), refund };
	}
	/** A payer disputes a payment; the shop has two weeks to answer. */
	dispute(id: string, reason = 'the goods did not come'): Payment {
		const payment = this.payment(id);
		const at = timeNow();
		return this.put(
			{
				...payment,
				disputed: {
					at: new Date(at).toISOString(),
					minor: this.leftToRefund(payment),
					reason,
					answerBy: new Date(at + 14 * 86_400_000).toISOString()
				}
			},
			'disputed'
		);
	}
	/** Takes what the shop answers to a dispute. @returns why not, where it is not taken */
	answerDispute(id: string, text: string, files: string[]): string | undefined {
		const payment = this.payment(id);
		const { disputed } = payment;
		if (!disputed) return 'Nobody disputes this payment.';
		if (disputed.outcome) return 'This dispute has ended.';
		if (disputed.answerBy && Date.parse(disputed.answerBy) < timeNow()) return 'The time to answer is over.';
		const answered = { at: new Date(timeNow()).toISOString(), text, files };
		this.state.put('payments', id, { ...payment, disputed: { ...disputed, answered } });
		return undefined;
	}
	/** Ends a dispute: the money comes back to the shop, or stays with the payer. */
	endDispute(id: string, outcome: 'won' | 'lost'): Payment {
		const payment = this.payment(id);
		return this.put(
			{ ...payment, disputed: { ...payment.disputed!, outcome, endedAt: new Date(timeNow()).toISOString() } },
			'disputed'
		);
	}

	/** Settles what was taken, or pays out what was settled: what a night does, and what a hand can do at the console. */
	settle(
		account: Account,
		mode: Mode,
		step: 'settle' | 'pay out',
		due: (payment: Payment) => boolean = () => true
	): number {
		// most of them have come to their end long ago: they are left out before it is asked what is due
		const stands = (one: Payment) => (step === 'settle' ? !one.settledAt : !!one.settledAt && !one.payout);
		const ready = this.state
			.all('payments')
			.filter(
				(one) => one.account === account.id && one.mode === mode && one.state === 'taken' && stands(one) && due(one)
			);
		const at = new Date(timeNow()).toISOString();
		if (step === 'settle') {
			for (const payment of ready) this.put({ ...payment, settledAt: at }, 'settled');
			return ready.length;
		}
		if (!ready.length) return 0;
		const id = `${this.house.prefix}O${randomText(11)}`;
		const payout: PayoutNotice = {
			id,
			at,
			currency: account.settles,
			minor: ready.reduce(
				(sum, one) => sum + one.charged!.base - one.charged!.fee + one.refunds.reduce((back, r) => back + r.feeBack, 0),
				0
			),
			payments: ready.map((one) => this.state.put('payments', one.id, { ...one, payout: id, paidOutAt: at }))
		};
		this.tell(account.id, mode, 'paid out', { payout });
		return ready.length;
	}

	/** What happens by itself, looked at every minute. */
	night(): void {
		for (const account of this.state.all('accounts'))
			for (const mode of ['live', 'test'] as const) {
				const today = dayIn(account.zone);
				const takenOn = (one: Payment) => dayIn(account.zone, new Date(one.takenAt!));
				this.settle(
					account,
					mode,
					'settle',
					(one) => afterBusinessDays(takenOn(one), this.house.settleAfter(one)) <= today
				);
				if (account.heldUntil && account.heldUntil > today) continue;
				if (this.house.payoutDay && !this.house.payoutDay(account, today)) continue;
				this.settle(
					account,
					mode,
					'pay out',
					(one) => afterBusinessDays(takenOn(one), this.house.payOutAfter(one, account)) <= today
				);
			}
		const late = timeNow() - (this.house.patience ?? 1800) * 1000;
		for (const one of this.state.all('payments'))
			if (one.state === 'waiting' && one.method !== 'transfer' && Date.parse(one.at) < late)
				this.end(one.id, 'the payer did not act in time');
	}

	/**
	 * Does a thing once per key: the same key and content gives the same answer, other content is refused.
	 * @returns `lost` when the answer is to be lost on its way
	 */
	once(
		account: string,
		key: string,
		content: string,
		act: () => { status: number; body: object }
	): { status: number; body: string; lost?: boolean } | { trouble: 'closed' | 'reused' | 'working' } {
		const name = `${account} ${key}`;
		const hash = createHash('sha256').update(content).digest('hex');
		const before = this.state.get('answered', name);
		if (before?.state === 'closed') return { trouble: 'closed' };
		if (before && before.content !== hash) return { trouble: 'reused' };
		if (before?.state === 'working') return { trouble: 'working' };
		if (before) return { status: before.status!, body: before.body! };
		this.state.put('answered', name, { key: name, content: hash, state: 'working' });
		const { status, body } = act();
		const text = JSON.stringify(body);
		this.state.put('answered', name, { key: name, content: hash, state: 'done', status, body: text });
		return { status, body: text, lost: this.faults.loseAnswer };
	}
	/** What became of a key. One that never came is closed, so that a late request does nothing. */
	settleKey(account: string, key: string): Answered {
		if (this.faults.keepsOutcomes) throw new HTTPException(503, { message: 'Ask again later.' });
		const name = `${account} ${key}`;
		return (
			this.state.get('answered', name) ?? this.state.put('answered', name, { key: name, content: '', state: 'closed' })
		);
	}

	/** Queues an event for every listener of an account and mode that asked for its topic. */
	tell(
		accountId: string,
		mode: Mode,
		happening: Happening,
		content: { payment?: Payment; payout?: PayoutNotice }
	): void {
		const topic = this.house.topics[happening];
		if (!topic) return;
		for (const listener of this.state.all('listeners')) {
			if (listener.account !== accountId || listener.mode !== mode) continue;
			if (happening !== 'hello' && !listener.topics.includes(topic)) continue;
			const id = `${this.house.prefix}E${randomText(18)}`;
			const at = new Date(timeNow()).toISOString();
			this.state.put('deliveries', id, {
				id,
				listener: listener.id,
				topic,
				body: this.house.body({ id, topic, at, account: this.account(accountId), mode, ...content }),
				tries: [],
				next: timeNow(),
				done: false
			});
		}
		this.wake(0);
	}

	/** until when this house has told what it remembers from elsewhere */
	private passed = timeNow();
	/** Tells of what was taken since it was asked last and is remembered from elsewhere: its time came as the clock passed it. */
	tellPassed(): void {
		const [from, to] = [this.passed, timeNow()];
		this.passed = to;
		for (const payment of this.state.all('payments')) {
			const at = payment.takenAt === undefined ? NaN : Date.parse(payment.takenAt);
			if (payment.mode === 'live' && payment.ours === '' && at > from && at <= to)
				this.tell(payment.account, 'live', 'taken', { payment });
		}
	}

	/** How many deliveries are on their way or due now. */
	waiting(): number {
		const now = timeNow();
		return this.state.all('deliveries').filter((one) => !one.done && one.next !== undefined && one.next <= now).length;
	}

	/** Gives up all that was not delivered yet: it is never told. */
	forget(): number {
		const open = this.state.all('deliveries').filter((one) => !one.done);
		for (const one of open) this.state.put('deliveries', one.id, { ...one, next: undefined, done: true });
		return open.length;
	}

	/** Sends one again at once, whatever became of it. */
	again(id: string): void {
		const delivery = this.state.get('deliveries', id);
		if (!delivery) return;
		this.state.put('deliveries', id, { ...delivery, done: false, next: timeNow() });
		this.wake(0);
	}

	wake(ms: number): void {
		clearTimeout(this.timer);
		if (this.ending.signal.aborted) return;
		this.timer = setTimeout(() => void this.run(), ms);
	}

	/** All deliveries, and which of them is on its way at this moment. */
	deliveries(): (Delivery & { sending: boolean })[] {
		return this.state.all('deliveries').map((one) => ({ ...one, sending: this.busy.has(one.id) }));
	}

	private async run(): Promise<void> {
		const now = timeNow();
		const open = this.state.all('deliveries').filter((one) => !one.done && one.next !== undefined);
		if (!this.faults.silent)
			await Promise.all(
				open
					.filter((one) => one.next! <= now && !this.busy.has(one.id))
					.slice(0, 50)
					.map((one) => this.send(one))
			);
		const next = this.state
			.all('deliveries')
			.filter((one) => !one.done && one.next !== undefined)
			.reduce((soonest, one) => Math.min(soonest, one.next!), Infinity);
		if (next < Infinity) this.wake(Math.max(100, Math.min(next - timeNow(), 60_000)));
	}

	private async send(delivery: Delivery): Promise<void> {
		const listener = this.state.get('listeners', delivery.listener);
		if (!listener) {
			this.state.put('deliveries', delivery.id, { ...delivery, next: undefined, done: true });
			return;
		}
		this.busy.add(delivery.id);
		const at = new Date(timeNow());
		const signer = this.faults.forgedHooks ? { ...listener, secret: randomText(40) } : listener;
		let result: string;
		let ok = false;
		try {
			const answer = await fetch(listener.address, {
				method: 'POST',
				headers: { 'content-type': 'application/json', ...this.house.headers(signer, delivery, at) },
				body: delivery.body,
				redirect: 'manual',
				signal: AbortSignal.any([AbortSignal.timeout(15_000), this.ending.signal])
			});
			ok = answer.status >= 200 && answer.status < 300;
			result = `answered ${answer.status}`;
		} catch (error) {
			result = `no answer: ${error instanceof Error ? error.message : 'unknown'}`;
		}
		const tries = [...delivery.tries, { at: at.toISOString(), result }];
		const wait = WAITS[tries.length - 1];
		this.state.put('deliveries', delivery.id, {
			...delivery,
			tries,
			done: ok,
			next: ok || wait === undefined ? undefined : timeNow() + (wait * 1000) / this.haste
		});
		this.busy.delete(delivery.id);
		if (!ok && tries.length === FAILED_UNTIL_MAIL) await this.mailTrouble(listener, result);
	}

	/** Says by mail, at most once a day, that nothing gets to an address. */
	private async mailTrouble(listener: Listener, result: string): Promise<void> {
		const server = this.state.get('mail', 'mail');
		if (!server || !listener.troubleMail || timeNow() - (listener.toldAt ?? 0) < 86_400_000) return;
		this.state.put('listeners', listener.id, { ...listener, toldAt: timeNow() });
		await createTransport({
			host: '127.0.0.1',
			port: server.port,
			secure: false,
			ignoreTLS: true,
			auth: { user: server.user, pass: server.password }
		})
			.sendMail({
				from: `notices@${this.house.name.toLowerCase().replace(/\W/g, '')}.example`,
				to: listener.troubleMail,
				subject: `${this.house.name} cannot reach your address`,
				text: `Notifications to ${listener.address} fail: ${result}. We try again, less and less often.`
			})
			.catch(() => {});
	}
}
