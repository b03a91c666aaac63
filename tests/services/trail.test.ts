import { afterAll, beforeAll, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, type World } from '../world/index.ts';

// The audit trail, narrowed by what was changed, by whom, and up to a day.

let world: World;
let desk: Desk;
beforeAll(async () => {
	world = await makeWorld({}, { movesClock: true });
	desk = new Desk(world);
	await desk.openWebShop();
	for (const step of ['week', 'day']) await desk.act('/needs-you?/pass', { step });
	await desk.act('/bill/payers/new?/save', { name: 'Bram Peeters', mail: 'bram@payer.example', channel: 'mail' });
}, 120_000);
afterAll(() => world.end());

interface Trail {
	changes: { kind: string; by: string; at: number; name: string }[];
	kinds: string[];
	people: string[];
	wrong: string;
	more: boolean;
}
const trail = (query: string) => desk.data<Trail>(`/watch/trail${query}`);

it('is narrowed by kind, and every kind that was written can be chosen', async () => {
	const { kinds } = await trail('');
	const written = await rows<{ kind: string }>(world, 'SELECT DISTINCT object_kind AS kind FROM audit');
	expect(written.filter((one) => !kinds.includes(one.kind))).toEqual([]);
	const found = await trail('?kind=payer');
	expect(found.changes.map((one) => [one.kind, one.name])).toEqual([['payer', 'Bram Peeters']]);
});
it('is narrowed by who made the change', async () => {
	const { people } = await trail('');
	expect(people).toContain('itself');
	const mine = await trail(`?who=${encodeURIComponent(people[0]!)}`);
	expect(mine.changes.length).toBeGreaterThan(0);
	expect(new Set(mine.changes.map((one) => one.by))).toEqual(new Set([people[0]]));
	expect((await trail('?who=Nobody')).changes).toEqual([]);
});
it('is read up to a day, that one included, and goes on from there', async () => {
	const all = await rows<{ at: number; id: number }>(world, 'SELECT id, at FROM audit ORDER BY id');
	const day = (at: number) => new Intl.DateTimeFormat('en-CA', { timeZone: 'Europe/Brussels' }).format(at);
	const first = day(all[0]!.at);
	const before = await trail(`?until=${first}`);
	expect(before.changes.map((one) => one.at).reverse()).toEqual(
		all.filter((one) => day(one.at) === first).map((one) => one.at)
	);
	expect((await trail(`?until=2020-01-01`)).changes).toEqual([]);
	const rest = await trail(`?until=${first}&before=${all[1]!.id}`);
	expect(rest.changes.map((one) => one.at)).toEqual([all[0]!.at]);
	expect((await trail('?until=nonsense')).wrong).toMatch(/^“nonsense” is no day\. Write it as /);
});
