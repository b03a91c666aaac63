import { afterEach, describe, expect, it } from 'vitest';
import { connectAt, idOf, prepare } from '../world/connections.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile } from '../world/settlement.ts';
import { CARDS } from '../world/steps.ts';

// One neighbour that hangs, or brings very much, holds up no other.

let world: World | undefined;
afterEach(async () => {
	await world?.end();
	world = undefined;
});

describe('a processor that hangs', () => {
	it('holds up no notification of another, though calls of its own are waited for', async () => {
		world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: ['fernhall', 'ostrel'] });
		const desk = new Desk(world);
		await desk.openWebShop();
		await prepare(desk, 'ostrel');
		const ostrel = idOf(await connectAt(desk, 'ostrel'));
		const orders: [string, string, string][] = [];
		for (let n = 0; n < 12; n++) {
			const address = await desk.address('20.00', `HANG-${n}`);
			orders.push([address, await desk.way(address, 'Card'), await desk.token(CARDS.approved)]);
		}
		// their answers are lost, and then it hangs: whoever asks after them waits
		await world.faults({ loseAnswer: true });
		await Promise.all(orders.map(([address, way, token]) => desk.act(address, { way, token })));
		await world.faults({ loseAnswer: false, slow: 120_000 });
		const [hook] = await rows<{ key: string }>(world, 'SELECT hook_key AS key FROM connections WHERE id = ?', [ostrel]);
		const begun = performance.now();
		const answer = await fetch(`${world.app.address}/hooks/${hook!.key}`, {
			method: 'POST',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({ ring: 'ring-1' })
		});
		expect(answer.status).toBe(200);
		// Ostrel never sent it: it says so as soon as it is asked, and it is gone
		await until('it is worked on', async () => {
			const [row] = await rows<{ n: number }>(world!, `SELECT COUNT(*) AS n FROM arrivals WHERE event_id = 'ring-1'`);
			return row!.n === 0;
		});
		// it hangs for two minutes
		expect(performance.now() - begun).toBeLessThan(60_000);
	}, 180_000);
});

describe('very many rows at once', () => {
	const lines = Array.from({ length: 7_000 }, (_, n) => ({
		id: `MV-${n}`,
		at: Date.UTC(2026, 6, 1) + n * 60_000,
		minor: 1_000 + n,
		fee: 30,
		source: 'Old shop'
	}));
	const sums = () =>
		rows<{ till: string | null; n: number; taken: number }>(
			world!,
			`SELECT t.name AS till, SUM(d.count) AS n, SUM(d.taken) AS taken FROM day_sums d LEFT JOIN tills t ON t.id = d.till_id
			 GROUP BY d.till_id HAVING SUM(d.count) > 0`
		);
	const all = { n: lines.length, taken: lines.reduce((sum, one) => sum + one.minor, 0) };

	it('that get another till come to it in parts, and to their end after a kill in the middle', async () => {
		world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
		const desk = new Desk(world);
		await desk.openWebShop();
		await desk.upload('/connect/files?/take', { processor: 'fernhall' }, 'file', 'old.csv', settlementFile(lines));
		await until('it is in', async () => {
			const [row] = await rows<{ state: string }>(world!, 'SELECT state FROM settlement_files');
			return row!.state === 'taken';
		});
		expect(await sums()).toEqual([{ till: null, ...all }]);
		const [till] = await rows<{ id: string }>(world, `SELECT id FROM tills WHERE slug = 'web-shop'`);
		const mapping = desk.act('/connect/files?/map', { source: 'Old shop', till: till!.id }).catch(() => undefined);
		await until('it has begun', async () => {
			const [row] = await rows<{ n: number }>(
				world!,
				`SELECT COUNT(*) AS n FROM file_sources WHERE till_id IS NOT NULL`
			);
			return row!.n === 1;
		});
		await world.app.kill();
		await mapping;
		await world.app.start();
		await until('all are there', async () => {
			const [row] = await rows<{ n: number }>(world!, 'SELECT COUNT(*) AS n FROM payment_moves');
			return row!.n === 0;
		});
		expect(await sums()).toEqual([{ till: 'Web shop', ...all }]);
	}, 180_000);
	it('of payers are taken in batches; with a fault nothing is taken, and given again nothing changes', async () => {
		world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
		const desk = new Desk(world);
		await desk.openWebShop();
		const people = Array.from(
			{ length: 3_000 },
			(_, n) => `Payer ${n},payer${n}@many.example,BE,yes,${n % 2 ? 'Pupils' : 'Schools;Pupils'}`
		);
		const file = (list: string[]) => ['name,mail,country,online,groups', ...list].join('\n');
		const give = (list: string[]) => desk.upload('/bill/payers?/import', {}, 'file', 'payers.csv', file(list));
		const wrong = await give([...people, 'Nobody,no mail,BE,yes,']);
		expect(JSON.stringify(wrong.data)).toContain('Line 3002, mail');
		expect(await rows(world, 'SELECT COUNT(*) AS n FROM payers')).toEqual([{ n: 0 }]);
		// with fifty things wrong nothing more is looked for
		const many = await give(people.map((line) => line.replace('@', ' at ')));
		expect((many.data as { faults: string[] }).faults).toHaveLength(50);
		// two people at once: one file is taken in, the other is told to wait, and nobody is doubled
		const both = await Promise.all([give(people), give([...people].reverse())]);
		const told = both.map((one) => JSON.stringify(one.data));
		expect(told.filter((one) => one.includes('Imported: 3000 new, 0 known payers; new groups'))).toHaveLength(1);
		expect(told.filter((one) => one.includes('Another file is being imported.'))).toHaveLength(1);
		const state = () =>
			rows(
				world!,
				`SELECT g.name, COUNT(*) AS n FROM payer_memberships m JOIN payer_groups g ON g.id = m.group_id GROUP BY g.id ORDER BY g.name`
			);
		expect(await state()).toEqual([
			{ name: 'Pupils', n: 3_000 },
			{ name: 'Schools', n: 1_500 }
		]);
		expect((await give(people)).data?.says).toBe('Imported: 0 new, 3000 known payers.');
		expect(await state()).toEqual([
			{ name: 'Pupils', n: 3_000 },
			{ name: 'Schools', n: 1_500 }
		]);
	}, 180_000);
	it('of short lines, or of columns, are given up at once', async () => {
		world = await makeWorld();
		const desk = new Desk(world);
		await desk.openWebShop();
		const give = (text: string) =>
			desk.upload('/connect/files?/take', { processor: 'fernhall' }, 'file', 'short.csv', text);
		const head = settlementFile([]).split('\n')[0]!;
		for (const [text, says] of [
			[`${head}\n${'a\n'.repeat(5_000_000)}`, `It has 1 values where there are ${head.split(',').length}.`],
			['a,'.repeat(5_000_000), 'It is not CSV: ']
		] as const) {
			const begun = performance.now();
			const answer = await give(text);
			expect(answer).toMatchObject({ type: 'failure' });
			const { troubles } = answer.data as { troubles: { says: string }[] };
			expect(troubles.length).toBeLessThanOrEqual(50);
			expect(troubles[0]!.says).toContain(says);
			expect(performance.now() - begun).toBeLessThan(50_000);
		}
	}, 150_000);
});
