import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectAt, idOf } from '../world/connections.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { brackwaterFee, dayOf, fernhallFee } from '../world/published.ts';
import { settlementFile, type FileLine } from '../world/settlement.ts';

// A replay's fees against a sum that shares nothing with it: the processors' own published prices, in whole numbers, added
// up payment by payment.

const HOUR = 3_600_000;
const COUNT = 600;
/** The latest payment a day ago, one an hour before it: over several months. */
const newest = Date.now() - 26 * HOUR;
const line = (n: number, more: Partial<FileLine> = {}): FileLine => ({
	id: `RE-${n}`,
	at: newest - n * HOUR,
	minor: 1_000 + ((n * 104_729) % 14_000),
	fee: 50,
	scheme: ['corvid', 'mainsail', 'tessel'][n % 3]!,
	funding: ['debit', 'credit', 'prepaid'][(n >> 1) % 3]!,
	issuer: ['BE', 'NL', 'US', 'DE'][n % 4]!,
	...more
});
const ours = Array.from({ length: COUNT }, (_, n) => line(n));
/** What another till took through Brackwater in the same months: it counts for the tiers, and moves nowhere. */
const others = Array.from({ length: 150 }, (_, n) =>
	line(n, { id: `OT-${n}`, at: newest - n * 4 * HOUR - 60_000, minor: 30_000 + n, source: 'Front desk' })
);

let world: World;
let desk: Desk;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: ['brackwater'] });
	desk = new Desk(world);
	await desk.openWebShop();
	const brackwater = idOf(await connectAt(desk, 'brackwater'));
	for (const [processor, name, lines] of [
		['fernhall', 'ours.csv', ours],
		['brackwater', 'others.csv', others]
	] as const) {
		const answer = await desk.upload('/connect/files?/take', { processor }, 'file', name, settlementFile(lines));
		if (answer.type !== 'success') throw new Error(JSON.stringify(answer));
	}
	await until('all is merged', async () =>
		(await rows<{ state: string }>(world, 'SELECT state FROM settlement_files')).every((one) => one.state === 'taken')
	);
	// the draft sends every card to Brackwater
	const [{ id: offer }] = (await rows<{ id: string }>(
		world,
		`SELECT json_extract(o.value, '$.id') AS id FROM lineup_versions v, json_each(v.offers) o WHERE json_extract(o.value, '$.method') = 'card'`
	)) as [{ id: string }];
	const saved = await desk.act(`/accept/tills/web-shop/offers/${offer}?/save`, {
		on: 'on',
		boundCurrency: 'EUR',
		countryRule: 'any',
		revision: String(await revision()),
		carrier: `connection:${brackwater}:card`,
		name: 'Card',
		currencies: ['EUR'],
		schemes: ['corvid', 'mainsail', 'tessel'],
		fundings: ['debit', 'credit', 'prepaid', 'commercial'],
		regions: ['domestic', 'regional', 'international']
	});
	if (saved.type !== 'redirect') throw new Error(JSON.stringify(saved));
});
afterAll(() => world.end());

async function revision(): Promise<number> {
	const { revision: now } = await desk.data<{ revision: number }>('/accept/tills/web-shop');
	return now;
}

const monthOf = (at: number) => dayOf(at).slice(0, 7);

interface Shown {
	result?: {
		count: number;
		from: string;
		fees: { currency: string; count: number; before: string; after: string }[];
		unpriced: number;
		verdicts: { verdict: string; count: number; sums: string[] }[];
	};
}
/** `1,234.50 EUR` as it is shown, in cents. */
const cents = (text: string) => {
	if (!/^[\d,]+\.\d{2}\sEUR$/.test(text)) throw new Error(`no sum in EUR: ${text}`);
	return Number(text.replace(/\D/g, ''));
};
async function replayed(days: number) {
	const { fees, ...result } = await until(
		'the replay is done',
		async () => (await desk.data<Shown>(`/accept/tills/web-shop/replay?days=${days}`)).result,
		30_000
	);
	return { ...result, fees: fees.map((one) => ({ ...one, before: cents(one.before), after: cents(one.after) })) };
}

describe('a replay over two processors', () => {
	it.each([30, 90])('of %i days adds up to the published prices, tiers counted over all tills', async (days) => {
		const result = await replayed(days);
		const mine = ours.filter((one) => dayOf(one.at) >= result.from);
		expect([result.count, result.unpriced]).toEqual([mine.length, 0]);
		// the months as they would have been: what other tills took stays, what this till took moves
		const all = [...mine, ...others];
		const volumes = new Map<string, number>();
		for (const { at, minor } of all) volumes.set(monthOf(at), (volumes.get(monthOf(at)) ?? 0) + minor);
		let [before, after] = [0, 0];
		for (const one of mine) {
			before += fernhallFee(one);
			after += brackwaterFee(one, volumes.get(monthOf(one.at))!);
		}
		expect(result.fees).toMatchObject([{ currency: 'EUR', count: mine.length, before, after }]);
		expect(after).not.toBe(before);
	});
	it('tells the same money in its verdicts as stands in the files', async () => {
		const result = await replayed(30);
		const mine = ours.filter((one) => dayOf(one.at) >= result.from);
		const sums = result.verdicts.flatMap((one) => one.sums);
		expect(sums.reduce((all, one) => all + cents(one), 0)).toBe(mine.reduce((all, one) => all + one.minor, 0));
		expect(result.verdicts.find((one) => one.verdict === 'other route')!.count).toBe(mine.length);
	});
	it('answers anew when an older file brings what the tiers count', async () => {
		const before = await replayed(30);
		const extra = line(0, { id: 'OT-EXTRA', at: newest - 500 * HOUR, minor: 14_000_000, source: 'Front desk' });
		await desk.upload(
			'/connect/files?/take',
			{ processor: 'brackwater' },
			'file',
			'extra.csv',
			settlementFile([extra])
		);
		const after = await until(
			'the replay knows of it',
			async () => {
				const result = await replayed(30);
				return result.fees[0]!.after !== before.fees[0]!.after && result;
			},
			30_000
		);
		expect(after.fees[0]!.before).toBe(before.fees[0]!.before);
		// a higher volume is cheaper
		expect(after.fees[0]!.after).toBeLessThan(before.fees[0]!.after);
	});
});
