import { spawn, spawnSync } from 'node:child_process';
import {
	chmodSync,
	chownSync,
	copyFileSync,
	mkdirSync,
	readdirSync,
	readFileSync,
	renameSync,
	rmSync,
	statSync,
	writeFileSync
} from 'node:fs';
import { join } from 'node:path';
import sqlite3 from 'sqlite3';
import { afterEach, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// What goes wrong with the machine under it: a lost key, a damaged or locked database, a clock that is off.

let world: World | undefined;
afterEach(async () => {
	await world?.end();
	world = undefined;
});
const inFolder = (name: string) => join(world!.app.folder, name);

/** An account without any rights of its own, which root can give a process; others are under rights already. */
const NOBODY = process.getuid?.() === 0 ? { uid: 65_534, gid: 65_534 } : {};
/** Whether that account can read the application at all: a clone in a folder of root's own cannot be tested so. */
const canRunAsNobody =
	spawnSync(process.execPath, ['-e', 'fs.accessSync("build/index.js")'], { ...NOBODY }).status === 0;

/** Starts the application where it cannot start. @returns what it said, and its exit code */
async function startInVain(as: { uid?: number; gid?: number } = {}): Promise<{ says: string; code: number | null }> {
	const { hostname, port } = new URL(world!.app.address);
	const child = spawn(process.execPath, ['server.mjs'], {
		env: { ...process.env, HOST: hostname, PORT: port, ORIGIN: world!.app.address, JUSTPURSE_DATA: world!.app.folder },
		stdio: ['ignore', 'pipe', 'pipe'],
		...as
	});
	let says = '';
	child.stderr.on('data', (data) => (says += String(data)));
	const timer = setTimeout(() => child.kill('SIGKILL'), 25_000);
	const code = await new Promise<number | null>((done) => child.once('exit', done));
	clearTimeout(timer);
	return { says, code };
}

/** Holds a database as another process does that writes into it. @returns lets go of it */
async function holdDatabase(file: string): Promise<() => Promise<void>> {
	const holder = new sqlite3.Database(file);
	const run = (sql: string) =>
		new Promise<void>((done, fail) => holder.exec(sql, (error) => (error ? fail(error) : done())));
	await run('PRAGMA locking_mode = EXCLUSIVE; BEGIN EXCLUSIVE;');
	return () => new Promise((done, fail) => holder.close((error) => (error ? fail(error) : done())));
}

describe('a sealing key', () => {
	it('that was lost is not replaced: the application does not start, changes nothing, and starts with the right one', async () => {
		world = await makeWorld();
		await new Desk(world).openWebShop();
		await world.app.kill();
		renameSync(inFolder('seal.key'), inFolder('kept-apart'));
		const lost = await startInVain();
		expect(lost.code).toBe(1);
		expect(lost.says).toMatch(/^Just Purse does not start\. The sealing key .* is not the one/);
		expect(lost.says).not.toMatch(/ at .*\.js:\d+/);
		expect(statSync(inFolder('seal.key'), { throwIfNoEntry: false })).toBeUndefined();
		writeFileSync(inFolder('seal.key'), 'ab'.repeat(32));
		expect((await startInVain()).says).toMatch(/is not the one that this database was sealed under/);
		rmSync(inFolder('seal.key'));
		renameSync(inFolder('kept-apart'), inFolder('seal.key'));
		await world.app.start();
		const desk = new Desk(world);
		await desk.signIn();
		expect(await desk.giveCard(await desk.address('12.00', 'KEY-1'), CARDS.approved)).toMatchObject({
			type: 'redirect'
		});
	}, 180_000);
});

describe('the folder of the data', () => {
	it('is for one account alone, files that were there before too', async () => {
		world = await makeWorld({}, { start: false });
		mkdirSync(world.app.folder, { recursive: true, mode: 0o755 });
		chmodSync(world.app.folder, 0o755);
		await world.app.start();
		expect(statSync(world.app.folder).mode & 0o777).toBe(0o700);
		for (const one of readdirSync(world.app.folder, { withFileTypes: true }).filter((entry) => entry.isFile()))
			expect([one.name, (statSync(inFolder(one.name)).mode & 0o077).toString(8)]).toEqual([one.name, '0']);
	});
	it('with a database that is damaged gives a sentence and what to do, not a trace of our code', async () => {
		world = await makeWorld();
		await world.app.kill();
		for (const name of readdirSync(world.app.folder)) if (/sqlite-/.test(name)) rmSync(inFolder(name));
		copyFileSync(inFolder('purse.sqlite'), inFolder('copy'));
		writeFileSync(
			inFolder('purse.sqlite'),
			Buffer.concat([Buffer.from('no database at all'), Buffer.alloc(40_000, 7)])
		);
		const { says, code } = await startInVain();
		expect(code).toBe(1);
		expect(says).toMatch(/^Just Purse does not start\. The database .* is damaged\. Keep a copy/);
		expect(says.trim().split('\n')).toHaveLength(1);
		copyFileSync(inFolder('copy'), inFolder('purse.sqlite'));
		await world.app.start();
	}, 180_000);
	it('with a database that cannot be opened, or that another process holds, gives a sentence too', async () => {
		world = await makeWorld();
		const desk = new Desk(world);
		await desk.openWebShop();
		await world.app.kill();
		renameSync(inFolder('purse.sqlite'), inFolder('aside'));
		mkdirSync(inFolder('purse.sqlite'));
		const closed = await startInVain();
		expect(closed.code).toBe(1);
		expect(closed.says).toMatch(/^Just Purse does not start\. The database .* cannot be written\. Give the account/);
		rmSync(inFolder('purse.sqlite'), { recursive: true });
		renameSync(inFolder('aside'), inFolder('purse.sqlite'));
		const letGo = await holdDatabase(inFolder('purse.sqlite'));
		const held = await startInVain();
		expect(held.code).toBe(1);
		expect(held.says).toMatch(/^Just Purse does not start\. The database .* is held by another process\. /);
		for (const { says } of [closed, held]) expect(says.trim().split('\n')).toHaveLength(1);
		await letGo();
		await world.app.start();
		expect(await rows(world, 'SELECT slug FROM tills')).toHaveLength(1);
	}, 90_000);
	it.runIf(canRunAsNobody)(
		'with a database that may only be read gives a sentence, and leaves it as it is',
		async () => {
			world = await makeWorld();
			await new Desk(world).openWebShop();
			const gone = new Promise((done) => world!.app.child!.once('exit', done));
			world.app.child!.kill('SIGTERM');
			await gone;
			const { uid, gid } = NOBODY;
			const own = (name: string, mode: number) => {
				if (uid !== undefined) chownSync(name, uid, gid!);
				chmodSync(name, mode);
			};
			const files = readdirSync(world.app.folder).map(inFolder);
			for (const file of files) own(file, 0o400);
			own(world.app.folder, 0o500);
			const before = readFileSync(inFolder('purse.sqlite'));
			const closed = await startInVain(NOBODY);
			expect(closed).toMatchObject({ code: 1 });
			expect(closed.says).toMatch(/^Just Purse does not start\. The database .* cannot be written\. Give the account/);
			expect(closed.says.trim().split('\n')).toHaveLength(1);
			own(world.app.folder, 0o700);
			for (const file of files) own(file, 0o600);
			expect(readFileSync(inFolder('purse.sqlite')).equals(before)).toBe(true);
			await world.app.start();
			expect(await rows(world, 'SELECT slug FROM tills')).toHaveLength(1);
		},
		60_000
	);
	it('with a database whose pages are damaged is found while it runs, and told', async () => {
		world = await makeWorld({ JUSTPURSE_ROUND_MS: '300', JUSTPURSE_INTEGRITY_MS: '0' });
		const desk = new Desk(world);
		await desk.openWebShop();
		await world.app.kill();
		await world.app.start({ JUSTPURSE_INTEGRITY_MS: '600000' });
		// in good order, so that the file alone is the whole database
		const gone = new Promise((done) => world!.app.child!.once('exit', done));
		world.app.child!.kill('SIGTERM');
		await gone;
		// a page in the middle is overwritten, as a broken disk does
		const file = inFolder('purse.sqlite');
		const bytes = readFileSync(file);
		const page = bytes.readUInt16BE(16);
		const [{ root }] = (await rows<{ root: number }>(
			world,
			`SELECT rootpage AS root FROM sqlite_master WHERE name = 'audit'`
		)) as [{ root: number }];
		bytes.fill(0x5a, (root - 1) * page + 8, root * page);
		writeFileSync(file, bytes);
		await world.app.start();
		const after = new Desk(world);
		await after.signIn();
		const told = await until('it is told', async () => {
			const { needs } = await after.data<{ needs: { id: string; says: string }[] }>('/needs-you');
			return needs.find((one) => one.id === 'damaged database');
		});
		expect(told.says).toMatch(/^The database is damaged: /);
	}, 180_000);
});

describe('a clock that is off', () => {
	it('is told, and what refused notifications tell of is asked after', async () => {
		world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { movesClock: true });
		const desk = new Desk(world);
		await desk.openWebShop();
		await world.app.kill();
		// an hour fast, while everybody else's is right
		writeFileSync(inFolder('demo-clock'), String(3_600_000));
		await world.app.start();
		const person = new Desk(world);
		await person.signIn();
		for (const reference of ['CLOCK-1', 'CLOCK-2', 'CLOCK-3'])
			await person.giveCard(await person.address('20.00', reference), CARDS.approved);
		// settled by the night: only notifications tell it
		await world.control('night', { mode: 'live', step: 'settle' });
		await until('they are refused for their time', async () => {
			const [row] = await rows<{ count: number }>(
				world!,
				`SELECT SUM(count) AS count FROM refused_arrivals WHERE reason = 'old'`
			);
			return (row?.count ?? 0) >= 3;
		});
		const told = await until('it is told', async () => {
			const { needs } = await person.data<{ needs: { id: string; says: string }[] }>('/needs-you');
			return needs.find((one) => one.id === 'wrong clock');
		});
		expect(told.says).toMatch(/^This machine’s clock is 60 minutes fast: /);
		await until('they are asked after', async () => {
			const stages = await rows<{ stage: string }>(world!, 'SELECT stage FROM payments');
			return stages.length === 3 && stages.every((one) => one.stage === 'settled');
		});
	}, 180_000);
});
