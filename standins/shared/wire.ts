import { setTimeout as pause } from 'node:timers/promises';
import type { HttpBindings } from '@hono/node-server';
import { Hono, type Context, type MiddlewareHandler } from 'hono';
import { setShift, timeNow } from './clock.ts';
import type { Engine, MailServer, Mode, Payment } from './engine.ts';

export type Env<Variables extends object = object> = { Bindings: HttpBindings; Variables: Variables };

/** Cuts the line without an answer. */
export function cut(c: Context): Response {
	(c.env as HttpBindings).incoming.socket.destroy();
	return c.body(null);
}

/** The troubles that can be switched on, before anything else is looked at. */
export const troubled =
	(engine: Engine): MiddlewareHandler =>
	async (c, next) => {
		const { down, slow, errors, nonsense } = engine.faults;
		if (down) return cut(c);
		if (slow) await pause(slow);
		if (errors) return c.json({ message: `Something broke at ${engine.house.name}.` }, 500);
		if (nonsense) return c.html('<p>The lift is out of order today</p>');
		await next();
		if (engine.faults.drips) c.res = drip(c.res);
	};

/** The same answer, a byte at a time. */
function drip(answer: Response): Response {
	const headers = new Headers(answer.headers);
	headers.delete('content-length');
	const bytes = new ReadableStream<Uint8Array>({
		async start(out) {
			for (const byte of new Uint8Array(await answer.arrayBuffer())) {
				out.enqueue(Uint8Array.of(byte));
				await pause(500);
			}
			out.close();
		}
	});
	return new Response(bytes, { status: answer.status, headers });
}

export const readJson = async <T>(c: Context): Promise<T | undefined> => {
	try {
		return JSON.parse((await c.req.text()) || '{}') as T;
	} catch {
		return undefined;
	}
};

/** What tests and scripts do to a stand-in, as a hand does at its console. */
export function control(engine: Engine): Hono {
	const app = new Hono();
	const { state } = engine;
	app.get('/keys', (c) => c.json(state.all('keys')));
	app.get('/faults', (c) => c.json(engine.faults));
	app.get('/payments', (c) => c.json(state.all('payments')));
	app.get('/kept', (c) => c.json(state.all('kept')));
	app.post('/kept/:id/end', async (c) => {
		const { why } = await c.req.json<{ why: string }>();
		return c.json({ ended: engine.endKept(c.req.param('id'), why) });
	});
	app.get('/deliveries', (c) => c.json(engine.deliveries()));
	app.get('/waiting', (c) => c.json({ waiting: engine.waiting() }));
	app.get('/listeners', (c) => c.json(state.all('listeners')));
	app.get('/grants', (c) => c.json(state.all('grants')));
	app.get('/accounts', (c) => c.json(state.all('accounts')));
	app.get('/applications', (c) => c.json(state.all('applications')));
	app.post('/faults', async (c) => c.json(engine.setFaults(await c.req.json())));
	const [first] = engine.house.accounts;
	app.post('/account/:id?', async (c) => c.json(engine.change(c.req.param('id') ?? first!.id, await c.req.json())));
	app.post('/night', async (c) => {
		const {
			account = first!.id,
			mode,
			step
		} = await c.req.json<{
			account?: string;
			mode: Mode;
			step: 'settle' | 'pay out';
		}>();
		return c.json({ moved: engine.settle(engine.account(account), mode, step) });
	});
	app.post('/clock', async (c) => {
		const { shift } = await c.req.json<{ shift: number }>();
		setShift(shift);
		engine.tellPassed();
		engine.night();
		engine.wake(0);
		return c.json({ now: new Date(timeNow()).toISOString() });
	});
	app.post('/forget', (c) => c.json({ forgotten: engine.forget() }));
	app.post('/remember', async (c) => {
		const { account, payments } = await c.req.json<{ account: string; payments: Payment[] }>();
		return c.json({ remembered: engine.remember(engine.account(account), payments) });
	});
	app.post('/act/:id', async (c) => {
		const { act, why, minor } = await c.req.json<{ act: Act; why?: string; minor?: number }>();
		return c.json(actOn(engine, c.req.param('id'), act, { why, minor }) ?? { refused: true });
	});
	app.post('/listener', async (c) => {
		const listener = await c.req.json();
		return c.json(state.put('listeners', listener.id, listener));
	});
	app.post('/mail', async (c) => {
		const server = await c.req.json<Omit<MailServer, 'id'>>();
		return c.json(state.put('mail', 'mail', { ...server, id: 'mail' }));
	});
	app.post('/again/:id', (c) => {
		engine.again(c.req.param('id'));
		return c.json({ again: c.req.param('id') });
	});
	return app;
}

export type Act =
	'approve' | 'refuse' | 'submit' | 'match' | 'bounce' | 'refund' | 'dispute' | 'win' | 'lose' | 'capture' | 'cancel';

/** What a payer, a bank or a hand at the console does to a payment, where its state allows it. */
export function actOn(
	engine: Engine,
	id: string,
	act: Act,
	{ why, minor, payerAccount }: { why?: string; minor?: number; payerAccount?: { bank: string; lastFour: string } } = {}
): Payment | undefined {
	const payment = engine.state.get('payments', id);
	if (!payment) return undefined;
	const { state } = payment;
	if (act === 'approve' && state === 'waiting')
		return payment.method === 'bank debit'
			? engine.promise(id, payerAccount)
			: payment.later
				? engine.hold(id)
				: engine.take(id);
	if (act === 'refuse' && state === 'waiting') return engine.refuse(id, why ?? 'the payer refused');
	if (act === 'submit' && state === 'pending') return engine.take(id);
	if (act === 'match' && state === 'waiting') return engine.take(id);
	if (act === 'capture' && state === 'held') return engine.take(id, minor);
	if (act === 'cancel' && (state === 'held' || state === 'waiting')) return engine.end(id, why ?? 'given up');
	if (act === 'bounce' && (state === 'taken' || state === 'pending'))
		return engine.bounce(id, why ?? 'not enough money on the account');
	if (act === 'dispute' && engine.leftToRefund(payment) > 0) return engine.dispute(id, why);
	if ((act === 'win' || act === 'lose') && payment.disputed && !payment.disputed.outcome)
		return engine.endDispute(id, act === 'win' ? 'won' : 'lost');
	if (act === 'refund') {
		const left = engine.leftToRefund(payment);
		const sum = minor ?? left;
		return sum > 0 && sum <= left ? engine.refund(id, sum).payment : undefined;
	}
	return undefined;
}

export type Answer = { status: number; body: object };
export type OnceTrouble = 'missing' | 'closed' | 'reused' | 'working';

/** Does a thing once per key over HTTP; what is wrong with the key is told in the house's own words. */
export function answerOnce(
	engine: Engine,
	c: Context,
	account: string,
	key: string,
	content: string,
	run: () => Answer,
	refuse: (trouble: OnceTrouble) => Response
): Response {
	if (!/^[\w-]{8,80}$/.test(key)) return refuse('missing');
	const done = engine.once(account, key, content, run);
	if ('trouble' in done) return refuse(done.trouble);
	if (done.lost) return cut(c);
	return c.body(done.body, done.status as 200, { 'content-type': 'application/json' });
}

export const isTokenOf = (token: { account: string; mode: Mode } | undefined, account: string, mode: Mode): boolean =>
	token?.account === account && token.mode === mode;
