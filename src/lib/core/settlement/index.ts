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

/** Further columns, all or none: when the payer ordered, and whether the attempt was captured or declined, and why. */
export const FURTHER_COLUMNS = ['ordered_at', 'outcome', 'reason'] as const;
/** One more column, after the further ones: the payment that a refund, a dispute or an adjustment belongs to. */
export const LINE_COLUMNS = ['of_payment'] as const;
/** What a line tells: a payment or attempt, or something that happened beside it, as a line of its own. */
export const OUTCOMES = [
	'captured',
	'declined',
	'refund',
	'dispute',
	'dispute won',
	'adjustment',
	'monthly',
	'payout'
] as const;
export type OtherOutcome = Exclude<(typeof OUTCOMES)[number], 'captured' | 'declined'>;

const whole = z
	.string()
	.regex(/^\d{1,13}$/, 'is not a whole number of minor units')
	.transform(Number);
const text = (most: number) => z.string().trim().min(1, 'is empty').max(most, `is longer than ${most} signs`);

const time = z.iso.datetime({ error: 'is not a time such as 2026-11-24T10:00:00Z' }).transform((at) => Date.parse(at));

/** One line of a settlement file: a captured payment. */
export const SettlementLine = z.object({
	payment: text(80),
	captured_at: time,
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
	disputed_minor: whole,
	/** when the payer ordered, where that was before the capture and is told */
	ordered_at: z.preprocess((cell) => (cell === '' ? undefined : cell), time.optional())
});
export type SettlementLine = z.infer<typeof SettlementLine>;

/** An attempt that was declined: nothing was captured, but it may have been charged for. */
export const DeclinedLine = SettlementLine.omit({
	captured_at: true,
	base_minor: true,
	rate: true,
	refunded_minor: true,
	disputed_minor: true
}).extend({ ordered_at: time, reason: z.string().trim().max(120, 'is longer than 120 signs') });
export type DeclinedLine = z.infer<typeof DeclinedLine>;

const signed = z
	.string()
	.regex(/^-?\d{1,13}$/, 'is not a whole number of minor units')
	.transform(Number);
/** Something beside payments: a refund, a dispute, a charge of the account, a payout. `payment` is its own id. */
export const OtherLine = z.object({
	payment: text(80),
	captured_at: time,
	currency: z.string().refine(isCurrency, 'is no currency'),
	amount_minor: whole,
	fee_currency: z.string().refine(isCurrency, 'is no currency'),
	/** charged for it; below zero where it was given back */
	fee_minor: signed,
	reason: z.string().trim().max(120, 'is longer than 120 signs'),
	of_payment: z.string().trim().max(80, 'is longer than 80 signs')
});
export type OtherLine = z.infer<typeof OtherLine> & { readonly outcome: OtherOutcome };
/** Lines that belong to a payment, and those that tell a sum. */
const BELONGS: readonly OtherOutcome[] = ['refund', 'dispute', 'dispute won'];
const HAS_SUM: readonly OtherOutcome[] = ['refund', 'dispute', 'payout'];

/** What is wrong with a file, and in which line; 0 is the file as a whole. */
export interface FileTrouble {
	readonly line: number;
	readonly says: string;
}
/** A payment or attempt with the line of the file that tells it. */
export type Placed<T> = T & { readonly line: number };
export type ReadFile =
	| {
			readonly lines: readonly Placed<SettlementLine>[];
			readonly declined: readonly Placed<DeclinedLine>[];
			readonly others: readonly Placed<OtherLine>[];
	  }
	| { readonly troubles: readonly FileTrouble[] };

const AT_MOST = 50;

/** What a cell says to its column's schema; cells that say the same are read once. */
type ReadCell = { readonly value: unknown } | { readonly says: readonly string[] };
const REMEMBERED = 2_000;

/** Reads lines by a schema cell by cell: a file of a million lines has few methods, schemes and card types. */
function lineReader<T>(
	schema: z.ZodObject,
	names: readonly string[]
): (cells: readonly string[], line: number) => Placed<T> | readonly string[] {
	const columns = Object.entries(schema.shape).map(([name, shape]) => {
		const known = new Map<string | undefined, ReadCell>();
		const read = (text: string | undefined): ReadCell => {
			const told = (shape as z.ZodType).safeParse(text);
			return told.success
				? { value: told.data }
				: { says: told.error.issues.map((issue) => `${name} ${issue.message}.`) };
		};
		return {
			name,
			at: names.indexOf(name),
			read: (text: string | undefined): ReadCell => {
				const before = known.get(text);
				if (before) return before;
				const told = read(text);
				// a column whose cells all differ, such as ids and times, is not worth it
				if (known.size < REMEMBERED) known.set(text, told);
				return told;
			}
		};
	});
	return (cells, place) => {
		const line: Record<string, unknown> = { line: place };
		let says: string[] | undefined;
		for (const { name, at, read } of columns) {
			const cell = read(cells[at]);
			if ('says' in cell) (says ??= []).push(...cell.says);
			else line[name] = cell.value;
		}
		return says ?? (line as Placed<T>);
	};
}

/** Cells of a declined line that must say nothing, since nothing was captured. */
const NOT_DECLINED = ['captured_at', 'base_minor', 'rate', 'refunded_minor', 'disputed_minor'] as const;

/**
 * Checks the records of a settlement file: every line by itself, none twice, and the totals at the end, one per currency:
 * `total` in the first column, the count under `source`, sums under `amount_minor` and `fee_minor`. Declined attempts have
 * totals of their own, with `declined` under `outcome`. A file without totals was cut off. It is taken whole or not at all.
 * @param records one per line, header first, each with its line number in the file
 */
export function readSettlement(records: readonly { line: number; cells: readonly string[] }[]): ReadFile {
	const troubles: FileTrouble[] = [];
	const add = (line: number, says: string) => void (troubles.length < AT_MOST && troubles.push({ line, says }));
	const [header, ...rest] = records;
	if (!header) return { troubles: [{ line: 0, says: 'The file is empty.' }] };
	const told = header.cells.join(',');
	const columns: readonly string[] | undefined = [
		SETTLEMENT_COLUMNS,
		[...SETTLEMENT_COLUMNS, ...FURTHER_COLUMNS],
		[...SETTLEMENT_COLUMNS, ...FURTHER_COLUMNS, ...LINE_COLUMNS]
	].find((names) => names.join(',') === told);
	if (!columns)
		return {
			troubles: [
				{
					line: header.line,
					says: `The first line must name the columns: ${SETTLEMENT_COLUMNS.join(', ')}; and may go on: ${FURTHER_COLUMNS.join(', ')}; and then ${LINE_COLUMNS.join(', ')}.`
				}
			]
		};
	const outcomeAt = columns.indexOf('outcome');
	const tellsOthers = columns.includes('of_payment');
	const lines: Placed<SettlementLine>[] = [];
	const declined: Placed<DeclinedLine>[] = [];
	const others: Placed<OtherLine>[] = [];
	const seen = new Map<string, number>();
	const totals = new Map<string, { line: number; count: string; sum: string; fees: string }>();
	const sums = new Map<string, { count: number; sum: bigint; fees: bigint }>();
	const count = (key: string, { amount_minor, fee_minor }: { amount_minor: number; fee_minor: number }) => {
		const sum = sums.get(key) ?? { count: 0, sum: 0n, fees: 0n };
		sums.set(key, {
			count: sum.count + 1,
			sum: sum.sum + BigInt(amount_minor),
			fees: sum.fees + BigInt(fee_minor)
		});
	};
	const once = (line: number, payment: string) => {
		const before = seen.get(payment);
		if (before !== undefined) add(line, `Payment ${payment} stands in line ${before} already.`);
		seen.set(payment, line);
	};
	const readCaptured = lineReader<SettlementLine>(SettlementLine, columns);
	const readDeclined = lineReader<DeclinedLine>(DeclinedLine, columns);
	const readOther = lineReader<Omit<OtherLine, 'outcome'>>(OtherLine, columns);
	const isWrong = <T>(read: T | readonly string[], line: number): read is readonly string[] => {
		if (!Array.isArray(read)) return false;
		for (const says of read as readonly string[]) add(line, says);
		return true;
	};
	for (const { line, cells } of rest) {
		if (cells.length !== columns.length) {
			add(line, `It has ${cells.length} values where there are ${columns.length}.`);
			continue;
		}
		const cell = (name: string) => cells[columns.indexOf(name)] ?? '';
		const outcome = (outcomeAt < 0 ? '' : cells[outcomeAt]) || 'captured';
		const known: readonly string[] = tellsOthers ? OUTCOMES : OUTCOMES.slice(0, 2);
		if (!known.includes(outcome)) {
			add(
				line,
				tellsOthers ? `outcome is none of ${OUTCOMES.join(', ')}.` : 'outcome is neither captured nor declined.'
			);
			continue;
		}
		if (cells[0] === 'total') {
			totals.set(outcome === 'captured' ? cell('currency') : `${cell('currency')} ${outcome}`, {
				line,
				count: cell('source'),
				sum: cell('amount_minor'),
				fees: cell('fee_minor')
			});
			continue;
		}
		if (totals.size) add(line, 'It stands after the totals.');
		if (outcome === 'declined') {
			const read = readDeclined(cells, line);
			for (const name of NOT_DECLINED)
				if (cell(name) !== '') add(line, `${name} must be empty: a declined attempt captured nothing.`);
			if (isWrong(read, line)) continue;
			once(line, read.payment);
			declined.push(read);
			count(`${read.currency} declined`, read);
			continue;
		}
		if (outcome !== 'captured') {
			const read = readOther(cells, line);
			if (isWrong(read, line)) continue;
			const other: Placed<OtherLine> = {
				...(read as Placed<Omit<OtherLine, 'outcome'>>),
				outcome: outcome as OtherOutcome
			};
			if (BELONGS.includes(other.outcome) && !other.of_payment) add(line, `A ${outcome} must name its payment.`);
			if (HAS_SUM.includes(other.outcome) && other.amount_minor === 0) add(line, `A ${outcome} of nothing.`);
			once(line, `${outcome} ${other.payment}`);
			others.push(other);
			count(`${other.currency} ${outcome}`, other);
			continue;
		}
		if (tellsOthers && cell('of_payment')) add(line, 'A captured payment belongs to no other.');
		const one = readCaptured(cells, line);
		if (isWrong(one, line)) continue;
		once(line, one.payment);
		if (one.refunded_minor + one.disputed_minor > one.amount_minor)
			add(line, 'More was refunded and disputed than was taken.');
		if (one.currency !== one.fee_currency && !one.rate)
			add(line, `A rate from ${one.currency} to ${one.fee_currency} is missing.`);
		if (one.currency === one.fee_currency && one.base_minor !== one.amount_minor)
			add(line, 'base_minor differs from amount_minor in the same currency.');
		if (one.ordered_at !== undefined && one.ordered_at > one.captured_at)
			add(line, 'It was captured before it was ordered.');
		lines.push(one);
		count(one.currency, one);
	}
	if (!totals.size) add(0, 'The totals at the end are missing: the file was cut off.');
	else
		for (const [key, { count: many, sum, fees }] of sums) {
			const [currency, ...rest] = key.split(' ');
			const what = rest.join(' ');
			const total = totals.get(key);
			const of = what === '' ? 'payments' : what === 'declined' ? 'declined attempts' : `lines of ${what}`;
			if (!total) add(0, `There is no total for ${what === '' ? currency : `${of} in ${currency}`}.`);
			else if (total.count !== String(many) || total.sum !== String(sum) || total.fees !== String(fees))
				add(
					total.line,
					`The total of ${currency} is ${total.count} ${of}, ${total.sum} and fees of ${total.fees}; the lines come to ${many}, ${sum} and ${fees}.`
				);
		}
	return troubles.length ? { troubles } : { lines, declined, others };
}
