import { createHmac } from 'node:crypto';
import { Hono, type Context } from 'hono';
import type { Application, Engine, Happening, Key, Payment, PayoutNotice } from '../shared/engine.ts';
import { randomText } from '../shared/engine.ts';
import { actOn, answerOnce, isTokenOf, troubled, type Answer, type Env } from '../shared/wire.ts';
import { timeNow } from '../shared/clock.ts';

export const ACCOUNT = 'SUN-104233';
export const TOPICS: Partial<Record<Happening, string>> = {
	held: 'PLAN.AGREED',
	taken: 'PLAN.STARTED',
	refused: 'PLAN.REFUSED',
	ended: 'PLAN.DROPPED',
	refunded: 'PLAN.REDUCED',
	disputed: 'PLAN.COMPLAINT',
	settled: 'PLAN.SETTLED',
	'paid out': 'PAYOUT.SENT',
	hello: 'TEST.BELL',
	account: 'SHOP.CHANGED'
};

export const TIERS = {
	FOUR: { title: 'Four parts', pct: '3.90', fixed: '0.30', lowest: 4800, highest: 60_000 },
	FOURPLUS: { title: 'Four parts, longer baskets', pct: '4.90', fixed: '0.30', lowest: 4800, highest: 125_000 }
} as const;
export type Tier = keyof typeof TIERS;

const cents = (minor: number, currency: string) => ({ cents: String(minor), currency });
export const written = (one: Payment, base: string) => ({
	plan: one.id,
	shop_ref: one.ours,
	tier: one.tier,
	status: {
		waiting: 'ASKED',
		held: 'AGREED',
		pending: 'ASKED',
		taken: 'STARTED',
		refused: 'REFUSED',
		ended: 'DROPPED',
		back: 'DROPPED'
	}[one.state],
	basket: cents(one.minor, one.currency),
	because: one.why,
	dates: {
		asked: one.at,
		agreed: one.heldAt,
		started: one.takenAt,
		closed: one.endedAt,
		settled: one.settledAt,
		paid: one.paidOutAt
	},
	payout: one.payout,
	fee: one.charged && {
		...cents(one.charged.fee, one.charged.currency),
		basket: String(one.charged.base),
		tier: one.charged.label
	},
	reductions: one.refunds.map((r) => ({
		id: r.id,
		...cents(r.minor, one.currency),
		date: r.at,
		fee_returned: String(r.feeBack)
	})),
	complaint: one.disputed && { ...cents(one.disputed.minor, one.currency), date: one.disputed.at },
	agree_at: one.state === 'waiting' ? `${base}/door/${one.door}` : undefined
});

export const told = (
	event: { id: string; topic: string; at: string; payment?: Payment; payout?: PayoutNotice },
	base: string
): string =>
	JSON.stringify({
		type: event.topic,
		id: event.id,
		date: event.at,
		plan: event.payment && written(event.payment, base),
		payout: event.payout && {
			id: event.payout.id,
			date: event.payout.at,
			plans: event.payout.payments.map((one) => ({ plan: one.id, shop_ref: one.ours }))
		}
	});

export const codeOf = (account: string) =>
	`<div class="sundial-parts" data-shop="${account}" data-parts="4" hidden></div>`;
export const applicationState = ({ number, state, papers }: Application) => ({ number, state, papers });

/** Sundial's interface: every request is signed with the token, time included. */
export function api(engine: Engine, base: () => string): Hono<Env<{ token: Key; body: string }>> {
	const app = new Hono<Env<{ token: Key; body: string }>>();
	const { state } = engine;
	const no = (c: Context, status: 400 | 401 | 404 | 409 | 422, code: string, text: string) =>
		c.json({ error: { code, text } }, status);
	app.use('*', troubled(engine));

	// how far an application has come can be asked with its number and mail alone
	app.get('/applications/:number', (c) => {
		const found = state.get('applications', c.req.param('number'));
		return found && found.mail === (c.req.query('mail') ?? '').toLowerCase()
			? c.json(applicationState(found))
			: no(c, 404, 'NO_APPLICATION', 'No application has this number and mail.');
	});

	app.use('*', async (c, next) => {
		const number = c.req.header('sundial-shop') ?? '';
		const time = c.req.header('sundial-time') ?? '';
		const mode = number.endsWith('-T') ? 'test' : 'live';
		if (number.replace(/-T$/, '') !== ACCOUNT) return no(c, 401, 'SHOP', 'No shop has this number.');
		if (Math.abs(timeNow() / 1000 - Number(time)) > 300) return no(c, 401, 'TIME', 'The time of the request is off.');
		const body = await c.req.text();
		const content = `${c.req.method}\n${c.req.path}${new URL(c.req.url).search}\n${time}\n${body}`;
		const given = c.req.header('sundial-signature') ?? '';
		const signs = (key: Key) => createHmac('sha256', key.key).update(content).digest('hex') === given;
		const token = state.all('keys').find((one) => one.kind === 'token' && signs(one));
		if (!token) return no(c, 401, 'SIGNATURE', 'The signature was not made with a token of this shop.');
		if (token.mode !== mode)
			return no(c, 401, 'MODE', `This token is for ${token.mode === 'test' ? 'trial' : 'real'} payments.`);
		if (token.revoked) return no(c, 401, 'TOKEN_ENDED', `This token ended ${token.revoked}.`);
		c.set('token', token);
		c.set('body', body);
		await next();
	});

	app.get('/shop', (c) => {
		const { name, country, settles, zone, waiting, off, tier, switches } = engine.account(ACCOUNT);
		return c.json({
			shop: ACCOUNT,
			name,
			country,
			settles,
			zone,
			mode: c.get('token').mode === 'test' ? 'TRIAL' : 'REAL',
			token_date: c.get('token').made,
			approved: !waiting.includes('pay later'),
			active: !off.includes('pay later'),
			data_transfer: switches['data transfer'] !== false,
			tiers: Object.entries(TIERS).map(([id, { title, lowest, highest }]) => ({ id, title, lowest, highest })),
			tier: tier ?? 'FOUR',
			countries: ['BE', 'NL', 'DE', 'FR', 'AT'],
			agreed_days: 14,
			statement: { least: 3, most: 20, refused: '<>"' },
			payout: { days: 2, cut: '15:00' },
			reduce_days: 120,
			page_code: codeOf(ACCOUNT)
		});
	});
	app.get('/pricing/:tier', (c) => {
		const tier = TIERS[c.req.param('tier') as Tier];
		return tier
			? c.json({
					valid_from: '2026-01-01',
					tier: c.req.param('tier'),
					percent: tier.pct,
					fixed: tier.fixed,
					returned_when_reduced: 'PERCENT',
					complaint: '0.00'
				})
			: no(c, 404, 'TIER', 'No such tier.');
	});
	app.put('/bell', (c) => {
		const { url = '', types = [] } = JSON.parse(c.get('body') || '{}') as { url?: string; types?: string[] };
		if (!/^https?:\/\//.test(url)) return no(c, 422, 'URL', 'That is no web address.');
		const { account, mode } = c.get('token');
		const before = state.all('listeners').find((one) => one.mode === mode && one.address === url);
		const id = before?.id ?? `SUNB${randomText(10)}`;
		const secret = before?.secret ?? `whsec_${Buffer.from(randomText(32)).toString('base64')}`;
		const known = Object.values(TOPICS);
		const listener = state.put('listeners', id, {
			id,
			account,
			mode,
			address: url,
			topics: types.filter((one) => known.includes(one)),
			secret
		});
		return c.json({ bell: id, types: listener.topics, secret });
	});
	app.get('/bell/:id', (c) => {
		const listener = state.get('listeners', c.req.param('id'));
		return listener ? c.json({ bell: listener.id, types: listener.topics }) : no(c, 404, 'BELL', 'No such bell.');
	});
	app.delete('/bell/:id', (c) => {
		if (!state.get('listeners', c.req.param('id'))) return no(c, 404, 'BELL', 'No such bell.');
		state.remove('listeners', c.req.param('id'));
		return c.json({ bell: null });
	});
	app.post('/bell/:id/ring', (c) => {
		const listener = state.get('listeners', c.req.param('id'));
		if (!listener) return no(c, 404, 'BELL', 'No such bell.');
		engine.tell(ACCOUNT, listener.mode, 'hello', {});
		return c.json({ rung: true });
	});
	app.post('/token/end', (c) => {
		const key = c.get('token');
		state.put('keys', key.key, { ...key, revoked: new Date(timeNow()).toISOString() });
		return c.json({ ended: true });
	});

	const act = (c: Context, content: string, run: () => Answer) =>
		answerOnce(engine, c, ACCOUNT, c.req.header('sundial-once') ?? '', content, run, (trouble) =>
			no(
				c,
				trouble === 'working' ? 409 : trouble === 'missing' ? 400 : 422,
				`ONCE_${trouble.toUpperCase()}`,
				trouble === 'closed' ? 'Closed before it came; nothing was done.' : `Sundial-Once is ${trouble}.`
			)
		);
	const wrong = (code: string, text: string): Answer => ({ status: 422, body: { error: { code, text } } });

	app.post('/plans', (c) => {
		const asked = JSON.parse(c.get('body') || '{}') as {
			basket: { cents: string; currency: string };
			shop_ref: string;
			tier: Tier;
			back_to?: string;
			start?: 'AT_ONCE' | 'LATER';
			statement?: string;
			payer?: { name: string; mail: string; country: string };
		};
		const { mode } = c.get('token');
		return act(c, c.get('body'), () => {
			const owner = engine.account(ACCOUNT);
			const tier = TIERS[asked.tier];
			if (owner.waiting.includes('pay later') || owner.off.includes('pay later'))
				return wrong('NOT_OPEN', 'The shop is not open yet.');
			if (!tier) return wrong('TIER', 'No such tier.');
			const minor = Number(asked.basket?.cents);
			if (asked.basket?.currency !== 'EUR') return wrong('CURRENCY', 'Baskets are in EUR.');
			if (!Number.isInteger(minor) || minor < tier.lowest || minor > tier.highest)
				return wrong('BASKET', 'The basket is out of bounds.');
			const payment = engine.begin({
				account: ACCOUNT,
				mode,
				ours: asked.shop_ref,
				method: 'pay later',
				currency: 'EUR',
				minor,
				descriptor: asked.statement ?? '',
				later: asked.start === 'LATER',
				returnTo: asked.back_to,
				payer: asked.payer,
				tier: asked.tier
			});
			return { status: 201, body: written(payment, base()) };
		});
	});
	const found = (c: Context) => {
		const payment = state.get('payments', c.req.param('id') ?? '');
		return isTokenOf(payment, ACCOUNT, (c.get('token') as Key).mode) ? payment : undefined;
	};
	app.get('/plans/:id', (c) => {
		const payment = found(c);
		return payment ? c.json(written(payment, base())) : no(c, 404, 'PLAN', 'No such plan.');
	});
	for (const [path, name] of [
		['start', 'capture'],
		['drop', 'cancel'],
		['reduce', 'refund']
	] as const)
		app.post(`/plans/:id/${path}`, (c) => {
			const asked = JSON.parse(c.get('body') || '{}') as { cents?: string };
			return act(c, `${path} ${c.req.param('id')} ${c.get('body')}`, () => {
				const payment = found(c);
				if (!payment) return wrong('PLAN', 'No such plan.');
				const minor = asked.cents === undefined ? undefined : Number(asked.cents);
				if (name === 'capture' && (minor ?? 0) > payment.minor) return wrong('BASKET', 'More than was agreed.');
				const after = actOn(engine, payment.id, name, { minor });
				return after
					? { status: 200, body: written(after, base()) }
					: wrong('STATUS', name === 'refund' ? 'More than is left.' : 'Its status does not allow it.');
			});
		});
	app.post('/once/:key/settle', (c) => {
		const one = engine.settleKey(ACCOUNT, c.req.param('key'));
		return c.json(
			one.state === 'done'
				? { once: 'DONE', status: one.status, answer: JSON.parse(one.body!) }
				: { once: one.state === 'working' ? 'WORKING' : 'NEVER' }
		);
	});
	return app;
}
