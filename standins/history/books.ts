import { chance, COLUMNS } from './index.ts';

/** What the business received by one of its own methods at one place: how often in a week, in what sums. */
interface Receipts {
	readonly place: string;
	readonly method: 'cash' | 'credit-transfer' | 'on-account';
	readonly entry: 'present' | 'online';
	readonly weekly: number;
	/** days before the day of the demo since when the line-up there has it */
	readonly since: number;
	readonly middle: number;
	readonly spread: number;
	/** minor units */
	readonly least: number;
	readonly most: number;
	/** days from the order to the money */
	readonly days: readonly [number, number];
	readonly currencies: readonly (readonly [string, number])[];
}

const EUR = [['EUR', 1]] as const;
const RECEIPTS: readonly Receipts[] = [
	{
		place: 'Counter',
		method: 'cash',
		entry: 'present',
		weekly: 14,
		since: 545,
		middle: 16,
		spread: 0.7,
		least: 150,
		most: 30_000,
		days: [0, 0],
		currencies: EUR
	},
	{
		place: 'Bench',
		method: 'cash',
		entry: 'present',
		weekly: 3,
		since: 118,
		middle: 35,
		spread: 0.4,
		least: 500,
		most: 10_000,
		days: [0, 0],
		currencies: EUR
	},
	{
		place: 'Web shop',
		method: 'credit-transfer',
		entry: 'online',
		weekly: 5,
		since: 545,
		middle: 130,
		spread: 0.6,
		least: 2_000,
		most: 400_000,
		days: [1, 9],
		currencies: EUR
	},
	{
		place: 'School accounts',
		method: 'on-account',
		entry: 'online',
		weekly: 2,
		since: 545,
		middle: 620,
		spread: 0.4,
		least: 25_000,
		most: 900_000,
		days: [12, 52],
		currencies: [
			['EUR', 9],
			['GBP', 1]
		]
	}
];

const DAY = 86_400_000;

/**
 * What the business's own books tell of its offline methods over eighteen months, a settlement file for each kind.
 * @param until the last day, `YYYY-MM-DD`
 * @param days how far back
 */
export function booksOf(until: string, days = 545, seed = 20_977): Map<string, string> {
	const { whole, pick, sum, next } = chance(seed);
	const end = Date.parse(`${until}T12:00:00Z`);
	const files = new Map<string, string[]>();
	const totals = new Map<string, Map<string, { count: number; sum: number }>>();
	let number = 4_100;
	for (const one of RECEIPTS) {
		let owed = 0;
		for (let ago = Math.min(days, one.since); ago > 0; ago--) {
			const day = new Date(end - ago * DAY).getUTCDay();
			// the shop is shut on Sundays
			if (one.entry === 'present' && day === 0) continue;
			owed += (one.weekly / (one.entry === 'present' ? 6 : 7)) * (0.6 + 0.8 * next());
			for (; owed >= 1; owed--) {
				const ordered = end - ago * DAY - 3 * 3_600_000 + whole(0, 8 * 3600) * 1000;
				let came = ordered + whole(...one.days) * DAY;
				// banks rest at the end of the week
				if (one.days[1] > 0) while ([0, 6].includes(new Date(came).getUTCDay())) came += DAY;
				// what has not come yet is in no book
				if (came > end) continue;
				const currency = pick(one.currencies);
				const minor = Math.min(one.most, Math.max(one.least, sum(one.middle, one.spread)));
				const refunded = next() < 0.015 ? minor : 0;
				const lines = files.get(one.method) ?? [COLUMNS];
				files.set(one.method, lines);
				lines.push(
					[
						`WA-${++number}`,
						new Date(came).toISOString(),
						one.place,
						one.method,
						currency,
						minor,
						one.entry,
						'',
						'',
						'',
						currency,
						0,
						minor,
						'',
						refunded,
						0,
						came > ordered ? new Date(ordered).toISOString() : '',
						'captured',
						''
					].join(',')
				);
				const mine = totals.get(one.method) ?? new Map<string, { count: number; sum: number }>();
				totals.set(one.method, mine);
				const before = mine.get(currency) ?? { count: 0, sum: 0 };
				mine.set(currency, { count: before.count + 1, sum: before.sum + minor });
			}
		}
	}
	return new Map(
		[...files].map(([method, lines]) => [
			method,
			`${[
				...lines,
				...[...totals.get(method)!].map(
					([currency, all]) => `total,,${all.count},,${currency},${all.sum},,,,,${currency},0,,,,,,captured,`
				)
			].join('\n')}\n`
		])
	);
}
