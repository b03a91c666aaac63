import { Hono, type Context } from 'hono';
import type { Engine, Happening, Key, Payment, PayoutNotice } from '../shared/engine.ts';
import { actOn, answerOnce, isTokenOf, readJson, troubled, type Answer, type Env } from '../shared/wire.ts';
import { timeNow } from '../shared/clock.ts';

export const ACCOUNT = 'ostrel:wrenalder';
export const TOPICS: Partial<Record<Happening, string>> = {
	taken: 'paid',
	refused: 'declined',
	ended: 'expired',
	refunded: 'repaid',
	settled: 'booked',
	'paid out': 'forwarded',
	hello: 'ring'
};
export const PRICES = { percent: '0.45', each: '0.05', since: '2026-01-01' } as const;
const REFUND_DAYS = 30;

export const written = (one: Payment, base: string) => ({
	demand: one.id,
	yours: one.ours,
	is: {
		waiting: 'waiting',
		held: 'waiting',
		pending: 'waiting',
		taken: 'paid',
		refused: 'declined',
		ended: 'expired',
		back: 'declined'
	}[one.state],
	eurocents: one.minor,
	because: one.why,
	asked_at: one.at,
	paid_at: one.takenAt,
	over_at: one.endedAt,
	booked_at: one.settledAt,
	forwarded_at: one.paidOutAt,
	forwarded_with: one.payout,
	price: one.charged && { eurocents: one.charged.fee, on: one.charged.base },
	repaid: one.refunds.map((r) => ({ id: r.id, eurocents: r.minor, at: r.at })),
	...(one.state === 'waiting'
		? {
				code: `ostrel-pay:${one.door}`,
				app: `${base}/door/${one.door}`,
				until: new Date(Date.parse(one.at) + 900_000).toISOString()
			}
		: {})
});

/** A ring tells only that something happened; what it was is told to who calls back. */
export const told = (event: { id: string }): string => JSON.stringify({ ring: event.id });

/** What a call back is told, kept beside the delivery. */
export const contentOf = (
	event: { id: string; topic: string; at: string; payment?: Payment; payout?: PayoutNotice },
	base: string
) => ({
	ring: event.id,
	about: event.topic,
	at: event.at,
	demand: event.payment && written(event.payment, base),
	forwarded: event.payout && {
		id: event.payout.id,
		at: event.payout.at,
		demands: event.payout.payments.map((one) => ({ demand: one.id, yours: one.ours }))
	}
});

/** Ostrel's interface: both keys in one header, sums in eurocents. */
export function api(engine: Engine, base: () => string, rings: Map<string, object>): Hono<Env<{ key: Key }>> {
	const app = new Hono<Env<{ key: Key }>>();
	const { state } = engine;
	const no = (c: Context, status: 400 | 401 | 404 | 409 | 422, oops: string, text: string) =>
		c.json({ oops, text }, status);
	app.use('*', troubled(engine));
	app.use('*', async (c, next) => {
		const [open = '', seal = ''] = (c.req.header('authorization') ?? '').replace(/^Ostrel /, '').split(' ');
		const [mine, secret] = [state.get('keys', open), state.get('keys', seal)];
		if (!secret || secret.kind !== 'seal') return no(c, 401, 'seal?', 'No such sealed key.');
		if (secret.revoked) return no(c, 401, 'seal-ended', `This sealed key ended ${secret.revoked}.`);
		if (!mine || mine.kind !== 'open') return no(c, 401, 'open?', 'No such open key.');
		if (mine.revoked) return no(c, 401, 'open-ended', `This open key ended ${mine.revoked}.`);
		if (mine.account !== secret.account || mine.mode !== secret.mode)
			return no(c, 401, 'pair', 'The two keys are not of one pair.');
		c.set('key', secret);
		await next();
	});
	app.get('/house', (c) => {
		const { id, name, country, zone, off, waiting, switches } = engine.account(ACCOUNT);
		return c.json({
			id,
			name,
			country,
			zone,
			mode: c.get('key').mode === 'test' ? 'trial' : 'real',
			key_made: c.get('key').made,
			service: waiting.includes('bank app') ? 'approval' : off.includes('bank app') ? 'off' : 'on',
			payer_return: switches['payer return'] !== false,
			eurocents: { least: 50, most: 500_000 },
			where: ['online', 'present'],
			statement: { least: 1, most: 25, not: '<>' },
			forwarded: { bank_days: 1, closes: '22:00' },
			repay_days: REFUND_DAYS
		});
	});
	app.get('/price', (c) => c.json({ ...PRICES, repaid: 'we keep what we took', currency: 'EUR' }));
	app.get('/rings/:id', (c) => {
		const ring = rings.get(c.req.param('id'));
		return ring ? c.json(ring) : no(c, 404, 'ring?', 'We did not ring that.');
	});
	app.post('/rings/try', (c) => {
		const { mode } = c.get('key');
		if (!state.all('listeners').some((one) => one.account === ACCOUNT && one.mode === mode))
			return no(c, 409, 'nobody', 'Nobody is rung yet.');
		engine.tell(ACCOUNT, mode, 'hello', {});
		return c.json({ ringing: true });
	});
	app.post('/keys/end', (c) => {
		const key = c.get('key');
		state.put('keys', key.key, { ...key, revoked: new Date(timeNow()).toISOString() });
		return c.json({ ended: true });
	});

	const act = (c: Context, content: string, run: () => Answer) =>
		answerOnce(engine, c, ACCOUNT, c.req.header('ostrel-once') ?? '', content, run, (trouble) =>
			no(
				c,
				trouble === 'working' ? 409 : trouble === 'missing' ? 400 : 422,
				`once-${trouble}`,
				trouble === 'closed' ? 'Closed before it came; nothing was done.' : `Ostrel-Once is ${trouble}.`
			)
		);
	const wrong = (oops: string, text: string): Answer => ({ status: 422, body: { oops, text } });
	app.post('/demands', async (c) => {
		const asked = await readJson<{ eurocents: number; yours: string; text?: string; back?: string }>(c);
		if (!asked) return no(c, 400, 'form', 'That is not JSON.');
		const { mode } = c.get('key');
		return act(c, JSON.stringify(asked), () => {
			const { off, waiting, switches } = engine.account(ACCOUNT);
			if (off.includes('bank app') || waiting.includes('bank app')) return wrong('off', 'The service is not on.');
			if (!Number.isInteger(asked.eurocents) || asked.eurocents < 50 || asked.eurocents > 500_000)
				return wrong('eurocents', 'Out of bounds.');
			const payment = engine.begin({
				account: ACCOUNT,
				mode,
				ours: asked.yours,
				method: 'bank app',
				currency: 'EUR',
				minor: asked.eurocents,
				descriptor: asked.text ?? '',
				later: false,
				returnTo: switches['payer return'] === false ? undefined : asked.back
			});
			return { status: 201, body: written(payment, base()) };
		});
	});
	const found = (c: Context) => {
		const payment = state.get('payments', c.req.param('id') ?? '');
		return isTokenOf(payment, ACCOUNT, (c.get('key') as Key).mode) ? payment : undefined;
	};
	app.get('/demands/:id', (c) => {
		const payment = found(c);
		return payment ? c.json(written(payment, base())) : no(c, 404, 'demand?', 'No such demand.');
	});
	app.post('/demands/:id/withdraw', (c) =>
		act(c, `withdraw ${c.req.param('id')}`, () => {
			const payment = found(c);
			if (!payment) return wrong('demand?', 'No such demand.');
			const after = actOn(engine, payment.id, 'cancel', { why: 'withdrawn by the shop' });
			return after ? { status: 200, body: written(after, base()) } : wrong('over', 'It is paid or over already.');
		})
	);
	app.post('/demands/:id/repay', async (c) => {
		const asked = (await readJson<{ eurocents: number }>(c)) ?? { eurocents: 0 };
		return act(c, `repay ${c.req.param('id')} ${asked.eurocents}`, () => {
			const payment = found(c);
			if (!payment) return wrong('demand?', 'No such demand.');
			if (payment.takenAt && timeNow() - Date.parse(payment.takenAt) > REFUND_DAYS * 86_400_000)
				return wrong('too-late', `Paid more than ${REFUND_DAYS} days ago; nothing is repaid any more.`);
			if (!Number.isInteger(asked.eurocents) || asked.eurocents <= 0) return wrong('eurocents', 'Not a sum.');
			const after = actOn(engine, payment.id, 'refund', { minor: asked.eurocents });
			return after ? { status: 200, body: written(after, base()) } : wrong('eurocents', 'More than is left.');
		});
	});
	app.post('/once/:key/settle', (c) => {
		const one = engine.settleKey(ACCOUNT, c.req.param('key'));
		return c.json(
			one.state === 'done'
				? { once: 'done', status: one.status, answer: JSON.parse(one.body!) }
				: { once: one.state === 'working' ? 'working' : 'never' }
		);
	});
	return app;
}
