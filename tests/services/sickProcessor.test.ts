import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// A processor that answers with errors, not in time, a byte at a time, with nonsense or not at all, while payers pay and its
// notifications come: no payment is lost or made twice, it is told, and all is well again by itself.

let world: World;
let desk: Desk;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300', JUSTPURSE_ALERTS_MS: '300' });
	desk = new Desk(world);
	await desk.openWebShop();
});
afterAll(() => world.end());

interface Order {
	reference: string;
	address: string;
	way: string;
	token: string;
}
interface Theirs {
	id: string;
	reference: string;
	state: string;
	minor: number;
	refunds: { minor: number }[];
}
const makeOrder = async (reference: string): Promise<Order> => {
	const address = await desk.address('84.50', reference);
	return { reference, address, way: await desk.way(address, 'Card'), token: await desk.token(CARDS.approved) };
};
const pay = ({ address, way, token }: Order) => desk.act(address, { way, token });
const ours = (reference: string) =>
	rows<{ stage: string; taken: number; refunded: number; processorId: string }>(
		world,
		`SELECT stage, taken, refunded, processor_id AS processorId FROM payments WHERE reference = ? AND taken > 0`,
		[reference]
	);
const theirs = async () => (await world.control<Theirs[]>('payments')).filter((one) => one.state === 'taken');
const isFailing = async () =>
	(await rows<{ failing: number }>(world, 'SELECT failing FROM connections')).some((one) => one.failing);

describe('a processor that', () => {
	it.each([
		['answers with errors', 'ERRORS', { errors: true }, { errors: false }],
		['does what is asked after nobody waits any more', 'LATE', { slow: 11_000 }, { slow: 0 }],
		['answers a byte at a time', 'DRIPS', { drips: true }, { drips: false }],
		['answers with nonsense', 'NONSENSE', { nonsense: true }, { nonsense: false }],
		['cuts every line', 'DOWN', { down: true }, { down: false }]
	] as const)(
		'%s: every order is paid once, and what its notifications told meanwhile is known',
		{ timeout: 240_000 },
		async (_, key, sick, sound) => {
			const before = await makeOrder(`${key}-0`);
			await pay(before);
			const [known] = await ours(before.reference);
			const orders = await Promise.all([1, 2, 3, 4, 5, 6].map((n) => makeOrder(`${key}-${n}`)));
			await world.faults(sick);
			// payers try, and at the processor somebody refunds what was paid before
			const tries = Promise.all(orders.map(pay));
			await world.control(`act/${known!.processorId}`, { act: 'refund', minor: 1_000 });
			await tries;
			await until('the connection counts as failing', isFailing);
			await until('it is told where needs are', async () =>
				(await (await desk.get('/needs-you')).text()).includes('Fernhall is failing')
			);
			await world.faults(sound);
			await until('the connection is sound again', async () => !(await isFailing()));
			await until('nothing is open any more', async () => {
				const [left] = await rows<{ n: number }>(
					world,
					`SELECT (SELECT COUNT(*) FROM actions WHERE state IN ('planned', 'unknown')) + (SELECT COUNT(*) FROM arrivals WHERE state <> 'done') AS n`
				);
				return left!.n === 0;
			});
			// whose payment came to nothing pays now; whose payment was made is told so
			for (const order of orders) await pay({ ...order, token: await desk.token(CARDS.approved) });
			expect(await (await desk.get('/needs-you')).text()).not.toContain('Fernhall is failing');
			await until('the refund is known', async () => (await ours(before.reference))[0]!.refunded === 1_000);
			for (const { reference } of orders) {
				const mine = await ours(reference);
				expect([reference, mine.map((one) => one.taken)]).toEqual([reference, [8_450]]);
			}
			// what is known here is what happened there, payment by payment
			const here = await rows<{ id: string; taken: number }>(
				world,
				'SELECT processor_id AS id, taken FROM payments WHERE taken > 0 ORDER BY processor_id'
			);
			const there = (await theirs()).map(({ id, minor }) => ({ id, taken: minor }));
			expect(here).toEqual(there.sort((a, b) => (a.id < b.id ? -1 : 1)));
		}
	);
});
