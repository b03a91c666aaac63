import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TARIFF } from '../../standins/brackwater/prices.ts';
import { connectAt, idOf } from '../world/connections.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile, type FileLine } from '../world/settlement.ts';
import { CARDS } from '../world/steps.ts';
import { startOfShopMonth } from '../world/shopTime.ts';

// A contract by the month's volume: what a payment costs hangs on what was captured before it, whenever that is told.

let world: World;
let desk: Desk;
let connection: string;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: ['brackwater'] });
	desk = new Desk(world);
	await desk.setUp();
	connection = idOf(await connectAt(desk, 'brackwater'));
	await desk.act('/accept/tills/new', { name: 'Web shop', mode: 'live', currencies: ['EUR'], colour: '#2f4b3c' });
	const offer = { on: 'on', boundCurrency: 'EUR', countryRule: 'any', currencies: ['EUR'] };
	const offers: Record<string, string | string[]>[] = [
		{
			carrier: `connection:${connection}:card`,
			name: 'Card',
			schemes: ['corvid', 'mainsail', 'tessel'],
			fundings: ['debit', 'credit', 'prepaid', 'commercial'],
			regions: ['domestic', 'regional', 'international']
		},
		{ carrier: `connection:${connection}:bank-redirect`, name: 'Your bank’s page' }
	];
	for (const [revision, more] of offers.entries())
		await desk.act('/accept/tills/web-shop/offers/new?/save', { ...offer, revision: String(revision), ...more });
	const published = await desk.act('/accept/tills/web-shop?/publish', { revision: '2', reason: '' });
	if (published.type !== 'success') throw new Error(JSON.stringify(published));
});
afterAll(() => world.end());

interface Priced {
	id: number;
	processorId: string;
	reference: string;
	minor: number;
	at: number;
	month: string;
	method: string;
	scheme: string;
	funding: string;
	issuer: string;
	expected: number | null;
}
const priced = () =>
	rows<Priced>(
		world,
		`SELECT p.id, p.processor_id AS processorId, p.reference, p.taken AS minor, p.captured_at AS at, substr(p.account_day, 1, 7) AS month,
		 k.method, k.scheme, k.funding, k.issuer, p.expected_fee AS expected
		 FROM payments p JOIN payment_kinds k ON k.id = p.kind_id WHERE p.taken > 0 ORDER BY p.captured_at, p.processor_id`
	);
const settled = () =>
	until(
		'all is merged and priced',
		async () =>
			(
				await rows<{ n: number }>(
					world,
					`SELECT (SELECT COUNT(*) FROM settlement_files WHERE state <> 'taken') + (SELECT COUNT(*) FROM repricings) AS n`
				)
			)[0]!.n === 0,
		30_000
	);
const upload = async (name: string, lines: readonly FileLine[]) => {
	const answer = await desk.upload(
		'/connect/files?/take',
		{ processor: 'brackwater' },
		'file',
		name,
		settlementFile(lines)
	);
	if (answer.type !== 'success') throw new Error(JSON.stringify(answer));
	await settled();
};

// The tariff once more, in whole numbers and nothing but the tariff: shares in hundredths of a percent, sums in cents.
const hundredths = (text: string) => BigInt(text.replace('.', ''));
const part = (minor: number, share: string) => Number((BigInt(minor) * hundredths(share) * 2n + 10_000n) / 20_000n);
const EEA = ['NL', 'DE', 'FR'];
function feeOf({ minor, method, scheme, funding, issuer }: Priced, before: number): number {
	if (method !== 'card') return part(minor, TARIFF.BANK.PCT) + Number(hundredths(TARIFF.BANK.EACH));
	const place = issuer === 'BE' ? 'home' : EEA.includes(issuer) ? 'near' : 'far';
	const cost = TARIFF.COSTS.find((one) => one[0] === scheme && one[1] === funding && one[2] === place)!;
	const step = TARIFF.MARKUP.find((one) => one.UPTO === null || before < Number(hundredths(one.UPTO)))!;
	return part(minor, cost[3]) + part(minor, cost[4]) + part(minor, step.PCT) + Number(hundredths(step.EACH));
}
/** Holds every expected fee against the tariff, month by month. @returns how many payments stood on each step */
async function expectPriced(): Promise<number[]> {
	const all = await priced();
	const volumes = new Map<string, number>();
	const steps = [0, 0, 0];
	const wrong: unknown[] = [];
	for (const one of all) {
		const before = volumes.get(one.month) ?? 0;
		volumes.set(one.month, before + one.minor);
		steps[TARIFF.MARKUP.findIndex((step) => step.UPTO === null || before < Number(hundredths(step.UPTO)))]!++;
		const wanted = feeOf(one, before);
		if (one.expected !== wanted) wrong.push({ ...one, wanted, before });
	}
	expect(wrong).toEqual([]);
	return steps;
}

const BEGIN = Date.UTC(2026, 4, 3, 8);
const line = (n: number, at: number, minor: number): FileLine => ({
	id: `TI-${n}`,
	at,
	minor,
	fee: 100,
	scheme: ['corvid', 'mainsail', 'tessel'][n % 3]!,
	funding: ['debit', 'credit', 'prepaid', 'commercial'][n % 4]!,
	issuer: ['BE', 'NL', 'US'][n % 3]!
});

describe('expected fees under a contract by volume', () => {
	it('are those of the tariff for every payment of a file, over all steps', async () => {
		await upload(
			'may.csv',
			Array.from({ length: 240 }, (_, n) => line(n, BEGIN + n * 3_600_000, 40_000 + ((n * 7_919) % 80_001)))
		);
		const steps = await expectPriced();
		expect(steps.every((count) => count > 20)).toBe(true);
	});
	it('change for what came after, when an earlier capture is told by a later file', async () => {
		const before = await priced();
		await upload('late.csv', [line(1_000, BEGIN - 3_600_000, 2_500_000), line(1_001, BEGIN + 3_700_000, 999_999)]);
		await expectPriced();
		const after = new Map((await priced()).map((one) => [one.id, one.expected]));
		// what had been just below a step stands above it now, and nothing else changed
		expect(before.filter((one) => after.get(one.id) !== one.expected).length).toBeGreaterThan(5);
	});
	it('of another month are left as they are', async () => {
		const may = (await priced()).map((one) => [one.id, one.expected]);
		await upload('june.csv', [
			line(2_000, BEGIN + 40 * 86_400_000, 3_000_000),
			line(2_001, BEGIN + 41 * 86_400_000, 9_000)
		]);
		expect((await priced()).slice(0, may.length).map((one) => [one.id, one.expected])).toEqual(may);
		await expectPriced();
	});
	it('change when a notification tells an earlier capture late', async () => {
		const now = Date.now();
		// the month stands just below its first step
		await upload('this-month.csv', [line(3_000, Math.max(startOfShopMonth(), now - 3_600_000), 3_995_000)]);
		const number = await world.keyOf('brackwater', 'number');
		const pay = async (reference: string) => {
			const address = await desk.address('84.50', reference);
			const answer = await fetch(`${world.addressOf('brackwater')}/fields/token`, {
				method: 'POST',
				headers: { 'content-type': 'application/json' },
				body: JSON.stringify({ key: number, number: CARDS.approved, expiry: '09/29', code: '123' })
			});
			const { token } = (await answer.json()) as { token: string };
			const paid = await desk.act(address, { way: await desk.way(address, 'Card'), token });
			if (paid.type !== 'redirect') throw new Error(JSON.stringify(paid));
		};
		// the bank's page is approved while the processor says nothing: captured there, not known here
		const bank = await desk.address('84.50', 'LATE-1');
		await desk.act(bank, { way: await desk.way(bank, 'Your bank’s page'), token: '' });
		const [open] = await rows<{ processor_id: string }>(
			world,
			`SELECT processor_id FROM payments WHERE reference = 'LATE-1'`
		);
		await world.at('brackwater', 'faults', { silent: true });
		await world.at('brackwater', `act/${open!.processor_id}`, { act: 'approve' });
		await pay('LATE-2');
		const second = async () => (await priced()).find((one) => one.reference === 'LATE-2')!;
		const early = await until('the card is priced', async () => {
			const row = await second();
			return row?.expected !== null && row;
		});
		expect(early.expected).toBe(feeOf(early, 3_995_000));
		await world.at('brackwater', 'faults', { silent: false });
		await until('the late capture is known', async () => (await priced()).some((one) => one.reference === 'LATE-1'));
		// 39,950.00 and the 84.50 before it are over 40,000.00: its own step changes
		await pay('LATE-3');
		await settled();
		await until('both are priced by what was captured before them', async () => {
			const all = await priced();
			return (
				all.every((one) => one.expected !== null) && (await second()).expected === feeOf(await second(), 4_003_450)
			);
		});
		await expectPriced();
	}, 180_000);
});
