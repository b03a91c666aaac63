import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Browser } from '../world/browser.ts';
import { connectAt } from '../world/connections.ts';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { Listener } from '../world/listener.ts';
import { fernhallFee } from '../world/published.ts';
import { settlementFile } from '../world/settlement.ts';
import { CARDS, signIn } from '../world/steps.ts';

// Nothing missed: a silent processor, an endpoint that fails, a dispute in time; and the cheapest routing, published.

const HOUR = 3_600_000;
let world: World;
let hand: Desk;
let desk: Browser;
let fernhall = '';
beforeAll(async () => {
	world = await makeWorld(
		{
			JUSTPURSE_ROUND_MS: '300',
			JUSTPURSE_SILENCE_MS: '200',
			JUSTPURSE_ALERTS_MS: '200',
			JUSTPURSE_PRIVATE_HOSTS: '127.0.0.1'
		},
		{ with: ['fernhall', 'brackwater'] }
	);
	hand = new Desk(world);
	({ connection: fernhall } = await hand.openWebShop());
	await connectAt(hand, 'brackwater');
	desk = await Browser.open();
	await signIn(desk, world);
	await desk.sees('Needs you', 'h1');
});
afterAll(async () => {
	await desk?.close();
	await world?.end();
});
const pay = async (reference: string) => {
	await new Desk(world).giveCard(await hand.address('84.50', reference), CARDS.approved);
	await until(
		'it is captured',
		async () =>
			(await rows<{ stage: string }>(world, 'SELECT stage FROM payments WHERE reference = ?', [reference]))[0]
				?.stage === 'captured'
	);
};

describe('a processor that fell silent', () => {
	it('is found, its gap is filled by asking, and nothing of it is left to do', { timeout: 120_000 }, async () => {
		await world.faults({ silent: true });
		await pay('WJ-1');
		await world.control('night', { mode: 'live', step: 'settle' });
		const now = Math.floor(Date.now() / HOUR);
		const database = await openDatabase(world);
		await database.run('BEGIN IMMEDIATE');
		for (let ago = 4 * 168; ago > 0; ago--)
			if (ago > 20 || ago <= 11)
				await database.run(
					'INSERT OR REPLACE INTO arrival_hours (connection_id, hour, arrived, payments) VALUES (?, ?, 3, 3)',
					[fernhall, now - ago]
				);
		for (const [event, hour] of [
			['before', now - 27 * 24],
			['after', now - 11]
		] as const)
			await database.run(
				`INSERT INTO arrivals (connection_id, event_id, received_at, headers, body, checks, state, done_at)
				 VALUES (?, ?, ?, '{}', '{}', '[]', 'done', 1)`,
				[fernhall, event, hour * HOUR + 60_000]
			);
		await database.run(`UPDATE payments SET created_at = ? WHERE reference = 'WJ-1'`, [(now - 15) * HOUR]);
		await database.run('COMMIT');
		await database.close();
		await desk.go(`${world.app.address}/needs-you`);
		await desk.sees(/Fernhall told nothing from .* What it missed is not asked for yet/);
		await desk.press('Fill the gap', 'a');
		await desk.sees('Pulse', 'h1');
		await desk.sees('A gap is not filled', '[data-verdict]');
		await desk.press('Fill it by asking', 'button');
		await desk.sees(/Fernhall was asked after \d+ payments: 1 changed/);
		await desk.sees('filled', '[aria-label="Silences"]');
		await world.faults({ silent: false });
		await desk.go(`${world.app.address}/needs-you`);
		await desk.seesNot('What it missed is not asked for yet');
	});
});

describe('an endpoint', () => {
	it('that fails is seen, mended, and hears what it missed', { timeout: 120_000 }, async () => {
		const shop = await Listener.open();
		try {
			shop.answers = () => 500;
			await desk.go(`${world.app.address}/watch/endpoints`);
			await desk.press('Add an endpoint', 'a');
			await desk.fill('Address', shop.address);
			await desk.fill('What it is', 'Stock of the shop');
			await desk.press('Add the endpoint', 'button');
			await desk.sees(/whsec_/, '#secret');
			await desk.press('Send a test and see its log', 'a');
			await desk.press('Send a test', 'button');
			await desk.sees('The test answered 500: The shelf is full.');
			await pay('WJ-2');
			await desk.sees('payment.captured', 'tbody');
			await until('it was tried', async () => shop.kinds().includes('payment.captured'));
			await desk.go(`${world.app.address}/watch/endpoints`);
			await desk.sees('Nothing reaches Stock of the shop', '[data-verdict]');
			shop.answers = () => 200;
			await desk.press(shop.address, 'a');
			await desk.sees('Stock of the shop', 'h1');
			await desk.press('Send again', 'button');
			await desk.sees('It is sent again.');
			await until('it is delivered', async () => {
				const [row] = await rows<{ n: number }>(
					world,
					`SELECT COUNT(*) AS n FROM hook_deliveries WHERE state = 'delivered'`
				);
				return row!.n > 0;
			});
			await desk.sees('delivered', 'tbody');
		} finally {
			await shop.close();
			const [row] = await rows<{ id: number }>(world, 'SELECT id FROM hook_endpoints');
			await hand.act(`/watch/endpoints/${row!.id}?/remove`, {});
		}
	});
});

describe('a dispute', () => {
	it('leads from Needs you to an answer in time, with what is known in it', { timeout: 120_000 }, async () => {
		await pay('WJ-3');
		const [payment] = await rows<{ id: number; at: string }>(
			world,
			`SELECT id, processor_id AS at FROM payments WHERE reference = 'WJ-3'`
		);
		await world.control(`act/${payment!.at}`, { act: 'dispute', why: 'the goods did not come' });
		await desk.go(`${world.app.address}/needs-you`);
		await desk.sees(/disputes WJ-3: the goods did not come/);
		await desk.press('Answer it', 'a');
		await desk.sees('Dispute of WJ-3', 'h1');
		await desk.sees(/It can be answered until .*13 days left/);
		await desk.press('Send it to Fernhall', 'button');
		await desk.sees('It is answered. The processor decides');
		await world.control(`act/${payment!.at}`, { act: 'win' });
		await desk.sees('You won: the money is yours again.');
	});
});

describe('notifications that nobody subscribed to', () => {
	it('are missed, set up in one step, and proven by a test notification', { timeout: 120_000 }, async () => {
		// somebody switches two of them off at the processor
		const [listener] = await world.control<{ id: string; topics: string[] }[]>('listeners');
		const topics = listener!.topics.filter((one) => !/refund|dispute/.test(one));
		expect(topics.length).toBeLessThan(listener!.topics.length);
		await world.control('listener', { ...listener!, topics });
		await desk.go(`${world.app.address}/connect/connections/${fernhall}/notifications`);
		await desk.press('Read what is switched on there', 'button');
		await desk.sees('✕ missing', 'main');
		await desk.go(`${world.app.address}/needs-you`);
		await desk.sees(/Fernhall does not tell of .*disputed.*, which what is in use relies on/);
		await desk.go(`${world.app.address}/watch/pulse`);
		await desk.sees(/Fernhall does not tell of all that is relied on: without refunded/, '[data-verdict]');
		await desk.press('Set up', '[aria-label="Set up what Fernhall does not tell of"]');
		await desk.sees('Fernhall tells of all that is relied on now.');
		await desk.seesNot('Not told of', 'main');
		const [now] = await world.control<{ topics: string[] }[]>('listeners');
		expect(now!.topics.some((one) => /refund/.test(one))).toBe(true);
		await desk.go(`${world.app.address}/connect/connections/${fernhall}/notifications`);
		await desk.seesNot('✕ missing', 'main');
		const heard = async () => (await rows(world, `SELECT 1 FROM arrivals WHERE body LIKE '%listener.hello%'`)).length;
		const before = await heard();
		await desk.press('Ask for a test notification', 'button');
		await until('it is heard', async () => (await heard()) > before);
	});
});

describe('cheapest routing', () => {
	it('leads to a draft that is replayed and published, and to what it saves', { timeout: 180_000 }, async () => {
		const lines = Array.from({ length: 200 }, (_, n) => {
			const one = {
				id: `RJ-${n}`,
				at: Date.now() - (n + 30) * 3 * HOUR,
				minor: 4_000 + ((n * 7_919) % 20_000),
				issuer: 'NL',
				fee: 0
			};
			return { ...one, fee: fernhallFee({ ...one, funding: 'debit' }) };
		});
		const taken = await hand.upload(
			'/connect/files?/take',
			{ processor: 'fernhall' },
			'file',
			'shop.csv',
			settlementFile(lines)
		);
		expect(taken.type).toBe('success');
		await desk.go(`${world.app.address}/watch/routing`);
		await desk.sees(
			/The cheapest arrangement costs .* less in \d+ days than what is published today: 1 move/,
			'[data-verdict]'
		);
		await desk.press('Make drafts of it', 'button');
		await desk.sees('Drafts are ready at');
		await desk.press('Web shop', '[role=status] a');
		await desk.sees('Replay', 'h1');
		await desk.sees(/Fernhall → Brackwater|Brackwater Acquiring/);
		await desk.go(`${world.app.address}/accept/tills/web-shop`);
		// Brackwater takes no recurring payments: what that leaves without any offer is told before it is published
		await desk.fill('Why nothing in: EUR, 0.50 to 19.99; payment: recurring', 'Nobody subscribes for less than 20');
		await desk.press('Publish line-up');
		await desk.sees('is in force');
		await until('it is published', async () => {
			const [row] = await rows<{ offers: string }>(
				world,
				`SELECT offers FROM lineup_versions WHERE state = 'published'`
			);
			return !row!.offers.includes(`"EUR":{"first":{"kind":"connection","id":"${fernhall}"`);
		});
		await desk.go(`${world.app.address}/watch/routing`);
		await desk.sees('is the cheapest arrangement', '[data-verdict]');
		await desk.sees(/published \d/, '[aria-label="What was promised and what was saved"]');
	});
});

describe('a quiet day', () => {
	it('says in one line that nothing is missing', { timeout: 180_000 }, async () => {
		await desk.go(`${world.app.address}/watch/pulse`);
		await desk.sees('Nothing is missing', '[data-verdict]');
		await desk.go(`${world.app.address}/watch/endpoints`);
		await desk.sees('No program is told of anything.');
		await desk.go(`${world.app.address}/takings/disputes`);
		await desk.sees('Nobody disputes a payment', '[data-verdict]');
		expect(await desk.complaints()).toEqual([]);
	});
});
