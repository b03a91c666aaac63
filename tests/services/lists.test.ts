import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { PageKey, PaymentFilter, PaymentRow } from '../../src/lib/server/db';

// Lists of payments under any filters together, against the same conditions looked at one by one.

const folder = mkdtempSync(join(tmpdir(), 'purse-lists-'));
process.env.JUSTPURSE_DATA = folder;
const store = await import('../../src/lib/server/db');

const SEED = 20_611;
let state = SEED;
/** A small generator, so that every run looks at the same payments. */
const random = (below: number): number => {
	state = (Math.imul(state, 1_103_515_245) + 12_345) >>> 0;
	return Math.floor((state / 4_294_967_296) * below);
};
const pick = <T>(list: readonly T[]): T => list[random(list.length)]!;

const COUNT = 42_000;
const STAGES = ['captured', 'captured', 'settled', 'paid out', 'failed', 'refunded'] as const;
const CURRENCIES = ['EUR', 'EUR', 'EUR', 'CHF', 'JPY'] as const;
const SCHEMES = ['corvid', 'mainsail', 'tessel', 'unknown'] as const;
const FIRST = Date.UTC(2026, 0, 1);
const DAY = 86_400_000;
const dayAt = (at: number) => new Date(at).toISOString().slice(0, 10);

type Made = Pick<
	PaymentRow,
	'reference' | 'currency' | 'minor' | 'taken' | 'refunded' | 'stage' | 'day' | 'createdAt' | 'mode' | 'method'
> & {
	tillId: string;
	scheme: string;
	trialId: string | null;
	feeDifference: number | null;
	payerMail: string;
};
const made: Made[] = [];

beforeAll(async () => {
	await store.open();
	const { db, write } = store;
	await write(async (tx) => {
		for (const id of ['shop', 'bench'])
			await db.tills.insert(
				{
					id,
					slug: id,
					name: id,
					kind: 'web checkout',
					mode: 'live',
					currencies: '["EUR"]',
					colour: '#2f4b3c',
					fulfil: 'on promise',
					signingKeySealed: 'x',
					createdAt: 1
				},
				tx
			);
		const kinds = new Map<string, number>();
		for (const currency of ['EUR', 'CHF', 'JPY'])
			for (const scheme of SCHEMES)
				kinds.set(
					`${currency} ${scheme}`,
					await store.kindIdOf(
						{ method: 'card', currency, entry: 'online', scheme, funding: 'debit', issuer: 'BE' },
						tx
					)
				);
		for (let n = 0; n < COUNT; n++) {
			const at = FIRST + Math.floor(n * ((300 * DAY) / COUNT));
			const stage = pick(STAGES);
			const minor = 100 + random(50_000);
			const taken = stage === 'failed' ? 0 : minor;
			const isTrial = random(200) === 0;
			made.push({
				reference: `L-${n}`,
				currency: pick(CURRENCIES),
				minor,
				taken,
				refunded: stage === 'refunded' ? taken : 0,
				stage,
				// a few are captured days after they were made
				day: dayAt(at + (random(20) ? 0 : random(9) * DAY)),
				createdAt: at,
				mode: isTrial || random(40) === 0 ? 'test' : 'live',
				method: 'card',
				tillId: pick(['shop', 'shop', 'bench']),
				scheme: pick(SCHEMES),
				trialId: isTrial ? `trial-${n}` : null,
				feeDifference: random(90) ? null : 1 + random(30),
				payerMail: `p${random(4_000)}@payer.example`
			});
		}
		for (let from = 0; from < COUNT; from += 2_000)
			await db.payments.insertMany(
				made.slice(from, from + 2_000).map(({ scheme, ...one }) => ({
					origin: 'till' as const,
					...one,
					kindId: kinds.get(`${one.currency} ${scheme}`)!,
					refundable: 0,
					reachedStep: 2,
					feeCurrency: 'EUR',
					payerName: ''
				})),
				tx
			);
	});
}, 120_000);
afterAll(async () => {
	await store.close();
	rmSync(folder, { recursive: true, force: true });
});

const EXPONENTS: Record<string, number> = { EUR: 2, CHF: 2, JPY: 0 };
/** Whether a payment is what a filter asks for, by the words of the filter. */
const isMeant = (one: Made, f: PaymentFilter): boolean =>
	(f.trials ? one.trialId !== null : one.trialId === null) &&
	(!f.stages?.length || f.stages.includes(one.stage)) &&
	(!f.tillId || one.tillId === f.tillId) &&
	(!f.method || one.method === f.method) &&
	(!f.scheme || one.scheme === f.scheme) &&
	(!f.currency || one.currency === f.currency) &&
	(!f.least || one.minor >= f.least[EXPONENTS[one.currency]!]!) &&
	(!f.most || one.minor <= f.most[EXPONENTS[one.currency]!]!) &&
	(!f.from || one.day >= f.from) &&
	(!f.to || one.day <= f.to) &&
	(!f.payer || one.payerMail === f.payer) &&
	(f.trouble !== 'fee' || one.feeDifference !== null);

const decimals = { 0: ['JPY'], 2: ['EUR', 'CHF'] };
function randomFilter(): PaymentFilter {
	const some = <T>(value: () => T): T | undefined => (random(3) === 0 ? value() : undefined);
	const from = some(() => dayAt(FIRST + random(300) * DAY));
	const least = some(() => 100 + random(40_000));
	const most = some(() => 5_000 + random(45_000));
	return {
		stages: some(() => [...new Set([pick(STAGES), pick(STAGES)])]),
		tillId: some(() => pick(['shop', 'bench'])),
		method: some(() => 'card'),
		scheme: some(() => pick(SCHEMES)),
		currency: some(() => pick(CURRENCIES)),
		...(least || most ? { decimals } : {}),
		...(least ? { least: { 0: Math.ceil(least / 100), 2: least } } : {}),
		...(most ? { most: { 0: Math.floor(most / 100), 2: most } } : {}),
		from,
		to: from && random(2) ? dayAt(Date.parse(from) + random(60) * DAY) : undefined,
		payer: random(8) === 0 ? pick(made).payerMail : undefined,
		trouble: random(6) === 0 ? 'fee' : undefined,
		trials: random(12) === 0 ? true : undefined
	};
}
/** Every payment of a list, page by page. */
async function walk(filter: PaymentFilter): Promise<{ references: string[]; pages: number; looked: number }> {
	const references: string[] = [];
	let before: PageKey | undefined;
	let looked = 0;
	for (let pages = 1; ; pages++) {
		const page = await store.pageOfPayments({ ...filter, before }, 400);
		references.push(...page.rows.map((row) => row.reference));
		looked = Math.max(looked, page.looked ?? 0);
		if (!page.more) return { references, pages, looked };
		expect(page.next).not.toEqual(before);
		before = page.next;
	}
}

describe('a list of payments', () => {
	it(`shows each payment that its filters mean, once, and no other (seed ${SEED})`, async () => {
		let shown = 0;
		for (let round = 0; round < 60; round++) {
			const filter = randomFilter();
			const { references } = await walk(filter);
			const meant = made.filter((one) => isMeant(one, filter)).map((one) => one.reference);
			expect(references.length, JSON.stringify(filter)).toBe(meant.length);
			expect(new Set(references), JSON.stringify(filter)).toEqual(new Set(meant));
			shown += meant.length;
		}
		expect(shown).toBeGreaterThan(10_000);
	}, 120_000);
	it('looks through a bounded number of payments for a page, says so, and finds the rest on the next ones', async () => {
		const rare = { decimals, least: { 0: 50_090, 2: 50_090 } };
		const first = await store.pageOfPayments(rare);
		expect(first.looked).toBe(12_000);
		expect(first.more).toBe(true);
		const { references, pages } = await walk(rare);
		expect(references).toEqual(
			made
				.filter((one) => isMeant(one, rare))
				.map((one) => one.reference)
				.reverse()
		);
		expect(pages).toBeGreaterThanOrEqual(2);
	});
	it('adds up to the same by the sums of days and payment by payment, whatever is filtered, live money alone', async () => {
		for (let round = 0; round < 30; round++) {
			const filter = randomFilter();
			const mine = new Map<string, number[]>();
			for (const one of made.filter((row) => isMeant(row, filter) && (filter.trials || row.mode === 'live'))) {
				const sum = mine.get(one.currency) ?? [0, 0, 0, 0];
				[1, one.minor, one.taken, one.refunded].forEach((value, at) => (sum[at]! += value));
				mine.set(one.currency, sum);
			}
			const plain = (list: Awaited<ReturnType<typeof store.sumsOfPayments>>) =>
				Object.fromEntries(list.map((one) => [one.currency, [one.count, one.minor, one.taken, one.refunded]]));
			const added = plain(await store.sumsOfPayments(filter));
			expect(added, JSON.stringify(filter)).toEqual(Object.fromEntries(mine));
			if (store.isSummedByDay(filter)) {
				const byDay = plain(await store.sumsByDay(filter));
				expect(byDay, JSON.stringify(filter)).toEqual(added);
			}
		}
	}, 180_000);
});
