import { createHash } from 'node:crypto';
import { request } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';
import { Hono, type Context } from 'hono';
import type { HttpBindings } from '@hono/node-server';
import { SCHEMES } from '../shared/cards.ts';
import { leftToRefund, refund, take } from './money.ts';
import { publicPayment, TOPICS, type Notifier } from './notify.ts';
import { KNOWN, pricesOf, rateOf } from './pricing.ts';
import { faultsOf, randomText, type Key, type Payment, type State } from './state.ts';
import { timeNow } from '../shared/clock.ts';

type Env = { Bindings: HttpBindings; Variables: { key: Key } };

const fault = (c: Context, status: 400 | 401 | 403 | 404 | 409 | 422 | 500 | 503, code: string, text: string) =>
	c.json({ fault: code, text }, status);

/** What an account may do; the console can switch parts off. */
export const abilitiesOf = (off: readonly string[] = []) => ({
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

/** Fernhall's interface for shops, version 1. */
export function api(state: State, notifier: Notifier, hosts: Readonly<Record<string, string>> = {}): Hono<Env> {
	const app = new Hono<Env>();

	app.use('*', async (c, next) => {
		const faults = faultsOf(state);
		if (faults.down) {
			c.env.incoming.socket.destroy();
			return c.body(null);
		}
		if (faults.slow) await pause(faults.slow);
		if (faults.errors) return fault(c, 500, 'broken', 'Something broke at Fernhall.');
		if (faults.nonsense) return c.html('<p>Scheduled maintenance of the tea kitchen</p>');
		await next();
	});

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
		const key = c.get('key');
		return c.json({ ...state.get('accounts', key.account)!, mode: key.mode, keyMade: key.made });
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

	app.get('/abilities', (c) => c.json(abilitiesOf(state.get('accounts', c.get('key').account)!.off)));
	app.get('/prices', (c) => c.json(pricesOf(state.get('accounts', c.get('key').account)!)));
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
		const { account, mode } = c.get('key');
		const { address, topics } = await c.req.json<{ address: string; topics: string[] }>();
		if (!/^https?:\/\//.test(address)) return fault(c, 422, 'address', 'The address is no web address.');
		const unknown = topics.filter((one) => !(TOPICS as readonly string[]).includes(one));
		if (unknown.length) return fault(c, 422, 'topics', `Unknown topics: ${unknown.join(', ')}`);
		const before = state
			.all('listeners')
			.find((one) => one.account === account && one.mode === mode && one.address === address);
		const id = before?.id ?? `FHL-${randomText(12)}`;
		const secret = before?.secret ?? `whsec_${Buffer.from(randomText(32)).toString('base64')}`;
		state.put('listeners', id, { id, account, mode, address, topics, secret });
		return c.json({ id, address, topics, secret });
	});
	app.get('/listener/:id', (c) => {
		const listener = state.get('listeners', c.req.param('id'));
		if (!listener || listener.account !== c.get('key').account) return fault(c, 404, 'listener', 'No such listener.');
		return c.json({ id: listener.id, topics: listener.topics });
	});
	app.delete('/listener/:id', (c) => {
		const listener = state.get('listeners', c.req.param('id'));
		if (!listener || listener.account !== c.get('key').account) return fault(c, 404, 'listener', 'No such listener.');
		state.remove('listeners', listener.id);
		return c.json({ removed: listener.id });
	});
	app.post('/listener/:id/hello', (c) => {
		const { account, mode } = c.get('key');
		const listener = state.get('listeners', c.req.param('id'));
		if (!listener || listener.account !== account) return fault(c, 404, 'listener', 'No such listener.');
		notifier.tell(account, mode, 'listener.hello', {});
		return c.json({ sent: true });
	});

	app.post('/keys/revoke', (c) => {
		const key = c.get('key');
		state.put('keys', key.key, { ...key, revoked: new Date(timeNow()).toISOString() });
		return c.json({ revoked: true });
	});

	const PROOF = '/.well-known/fernhall-tapfold';
	app.put('/domains/:domain', (c) => {
		const domain = c.req.param('domain').toLowerCase();
		if (!/^[a-z0-9.-]{1,120}(:\d{1,5})?$/.test(domain)) return fault(c, 422, 'domain', 'That is no domain.');
		const { account } = c.get('key');
		const id = `${account} ${domain}`;
		const kept =
			state.get('domains', id) ??
			state.put('domains', id, {
				domain,
				account,
				content: `tapfold-proof ${account} ${randomText(32)}`,
				state: 'not looked at',
				says: ''
			});
		return c.json({ domain, path: PROOF, content: kept.content, state: kept.state, says: kept.says });
	});
	app.post('/domains/:domain/look', async (c) => {
		const domain = c.req.param('domain').toLowerCase();
		const id = `${c.get('key').account} ${domain}`;
		const kept = state.get('domains', id);
		if (!kept) return fault(c, 404, 'domain', 'No such domain.');
		const says = await look(hosts[domain] ?? domain, domain, PROOF, kept.content);
		const after = state.put('domains', id, { ...kept, state: says ? 'failing' : 'proven', says });
		return c.json({ domain, path: PROOF, content: after.content, state: after.state, says });
	});

	app.get('/tokens/:token', (c) => {
		const { account, mode } = c.get('key');
		const token = state.get('tokens', c.req.param('token'));
		if (!token || token.account !== account || token.mode !== mode) return fault(c, 404, 'token', 'No such token.');
		return c.json({ token: token.token, card: token.card, used: token.used });
	});

	/** Does a thing once per key: the same key and content gives the same answer, other content is refused. */
	async function once(
		c: Context<Env>,
		content: string,
		act: () => { payment?: Payment; status: 200 | 201 | 409 | 422; body: object }
	) {
		const { account } = c.get('key');
		const given = c.req.header('idempotency-key') ?? '';
		if (!/^[\w-]{8,80}$/.test(given)) return fault(c, 400, 'key_missing', 'Send an Idempotency-Key of 8 to 80 signs.');
		const key = `${account} ${given}`;
		const hash = createHash('sha256').update(content).digest('hex');
		const before = state.get('answered', key);
		if (before?.state === 'closed')
			return fault(c, 409, 'closed', 'This key was closed before the request came; nothing was done.');
		if (before && before.content !== hash) return fault(c, 422, 'key_reused', 'This key was used for another request.');
		if (before?.state === 'working')
			return fault(c, 409, 'working', 'The first request with this key is still under way.');
		if (!before) {
			state.put('answered', key, { key, account, content: hash, state: 'working' });
			const { payment, status, body } = act();
			state.put('answered', key, {
				key,
				account,
				content: hash,
				state: 'done',
				payment: payment?.id,
				status,
				body: JSON.stringify(body)
			});
			if (faultsOf(state).loseAnswer) {
				c.env.incoming.socket.destroy();
				return c.body(null);
			}
		}
		const done = state.get('answered', key)!;
		return c.body(done.body!, done.status as 200, { 'content-type': 'application/json' });
	}

	app.post('/payments', async (c) => {
		const text = await c.req.text();
		const { account, mode } = c.get('key');
		let asked: { sum: Payment['sum']; token: string; ours: string; descriptor?: string };
		try {
			asked = JSON.parse(text);
		} catch {
			return fault(c, 400, 'json', 'The request is not JSON.');
		}
		return once(c, `payment ${text}`, () => {
			const token = state.get('tokens', asked.token ?? '');
			const refuse = (code: string, says: string) => ({ status: 422 as const, body: { fault: code, text: says } });
			if (!token || token.account !== account || token.mode !== mode) return refuse('token', 'No such token.');
			if (token.used) return refuse('token_used', 'This token was used before.');
			const { off = [] } = state.get('accounts', account)!;
			if (off.includes(token.by === 'tapfold' ? 'tapfold' : 'cards'))
				return refuse('way_off', 'This way to pay is switched off.');
			const limit = abilitiesOf().cards.sums.find((one) => one.currency === asked.sum?.currency);
			if (!limit) return refuse('currency', `This account does not take ${asked.sum?.currency}.`);
			if (
				!Number.isInteger(asked.sum.thousandths) ||
				asked.sum.thousandths < limit.from ||
				asked.sum.thousandths > limit.to
			)
				return refuse('sum', 'The sum is out of bounds.');
			const payment = take(state, notifier, token, {
				sum: asked.sum,
				ours: asked.ours,
				descriptor: asked.descriptor ?? ''
			});
			return { payment, status: 201, body: publicPayment(payment) };
		});
	});

	app.get('/payments/:id', (c) => {
		const { account, mode } = c.get('key');
		const payment = state.get('payments', c.req.param('id'));
		if (!payment || payment.account !== account || payment.mode !== mode)
			return fault(c, 404, 'payment', 'No such payment.');
		return c.json(publicPayment(payment));
	});

	/** What became of a request key. A key that never came is closed, so that a late request does nothing. */
	app.post('/requests/:key/settle', (c) => {
		const { account } = c.get('key');
		const key = `${account} ${c.req.param('key')}`;
		const before = state.get('answered', key);
		if (!before) {
			state.put('answered', key, { key, account, content: '', state: 'closed' });
			return c.json({ request: 'never came' });
		}
		if (before.state === 'closed') return c.json({ request: 'never came' });
		if (before.state === 'working') return c.json({ request: 'under way' });
		return c.json({ request: 'done', status: before.status, answer: JSON.parse(before.body!) });
	});

	app.post('/payments/:id/refunds', async (c) => {
		const text = await c.req.text();
		const { account, mode } = c.get('key');
		const asked = JSON.parse(text || '{}') as { thousandths: number };
		return once(c, `refund ${c.req.param('id')} ${text}`, () => {
			const payment = state.get('payments', c.req.param('id'));
			const refuse = (code: string, says: string) => ({ status: 422 as const, body: { fault: code, text: says } });
			if (!payment || payment.account !== account || payment.mode !== mode)
				return refuse('payment', 'No such payment.');
			const left = leftToRefund(payment);
			if (!Number.isInteger(asked.thousandths) || asked.thousandths <= 0)
				return refuse('sum', 'The sum must be above zero.');
			if (asked.thousandths > left) return refuse('too_much', `Only ${left} thousandths are left to refund.`);
			const after = refund(state, notifier, payment, asked.thousandths);
			return { payment: after, status: 201, body: publicPayment(after) };
		});
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
