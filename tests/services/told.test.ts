import { execFileSync } from 'node:child_process';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { CONNECTORS } from '../../src/lib/server/connectors/index.ts';
import { STANDINS } from '../../standins/main.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// What is told outside the pages: the log, and the list of stand-ins that scripts read.

let world: World;
let desk: Desk;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
	desk = new Desk(world);
	await desk.openWebShop();
});
afterAll(() => world.end());

describe('the log', () => {
	it('holds neither a payer’s name and mail nor a key nor a card, whatever goes well or wrong', async () => {
		const keys = await world.keys();
		await desk.giveCard(await desk.address('84.50', 'TO-1'), CARDS.approved);
		await desk.giveCard(await desk.address('84.50', 'TO-2'), CARDS.declined);
		await world.faults({ nonsense: true });
		await desk.giveCard(await desk.address('84.50', 'TO-3'), CARDS.approved).catch(() => {});
		await world.faults({ nonsense: false });
		await desk.upload(
			'/connect/files?/take',
			{ processor: 'fernhall' },
			'file',
			'wrong.csv',
			'payment\nana@payer.example\n'
		);
		await desk.get('/takings/payments/999999');
		const { output } = world.app;
		for (const secret of [
			keys.secretKey,
			'ana@payer.example',
			'Ana Müller',
			CARDS.approved,
			CARDS.declined,
			'rosin-and-varnish'
		])
			expect(output.includes(secret), secret.slice(0, 6)).toBe(false);
		// and no statement with its values, which only the level `trace` tells
		expect(output).not.toContain('"statement"');
		const [hook] = await rows<{ hook_secret_sealed: string }>(world, 'SELECT hook_secret_sealed FROM connections');
		expect(output.includes(hook!.hook_secret_sealed)).toBe(false);
	});
});

describe('the list of stand-ins', () => {
	it('names each with its port and who signs in, and one for every processor there is', () => {
		const listed = JSON.parse(
			execFileSync(process.execPath, ['--import', 'tsx', 'standins/list.ts'], { encoding: 'utf8' })
		) as { name: string; port: number; signIn?: { mail: string; password: string } }[];
		expect(listed.map((one) => one.name)).toEqual(Object.keys(STANDINS));
		expect(
			listed
				.filter((one) => one.signIn)
				.map((one) => one.name)
				.sort()
		).toEqual(Object.keys(CONNECTORS).sort());
		expect(new Set(listed.map((one) => one.port)).size).toBe(listed.length);
		// in the order of their ports, so that a console is found where it is looked for
		expect(listed.map((one) => one.port)).toEqual(listed.map((one) => one.port).sort((a, b) => a - b));
	});
});
