import { createHmac } from 'node:crypto';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { createServer, type IncomingHttpHeaders, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { afterBusinessDays, weekday } from '../../standins/shared/days.ts';
import { Engine, type House, type Payment, type Token } from '../../standins/shared/engine.ts';
import { backInProportion, priceBy, regionOf } from '../../standins/shared/price.ts';
import { converted, decimal, halvesEven, halvesUp, minorOf, rateOf } from '../../standins/shared/sums.ts';
import { actOn } from '../../standins/shared/wire.ts';
import { until } from '../world/index.ts';

// What all stand-ins share: payments from asking to payout, keys that act once, notifications that are tried again.

const ACCOUNT = 'acc-1';
const house = (more: Partial<House> = {}): House => ({
	name: 'House',
	prefix: 'ho',
	accounts: [
		{
			id: ACCOUNT,
			name: 'Wren & Alder Strings',
			country: 'BE',
			settles: 'EUR',
			zone: 'Europe/Brussels',
			off: [],
			waiting: [],
			switches: {}
		}
	],
	seed: (account, mode) => [{ key: `k-${mode}`, kind: 'secret', mode, account: account.id, made: '2026-01-01' }],
	price: (payment, account) =>
		priceBy(payment, 'EUR', account.zone, 0, { label: 'flat', share: '1.00', plus: '0.10', back: 'share' }),
	givenBack: backInProportion,
	topics: {
		taken: 'taken',
		refused: 'refused',
		refunded: 'refunded',
		settled: 'settled',
		'paid out': 'paid',
		hello: 'hello'
	},
	body: ({ id, topic, payment, payout }) => JSON.stringify({ id, topic, payment: payment?.id, payout: payout?.id }),
	headers: ({ secret }, { body }) => ({ mac: createHmac('sha256', secret).update(body).digest('hex') }),
	settleAfter: () => 1,
	payOutAfter: () => 2,
	...more
});
const card = { scheme: 'corvid', funding: 'debit', issuedIn: 'BE', lastFour: '0001', expires: '2029-09' };

let folder: string;
let engine: Engine;
beforeEach(() => {
	folder = mkdtempSync(join(tmpdir(), 'purse-engine-'));
	engine = new Engine(house(), join(folder, 'house.journal'), 1_000);
});
afterEach(() => {
	engine.stop();
	rmSync(folder, { recursive: true, force: true });
});
const token = (outcome = 'approved'): Token => ({
	token: `t-${outcome}-${Math.round(performance.now() * 1_000)}`,
	account: ACCOUNT,
	mode: 'live',
	card,
	outcome,
	used: false
});
const asked = {
	account: ACCOUNT,
	mode: 'live' as const,
	ours: 'o-1',
	method: 'card',
	currency: 'EUR',
	minor: 10_000,
	descriptor: '',
	later: false
};

describe('a payment', () => {
	it('by card is taken or refused at once, and the token is used', () => {
		const good = token();
		const taken = engine.begin(asked, good);
		expect(taken).toMatchObject({
			state: 'taken',
			minor: 10_000,
			charged: { fee: 110, base: 10_000, currency: 'EUR' }
		});
		expect(engine.state.get('tokens', good.token)!.used).toBe(true);
		expect(engine.begin(asked, token('declined: not enough money'))).toMatchObject({
			state: 'refused',
			why: 'not enough money'
		});
	});
	it('held for later is taken whole, in part, or let go; what was let go is not taken', () => {
		const held = () => engine.begin({ ...asked, later: true }, token());
		expect(actOn(engine, held().id, 'capture')).toMatchObject({ state: 'taken', minor: 10_000 });
		expect(actOn(engine, held().id, 'capture', { minor: 4_000 })).toMatchObject({ state: 'taken', minor: 4_000 });
		const gone = held();
		expect(actOn(engine, gone.id, 'cancel')!.state).toBe('ended');
		expect(actOn(engine, gone.id, 'capture')).toBe(undefined);
	});
	it('that waits for its payer is approved, refused, or ended when nobody acts', () => {
		const waiting = () => engine.begin({ ...asked, method: 'bank redirect' });
		expect(actOn(engine, waiting().id, 'approve')!.state).toBe('taken');
		expect(actOn(engine, waiting().id, 'refuse', { why: 'changed my mind' })).toMatchObject({
			state: 'refused',
			why: 'changed my mind'
		});
		const late = waiting();
		engine.state.put('payments', late.id, { ...late, at: new Date(Date.now() - 7_200_000).toISOString() });
		engine.night();
		expect(engine.payment(late.id)).toMatchObject({ state: 'ended', why: 'the payer did not act in time' });
	});
	it('gives back no more than was taken, and of the fee its share, cumulatively', () => {
		const { id } = engine.begin({ ...asked, minor: 9_999 }, token());
		expect(actOn(engine, id, 'refund', { minor: 3_333 })!.refunds).toHaveLength(1);
		actOn(engine, id, 'refund', { minor: 3_333 });
		expect(engine.leftToRefund(engine.payment(id))).toBe(3_333);
		expect(actOn(engine, id, 'refund', { minor: 3_334 })).toBe(undefined);
		const whole = actOn(engine, id, 'refund')!;
		expect(whole.refunds.map((one) => one.minor)).toEqual([3_333, 3_333, 3_333]);
		// the share of 1 %, and never the fixed part
		expect(whole.refunds.reduce((sum, one) => sum + one.feeBack, 0)).toBe(100);
		expect(actOn(engine, id, 'dispute')).toBe(undefined);
	});
	it('is settled and paid out on business days, once', () => {
		const { id } = engine.begin(asked, token());
		const account = engine.account(ACCOUNT);
		expect(engine.settle(account, 'live', 'pay out')).toBe(0);
		expect(engine.settle(account, 'live', 'settle')).toBe(1);
		expect(engine.settle(account, 'live', 'settle')).toBe(0);
		expect(engine.settle(account, 'live', 'pay out')).toBe(1);
		expect(engine.settle(account, 'live', 'pay out')).toBe(0);
		expect(engine.payment(id)).toMatchObject({ payout: expect.stringMatching(/^hoO/), paidOutAt: expect.any(String) });
		expect(afterBusinessDays('2026-11-27', 1)).toBe('2026-11-30');
		expect(weekday('2026-11-29')).toBe(0);
	});
	it('of the past is remembered once, with what had become of it, and nobody is told', () => {
		const past = [
			{ id: 'old-1', method: 'card', currency: 'EUR', minor: 5_000, takenAt: '2026-01-05T10:00:00.000Z' },
			{ id: 'old-2', method: 'card', currency: 'EUR', minor: 6_000, takenAt: new Date().toISOString() }
		];
		engine.state.put('listeners', 'l', {
			id: 'l',
			account: ACCOUNT,
			mode: 'live',
			address: 'http://127.0.0.1:9/',
			topics: ['taken', 'settled', 'paid'],
			secret: 's'
		});
		expect(engine.remember(engine.account(ACCOUNT), past)).toBe(2);
		expect(engine.remember(engine.account(ACCOUNT), past)).toBe(0);
		expect(engine.payment('old-1')).toMatchObject({ state: 'taken', payout: 'hoO20260107' });
		expect(engine.payment('old-2').payout).toBe(undefined);
		expect(engine.state.all('deliveries')).toEqual([]);
	});
});

describe('a key', () => {
	const act = (key: string, content: string) =>
		engine.once(ACCOUNT, key, content, () => ({ status: 201, body: { n: ++acts } }));
	let acts = 0;
	beforeEach(() => (acts = 0));
	it('acts once: the same answer again, and other content is refused', () => {
		expect(act('key-00001', 'a')).toMatchObject({ status: 201, body: '{"n":1}' });
		expect(act('key-00001', 'a')).toMatchObject({ status: 201, body: '{"n":1}' });
		expect(act('key-00001', 'b')).toEqual({ trouble: 'reused' });
		expect(acts).toBe(1);
	});
	it('that never came is closed: what comes late does nothing', () => {
		expect(engine.settleKey(ACCOUNT, 'key-00002').state).toBe('closed');
		expect(act('key-00002', 'a')).toEqual({ trouble: 'closed' });
		expect(acts).toBe(0);
		act('key-00003', 'a');
		expect(engine.settleKey(ACCOUNT, 'key-00003')).toMatchObject({ state: 'done', status: 201 });
	});
	it('and everything else is there after the process was ended', () => {
		act('key-00004', 'a');
		const { id } = engine.begin(asked, token());
		engine.stop();
		engine = new Engine(house(), join(folder, 'house.journal'), 1_000);
		expect(engine.payment(id).state).toBe('taken');
		expect(act('key-00004', 'a')).toMatchObject({ body: '{"n":1}' });
		expect(engine.state.all('keys').map((one) => one.key)).toEqual(['k-live', 'k-test']);
	});
});

describe('notifications', () => {
	let server: Server;
	let heard: { body: string; headers: IncomingHttpHeaders }[];
	let answer: number;
	beforeEach(async () => {
		[heard, answer] = [[], 200];
		server = createServer((request, response) => {
			let body = '';
			request.on('data', (data) => (body += String(data)));
			request.on('end', () => {
				heard.push({ body, headers: request.headers });
				response.writeHead(answer).end();
			});
		});
		await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
		engine.state.put('listeners', 'l', {
			id: 'l',
			account: ACCOUNT,
			mode: 'live',
			address: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`,
			topics: ['taken', 'refunded'],
			secret: 's3cret'
		});
	});
	afterEach(() => new Promise<void>((done) => void (server.closeAllConnections(), server.close(() => done()))));

	it('tell what was asked for, signed, and not what was not', async () => {
		const { id } = engine.begin(asked, token());
		engine.begin(asked, token('declined: expired'));
		engine.begin({ ...asked, mode: 'test' }, { ...token(), mode: 'test' });
		await until('it is heard', async () => heard.length > 0);
		await until('it is done', async () => engine.state.all('deliveries').every((one) => one.done));
		expect(heard.map((one) => JSON.parse(one.body) as object)).toMatchObject([{ topic: 'taken', payment: id }]);
		expect(heard[0]!.headers.mac).toBe(createHmac('sha256', 's3cret').update(heard[0]!.body).digest('hex'));
	});
	it('are tried again until they are taken, under the same id', async () => {
		answer = 503;
		engine.begin(asked, token());
		await until('it is refused twice', async () => heard.length >= 2);
		answer = 200;
		await until('it is done', async () => engine.state.all('deliveries').every((one) => one.done));
		expect(new Set(heard.map((one) => (JSON.parse(one.body) as { id: string }).id)).size).toBe(1);
		const [delivery] = engine.state.all('deliveries');
		expect(delivery!.tries.map((one) => one.result).slice(0, 2)).toEqual(['answered 503', 'answered 503']);
		expect(delivery!.tries.at(-1)!.result).toBe('answered 200');
		engine.again(delivery!.id);
		const before = heard.length;
		await until('it is sent once more', async () => heard.length > before);
	});
	it('end with the house: what is being sent is cut off, and nothing is written to a folder that may be gone', async () => {
		let seen: 'no' | 'waiting' | 'cut off' | 'answered' = 'no';
		server.removeAllListeners('request');
		server.on('request', (request, response) => {
			request.resume();
			seen = 'waiting';
			const late = setTimeout(() => response.end(), 2_000);
			response.on('close', () => {
				clearTimeout(late);
				seen = response.writableFinished ? 'answered' : 'cut off';
			});
		});
		engine.begin(asked, token());
		await until('it is being sent', async () => seen === 'waiting');
		engine.stop();
		rmSync(folder, { recursive: true });
		await until('it is over', async () => seen !== 'waiting');
		// what would be written or sent after it is an error that nobody catches, and fails the run
		await new Promise((next) => setTimeout(next, 150));
		expect([seen, existsSync(folder)]).toEqual(['cut off', false]);
	});
	it('are held back while the house is silent, and signed wrongly while it is made to', async () => {
		engine.setFaults({ silent: true });
		engine.begin(asked, token());
		await new Promise((next) => setTimeout(next, 150));
		expect(heard).toEqual([]);
		engine.setFaults({ silent: false, forgedHooks: true });
		await until('it is heard', async () => heard.length > 0);
		expect(heard[0]!.headers.mac).not.toBe(createHmac('sha256', 's3cret').update(heard[0]!.body).digest('hex'));
	});
});

describe('prices and sums of stand-ins', () => {
	const paid = (minor: number, currency = 'EUR') => ({ minor, currency, takenAt: '2026-11-24T10:00:00Z' });
	it('are exact, clamped, and rounded once or part by part', () => {
		const price = (minor: number, more: object = {}) =>
			priceBy(paid(minor), 'EUR', 'Europe/Brussels', 0, {
				label: 'x',
				share: '1.35',
				plus: '0.18',
				back: 'share',
				...more
			}).fee;
		expect([price(8_450), price(0), price(1)]).toEqual([132, 18, 18]);
		expect(price(100, { floor: '0.50' })).toBe(50);
		expect(price(1_000_000, { cap: '9.00' })).toBe(900);
		expect(price(333, { passedOn: { interchange: '0.20', scheme: '0.05' }, each: true })).toBe(4 + 18 + 1 + 0);
	});
	it('convert halves to even, and write sums as their currency does', () => {
		expect([halvesUp(5n, 2n), halvesEven(5n, 2n), halvesEven(7n, 2n)]).toEqual([3n, 2n, 4n]);
		expect([converted(10_000, 'USD', 'EUR', '0.9'), converted(1_000, 'JPY', 'EUR', '0.006')]).toEqual([9_000, 600]);
		expect([decimal(8_450, 'EUR'), decimal(-5, 'EUR'), decimal(12_800, 'JPY')]).toEqual(['84.50', '-0.05', '12800']);
		expect([minorOf('84.50', 'EUR'), minorOf('84.5', 'EUR'), minorOf('12800', 'JPY'), minorOf('1.0', 'JPY')]).toEqual([
			8_450,
			undefined,
			12_800,
			undefined
		]);
		expect(rateOf('2026-11-24', 'EUR', 'EUR')).toBe('1');
		expect(rateOf('2026-11-24', 'GBP', 'EUR')).toBe(rateOf('2026-11-24', 'GBP', 'EUR'));
		expect([regionOf('BE', 'BE'), regionOf('NL', 'BE'), regionOf('US', 'BE')]).toEqual(['home', 'near', 'far']);
	});
	it('give back their share in proportion, whole at the end, and nothing where there is no fee', () => {
		const payment = { minor: 9_999, charged: { share: { top: '3000000', bottom: '1000000' } } } as unknown as Payment;
		expect([0, 3_333, 6_666, 9_999].map((refunded) => backInProportion(payment, refunded))).toEqual([0, 1, 2, 3]);
		expect(backInProportion({ minor: 1 } as Payment, 1)).toBe(0);
	});
});
