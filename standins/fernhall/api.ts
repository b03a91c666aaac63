import { request } from 'node:http';
import { Hono, type Context } from 'hono';
import { SCHEMES } from '../shared/cards.ts';
import { timeNow } from '../shared/clock.ts';
import {
	randomText,
	type Engine,
	type Happening,
	type Key,
	type Payment,
	type PayoutNotice
} from '../shared/engine.ts';
import { KNOWN, digitsOf, rateOf } from '../shared/sums.ts';
import { actOn, answerOnce, isTokenOf, readJson, troubled, type Answer, type Env } from '../shared/wire.ts';
import { pricesOf } from './prices.ts';

export const ACCOUNT = 'FH-20417';
export const TOPICS: Partial<Record<Happening, string>> = {
	taken: 'payment.taken',
	refused: 'payment.declined',
	refunded: 'refund.made',
	disputed: 'dispute.changed',
	settled: 'money.settled',
	'paid out': 'payout.sent',
	hello: 'listener.hello',
	account: 'account.changed'
};

const LETTERS = 'ABCDEFGHJKLMNPQRSTUVWXYZ23456789';
export const checkSign = (body: string): string =>
	LETTERS[[...body].reduce((sum, sign, at) => (sum + LETTERS.indexOf(sign) * (2 * at + 1)) % 32, 0)]!;

/** Fernhall counts every currency in thousandths of its major unit: 84.50 EUR is 84500, ¥12,800 is 12800000. */
const perMinor = (currency: string) => 10 ** (3 - digitsOf(currency));
const sumOf = (minor: number, currency: string) => ({ currency, thousandths: minor * perMinor(currency) });

/** What Fernhall tells of a payment, in answers and notifications alike. */
export const written = (one: Payment) => ({
	id: one.id,
	mode: one.mode,
	ours: one.ours,
	sum: sumOf(one.minor, one.currency),
	card: one.card,
	by: one.method === 'device-wallet' ? 'tapfold' : 'card',
	...(one.kept ? { kept: one.kept } : {}),
	descriptor: one.descriptor,
	state: one.state === 'taken' ? 'taken' : 'declined',
	...(one.why ? { why: one.why } : {}),
	at: one.takenAt ?? one.at,
	...(one.charged
		? {
				fee: {
					...sumOf(one.charged.fee, one.charged.currency),
					base: sumOf(one.charged.base, one.charged.currency).thousandths,
					rate: one.charged.rate,
					band: one.charged.label
				}
			}
		: {}),
	refunds: one.refunds.map(({ id, minor, at, feeBack }) => ({
		id,
		sum: sumOf(minor, one.currency),
		at,
		feeReturned: sumOf(feeBack, one.charged?.currency ?? 'EUR').thousandths
	})),
	...(one.disputed
		? {
				disputed: {
					at: one.disputed.at,
					thousandths: sumOf(one.disputed.minor, one.currency).thousandths,
					because: one.disputed.reason,
					answerBy: one.disputed.answerBy,
					answeredAt: one.disputed.answered?.at,
					ended: one.disputed.outcome && { at: one.disputed.endedAt, won: one.disputed.outcome === 'won' }
				}
			}
		: {}),
	...(one.settledAt ? { settledAt: one.settledAt } : {}),
	...(one.payout ? { payout: one.payout, paidOutAt: one.paidOutAt } : {})
});

export const told = (event: {
	id: string;
	topic: string;
	at: string;
	account: { id: string };
	mode: string;
	payment?: Payment;
	payout?: PayoutNotice;
}): string =>
	JSON.stringify({
		id: event.id,
		topic: event.topic,
		at: event.at,
		account: event.account.id,
		mode: event.mode,
		payment: event.payment && written(event.payment),
		payout: event.payout && {
			id: event.payout.id,
			at: event.payout.at,
			sum: sumOf(event.payout.minor, event.payout.currency),
			payments: event.payout.payments.map(({ id, ours }) => ({ id, ours }))
		}
	});

/** What an account may do; the console can switch parts off. */
const abilitiesOf = (off: readonly string[]) => ({
	tapfold: { on: !off.includes('tapfold'), currencies: ['EUR', 'GBP', 'USD'], wantsDomain: true },
	cards: {
		on: !off.includes('cards'),
		currencies: ['EUR', 'GBP', 'USD', 'JPY'],
		entry: ['online', 'keyed', 'recurring'],
		schemes: Object.entries(SCHEMES)
			.filter(([id]) => id !== 'gildern')
			.map(([id, { name }]) => ({ id, name })),
		fundings: ['debit', 'credit', 'prepaid', 'commercial'],
		issued: ['home', 'neighbours', 'elsewhere'],
		sums: [
			{ currency: 'EUR', from: 500, to: 25_000_000 },
			{ currency: 'GBP', from: 500, to: 25_000_000 },
			{ currency: 'USD', from: 500, to: 25_000_000 },
			{ currency: 'JPY', from: 50_000, to: 2_500_000_000 }
		],
		takingLater: false,
		refunds: { partial: true, withinDays: 365 }
	},
	statement: { shortest: 5, longest: 22, refused: '<>"\'*\\' },
	notTogetherWith: ['halfpenny'],
	paysOut: { afterBusinessDays: 2, cutOff: '23:00' }
});

const fault = (c: Context, status: 400 | 401 | 403 | 404 | 409 | 422, code: string, text: string) =>
	c.json({ fault: code, text }, status);

/** Fernhall's interface for shops, version 1: a secret key as bearer, sums in thousandths. */
export function api(engine: Engine, hosts: Readonly<Record<string, string>> = {}): Hono<Env<{ key: Key }>> {
	const app = new Hono<Env<{ key: Key }>>();
	const { state } = engine;
	app.use('*', troubled(engine));
	app.use('*', async (c, next) => {
		const given = /^Bearer (\S+)$/.exec(c.req.header('authorization') ?? '')?.[1] ?? '';
		const key = state.get('keys', given);
		if (!key) return fault(c, 401, 'key_unknown', 'Fernhall knows no such key.');
		if (key.revoked) return fault(c, 401, 'key_revoked', `This key was revoked at ${key.revoked}.`);
		if (key.kind !== 'secret') return fault(c, 403, 'key_public', 'A public key cannot act for an account.');
		c.set('key', key);
		await next();
	});

	app.get('/account', (c) => {
		const { account, mode, made } = c.get('key');
		const { id, name, country, settles, zone } = engine.account(account);
		return c.json({ id, name, country, settles, zone, mode, keyMade: made });
	});
	app.get('/keys/:key', (c) => {
		const asked = state.get('keys', c.req.param('key'));
		if (!asked) return fault(c, 404, 'key_unknown', 'Fernhall knows no such key.');
		return c.json({
			kind: asked.kind,
			mode: asked.mode,
			sameAccount: asked.account === c.get('key').account,
			revoked: asked.revoked ?? null
		});
	});
	app.get('/abilities', (c) => c.json(abilitiesOf(engine.account(ACCOUNT).off)));
	app.get('/prices', (c) => c.json(pricesOf(engine.account(ACCOUNT))));
	app.get('/rates', (c) => {
		const day = c.req.query('day') ?? '';
		if (!/^\d{4}-\d{2}-\d{2}$/.test(day)) return fault(c, 400, 'day', 'Give a day.');
		return c.json({
			day,
			to: 'EUR',
			rates: Object.fromEntries(KNOWN.filter((one) => one !== 'EUR').map((one) => [one, rateOf(day, one, 'EUR')]))
		});
	});

	app.put('/listener', async (c) => {
		const { mode } = c.get('key');
		const {
			address = '',
			topics = [],
			trouble_mail: troubleMail = ''
		} = (await readJson<{ address: string; topics: string[]; trouble_mail?: string }>(c)) ?? {};
		if (troubleMail && !/^[^\s@]+@[^\s@]+$/.test(troubleMail))
			return fault(c, 422, 'trouble_mail', 'That is no mail address.');
		if (!/^https?:\/\//.test(address)) return fault(c, 422, 'address', 'The address is no web address.');
		const unknown = topics.filter((one) => !Object.values(TOPICS).includes(one));
		if (unknown.length) return fault(c, 422, 'topics', `Unknown topics: ${unknown.join(', ')}`);
		const before = state.all('listeners').find((one) => one.mode === mode && one.address === address);
		const id = before?.id ?? `FHL-${randomText(12)}`;
		const secret = before?.secret ?? `whsec_${Buffer.from(randomText(32)).toString('base64')}`;
		state.put('listeners', id, { id, account: ACCOUNT, mode, address, topics, secret, troubleMail });
		return c.json({ id, address, topics, secret, trouble_mail: troubleMail });
	});
	app.get('/listener/:id', (c) => {
		const listener = state.get('listeners', c.req.param('id'));
		return listener
			? c.json({ id: listener.id, topics: listener.topics })
			: fault(c, 404, 'listener', 'No such listener.');
	});
	app.delete('/listener/:id', (c) => {
		const listener = state.get('listeners', c.req.param('id'));
		if (!listener) return fault(c, 404, 'listener', 'No such listener.');
		state.remove('listeners', listener.id);
		return c.json({ removed: listener.id });
	});
	app.post('/listener/:id/hello', (c) => {
		const listener = state.get('listeners', c.req.param('id'));
		if (!listener) return fault(c, 404, 'listener', 'No such listener.');
		engine.tell(ACCOUNT, listener.mode, 'hello', {});
		return c.json({ sent: true });
	});
	app.post('/keys/revoke', (c) => {
		const key = c.get('key');
		state.put('keys', key.key, { ...key, revoked: new Date(timeNow()).toISOString() });
		return c.json({ revoked: true });
	});

	const PROOF = '/.well-known/fernhall-tapfold';
	type Domain = NonNullable<ReturnType<Engine['account']>['domains']>[string];
	const keepDomain = (domain: string, one: Domain) => {
		const account = engine.account(ACCOUNT);
		state.put('accounts', ACCOUNT, { ...account, domains: { ...account.domains, [domain]: one } });
		return { domain, path: PROOF, content: one.file, state: one.state, says: one.says };
	};
	app.put('/domains/:domain', (c) => {
		const domain = c.req.param('domain').toLowerCase();
		if (!/^[a-z0-9.-]{1,120}(:\d{1,5})?$/.test(domain)) return fault(c, 422, 'domain', 'That is no domain.');
		const known = engine.account(ACCOUNT).domains?.[domain];
		const file = `tapfold-proof ${ACCOUNT} ${randomText(32)}`;
		return c.json(keepDomain(domain, known ?? { state: 'not looked at', says: '', file }));
	});
	app.post('/domains/:domain/look', async (c) => {
		const domain = c.req.param('domain').toLowerCase();
		const kept = engine.account(ACCOUNT).domains?.[domain];
		if (!kept) return fault(c, 404, 'domain', 'No such domain.');
		const says = await look(hosts[domain] ?? domain, domain, PROOF, kept.file);
		return c.json(keepDomain(domain, { ...kept, state: says ? 'failing' : 'proven', says }));
	});

	app.get('/tokens/:token', (c) => {
		const token = state.get('tokens', c.req.param('token'));
		if (!isTokenOf(token, ACCOUNT, c.get('key').mode)) return fault(c, 404, 'token', 'No such token.');
		return c.json({ token: token!.token, card: token!.card, used: token!.used });
	});

	const SAYS = {
		missing: [400, 'key_missing', 'Send an Idempotency-Key of 8 to 80 signs.'],
		closed: [409, 'closed', 'This key was closed before the request came; nothing was done.'],
		reused: [422, 'key_reused', 'This key was used for another request.'],
		working: [409, 'working', 'The first request with this key is still under way.']
	} as const;
	const act = (c: Context, content: string, run: () => Answer) =>
		answerOnce(engine, c, ACCOUNT, c.req.header('idempotency-key') ?? '', content, run, (trouble) => {
			const [status, code, text] = SAYS[trouble];
			return fault(c, status, code, text);
		});
	const refuse = (code: string, text: string): Answer => ({ status: 422, body: { fault: code, text } });
	/** A sum as minor units; undefined where it is none that the currency can hold. */
	const minorOf = (thousandths: number, currency: string) => {
		const minor = thousandths / perMinor(currency);
		return Number.isInteger(minor) ? minor : undefined;
	};

	app.post('/payments', async (c) => {
		const asked = await readJson<{
			sum?: { currency: string; thousandths: number };
			token?: string;
			ours?: string;
			descriptor?: string;
			/** the payer lets Fernhall keep this card */
			keep?: boolean;
			/** in place of a token: a card that is kept */
			kept?: string;
		}>(c);
		if (!asked) return fault(c, 400, 'json', 'The request is not JSON.');
		const { mode } = c.get('key');
		return act(c, `payment ${JSON.stringify(asked)}`, () => {
			const kept = asked.kept === undefined ? undefined : state.get('kept', asked.kept);
			if (asked.kept !== undefined && (!isTokenOf(kept, ACCOUNT, mode) || kept!.ended))
				return refuse('kept_ended', kept?.ended ? `This card is kept no more: ${kept.ended}.` : 'No such kept card.');
			const token = state.get('tokens', asked.token ?? '');
			if (!kept && !isTokenOf(token, ACCOUNT, mode)) return refuse('token', 'No such token.');
			if (!kept && token!.used) return refuse('token_used', 'This token was used before.');
			const { off } = engine.account(ACCOUNT);
			const isWallet = !kept && token!.by === 'tapfold';
			if (off.includes(isWallet ? 'tapfold' : 'cards')) return refuse('way_off', 'This way to pay is switched off.');
			const { currency = '', thousandths = 0 } = asked.sum ?? {};
			const limit = abilitiesOf(off).cards.sums.find((one) => one.currency === currency);
			if (!limit) return refuse('currency', 'This currency is not carried.');
			const minor = minorOf(thousandths, currency);
			if (minor === undefined || thousandths < limit.from || thousandths > limit.to)
				return refuse('sum', 'The sum is out of bounds.');
			const wanted = {
				account: ACCOUNT,
				mode,
				ours: asked.ours ?? '',
				method: isWallet ? 'device-wallet' : 'card',
				currency,
				minor,
				descriptor: asked.descriptor ?? '',
				later: false,
				keeps: asked.keep === true && !isWallet
			};
			const payment = kept ? engine.beginAgain(wanted, kept) : engine.begin(wanted, token);
			return { status: 201, body: written(payment) };
		});
	});
	app.delete('/kept/:kept', (c) => {
		const kept = state.get('kept', c.req.param('kept'));
		if (!isTokenOf(kept, ACCOUNT, c.get('key').mode)) return fault(c, 404, 'kept', 'No such kept card.');
		engine.endKept(kept!.id, 'the shop ended it');
		return c.json({ ended: kept!.id });
	});
	const found = (c: Context) => {
		const payment = state.get('payments', c.req.param('id') ?? '');
		return isTokenOf(payment, ACCOUNT, (c.get('key') as Key).mode) ? payment : undefined;
	};
	app.get('/payments/:id', (c) => {
		const payment = found(c);
		return payment ? c.json(written(payment)) : fault(c, 404, 'payment', 'No such payment.');
	});
	app.post('/payments/:id/dispute', async (c) => {
		const asked = await readJson<{ text: string; files: { name: string; content: string }[] }>(c);
		return act(c, `dispute ${c.req.param('id')} ${JSON.stringify(asked)}`, () => {
			const payment = found(c);
			if (!payment) return refuse('payment', 'No such payment.');
			if (!asked?.text?.trim()) return refuse('text', 'Say why the payer is wrong.');
			const files = asked.files ?? [];
			const sizes = files.map((one) => Buffer.from(one.content ?? '', 'base64').length);
			if (files.length > 5 || sizes.some((size) => !size || size > 2_000_000))
				return refuse('files', 'At most five files of at most 2 MB, none of them empty.');
			const trouble = engine.answerDispute(
				payment.id,
				asked.text,
				files.map((one) => one.name)
			);
			return trouble
				? refuse('dispute', trouble)
				: { status: 200, body: written(engine.state.get('payments', payment.id)!) };
		});
	});
	app.post('/payments/:id/refunds', async (c) => {
		const { thousandths = 0 } = (await readJson<{ thousandths: number }>(c)) ?? {};
		return act(c, `refund ${c.req.param('id')} ${thousandths}`, () => {
			const payment = found(c);
			if (!payment) return refuse('payment', 'No such payment.');
			const minor = minorOf(thousandths, payment.currency);
			if (minor === undefined || minor <= 0) return refuse('sum', 'The sum must be above zero.');
			const after = actOn(engine, payment.id, 'refund', { minor });
			return after
				? { status: 201, body: written(after) }
				: refuse(
						'too_much',
						`Only ${engine.leftToRefund(payment) * perMinor(payment.currency)} thousandths are left to refund.`
					);
		});
	});
	/** What became of a request key. A key that never came is closed, so that a late request does nothing. */
	app.post('/requests/:key/settle', (c) => {
		const one = engine.settleKey(ACCOUNT, c.req.param('key'));
		return c.json(
			one.state === 'done'
				? { request: 'done', status: one.status, answer: JSON.parse(one.body!) }
				: { request: one.state === 'working' ? 'under way' : 'never came' }
		);
	});
	return app;
}

/** Looks for the proof at a domain, as anyone on the web would. @returns why it is not there, or nothing */
function look(at: string, host: string, path: string, wanted: string): Promise<string> {
	return new Promise((done) => {
		const asked = request(`http://${at}${path}`, { headers: { host }, timeout: 5000 }, (answer) => {
			let text = '';
			answer.on('data', (data) => (text += String(data)));
			answer.on('end', () =>
				done(
					answer.statusCode !== 200
						? `the file is not there: the answer was ${answer.statusCode}`
						: text.trim() === wanted
							? ''
							: 'the file there holds something else'
				)
			);
		});
		asked.on('timeout', () => asked.destroy(new Error('no answer within five seconds')));
		asked.on('error', (error) => done(`the domain does not answer (${error.message})`));
		asked.end();
	});
}
