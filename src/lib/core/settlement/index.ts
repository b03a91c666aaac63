import { z } from 'zod';
import { FUNDINGS, UNKNOWN } from '../cards';
import { ENTRY_MODES } from '../fees';
import { isMethod } from '../lineup/methods';
import { isCurrency } from '../money';

/** The columns of a settlement file, in their order. Sums are whole minor units; times are ISO 8601 in UTC. */
export const SETTLEMENT_COLUMNS = [
	'payment',
	'captured_at',
	'source',
	'method',
	'currency',
	'amount_minor',
	'entry',
	'scheme',
	'funding',
	'issuer',
	'fee_currency',
	'fee_minor',
	'base_minor',
	'rate',
	'refunded_minor',
	'disputed_minor'
] as const;

const whole = z
	.string()
	.regex(/^\d{1,13}$/, 'is not a whole number of minor units')
	.transform(Number);
const text = (most: number) => z.string().trim().min(1, 'is empty').max(most, `is longer than ${most} signs`);

/** One line of a settlement file. */
export const SettlementLine = z.object({
	payment: text(80),
	captured_at: z.iso
		.datetime({ error: 'is not a time such as 2026-11-24T10:00:00Z' })
		.transform((at) => Date.parse(at)),
	source: z.string().trim().max(60).default(''),
	method: z.string().refine(isMethod, 'is no method that is known here'),
	currency: z.string().refine(isCurrency, 'is no currency'),
	amount_minor: whole.refine((minor) => minor > 0, 'is not above zero'),
	entry: z.enum(ENTRY_MODES, { error: 'is no entry mode' }),
	scheme: z
		.string()
		.trim()
		.max(40)
		.transform((one) => one || UNKNOWN),
	funding: z.string().transform((one, context) => {
		if (one === '' || one === UNKNOWN) return UNKNOWN;
		if ((FUNDINGS as readonly string[]).includes(one)) return one as (typeof FUNDINGS)[number];
		context.addIssue({ code: 'custom', message: 'is no funding' });
		return z.NEVER;
	}),
	issuer: z
		.string()
		.regex(/^([A-Z]{2})?$/, 'is no country')
		.transform((one) => one || UNKNOWN),
	fee_currency: z.string().refine(isCurrency, 'is no currency'),
	fee_minor: whole,
	base_minor: whole,
	rate: z.string().regex(/^(\d{1,9}(\.\d{1,12})?)?$/, 'is no rate'),
	refunded_minor: whole,
	disputed_minor: whole
});
export type SettlementLine = z.infer<typeof SettlementLine>;

/** What is wrong with a file, and in which line; 0 is the file as a whole. */
export interface FileTrouble {
	readonly line: number;
	readonly says: string;
}
export type ReadFile = { readonly lines: readonly SettlementLine[] } | { readonly troubles: readonly FileTrouble[] };

const AT_MOST = 50;

/**
 * Checks the records of a settlement file: every line by itself, none twice, and the totals at the end, one per currency:
 * `total` in the first column, the count under `source`, sums under `amount_minor` and `fee_minor`. A file without totals was
 * cut off. It is taken whole or not at all.
 * @param records one per line, header first, each with its line number in the file
 */
export function readSettlement(records: readonly { line: number; cells: readonly string[] }[]): ReadFile {
	const troubles: FileTrouble[] = [];
	const add = (line: number, says: string) => void (troubles.length < AT_MOST && troubles.push({ line, says }));
	const [header, ...rest] = records;
	if (!header) return { troubles: [{ line: 0, says: 'The file is empty.' }] };
	if (header.cells.join(',') !== SETTLEMENT_COLUMNS.join(','))
		return {
			troubles: [{ line: header.line, says: `The first line must name the columns: ${SETTLEMENT_COLUMNS.join(', ')}.` }]
		};
	const lines: SettlementLine[] = [];
	const seen = new Map<string, number>();
	const totals = new Map<string, { line: number; count: string; sum: string; fees: string }>();
	const sums = new Map<string, { count: number; sum: bigint; fees: bigint }>();
	for (const { line, cells } of rest) {
		if (cells.length !== SETTLEMENT_COLUMNS.length) {
			add(line, `It has ${cells.length} values where there are ${SETTLEMENT_COLUMNS.length}.`);
			continue;
		}
		const record = Object.fromEntries(SETTLEMENT_COLUMNS.map((name, at) => [name, cells[at]!]));
		if (record.payment === 'total') {
			totals.set(record.currency!, {
				line,
				count: record.source!,
				sum: record.amount_minor!,
				fees: record.fee_minor!
			});
			continue;
		}
		if (totals.size) add(line, 'It stands after the totals.');
		const read = SettlementLine.safeParse(record);
		if (!read.success) {
			for (const issue of read.error.issues) add(line, `${String(issue.path[0])} ${issue.message}.`);
			continue;
		}
		const one = read.data;
		const before = seen.get(one.payment);
		if (before !== undefined) add(line, `Payment ${one.payment} stands in line ${before} already.`);
		seen.set(one.payment, line);
		if (one.refunded_minor + one.disputed_minor > one.amount_minor)
			add(line, 'More was refunded and disputed than was taken.');
		if (one.currency !== one.fee_currency && !one.rate)
			add(line, `A rate from ${one.currency} to ${one.fee_currency} is missing.`);
		if (one.currency === one.fee_currency && one.base_minor !== one.amount_minor)
			add(line, 'base_minor differs from amount_minor in the same currency.');
		lines.push(one);
		const sum = sums.get(one.currency) ?? { count: 0, sum: 0n, fees: 0n };
		sums.set(one.currency, {
			count: sum.count + 1,
			sum: sum.sum + BigInt(one.amount_minor),
			fees: sum.fees + BigInt(one.fee_minor)
		});
	}
	if (!totals.size) add(0, 'The totals at the end are missing: the file was cut off.');
	else
		for (const [currency, { count, sum, fees }] of sums) {
			const told = totals.get(currency);
			if (!told) add(0, `There is no total for ${currency}.`);
			else if (told.count !== String(count) || told.sum !== String(sum) || told.fees !== String(fees))
				add(
					told.line,
					`The total of ${currency} is ${told.count} payments, ${told.sum} and fees of ${told.fees}; the lines come to ${count}, ${sum} and ${fees}.`
				);
		}
	return troubles.length ? { troubles } : { lines };
}
