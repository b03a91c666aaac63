import { Webhook } from 'standardwebhooks';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { freshFetch, makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

let world: World;
let desk: Desk;
let hook: { address: string; secret: string };
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { movesClock: true });
	desk = new Desk(world);
	await desk.openWebShop();
	hook = (await world.control<{ address: string; secret: string }[]>('listeners'))[0]!;
});
afterAll(() => world.end());

interface Told {
	id: string;
	topic: string;
	payment: { id: string; sum: { currency: string; thousandths: number }; [name: string]: unknown };
	[name: string]: unknown;
}
/** What Fernhall told of a payment, to be told again in another way. */
const toldOf = async (id: string): Promise<Told> =>
	(await world.control<{ topic: string; body: string }[]>('deliveries'))
		.map((one) => JSON.parse(one.body) as Told)
		.find((one) => one.topic === 'payment.taken' && one.payment.id === id)!;
let shift = 0;
/** Sends a notification that Fernhall itself would never send, properly signed. */
async function send(told: { id: string; [name: string]: unknown }): Promise<void> {
	const at = new Date(Date.now() + shift);
	const body = JSON.stringify(told);
	const answer = await freshFetch(hook.address, {
		method: 'POST',
		headers: {
			'content-type': 'application/json',
			'webhook-id': told.id,
			'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
			'webhook-signature': new Webhook(hook.secret).sign(told.id, at, body)
		},
		body
	});
	expect(answer.status).toBeLessThan(300);
}
const arrival = async (id: string) =>
	(
		await rows<{ id: number; state: string; tries: number }>(
			world,
			'SELECT id, state, tries FROM arrivals WHERE event_id = ?',
			[id]
		)
	)[0];
const done = (id: string) => until(`${id} is worked on`, async () => (await arrival(id))?.state === 'done');
async function pay(reference: string): Promise<{ id: number; processorId: string }> {
	await desk.giveCard(await desk.address('84.50', reference), CARDS.approved);
	const [row] = await rows<{ id: number; processorId: string }>(
		world,
		`SELECT id, processor_id AS processorId FROM payments WHERE reference = ?`,
		[reference]
	);
	await until('Fernhall has told of it', async () => !!(await toldOf(row!.processorId)));
	return row!;
}
const payment = async (id: number) =>
	(
		await rows<{ stage: string; taken: number; contradiction: string }>(
			world,
			'SELECT stage, taken, contradiction FROM payments WHERE id = ?',
			[id]
		)
	)[0]!;
const needsYou = async () => (await desk.get('/needs-you')).text();

describe('a fact', () => {
	it('told again under its key is one; told with another amount it changes nothing, is kept and is put before you', async () => {
		const { id, processorId } = await pay('FA-1');
		const told = await toldOf(processorId);
		await send({ ...told, id: 'again' });
		await done('again');
		expect(
			await rows(world, `SELECT id FROM payment_events WHERE payment_id = ? AND kind = 'captured'`, [id])
		).toHaveLength(1);
		expect(await rows(world, `SELECT id FROM fact_clashes`)).toEqual([]);
		await send({ ...told, id: 'other', payment: { ...told.payment, sum: { currency: 'EUR', thousandths: 94_500 } } });
		await done('other');
		expect(await payment(id)).toMatchObject({ stage: 'captured', taken: 8_450 });
		expect(await rows(world, `SELECT payment_id, kind, known_minor, told_minor FROM fact_clashes`)).toEqual([
			{ payment_id: id, kind: 'captured', known_minor: 8_450, told_minor: 9_450 }
		]);
		const shown = await needsYou();
		expect(shown).toMatch(/was told twice, with 84\.50 EUR and with 94\.50 EUR/);
		expect(shown).toContain(`/takings/payments/${id}`);
	});
	it('of a failure beside a capture: the capture counts, and the contradiction is put before you', async () => {
		const { id, processorId } = await pay('FA-2');
		const told = await toldOf(processorId);
		const failed = { ...told.payment, state: 'declined', why: 'not enough money' };
		await send({ ...told, id: 'failed', topic: 'payment.declined', payment: failed });
		await done('failed');
		const after = await payment(id);
		expect(after).toMatchObject({ stage: 'captured', taken: 8_450 });
		expect(after.contradiction).toBe('captured after it had ended');
		expect(await needsYou()).toMatch(/does not fit together/);
		expect(await (await desk.get(`/takings/payments/${id}`)).text()).toContain('84.50');
	});
	it('of answer and notification at once, many times over, is one', async () => {
		await Promise.all(Array.from({ length: 8 }, (_, n) => pay(`FA-RACE-${n}`)));
		await world.control('night', { mode: 'live', step: 'settle' });
		await until(
			'all are settled',
			async () =>
				(
					await rows<{ n: number }>(
						world,
						`SELECT COUNT(*) AS n FROM payments WHERE reference LIKE 'FA-RACE-%' AND stage = 'settled'`
					)
				)[0]!.n === 8
		);
		const twice = await rows(
			world,
			`SELECT payment_id, kind FROM payment_events GROUP BY payment_id, kind HAVING COUNT(*) > 1 AND kind IN ('captured', 'settled')`
		);
		expect(twice).toEqual([]);
		expect(await rows(world, `SELECT SUM(taken) AS taken FROM payments WHERE reference LIKE 'FA-RACE-%'`)).toEqual([
			{ taken: 8 * 8_450 }
		]);
	});
});

describe('a payout', () => {
	it('with a payment that nobody knows moves the others; the unknown one is asked after by itself', async () => {
		const { id, processorId } = await pay('FA-3');
		await world.control('night', { mode: 'live', step: 'settle' });
		await until('settled', async () => (await payment(id)).stage === 'settled');
		const told = await toldOf(processorId);
		await send({
			id: 'payout',
			topic: 'payout.sent',
			at: new Date(Date.now() + shift).toISOString(),
			account: told.account,
			mode: told.mode,
			payout: {
				id: 'FHO-TEST',
				at: new Date(Date.now() + shift).toISOString(),
				sum: { currency: 'EUR', thousandths: 83_180 },
				payments: [
					{ id: processorId, ours: '' },
					{ id: 'FHY-NOBODYKNOWSTHIS', ours: '' }
				]
			}
		});
		await done('payout');
		expect((await payment(id)).stage).toBe('paid out');
		const waiting = await rows<{ n: number }>(world, `SELECT COUNT(*) AS n FROM waiting_facts`);
		expect(waiting[0]!.n).toBeLessThanOrEqual(1);
		expect(await rows(world, `SELECT id FROM payments WHERE processor_id = 'FHY-NOBODYKNOWSTHIS'`)).toEqual([]);
	});
});

describe('a notification that never fits', () => {
	it('is stuck after exactly eight tries, holds up no other, and runs again when it is told to', async () => {
		await send({ id: 'odd', topic: 7 });
		for (let tries = 1; tries < 8; tries++) {
			await until(`try ${tries}`, async () => (await arrival('odd'))?.tries === tries);
			expect((await arrival('odd'))!.state).toBe('retry');
			await desk.act('/needs-you?/pass', { step: 'day' });
			shift += 86_400_000;
		}
		await until('it is stuck', async () => (await arrival('odd'))!.state === 'stuck');
		expect((await arrival('odd'))!.tries).toBe(8);
		expect(await needsYou()).toContain('Notifications are stuck');
		await desk.act('/needs-you?/pass', { step: 'week' });
		expect((await arrival('odd'))!.tries).toBe(8);
		await desk.act(`/watch/arrivals/${(await arrival('odd'))!.id}`, {});
		await until('it is tried again', async () => (await arrival('odd'))!.state === 'retry');
	});
});
