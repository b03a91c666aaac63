import { Hono, type Context } from 'hono';
import {
	randomText,
	type Engine,
	type Happening,
	type Key,
	type Payment,
	type PayoutNotice
} from '../shared/engine.ts';
import { KNOWN, rateOf } from '../shared/sums.ts';
import { actOn, answerOnce, isTokenOf, readJson, troubled, type Answer, type Env } from '../shared/wire.ts';
import { timeNow } from '../shared/clock.ts';

export const ACCOUNT = 'HP/31177';
export const TOPICS: Partial<Record<Happening, string>> = {
	taken: 'coin.in',
	refused: 'coin.refused',
	refunded: 'coin.out',
	disputed: 'coin.quarrel',
	settled: 'coin.counted',
	'paid out': 'purse.sent',
	hello: 'knock'
};
export const PRICES = { rate: '0.89', each: '0.05', abroad: '1.10', since: '2026-01-01' } as const;

/** Halfpenny counts in halfpennies: half a hundredth of the major unit. */
const half = (minor: number) => minor * 2;
export const written = (one: Payment) => ({
	coin: one.id,
	tag: one.ours,
	state: {
		waiting: 'new',
		held: 'new',
		pending: 'new',
		taken: 'in',
		refused: 'refused',
		ended: 'refused',
		back: 'refused'
	}[one.state],
	halfpennies: half(one.minor),
	money: one.currency,
	card: one.card && { ...one.card, scheme: one.card.scheme.slice(0, 3) },
	why: one.why,
	asked: one.at,
	in: one.takenAt,
	refused: one.endedAt,
	counted: one.settledAt,
	purse: one.payout && { id: one.payout, sent: one.paidOutAt },
	keep: one.charged && {
		halfpennies: half(one.charged.fee),
		of: half(one.charged.base),
		at: one.charged.rate,
		line: one.charged.label
	},
	out: one.refunds.map((r) => ({ id: r.id, halfpennies: half(r.minor), at: r.at })),
	quarrel: one.disputed && { halfpennies: half(one.disputed.minor), at: one.disputed.at }
});
export const told = (event: {
	id: string;
	topic: string;
	at: string;
	payment?: Payment;
	payout?: PayoutNotice;
}): string =>
	JSON.stringify({
		no: event.id,
		what: event.topic,
		at: event.at,
		coin: event.payment && written(event.payment),
		purse: event.payout && {
			id: event.payout.id,
			at: event.payout.at,
			coins: event.payout.payments.map((one) => ({ coin: one.id, tag: one.ours }))
		}
	});

/** Halfpenny's interface: a key in each of two headers, sums in halfpennies. */
export function api(engine: Engine): Hono<Env<{ key: Key }>> {
	const app = new Hono<Env<{ key: Key }>>();
	const { state } = engine;
	const no = (c: Context, status: 400 | 401 | 404 | 409 | 422, bad: string, text: string) =>
		c.json({ bad, text }, status);
	app.use('*', troubled(engine));
	app.use('*', async (c, next) => {
		const secret = state.get('keys', c.req.header('halfpenny-secret') ?? '');
		const open = state.get('keys', c.req.header('halfpenny-public') ?? '');
		if (!secret || secret.kind !== 'secret') return no(c, 401, 'secret', 'Unknown secret key.');
		if (secret.revoked) return no(c, 401, 'secret-revoked', `Revoked ${secret.revoked}.`);
		if (!open || open.kind !== 'public') return no(c, 401, 'public', 'Unknown public key.');
		if (open.revoked) return no(c, 401, 'public-revoked', `Revoked ${open.revoked}.`);
		if (open.mode !== secret.mode || open.account !== secret.account) return no(c, 401, 'pair', 'Not a pair.');
		c.set('key', secret);
		await next();
	});
	app.get('/self', (c) => {
		const { name, country, settles, zone, off, waiting, heldUntil } = engine.account(ACCOUNT);
		return c.json({
			account: ACCOUNT,
			name,
			country,
			settles,
			zone,
			trial: c.get('key').mode === 'test',
			key_of: c.get('key').made,
			cards: {
				on: !off.includes('card'),
				allowed: !waiting.includes('card'),
				schemes: ['cor', 'tes'],
				funding: ['debit', 'credit'],
				issued: ['home', 'near'],
				money: { EUR: [200, 400_000], GBP: [200, 400_000] }
			},
			line: { least: 4, most: 16, never: '<>"\'&' },
			beside: { never: ['fernhall'] },
			purse: { after_days: 7, on: 'Fridays', before: '12:00', first_held_until: heldUntil ?? null },
			out_days: 90
		});
	});
	app.get('/prices', (c) =>
		c.json({
			since: PRICES.since,
			lines: [`${PRICES.rate}% + ${PRICES.each} EUR`],
			abroad: `${PRICES.abroad}%`,
			out: 'fee kept',
			quarrel: '25.00 EUR, kept'
		})
	);
	app.get('/exchange', (c) => {
		const day = c.req.query('day') ?? '';
		return c.json({
			day,
			lines: KNOWN.filter((one) => one !== 'EUR').map((one) => `${one} EUR ${rateOf(day, one, 'EUR', 0.0004)}`)
		});
	});
	app.put('/doorbell', async (c) => {
		const { at = '', what = [] } = (await readJson<{ at: string; what: string[] }>(c)) ?? {};
		if (!/^https?:\/\//.test(at)) return no(c, 422, 'at', 'Not a web address.');
		const { mode } = c.get('key');
		const before = state.all('listeners').find((one) => one.mode === mode && one.address === at);
		const id = before?.id ?? `hpl${randomText(10)}`;
		const secret = before?.secret ?? randomText(36);
		const known = Object.values(TOPICS);
		state.put('listeners', id, {
			id,
			account: ACCOUNT,
			mode,
			address: at,
			topics: what.filter((one) => known.includes(one)),
			secret
		});
		return c.json({ doorbell: id, what: state.get('listeners', id)!.topics, secret });
	});
	app.get('/doorbell/:id', (c) => {
		const one = state.get('listeners', c.req.param('id'));
		return one ? c.json({ doorbell: one.id, what: one.topics }) : no(c, 404, 'doorbell', 'None.');
	});
	app.delete('/doorbell/:id', (c) => {
		if (!state.get('listeners', c.req.param('id'))) return no(c, 404, 'doorbell', 'None.');
		state.remove('listeners', c.req.param('id'));
		return c.json({ doorbell: null });
	});
	app.post('/doorbell/:id/knock', (c) => {
		const one = state.get('listeners', c.req.param('id'));
		if (!one) return no(c, 404, 'doorbell', 'None.');
		engine.tell(ACCOUNT, one.mode, 'hello', {});
		return c.json({ knocked: true });
	});
	app.post('/keys/revoke', (c) => {
		const key = c.get('key');
		state.put('keys', key.key, { ...key, revoked: new Date(timeNow()).toISOString() });
		return c.json({ revoked: true });
	});
	app.get('/slip/:token', (c) => {
		const token = state.get('tokens', c.req.param('token'));
		if (!isTokenOf(token, ACCOUNT, c.get('key').mode)) return no(c, 404, 'slip', 'No such card slip.');
		return c.json({ ...token!.card, scheme: token!.card.scheme.slice(0, 3) });
	});

	const act = (c: Context, content: string, run: () => Answer) =>
		answerOnce(engine, c, ACCOUNT, c.req.header('halfpenny-stub') ?? '', content, run, (trouble) =>
			no(
				c,
				trouble === 'working' ? 409 : trouble === 'missing' ? 400 : 422,
				`stub-${trouble}`,
				trouble === 'closed' ? 'Closed before it came; nothing was done.' : `Halfpenny-Stub is ${trouble}.`
			)
		);
	const wrong = (bad: string, text: string): Answer => ({ status: 422, body: { bad, text } });
	app.post('/coins', async (c) => {
		const asked = await readJson<{ halfpennies: number; money: string; slip: string; tag: string; line?: string }>(c);
		if (!asked) return no(c, 400, 'form', 'Not JSON.');
		const { mode } = c.get('key');
		return act(c, JSON.stringify(asked), () => {
			const token = state.get('tokens', asked.slip ?? '');
			if (!isTokenOf(token, ACCOUNT, mode) || token!.used)
				return wrong('slip', 'No such card slip, or it was used before.');
			if (!['EUR', 'GBP'].includes(asked.money)) return wrong('money', 'Not carried.');
			if (!Number.isInteger(asked.halfpennies / 2) || asked.halfpennies < 200 || asked.halfpennies > 400_000)
				return wrong('halfpennies', 'Out of bounds.');
			if (engine.account(ACCOUNT).off.includes('card')) return wrong('cards', 'Cards are off.');
			const payment = engine.begin(
				{
					account: ACCOUNT,
					mode,
					ours: asked.tag,
					method: 'card',
					currency: asked.money,
					minor: asked.halfpennies / 2,
					descriptor: asked.line ?? '',
					later: false
				},
				token
			);
			return { status: 201, body: written(payment) };
		});
	});
	const found = (c: Context) => {
		const payment = state.get('payments', c.req.param('id') ?? '');
		return isTokenOf(payment, ACCOUNT, (c.get('key') as Key).mode) ? payment : undefined;
	};
	app.get('/coins/:id', (c) => {
		const payment = found(c);
		return payment ? c.json(written(payment)) : no(c, 404, 'coin', 'No such coin.');
	});
	app.post('/coins/:id/out', async (c) => {
		const asked = (await readJson<{ halfpennies: number }>(c)) ?? { halfpennies: 0 };
		return act(c, `out ${c.req.param('id')} ${asked.halfpennies}`, () => {
			const payment = found(c);
			if (!payment) return wrong('coin', 'No such coin.');
			const minor = asked.halfpennies / 2;
			if (!Number.isInteger(minor) || minor <= 0) return wrong('halfpennies', 'Not a sum.');
			const after = actOn(engine, payment.id, 'refund', { minor });
			return after ? { status: 200, body: written(after) } : wrong('halfpennies', 'More than is left.');
		});
	});
	app.post('/stubs/:key/settle', (c) => {
		const one = engine.settleKey(ACCOUNT, c.req.param('key'));
		return c.json(
			one.state === 'done'
				? { stub: 'done', status: one.status, answer: JSON.parse(one.body!) }
				: { stub: one.state === 'working' ? 'working' : 'never' }
		);
	});
	return app;
}
