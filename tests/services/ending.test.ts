import { statSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile } from '../world/settlement.ts';
import { CARDS } from '../world/steps.ts';

// How the application ends in good order, and what it clears away by itself.

let world: World | undefined;
afterEach(async () => {
	await world?.end();
	world = undefined;
});

/** Asks the process to end, as a service manager does. @returns its exit code, and how long it took in milliseconds */
async function terminate({ app }: World): Promise<{ code: number | null; ms: number }> {
	const begun = performance.now();
	const gone = new Promise<number | null>((done) => app.child!.once('exit', (code) => done(code)));
	app.child!.kill('SIGTERM');
	return { code: await gone, ms: performance.now() - begun };
}

describe('ending', () => {
	it('in the middle of work is orderly: nothing half done, the log of writes carried over, and the next start goes on', async () => {
		world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
		const desk = new Desk(world);
		await desk.openWebShop();
		await desk.giveCard(await desk.address('84.50', 'EN-1'), CARDS.approved);
		const lines = Array.from({ length: 12_000 }, (_, n) => ({
			id: `EN-${n}`,
			at: Date.UTC(2026, 6, 1) + n * 60_000,
			minor: 1_000 + n,
			fee: 30
		}));
		const uploading = desk
			.upload('/connect/files?/take', { processor: 'fernhall' }, 'file', 'ending.csv', settlementFile(lines))
			.catch(() => undefined);
		await until('a part is merged', async () => {
			const [row] = await rows<{ merged: number }>(world!, 'SELECT merged FROM settlement_files');
			return (row?.merged ?? 0) > 0;
		});
		const { code, ms } = await terminate(world);
		await uploading;
		expect(code).toBe(0);
		expect(ms).toBeLessThan(30_000);
		expect(world.app.output).not.toMatch(/SQLITE_BUSY|database is locked|stumbled|Unhandled/);
		const log = statSync(join(world.app.folder, 'purse.sqlite-wal'), { throwIfNoEntry: false });
		expect(log?.size ?? 0).toBe(0);

		await world.app.start();
		await until('it is merged to its end', async () => {
			const [row] = await rows<{ state: string }>(world!, 'SELECT state FROM settlement_files');
			return row!.state === 'taken';
		});
		expect(
			await rows(world, `SELECT COUNT(*) AS n, SUM(taken) AS taken FROM payments WHERE processor_id LIKE 'EN-%'`)
		).toEqual([{ n: lines.length, taken: lines.reduce((all, one) => all + one.minor, 0) }]);
	}, 180_000);
	it('waits for no processor that hangs', async () => {
		world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
		const desk = new Desk(world);
		await desk.openWebShop();
		await desk.giveCard(await desk.address('84.50', 'EN-2'), CARDS.approved);
		const [{ id }] = (await rows<{ id: number }>(world, `SELECT id FROM payments WHERE reference = 'EN-2'`)) as [
			{ id: number }
		];
		await world.faults({ slow: 60_000 });
		const refunding = desk
			.act(`/takings/payments/${id}?/refund`, { amount: '10.00', key: 'ending-key-1' })
			.catch(() => undefined);
		await until('the refund is begun', async () => (await rows(world!, 'SELECT key FROM actions')).length === 1);
		const { code, ms } = await terminate(world);
		await refunding;
		expect([code, ms < 12_000]).toEqual([0, true]);
		await world.faults({ slow: 0 });
		// its outcome is asked after by the next process, and it was made once at most
		await world.app.start();
		await until(
			'its outcome is known',
			async () => {
				const [row] = await rows<{ state: string }>(world!, 'SELECT state FROM actions');
				return row!.state === 'done' || row!.state === 'refused';
			},
			30_000
		);
		const [payment] = await rows<{ refunded: number }>(world, 'SELECT refunded FROM payments WHERE id = ?', [id]);
		const made = (await world.control<{ refunds: { minor: number }[] }[]>('payments')).flatMap((one) => one.refunds);
		expect(payment!.refunded).toBe(made.reduce((all, one) => all + one.minor, 0));
		expect(made.length).toBeLessThanOrEqual(1);
	}, 180_000);
});

describe('sessions', () => {
	it('that have expired are removed; those that have not stay, and go on', async () => {
		world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' });
		const desk = new Desk(world);
		await desk.openWebShop();
		const [user] = await rows<{ id: string }>(world, 'SELECT id FROM users');
		const db = await openDatabase(world);
		for (const [hash, expires] of [
			['old-1', Date.now() - 86_400_000],
			['old-2', Date.now() - 1],
			['new-1', Date.now() + 86_400_000]
		] as const)
			await db.run('INSERT INTO sessions (token_hash, user_id, created_at, expires_at) VALUES (?, ?, 0, ?)', [
				hash,
				user!.id,
				expires
			]);
		await db.close();
		const left = () => rows<{ token_hash: string }>(world!, 'SELECT token_hash FROM sessions ORDER BY token_hash');
		await until('the old ones are gone', async () => !(await left()).some((one) => one.token_hash.startsWith('old-')));
		expect((await left()).map((one) => one.token_hash)).toContain('new-1');
		expect((await desk.get('/needs-you')).status).toBe(200);
	}, 40_000);
});
