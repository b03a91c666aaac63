import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ASKED_UNTIL_STUCK } from '../../src/lib/server/payments/actions.ts';
import { connectAt, idOf } from '../world/connections.ts';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// Outcomes that are not known: each is asked after by itself, less and less often, and put before a person at last.

let world: World;
let desk: Desk;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { movesClock: true, with: ['brackwater'] });
	desk = new Desk(world);
	await desk.openWebShop();
});
afterAll(() => world.end());

interface ActionRow {
	key: string;
	act: string;
	state: string;
	tries: number;
	says: string;
	minor: number;
	nextAt: number;
}
const actions = (state?: string) =>
	rows<ActionRow>(
		world,
		`SELECT key, act, state, tries, says, minor, next_at AS nextAt FROM actions WHERE act = 'refund' ${state ? 'AND state = ?' : ''} ORDER BY created_at`,
		state ? [state] : []
	);
const paymentOf = async (reference: string) =>
	(
		await rows<{ id: number; taken: number; refunded: number; stage: string }>(
			world,
			'SELECT id, taken, refunded, stage FROM payments WHERE reference = ?',
			[reference]
		)
	)[0]!;
/** A refund whose answer is lost, at a processor that cannot be asked afterwards. */
async function loseRefund(reference: string, sum: string): Promise<number> {
	await desk.giveCard(await desk.address('84.50', reference), CARDS.approved);
	const { id } = await paymentOf(reference);
	await world.faults({ loseAnswer: true, silent: true });
	await desk.act(`/takings/payments/${id}?/refund`, { amount: sum, key: `refund-${reference}-key` });
	await world.faults({ loseAnswer: false, errors: true });
	return id;
}
/** Everything works again, and the connection is known to. */
async function calm(): Promise<void> {
	await world.faults({ loseAnswer: false, errors: false, silent: false });
	await until('the connection is sound again', async () =>
		(await rows<{ failing: number }>(world, 'SELECT failing FROM connections')).every((one) => !one.failing)
	);
}

describe('an outcome that cannot be learned', () => {
	it('is asked after exactly so many times, each after a longer wait, and then stuck and shown', async () => {
		const id = await loseRefund('OU-1', '30.00');
		const waits: number[] = [];
		let seen = 0;
		for (let k = 0; k < 60; k++) {
			const [action] = await actions();
			if (action!.state === 'stuck') break;
			if (action!.tries > seen) {
				seen = action!.tries;
				waits.push(action!.nextAt);
			}
			await desk.act('/needs-you?/pass', { step: 'day' });
			await until('it is asked after again', async () => {
				const [now] = await actions();
				return now!.tries > action!.tries || now!.state === 'stuck';
			});
		}
		const [stuck] = await actions();
		expect(stuck).toMatchObject({ act: 'refund', state: 'stuck', tries: ASKED_UNTIL_STUCK, minor: 3_000 });
		expect(waits.length).toBe(ASKED_UNTIL_STUCK - 1);
		// nothing was counted as given back, and nothing as settled
		expect(await paymentOf('OU-1')).toMatchObject({ refunded: 0 });
		const page = await (await desk.get('/needs-you')).text();
		expect(page).toMatch(/The outcome of a refund for OU-1 could not be learned/);
		// once stuck it is left alone
		await desk.act('/needs-you?/pass', { step: 'week' });
		await desk.get('/needs-you');
		expect((await actions())[0]).toMatchObject({ state: 'stuck', tries: ASKED_UNTIL_STUCK });

		// the administrator asks once more, and the refund was made once
		await calm();
		await desk.act(`/takings/payments/${id}?/askAgain`, { key: stuck!.key });
		await until('it is known', async () => (await actions('done')).length === 1, 20_000);
		expect(await paymentOf('OU-1')).toMatchObject({ refunded: 3_000, stage: 'part refunded' });
		const made = (await world.control<{ refunds: { minor: number }[] }[]>('payments')).flatMap((one) => one.refunds);
		expect(made.map((one) => one.minor)).toEqual([3_000]);
	}, 120_000);
});

describe('what goes wrong with one outcome', () => {
	it('touches no other: not at another processor, not at the same', async () => {
		await calm();
		const other = idOf(await connectAt(desk, 'brackwater'));
		// a payment whose connection cannot even be opened here: an error that is no processor's
		await desk.giveCard(await desk.address('84.50', 'OU-2'), CARDS.approved);
		await desk.giveCard(await desk.address('84.50', 'OU-3'), CARDS.approved);
		const db = await openDatabase(world);
		await db.run(`UPDATE connections SET secret_sealed = 'this is no seal' WHERE id = ?`, [other]);
		for (const [reference, connection] of [
			['OU-2', other],
			['OU-3', undefined]
		] as const) {
			const { id } = await paymentOf(reference);
			if (connection) await db.run('UPDATE payments SET connection_id = ? WHERE id = ?', [connection, id]);
			await db.run(
				`INSERT INTO actions (key, payment_id, act, content, minor, state, says, next_at, tries, created_at)
				 VALUES (?, ?, 'refund', ?, 100, 'unknown', '', 0, 0, ?)`,
				[`lost-${reference}-key`, id, `lost ${reference}`, reference === 'OU-2' ? 1 : 2]
			);
		}
		await db.close();
		// the sound one is told at once: its processor never heard of it
		await until('the sound one is settled', async () =>
			(await actions('refused')).some((one) => one.key === 'lost-OU-3-key')
		);
		const broken = async () => (await actions()).find((one) => one.key === 'lost-OU-2-key')!;
		const first = await until('the broken one is put off', async () => {
			const row = await broken();
			return row.tries > 0 && row;
		});
		expect(first.state).toBe('unknown');
		expect(first.says).toMatch(/went wrong here/);
		// it backs off: it is not asked after again at once
		expect((await broken()).tries).toBeLessThanOrEqual(first.tries + 1);
		// and payers, refunds and pages go on
		await desk.giveCard(await desk.address('84.50', 'OU-4'), CARDS.approved);
		const { id } = await paymentOf('OU-4');
		expect((await desk.act(`/takings/payments/${id}?/refund`, { amount: '10.00', key: 'refund-OU-4-key' })).type).toBe(
			'success'
		);
		expect(await paymentOf('OU-4')).toMatchObject({ taken: 8_450, refunded: 1_000 });
	}, 180_000);
	it('keeps its connection from being disconnected while it is open', async () => {
		await loseRefund('OU-5', '20.00');
		const [{ id: connection }] = (await rows<{ id: string }>(
			world,
			`SELECT id FROM connections WHERE processor = 'fernhall'`
		)) as [{ id: string }];
		const answer = await desk.act(`/connect/connections/${connection}/keys?/disconnect`, { sure: 'on' });
		expect(answer.type).toBe('failure');
		expect(JSON.stringify(answer.data)).toMatch(/outcome/i);
		await calm();
		expect(await rows(world, 'SELECT removed_at FROM connections WHERE id = ?', [connection])).toEqual([
			{ removed_at: null }
		]);
	}, 180_000);
});
