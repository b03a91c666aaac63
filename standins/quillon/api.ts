import { Hono, type Context } from 'hono';
import { bearer, withdraw } from '../shared/consent.ts';
import type { Engine, Grant, Happening, Mode, Payment, PayoutNotice } from '../shared/engine.ts';
import { KNOWN, rateOf } from '../shared/sums.ts';
import { actOn, answerOnce, isTokenOf, readJson, troubled, type Answer, type Env } from '../shared/wire.ts';

export const ACCOUNT = 'QD-880';
export const TOPICS: Partial<Record<Happening, string>> = {
	pending: 'mandate_signed',
	taken: 'money_collected',
	refused: 'mandate_refused',
	ended: 'request_lapsed',
	refunded: 'money_returned_to_payer',
	settled: 'money_certain',
	back: 'debit_bounced',
	'paid out': 'transfer_to_you',
	hello: 'hello_there'
};

export const RATES = {
	since: '2026-01-01',
	debit: { permille: '7.0', never_less: 18, never_more: 390 },
	transfer: { permille: '2.5', never_less: 10, never_more: 150 },
	exchange_permille: '5.0',
	give_back: 'none',
	per_bounce: 350
} as const;

export const written = (one: Payment, base: string) => ({
	request: one.id,
	your_id: one.ours,
	kind: one.method === 'bank debit' ? 'debit' : 'transfer',
	stage: one.state,
	cents: one.minor,
	currency: one.currency,
	cause: one.why,
	on: {
		asked: one.at,
		signed: one.pendingAt,
		collected: one.takenAt,
		over: one.endedAt,
		certain: one.settledAt,
		bounced: one.backAt,
		to_you: one.paidOutAt
	},
	transfer_to_you: one.payout,
	fee: one.charged && {
		cents: one.charged.fee,
		currency: one.charged.currency,
		from_cents: one.charged.base,
		rate: one.charged.rate,
		line: one.charged.label
	},
	came: one.came,
	mandate: one.signed && {
		ref: one.signed.id,
		use: one.signed.again ? 'again' : 'once',
		collects: 'Quillon Direct for Wren & Alder Strings',
		bank: one.signed.bank,
		ends_in: one.signed.lastFour,
		signed: one.signed.at
	},
	returned: one.refunds.map((r) => ({ id: r.id, cents: r.minor, on: r.at })),
	sign_at: one.state === 'waiting' && one.method === 'bank debit' ? `${base}/door/${one.door}` : undefined,
	pay_into:
		one.method === 'transfer' && one.state === 'waiting'
			? { holder: 'Quillon Direct, for Wren & Alder Strings', iban: 'BE71 0961 2345 6769', message: one.reference }
			: undefined
});

export const told = (
	event: { id: string; topic: string; at: string; payment?: Payment; payout?: PayoutNotice },
	base: string
): string =>
	JSON.stringify({
		note_id: event.id,
		what: event.topic,
		on: event.at,
		request: event.payment && written(event.payment, base),
		transfer: event.payout && {
			id: event.payout.id,
			on: event.payout.at,
			requests: event.payout.payments.map((one) => ({ request: one.id, your_id: one.ours }))
		}
	});

const BOUNDS = { EUR: [100, 1_000_000], GBP: [100, 1_000_000] } as const;

/** Quillon's interface: bearer token of a consent, and the notice token wherever notifications are spoken of. */
export function api(engine: Engine, base: () => string): Hono<Env<{ grant: Grant }>> {
	const app = new Hono<Env<{ grant: Grant }>>();
	const { state } = engine;
	const no = (c: Context, status: 400 | 401 | 403 | 404 | 409 | 422, error: string, note: string) =>
		c.json({ error, note }, status);
	app.use('*', troubled(engine));
	app.use('*', async (c, next) => {
		const grant = bearer(engine, c);
		if (grant === 'unknown') return no(c, 401, 'consent_gone', 'The consent is unknown or was withdrawn.');
		if (grant === 'expired') return no(c, 401, 'access_over', 'The access token is over.');
		c.set('grant', grant);
		await next();
	});
	const needs = (scope: string) => async (c: Context, next: () => Promise<void>) =>
		(c.get('grant') as Grant).scope.split(' ').includes(scope)
			? next()
			: no(c, 403, 'scope', `The consent lacks “${scope}”.`);

	app.get('/me', needs('read'), (c) => {
		const { name, country, settles, zone, off, waiting } = engine.account(ACCOUNT);
		const status = (method: string) => (waiting.includes(method) ? 'in_approval' : off.includes(method) ? 'off' : 'on');
		const bounds = Object.entries(BOUNDS).map(([currency, [least, most]]) => ({ currency, least, most }));
		return c.json({
			account: ACCOUNT,
			name,
			country,
			currency: settles,
			zone,
			trial: c.get('grant').mode === 'test',
			scopes: c.get('grant').scope.split(' '),
			kinds: [
				{
					kind: 'debit',
					status: status('bank debit'),
					bounds: bounds.filter((one) => one.currency === 'EUR'),
					repeated: true
				},
				{ kind: 'transfer', status: status('transfer'), bounds, repeated: false }
			],
			message: { least: 3, most: 35, not: '<>"\\|' },
			to_you: { bank_days: 5, before: '16:00' },
			return_days: 56
		});
	});
	app.get('/settings', needs('read'), (c) => {
		const { mode } = c.get('grant');
		const { switches } = engine.account(ACCOUNT);
		const token = state.all('keys').find((one) => one.key === c.req.header('quillon-notice-token'));
		const listener = state.all('listeners').find((one) => one.account === ACCOUNT && one.mode === mode);
		return c.json({
			notifications: switches.notifications === true,
			payer_return: switches['payer return'] !== false,
			tells: listener ? { address: listener.address, events: listener.topics } : null,
			notice_token: !c.req.header('quillon-notice-token')
				? 'not sent'
				: !token || token.mode !== mode
					? token
						? 'of the other kind'
						: 'unknown'
					: token.revoked
						? 'ended'
						: 'right'
		});
	});
	app.post('/settings/try', needs('read'), (c) => {
		const { mode } = c.get('grant');
		if (!state.all('listeners').some((one) => one.account === ACCOUNT && one.mode === mode))
			return no(c, 409, 'nobody', 'No address is told of anything yet.');
		if (engine.account(ACCOUNT).switches.notifications !== true)
			return no(c, 409, 'switched_off', 'Notifications are switched off.');
		engine.tell(ACCOUNT, mode, 'hello', {});
		return c.json({ tried: true });
	});
	app.get('/prices', needs('read'), (c) => c.json(RATES));
	app.get('/rates/:day', (c) =>
		c.json({
			base: 'EUR',
			day: c.req.param('day'),
			quotes: KNOWN.filter((one) => one !== 'EUR').map((currency) => ({
				currency,
				// how many euros one of it is worth
				euros: rateOf(c.req.param('day'), currency, 'EUR', 0.0002)
			}))
		})
	);
	app.post('/consent/end', (c) => {
		withdraw(engine, c.get('grant').consent);
		return c.json({ ended: true });
	});

	const act = (c: Context, content: string, run: () => Answer) =>
		answerOnce(engine, c, ACCOUNT, c.req.header('quillon-once') ?? '', content, run, (trouble) =>
			no(
				c,
				trouble === 'working' ? 409 : trouble === 'missing' ? 400 : 422,
				`once_${trouble}`,
				trouble === 'closed' ? 'Closed before it came; nothing was done.' : `Quillon-Once is ${trouble}.`
			)
		);
	const wrong = (error: string, note: string): Answer => ({ status: 422, body: { error, note } });

	app.post('/requests', needs('collect'), async (c) => {
		const asked = await readJson<{
			kind: string;
			cents: number;
			currency: string;
			your_id: string;
			message?: string;
			return_to?: string;
			payer?: { name: string; mail: string; country: string };
			/** the mandate that is signed may be used again */
			again?: boolean;
			/** a mandate that was signed before */
			mandate?: string;
		}>(c);
		if (!asked) return no(c, 400, 'form', 'That is not JSON.');
		const { mode } = c.get('grant');
		return act(c, JSON.stringify(asked), () => {
			const method = asked.kind === 'debit' ? 'bank debit' : 'transfer';
			const bound = BOUNDS[asked.currency as 'EUR'];
			if (!bound || (method === 'bank debit' && asked.currency !== 'EUR')) return wrong('currency', 'Not carried.');
			if (!Number.isInteger(asked.cents) || asked.cents < bound[0] || asked.cents > bound[1])
				return wrong('cents', 'Out of bounds.');
			const { off, waiting } = engine.account(ACCOUNT);
			if (off.includes(method) || waiting.includes(method)) return wrong('kind', 'This kind is not on.');
			const kept = asked.mandate === undefined ? undefined : state.get('kept', asked.mandate);
			if (asked.mandate !== undefined && (!isTokenOf(kept, ACCOUNT, mode) || kept!.ended))
				return wrong('mandate_over', kept?.ended ? `This mandate has ended: ${kept.ended}.` : 'No such mandate.');
			const wanted = {
				account: ACCOUNT,
				mode,
				ours: asked.your_id,
				method,
				currency: asked.currency,
				minor: asked.cents,
				descriptor: asked.message ?? '',
				later: false,
				returnTo: engine.account(ACCOUNT).switches['payer return'] === false ? undefined : asked.return_to,
				payer: asked.payer,
				reference:
					method === 'transfer'
						? `QD${asked.your_id
								.replace(/[^A-Za-z0-9]/g, '')
								.slice(0, 10)
								.toUpperCase()}`
						: undefined,
				keeps: asked.again === true && method === 'bank debit'
			};
			const payment = kept ? engine.beginAgain(wanted, kept) : engine.begin(wanted);
			return { status: 201, body: written(payment, base()) };
		});
	});
	app.post('/mandates/:ref/end', needs('collect'), (c) => {
		const kept = state.get('kept', c.req.param('ref') ?? '');
		if (!isTokenOf(kept, ACCOUNT, c.get('grant').mode)) return no(c, 404, 'unknown', 'No such mandate.');
		engine.endKept(kept!.id, 'ended by the shop');
		return c.json({ ended: true });
	});
	const found = (c: Context): Payment | undefined => {
		const payment = state.get('payments', c.req.param('id') ?? '');
		return isTokenOf(payment, ACCOUNT, (c.get('grant') as Grant).mode as Mode) ? payment : undefined;
	};
	app.get('/requests/:id', needs('read'), (c) => {
		const payment = found(c);
		return payment ? c.json(written(payment, base())) : no(c, 404, 'unknown', 'No such request.');
	});
	app.post('/requests/:id/withdraw', needs('collect'), (c) =>
		act(c, `withdraw ${c.req.param('id')}`, () => {
			const payment = found(c);
			if (!payment) return wrong('unknown', 'No such request.');
			const after = actOn(engine, payment.id, 'cancel', { why: 'withdrawn' });
			return after
				? { status: 200, body: written(after, base()) }
				: wrong('over', 'It is signed, paid or over already.');
		})
	);
	app.post('/requests/:id/return', needs('collect'), async (c) => {
		const asked = (await readJson<{ cents: number }>(c)) ?? { cents: 0 };
		return act(c, `return ${c.req.param('id')} ${asked.cents}`, () => {
			const payment = found(c);
			if (!payment) return wrong('unknown', 'No such request.');
			if (!Number.isInteger(asked.cents) || asked.cents <= 0) return wrong('cents', 'Not a sum.');
			const after = actOn(engine, payment.id, 'refund', { minor: asked.cents });
			return after ? { status: 200, body: written(after, base()) } : wrong('cents', 'More than is left.');
		});
	});
	app.post('/once/:key/settle', (c) => {
		const one = engine.settleKey(ACCOUNT, c.req.param('key'));
		return c.json(
			one.state === 'done'
				? { once: 'done', status: one.status, answer: JSON.parse(one.body!) }
				: { once: one.state === 'working' ? 'working' : 'never came' }
		);
	});
	return app;
}
