import { Hono, type Context } from 'hono';
import type { Engine, Happening, Key, Payment, PayoutNotice } from '../shared/engine.ts';
import { randomText } from '../shared/engine.ts';
import { decimal, KNOWN, minorOf, rateOf } from '../shared/sums.ts';
import { actOn, answerOnce, troubled, type Answer, type Env } from '../shared/wire.ts';
import { TARIFF } from './prices.ts';
import { timeNow } from '../shared/clock.ts';

export const TOPICS: Partial<Record<Happening, string>> = {
	held: 'AUTH',
	taken: 'SALE',
	refused: 'DECLINE',
	ended: 'VOID',
	refunded: 'REFUND',
	disputed: 'CHARGEBACK',
	settled: 'SETTLED',
	'paid out': 'PAYOUT',
	hello: 'ECHO',
	account: 'PROFILE'
};

const FUNDING: Record<string, string> = { debit: 'DR', credit: 'CR', prepaid: 'PP', commercial: 'CO' };
const STATE = {
	waiting: 'OPEN',
	held: 'AUTH',
	pending: 'OPEN',
	taken: 'SOLD',
	refused: 'DECLINED',
	ended: 'VOID',
	back: 'VOID'
};
/** seconds since 1970, to the millisecond, as a text */
const clock = (at: string | undefined) => (at ? (Date.parse(at) / 1000).toFixed(3) : undefined);

/** A payment as Brackwater writes it: capitals, decimals as texts, times in seconds. */
export const written = (one: Payment, base: string) => ({
	REF: one.id,
	YOURS: one.ours,
	KIND: one.method === 'card' ? 'CARD' : 'BANK',
	STATE: STATE[one.state],
	AMOUNT: decimal(one.minor, one.currency),
	CCY: one.currency,
	CARD: one.card && {
		SCHEME: one.card.scheme.toUpperCase(),
		FUNDING: FUNDING[one.card.funding] ?? '??',
		ISSUER: one.card.issuedIn.length === 2 ? one.card.issuedIn : '??',
		LAST4: one.card.lastFour,
		EXPIRY: one.card.expires.slice(5) + one.card.expires.slice(2, 4)
	},
	CARDREF: one.kept,
	WHY: one.why,
	ASKED: clock(one.at),
	AUTHED: clock(one.heldAt),
	SOLD: clock(one.takenAt),
	CLOSED: clock(one.endedAt),
	SETTLED: clock(one.settledAt),
	PAID: clock(one.paidOutAt),
	PAYOUT: one.payout,
	FEE: one.charged && {
		CCY: one.charged.currency,
		TOTAL: decimal(one.charged.fee, one.charged.currency),
		FROM: decimal(one.charged.base, one.charged.currency),
		CLASS: one.charged.label,
		RATE: one.charged.rate && `${one.charged.rate.value} ${one.charged.rate.day}`
	},
	REFUNDS: one.refunds.map((r) => ({ REF: r.id, AMOUNT: decimal(r.minor, one.currency), AT: clock(r.at) })),
	CHARGEBACK: one.disputed && { AMOUNT: decimal(one.disputed.minor, one.currency), AT: clock(one.disputed.at) },
	GOTO: one.state === 'waiting' && one.method !== 'card' ? `${base}/door/${one.door}` : undefined
});

export const told = (
	event: { id: string; topic: string; at: string; payment?: Payment; payout?: PayoutNotice },
	base: string
): string =>
	JSON.stringify({
		EVENT: event.id,
		TYPE: event.topic,
		AT: clock(event.at),
		TRANSACTION: event.payment && written(event.payment, base),
		PAYOUT: event.payout && {
			REF: event.payout.id,
			AT: clock(event.payout.at),
			TRANSACTIONS: event.payout.payments.map((one) => ({ REF: one.id, YOURS: one.ours }))
		}
	});

const LIMITS = { EUR: [50, 2_500_000], GBP: [50, 2_000_000] } as const;

/** Brackwater's interface: forms in, capitals out; merchant number and token as Basic authentication. */
export function api(engine: Engine, base: () => string): Hono<Env<{ number: Key; token: Key }>> {
	const app = new Hono<Env<{ number: Key; token: Key }>>();
	const { state } = engine;
	const no = (c: Context, status: 400 | 401 | 404 | 409 | 422, code: string, text: string) =>
		c.json({ RESULT: 'ERROR', CODE: code, TEXT: text }, status);

	app.use('*', troubled(engine));
	app.use('*', async (c, next) => {
		const [number = '', token = ''] = Buffer.from(
			(c.req.header('authorization') ?? '').replace(/^Basic /, ''),
			'base64'
		)
			.toString()
			.split(':');
		const merchant = state.get('keys', number);
		if (!merchant || merchant.kind !== 'number') return no(c, 401, 'E01', 'Merchant number not on file.');
		const key = state.get('keys', token);
		if (!key || key.kind !== 'token') return no(c, 401, 'E02', 'Token not on file.');
		if (key.revoked) return no(c, 401, 'E03', `Token ended ${key.revoked}.`);
		if (key.account !== merchant.account || key.mode !== merchant.mode)
			return no(c, 401, 'E04', 'Token is of another merchant number.');
		c.set('number', merchant);
		c.set('token', key);
		await next();
	});

	app.get('/profile', (c) => {
		const { account: id, mode, key } = c.get('number');
		const account = engine.account(id);
		return c.json({
			NUMBER: key,
			NAME: account.name,
			COUNTRY: account.country,
			SETTLES: account.settles,
			ZONE: account.zone,
			MODE: mode === 'test' ? 'TRIAL' : 'REAL',
			TOKENDATE: c.get('token').made,
			SERVICES: [
				{
					SERVICE: 'CARD',
					ON: !account.off.includes('card'),
					APPROVED: !account.waiting.includes('card'),
					CCY: Object.keys(LIMITS),
					ENTRY: ['CP', 'ECOM', 'MOTO'],
					SCHEMES: ['CORVID', 'MAINSAIL', 'TESSEL'],
					FUNDING: ['DR', 'CR', 'PP', 'CO'],
					LIMITS: Object.entries(LIMITS).map(([currency, [from, to]]) => [
						currency,
						decimal(from, currency),
						decimal(to, currency)
					]),
					AUTHDAYS: 7
				},
				{
					SERVICE: 'BANK',
					ON: !account.off.includes('bank redirect'),
					APPROVED: !account.waiting.includes('bank redirect'),
					CCY: ['EUR'],
					ENTRY: ['ECOM'],
					LIMITS: [['EUR', '1.00', '10000.00']]
				}
			],
			STATEMENT: { LONG: [4, 22], SHORT: [3, 12], NOT: '<>\\^"' },
			PAYOUT: { DAYS: 1, BEFORE: '21:00', RHYTHMS: ['DAILY', 'WEEKLY'], RHYTHM: account.rhythm ?? 'DAILY' },
			REFUNDDAYS: 180
		});
	});
	app.get('/tariff', (c) => c.json(TARIFF));
	app.get('/rates/:day', (c) => {
		const day = c.req.param('day');
		return c.json({
			DAY: day,
			RATES: KNOWN.filter((one) => one !== 'EUR').map((one) => [one, 'EUR', rateOf(day, one, 'EUR', 0.0006)])
		});
	});
	app.post('/payout', async (c) => {
		const { RHYTHM } = (await c.req.parseBody()) as Record<string, string>;
		if (RHYTHM !== 'DAILY' && RHYTHM !== 'WEEKLY') return no(c, 422, 'E20', 'No such rhythm.');
		engine.change(c.get('number').account, { rhythm: RHYTHM });
		return c.json({ RESULT: 'OK', RHYTHM });
	});

	app.post('/callback', async (c) => {
		const { URL: address = '', TYPES = '' } = (await c.req.parseBody()) as Record<string, string>;
		const { account, mode } = c.get('number');
		if (!/^https?:\/\//.test(address)) return no(c, 422, 'E30', 'Callback is no web address.');
		const before = state.all('listeners').find((one) => one.account === account && one.address === address);
		const id = before?.id ?? `BWL${randomText(10)}`;
		const known = Object.values(TOPICS);
		const listener = state.put('listeners', id, {
			id,
			account,
			mode,
			address,
			topics: TYPES.split(',').filter((one) => known.includes(one)),
			secret: before?.secret ?? randomText(40, '0123456789abcdef')
		});
		return c.json({ RESULT: 'OK', CALLBACK: listener.id, TYPES: listener.topics.join(','), SECRET: listener.secret });
	});
	const listenerOf = (c: Context) => {
		const listener = state.get('listeners', c.req.param('id') ?? '');
		return listener?.account === (c.get('number') as Key).account ? listener : undefined;
	};
	app.get('/callback/:id', (c) => {
		const listener = listenerOf(c);
		return listener ? c.json({ CALLBACK: listener.id, TYPES: listener.topics.join(',') }) : no(c, 404, 'E31', 'None.');
	});
	app.delete('/callback/:id', (c) => {
		const listener = listenerOf(c);
		if (!listener) return no(c, 404, 'E31', 'No such callback.');
		state.remove('listeners', listener.id);
		return c.json({ RESULT: 'OK' });
	});
	app.post('/callback/:id/echo', (c) => {
		const listener = listenerOf(c);
		if (!listener) return no(c, 404, 'E31', 'No such callback.');
		engine.tell(listener.account, listener.mode, 'hello', {});
		return c.json({ RESULT: 'OK' });
	});
	app.post('/token/end', async (c) => {
		const key = c.get('token');
		state.put('keys', key.key, { ...key, revoked: new Date(timeNow()).toISOString() });
		return c.json({ RESULT: 'OK' });
	});

	app.get('/card/:token', (c) => {
		const { account, mode } = c.get('number');
		const token = state.get('tokens', c.req.param('token'));
		if (!token || token.account !== account || token.mode !== mode) return no(c, 404, 'E40', 'No such card token.');
		return c.json({ CARD: written({ card: token.card, refunds: [] } as unknown as Payment, '').CARD });
	});

	const act = (c: Context, content: string, run: () => Answer) =>
		answerOnce(
			engine,
			c,
			(c.get('number') as Key).account,
			c.req.header('brackwater-order') ?? '',
			content,
			run,
			(trouble) =>
				trouble === 'missing'
					? no(c, 400, 'E50', 'Header Brackwater-Order is missing.')
					: trouble === 'reused'
						? no(c, 422, 'E51', 'Order was used for something else.')
						: trouble === 'closed'
							? no(c, 422, 'E52', 'Order was closed before it came; nothing was done.')
							: no(c, 409, 'E53', 'Order is still being worked on.')
		);
	const wrong = (code: string, text: string): Answer => ({
		status: 422,
		body: { RESULT: 'ERROR', CODE: code, TEXT: text }
	});

	app.post('/sale', async (c) => {
		const form = (await c.req.parseBody()) as Record<string, string>;
		const { account, mode } = c.get('number');
		return act(c, `sale ${JSON.stringify(form)}`, () => {
			const limit = LIMITS[form.CCY as 'EUR'];
			if (!limit) return wrong('E60', `Currency ${form.CCY} is not carried.`);
			const minor = minorOf(form.AMOUNT ?? '', form.CCY!);
			if (minor === undefined || minor < limit[0] || minor > limit[1]) return wrong('E61', 'Amount out of bounds.');
			const owner = engine.account(account);
			const method = form.KIND === 'BANK' ? 'bank redirect' : 'card';
			if (owner.off.includes(method) || owner.waiting.includes(method)) return wrong('E62', 'Service is not on.');
			const token = method === 'card' ? state.get('tokens', form.CARDTOKEN ?? '') : undefined;
			const kept = form.CARDREF ? state.get('kept', form.CARDREF) : undefined;
			if (form.CARDREF && (!kept || kept.account !== account || kept.mode !== mode || kept.ended))
				return wrong('E45', `Card reference is not good any more${kept?.ended ? `: ${kept.ended}` : ''}.`);
			if (method === 'card' && !kept && (!token || token.account !== account || token.mode !== mode || token.used))
				return wrong('E40', 'No such card token, or it was used before.');
			if (method !== 'card' && form.CCY !== 'EUR') return wrong('E60', 'BANK carries EUR only.');
			const wanted = {
				account,
				mode,
				ours: form.YOURS ?? '',
				method,
				currency: form.CCY!,
				minor,
				descriptor: form.STATEMENT ?? '',
				later: form.CAPTURE === 'LATER',
				returnTo: form.RETURN || undefined,
				keeps: form.KEEP === 'YES' && method === 'card'
			};
			const payment = kept ? engine.beginAgain(wanted, kept) : engine.begin(wanted, token);
			return { status: 200, body: written(payment, base()) };
		});
	});
	app.post('/cardref/:ref/end', (c) => {
		const { account, mode } = c.get('number');
		const kept = state.get('kept', c.req.param('ref'));
		if (kept?.account !== account || kept.mode !== mode) return no(c, 404, 'E46', 'No such card reference.');
		engine.endKept(kept.id, 'ended by the merchant');
		return c.json({ RESULT: 'OK' });
	});
	const found = (c: Context): Payment | undefined => {
		const { account, mode } = c.get('number') as Key;
		const payment = state.get('payments', c.req.param('ref') ?? '');
		return payment?.account === account && payment.mode === mode ? payment : undefined;
	};
	app.get('/sale/:ref', (c) => {
		const payment = found(c);
		return payment ? c.json(written(payment, base())) : no(c, 404, 'E70', 'No such transaction.');
	});
	for (const [path, name] of [
		['capture', 'capture'],
		['void', 'cancel'],
		['refund', 'refund']
	] as const)
		app.post(`/sale/:ref/${path}`, async (c) => {
			const form = (await c.req.parseBody()) as Record<string, string>;
			return act(c, `${path} ${c.req.param('ref')} ${JSON.stringify(form)}`, () => {
				const payment = found(c);
				if (!payment) return wrong('E70', 'No such transaction.');
				const minor = form.AMOUNT === undefined ? undefined : minorOf(form.AMOUNT, payment.currency);
				if (name === 'capture' && minor !== undefined && minor > payment.minor)
					return wrong('E61', 'More than is held.');
				const after = actOn(engine, payment.id, name, { minor });
				return after
					? { status: 200, body: written(after, base()) }
					: wrong('E71', name === 'refund' ? 'More than is left.' : 'Its state does not allow it.');
			});
		});
	app.post('/order/:key/settle', (c) => {
		const one = engine.settleKey(c.get('number').account, c.req.param('key'));
		return c.json(
			one.state === 'done'
				? { ORDER: 'DONE', STATUS: one.status, ANSWER: JSON.parse(one.body!) }
				: { ORDER: one.state === 'working' ? 'WORKING' : 'NEVER' }
		);
	});
	return app;
}
