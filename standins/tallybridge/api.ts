import { Hono, type Context } from 'hono';
import { bearer, withdraw } from '../shared/consent.ts';
import {
	randomText,
	type Engine,
	type Grant,
	type Happening,
	type Payment,
	type PayoutNotice
} from '../shared/engine.ts';
import { decimal, KNOWN, minorOf, rateOf } from '../shared/sums.ts';
import { actOn, answerOnce, isTokenOf, readJson, troubled, type Answer, type Env } from '../shared/wire.ts';

export const TOPICS: Partial<Record<Happening, string>> = {
	held: 'collection/reserved',
	taken: 'collection/received',
	refused: 'collection/refused',
	ended: 'collection/released',
	refunded: 'collection/sent-back',
	disputed: 'collection/contested',
	settled: 'collection/credited',
	'paid out': 'withdrawal/made',
	hello: 'listener/greeting',
	account: 'account/changed'
};

export const TERMS = {
	balance: { share: '3.40', plus: '0.35' },
	card: { share: '2.90', plus: '0.30' },
	exchange: '3.50',
	since: '2026-01-01'
} as const;

/** A sum as Tallybridge writes it. */
const worth = (minor: number, currency: string) => ({ value: decimal(minor, currency), unit: currency });

export const written = (one: Payment, base: string) => ({
	collection: one.id,
	yourMark: one.ours,
	from: one.method === 'card' ? 'card' : 'balance',
	status: {
		waiting: 'open',
		held: 'reserved',
		pending: 'open',
		taken: 'received',
		refused: 'refused',
		ended: 'released',
		back: 'released'
	}[one.state],
	worth: worth(one.minor, one.currency),
	card: one.card && {
		network: one.card.scheme,
		class: one.card.funding,
		land: one.card.issuedIn,
		ending: one.card.lastFour,
		until: one.card.expires
	},
	reason: one.why,
	moments: {
		opened: one.at,
		reserved: one.heldAt,
		received: one.takenAt,
		closed: one.endedAt,
		credited: one.settledAt,
		withdrawn: one.paidOutAt
	},
	withdrawal: one.payout,
	cost: one.charged && {
		worth: worth(one.charged.fee, one.charged.currency),
		of: worth(one.charged.base, one.charged.currency),
		at: one.charged.rate,
		line: one.charged.label
	},
	sentBack: one.refunds.map((r) => ({
		id: r.id,
		worth: worth(r.minor, one.currency),
		moment: r.at,
		costBack: worth(r.feeBack, one.charged!.currency)
	})),
	contested: one.disputed && { worth: worth(one.disputed.minor, one.currency), moment: one.disputed.at },
	continueAt: one.state === 'waiting' && one.method !== 'card' ? `${base}/door/${one.door}` : undefined
});

export const told = (
	event: { id: string; topic: string; at: string; payment?: Payment; payout?: PayoutNotice },
	base: string
): string =>
	JSON.stringify({
		greeting: event.id,
		about: event.topic,
		moment: event.at,
		collection: event.payment && written(event.payment, base),
		withdrawal: event.payout && {
			id: event.payout.id,
			moment: event.payout.at,
			collections: event.payout.payments.map((one) => ({ collection: one.id, yourMark: one.ours }))
		}
	});

const HIGHEST: Record<string, string> = {
	EUR: '15000.00',
	GBP: '12000.00',
	CHF: '15000.00',
	USD: '15000.00',
	JPY: '2000000'
};
const LOWEST: Record<string, string> = { EUR: '1.00', GBP: '1.00', CHF: '1.00', USD: '1.00', JPY: '100' };

/** Tallybridge's interface: bearer tokens of a consent, the account in a header, sums as value and unit. */
export function api(engine: Engine, base: () => string): Hono<Env<{ grant: Grant; account: string }>> {
	const app = new Hono<Env<{ grant: Grant; account: string }>>();
	const { state } = engine;
	const no = (c: Context, status: 400 | 401 | 403 | 404 | 409 | 422, sorry: string, because: string) =>
		c.json({ sorry, because }, status);

	app.use('*', troubled(engine));
	app.use('*', async (c, next) => {
		const grant = bearer(engine, c);
		if (grant === 'unknown') return no(c, 401, 'no-consent', 'This consent is not known, or was withdrawn.');
		if (grant === 'expired') return no(c, 401, 'consent-expired', 'This access has ended; refresh it.');
		c.set('grant', grant);
		const account = c.req.header('tally-account') ?? '';
		if (account && !state.get('accounts', account)) return no(c, 404, 'account', 'No such account.');
		c.set('account', account);
		await next();
	});
	const needs = (scope: string) => async (c: Context, next: () => Promise<void>) => {
		if (!(c.get('grant') as Grant).scope.split(' ').includes(scope))
			return no(c, 403, 'not-consented', `The consent does not include ${scope}.`);
		if (!c.get('account')) return no(c, 400, 'account', 'Say which account, in the header Tally-Account.');
		return next();
	};

	app.get('/accounts', (c) =>
		c.json({
			mode: c.get('grant').mode === 'test' ? 'trial' : 'real',
			consented: c.get('grant').scope.split(' ').filter(Boolean),
			accounts: state
				.all('accounts')
				.map(({ id, name, country, settles }) => ({ id, name, land: country, unit: settles }))
		})
	);
	app.get('/abilities', needs('account'), (c) => {
		const { id, name, country, settles, zone, off, waiting, rhythm } = engine.account(c.get('account'));
		const units = ['EUR', 'GBP', 'CHF', 'USD', 'JPY'];
		const status = (way: string) =>
			waiting.includes(way) ? 'awaiting approval' : off.includes(way) ? 'switched off' : 'open';
		const span = units.map((unit) => ({ unit, lowest: LOWEST[unit], highest: HIGHEST[unit] }));
		return c.json({
			account: { id, name, land: country, unit: settles, zone },
			ways: [
				{ way: 'balance', status: status('account wallet'), units, span, entry: ['online'] },
				{
					way: 'card',
					status: status('card'),
					units,
					span,
					entry: ['online'],
					networks: ['corvid', 'mainsail', 'gildern'],
					classes: ['debit', 'credit', 'prepaid', 'commercial'],
					reservedDays: 3
				}
			],
			statement: { from: 5, to: 18, without: '<>"*' },
			withdrawals: { days: 3, until: '18:00', rhythms: ['daily', 'weekly', 'monthly'], rhythm: rhythm ?? 'daily' },
			sendBackDays: 180
		});
	});
	app.get('/costs', needs('account'), (c) => {
		const { settles } = engine.account(c.get('account'));
		return c.json({
			since: TERMS.since,
			unit: settles,
			ways: [
				{ way: 'balance', per10000: 340, flat: '0.35' },
				{ way: 'card', per10000: 290, flat: '0.30' }
			],
			exchangePer10000: 350,
			whenSentBack: 'the proportional part is returned, the flat part is kept',
			contested: { flat: '16.00', returned: 'never' }
		});
	});
	app.get('/rates', (c) => {
		const day = c.req.query('day') ?? '';
		const to = engine.account(c.get('account') || 'TB-EU-1').settles;
		return c.json({
			day,
			into: to,
			rates: Object.fromEntries(KNOWN.filter((one) => one !== to).map((one) => [one, rateOf(day, one, to, -0.0011)]))
		});
	});
	app.put('/withdrawals', needs('account'), async (c) => {
		const { rhythm } = (await readJson<{ rhythm: string }>(c)) ?? { rhythm: '' };
		if (!['daily', 'weekly', 'monthly'].includes(rhythm)) return no(c, 422, 'rhythm', 'No such rhythm.');
		engine.change(c.get('account'), { rhythm });
		return c.json({ rhythm });
	});

	app.post('/listeners', needs('notices'), async (c) => {
		const { address = '', about = [] } = (await readJson<{ address: string; about: string[] }>(c)) ?? {};
		if (!/^https?:\/\//.test(address)) return no(c, 422, 'address', 'That is no web address.');
		const [account, { mode }] = [c.get('account'), c.get('grant')];
		const before = state
			.all('listeners')
			.find((one) => one.account === account && one.mode === mode && one.address === address);
		const id = before?.id ?? `tbl-${randomText(10)}`;
		const known = Object.values(TOPICS);
		const listener = state.put('listeners', id, {
			id,
			account,
			mode,
			address,
			topics: about.filter((one) => known.includes(one)),
			secret: before?.secret ?? randomText(32)
		});
		return c.json({ listener: id, about: listener.topics, word: listener.secret }, 201);
	});
	const listenerOf = (c: Context) => {
		const listener = state.get('listeners', c.req.param('id') ?? '');
		return listener?.account === c.get('account') ? listener : undefined;
	};
	app.get('/listeners/:id', needs('notices'), (c) => {
		const listener = listenerOf(c);
		return listener ? c.json({ listener: listener.id, about: listener.topics }) : no(c, 404, 'listener', 'None.');
	});
	app.delete('/listeners/:id', needs('notices'), (c) => {
		const listener = listenerOf(c);
		if (!listener) return no(c, 404, 'listener', 'No such listener.');
		state.remove('listeners', listener.id);
		return c.json({ listener: null });
	});
	app.post('/listeners/:id/greet', needs('notices'), (c) => {
		const listener = listenerOf(c);
		if (!listener) return no(c, 404, 'listener', 'No such listener.');
		engine.tell(listener.account, listener.mode, 'hello', {});
		return c.json({ greeted: true });
	});
	app.delete('/consent', (c) => {
		withdraw(engine, c.get('grant').consent);
		return c.json({ consent: null });
	});

	app.get('/cards/:token', needs('collect'), (c) => {
		const token = state.get('tokens', c.req.param('token') ?? '');
		if (!isTokenOf(token, c.get('account'), c.get('grant').mode)) return no(c, 404, 'card', 'No such card.');
		return c.json(written({ card: token!.card, refunds: [] } as unknown as Payment, '').card!);
	});

	const act = (c: Context, content: string, run: () => Answer) =>
		answerOnce(engine, c, c.get('account'), c.req.param('key') ?? '', content, run, (trouble) =>
			no(
				c,
				trouble === 'working' ? 409 : trouble === 'missing' ? 400 : 422,
				`key-${trouble}`,
				trouble === 'closed'
					? 'The key was closed before the request came; nothing was done.'
					: `The key is ${trouble}.`
			)
		);
	const wrong = (sorry: string, because: string): Answer => ({ status: 422, body: { sorry, because } });

	app.put('/collections/:key', needs('collect'), async (c) => {
		const asked = await readJson<{
			from: string;
			worth: { value: string; unit: string };
			card?: string;
			yourMark: string;
			statement?: string;
			reserve?: boolean;
			backTo?: string;
		}>(c);
		if (!asked) return no(c, 400, 'form', 'That is not JSON.');
		const [account, { mode }] = [c.get('account'), c.get('grant')];
		return act(c, `collect ${JSON.stringify(asked)}`, () => {
			const unit = asked.worth?.unit ?? '';
			const minor = HIGHEST[unit] ? minorOf(asked.worth.value, unit) : undefined;
			if (minor === undefined || minor < minorOf(LOWEST[unit]!, unit)! || minor > minorOf(HIGHEST[unit]!, unit)!)
				return wrong('worth', 'This sum or unit is not carried.');
			const owner = engine.account(account);
			const method = asked.from === 'card' ? 'card' : 'account wallet';
			if (owner.off.includes(method) || owner.waiting.includes(method)) return wrong('way', 'This way is not open.');
			const token = method === 'card' ? state.get('tokens', asked.card ?? '') : undefined;
			if (method === 'card' && (!isTokenOf(token, account, mode) || token!.used))
				return wrong('card', 'No such card, or it was used before.');
			const payment = engine.begin(
				{
					account,
					mode,
					ours: asked.yourMark,
					method,
					currency: unit,
					minor,
					descriptor: asked.statement ?? '',
					later: method === 'card' && asked.reserve === true,
					returnTo: asked.backTo
				},
				token
			);
			return { status: 201, body: written(payment, base()) };
		});
	});
	const found = (c: Context): Payment | undefined => {
		const payment = state.get('payments', c.req.param('id') ?? '');
		return isTokenOf(payment, c.get('account'), (c.get('grant') as Grant).mode) ? payment : undefined;
	};
	app.get('/collection/:id', needs('account'), (c) => {
		const payment = found(c);
		return payment ? c.json(written(payment, base())) : no(c, 404, 'collection', 'No such collection.');
	});
	for (const [path, name] of [
		['receive', 'capture'],
		['release', 'cancel'],
		['send-back', 'refund']
	] as const)
		app.put(`/collection/:id/${path}/:key`, needs('collect'), async (c) => {
			const asked = (await readJson<{ worth?: { value: string; unit: string } }>(c)) ?? {};
			return act(c, `${path} ${c.req.param('id')} ${JSON.stringify(asked)}`, () => {
				const payment = found(c);
				if (!payment) return wrong('collection', 'No such collection.');
				const minor = asked.worth ? minorOf(asked.worth.value, payment.currency) : undefined;
				if (name === 'capture' && (minor ?? 0) > payment.minor) return wrong('worth', 'More than is reserved.');
				const after = actOn(engine, payment.id, name, { minor });
				return after
					? { status: 200, body: written(after, base()) }
					: wrong('status', name === 'refund' ? 'More than is left.' : 'Its status does not allow it.');
			});
		});
	app.post('/keys/:key/settle', (c) => {
		const one = engine.settleKey(c.get('account'), c.req.param('key'));
		return c.json(
			one.state === 'done'
				? { key: 'done', status: one.status, answer: JSON.parse(one.body!) }
				: { key: one.state === 'working' ? 'working' : 'never came' }
		);
	});
	return app;
}
