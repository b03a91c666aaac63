import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { momentAfter } from '../../src/lib/server/signals/passTime.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

const DAY = 86_400_000;
let demo: World;
let desk: Desk;
beforeAll(async () => {
	demo = await makeWorld({}, { movesClock: true });
	desk = new Desk(demo);
	await desk.openWebShop();
});
afterAll(() => demo.end());

describe('the clock of a demo', () => {
	it('passes time for application and stand-ins alike: a payment is settled and paid out by itself', async () => {
		await desk.giveCard(await desk.address('84.50', 'CL-1'), CARDS.approved);
		const stage = async () => (await rows<{ stage: string }>(demo, `SELECT stage FROM payments`))[0]!.stage;
		await until('it is captured', async () => (await stage()) === 'captured');
		const before = Date.now();
		expect((await desk.act('/needs-you?/pass', { step: 'week' })).type).toBe('success');
		await until('it is paid out', async () => (await stage()) === 'paid out');
		const [event] = await rows<{ at: number }>(demo, `SELECT at FROM payment_events WHERE kind = 'paid out'`);
		expect(event!.at).toBeGreaterThanOrEqual(before + 6 * DAY);
		expect(event!.at).toBeLessThan(Date.now() + 8 * DAY);
		// what is written from now on bears the moved time, also after a restart
		await demo.app.kill();
		await demo.app.start();
		await desk.giveCard(await desk.address('84.50', 'CL-2'), CARDS.approved);
		const [made] = await rows<{ createdAt: number }>(
			demo,
			`SELECT created_at AS createdAt FROM payments ORDER BY id DESC LIMIT 1`
		);
		expect(made!.createdAt).toBeGreaterThan(before + 6 * DAY);
	});
	it('goes no other way than forward by its steps', async () => {
		expect((await desk.act('/needs-you?/pass', { step: 'year' })).type).toBe('error');
		for (const times of ['0', '25', '-1', '1.5', 'x'])
			expect((await desk.act('/needs-you?/pass', { step: 'hour', times })).type).toBe('error');
		expect(await (await desk.get('/needs-you')).text()).toContain('Demo clock');
	});
	it('passes several hours at once where that is asked', async () => {
		const shift = () => Number(readFileSync(join(demo.app.folder, 'demo-clock'), 'utf8'));
		const before = shift();
		expect((await desk.act('/needs-you?/pass', { step: 'hour', times: '3' })).type).toBe('success');
		expect(shift() - before).toBe(3 * 3_600_000);
	});
	it.each([
		['2026-03-28T09:30:00Z', 'day', '2026-03-29T08:30:00.000Z'],
		['2026-10-24T09:30:00Z', 'day', '2026-10-25T10:30:00.000Z'],
		['2026-01-31T12:00:00Z', 'month', '2026-02-28T12:00:00.000Z'],
		['2026-12-15T12:00:00Z', 'month', '2027-01-15T12:00:00.000Z'],
		['2026-11-26T12:00:00Z', 'week', '2026-12-03T12:00:00.000Z']
	] as const)('keeps the time of day over changes of the clock: from %s a %s', (from, step, to) => {
		expect(new Date(momentAfter(Date.parse(from), step, 'Europe/Brussels')).toISOString()).toBe(to);
	});
});

describe('an installation that is no demo', () => {
	it('has no such door: neither the button nor what it would send', async () => {
		const world = await makeWorld();
		try {
			const mine = new Desk(world);
			await mine.openWebShop();
			expect(await (await mine.get('/needs-you')).text()).not.toContain('Demo clock');
			expect(await mine.act('/needs-you?/pass', { step: 'week' })).toMatchObject({
				type: 'error',
				error: { message: 'There is nothing here.' }
			});
			await mine.giveCard(await mine.address('84.50', 'CL-3'), CARDS.approved);
			const [row] = await rows<{ createdAt: number }>(world, `SELECT created_at AS createdAt FROM payments`);
			expect(row!.createdAt).toBeLessThanOrEqual(Date.now());
		} finally {
			await world.end();
		}
	});
});
