import { randomBytes } from 'node:crypto';
import { Journal } from '../shared/journal.ts';
import { timeNow } from '../shared/clock.ts';

/** Fernhall counts every currency in thousandths of its major unit: 84.50 EUR is 84500, ¥12,800 is 12800000. */
export interface Sum {
	currency: string;
	thousandths: number;
}

export type Mode = 'test' | 'live';

export interface Account {
	id: string;
	name: string;
	country: string;
	settles: string;
	zone: string;
	/** ways to pay that are switched off on this account */
	off?: ('cards' | 'tapfold')[];
	/** another share for private cards at home, from a day on */
	dearer?: { readonly since: string; readonly home: string };
}

/** A web domain on which the device wallet may be shown, once its proof was found there. */
export interface Domain {
	domain: string;
	account: string;
	content: string;
	state: 'not looked at' | 'proven' | 'failing';
	says: string;
}

export interface Key {
	key: string;
	kind: 'public' | 'secret';
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
	by?: 'card' | 'tapfold';
}

export interface Fee {
	currency: string;
	thousandths: number;
	/** what the fee was taken from, in the settlement currency */
	base: number;
	rate?: { day: string; value: string };
	band: string;
}

export interface Refund {
	id: string;
	sum: Sum;
	at: string;
	/** of the fee, in thousandths of the settlement currency */
	feeReturned: number;
}

export interface Payment {
	id: string;
	account: string;
	mode: Mode;
	ours: string;
	sum: Sum;
	card: CardReport;
	/** how the card was given */
	by?: 'card' | 'tapfold';
	descriptor: string;
	state: 'taken' | 'declined';
	why?: string;
	at: string;
	fee?: Fee;
	/** exact share of the fee that follows the amount, in millionths of a thousandth */
	share?: string;
	refunds: Refund[];
	disputed?: { at: string; thousandths: number };
	settledAt?: string;
	payout?: string;
	paidOutAt?: string;
}

/** What was answered to a request that carried a key of its own. */
export interface Answered {
	key: string;
	account: string;
	content: string;
	state: 'working' | 'done' | 'closed';
	payment?: string;
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

export interface Faults {
	id: 'faults';
	slow: number;
	errors: boolean;
	silent: boolean;
	wrongFee: boolean;
	loseAnswer: boolean;
	nonsense: boolean;
	down: boolean;
}

export const NO_FAULTS: Faults = {
	id: 'faults',
	slow: 0,
	errors: false,
	silent: false,
	wrongFee: false,
	loseAnswer: false,
	nonsense: false,
	down: false
};

export type Tables = {
	accounts: Account;
	keys: Key;
	tokens: Token;
	payments: Payment;
	answered: Answered;
	listeners: Listener;
	deliveries: Delivery;
	domains: Domain;
	faults: Faults;
};

export type State = Journal<Tables>;

const LETTERS = 'ABCDEFGHJKLMNPQRSTUVWXYZ23456789';
export const randomText = (length: number) => [...randomBytes(length)].map((byte) => LETTERS[byte % 32]).join('');

/** `FHP-L-` for a live public key, `FHS-T-` for a secret test key; then 28 signs of which the last is a check sign. */
export function makeKey(kind: Key['kind'], mode: Mode): string {
	const body = randomText(27);
	return `FH${kind === 'public' ? 'P' : 'S'}-${mode === 'live' ? 'L' : 'T'}-${body}${checkSign(body)}`;
}
export const checkSign = (body: string): string =>
	LETTERS[[...body].reduce((sum, sign, at) => (sum + LETTERS.indexOf(sign) * (2 * at + 1)) % 32, 0)]!;

export function openState(file: string): State {
	const state: State = new Journal<Tables>(file);
	if (state.all('accounts').length === 0) {
		const account = state.put('accounts', 'FH-20417', {
			id: 'FH-20417',
			name: 'Wren & Alder Strings',
			country: 'BE',
			settles: 'EUR',
			zone: 'Europe/Brussels'
		});
		for (const mode of ['live', 'test'] as const)
			for (const kind of ['public', 'secret'] as const) addKey(state, account.id, kind, mode);
	}
	// a request that was under way when the process ended never answered: it may be asked for again
	for (const one of state.all('answered')) if (one.state === 'working') state.remove('answered', one.key);
	if (!state.get('faults', 'faults')) state.put('faults', 'faults', NO_FAULTS);
	return state;
}

export function addKey(state: State, account: string, kind: Key['kind'], mode: Mode): Key {
	const key = makeKey(kind, mode);
	return state.put('keys', key, { key, kind, mode, account, made: new Date(timeNow()).toISOString() });
}

export const faultsOf = (state: State): Faults => state.get('faults', 'faults')!;
