import { z } from 'zod';
import { FUNDINGS, UNKNOWN } from '../cards';
import { ENTRY_MODES } from '../fees';
import { isMethod, methodName, type Method } from '../lineup/methods';
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
/** And a last one, after either: what the business itself calls it, such as the number of an invoice. */
export const REFERENCE_COLUMN = 'reference';
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
	ordered_at: z.preprocess((cell) => (cell === '' ? undefined : cell), time.optional()),
	reference: z.string().trim().max(40, 'is longer than 40 signs').default('')
});
export type SettlementLine = z.infer<typeof SettlementLine>;

/** An attempt that was declined: nothing was captured, but it may have been charged for. */
export const DeclinedLine = SettlementLine.omit({
	captured_at: true,
	base_minor: true,
	rate: true,
	refunded_minor: true,
	disputed_minor: true,
	reference: true
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

/** What a line of a settlement file tells, once it was checked. */
export type Told =
	| { readonly captured: Placed<SettlementLine> }
	| { readonly declined: Placed<DeclinedLine> }
	| { readonly other: Placed<OtherLine> };

/**
 * Checks the records of a settlement file one after the other: every line by itself, none twice, and the totals at the end,
 * one per currency: `total` in the first column, the count under `source`, sums under `amount_minor` and `fee_minor`.
 * Declined attempts have totals of their own, with `declined` under `outcome`. A file without totals was cut off. What it
 * tells counts only when `end` tells no trouble: a file is taken whole or not at all.
 */
export class SettlementReader {
	/** @param offline the method of the business's own whose receipts the file tells; none for a processor's file */
	constructor(private readonly offline?: Method) {}
	private readonly troubles: FileTrouble[] = [];
	private columns: readonly string[] | undefined;
	private isEmpty = true;
	private outcomeAt = -1;
	private tellsOthers = false;
	private readonly seen = new Map<string, number>();
	private readonly declinedIds = new Set<string>();
	private readonly owners: { readonly line: number; readonly payment: string }[] = [];
	private readonly totals = new Map<string, { line: number; count: string; sum: string; fees: string }>();
	private readonly sums = new Map<string, { count: number; sum: bigint; fees: bigint }>();
	private readCaptured!: ReturnType<typeof lineReader<SettlementLine>>;
	private readDeclined!: ReturnType<typeof lineReader<DeclinedLine>>;
	private readOther!: ReturnType<typeof lineReader<Omit<OtherLine, 'outcome'>>>;

	/** Nothing of the file will be taken: reading on only finds more of what is wrong. */
	get isBroken(): boolean {
		return this.troubles.length > 0;
	}
	/** As much is wrong as is told: reading on changes nothing. */
	get isFull(): boolean {
		return this.troubles.length >= AT_MOST;
	}
	/**
	 * Takes the next record; the first one is the header.
	 * @param line its number in the file
	 * @returns what it tells, unless something is wrong with it or it is a header or total
	 */
	take(line: number, cells: readonly string[]): Told | undefined {
		if (this.isEmpty) {
			this.isEmpty = false;
			this.takeHeader(line, cells);
			return undefined;
		}
		const { columns, outcomeAt, tellsOthers } = this;
		if (!columns) return undefined;
		if (cells.length !== columns.length) {
			this.add(line, `It has ${cells.length} values where there are ${columns.length}.`);
			return undefined;
		}
		const outcome = (outcomeAt < 0 ? '' : cells[outcomeAt]) || 'captured';
		const known: readonly string[] = tellsOthers ? OUTCOMES : OUTCOMES.slice(0, 2);
		if (!known.includes(outcome)) {
			this.add(
				line,
				tellsOthers ? `outcome is none of ${OUTCOMES.join(', ')}.` : 'outcome is neither captured nor declined.'
			);
			return undefined;
		}
		const cell = (name: string) => cells[columns.indexOf(name)] ?? '';
		if (cells[0] === 'total') {
			this.totals.set(outcome === 'captured' ? cell('currency') : `${cell('currency')} ${outcome}`, {
				line,
				count: cell('source'),
				sum: cell('amount_minor'),
				fees: cell('fee_minor')
			});
			return undefined;
		}
		if (this.totals.size) this.add(line, 'It stands after the totals.');
		if (this.offline && outcome !== 'captured') {
			this.add(line, 'A file of an offline method tells what was received, and nothing else.');
			return undefined;
		}
		if (outcome === 'declined') return this.takeDeclined(line, cells, cell);
		if (outcome !== 'captured') return this.takeOther(line, cells, outcome as OtherOutcome);
		if (tellsOthers && cell('of_payment')) this.add(line, 'A captured payment belongs to no other.');
		return this.takeCaptured(line, cells);
	}

	/** What is wrong with the file, once all of it was taken; at most fifty things, and none when it is sound. */
	end(): readonly FileTrouble[] {
		if (this.isEmpty) this.add(0, 'The file is empty.');
		if (!this.columns) return this.troubles;
		if (!this.totals.size) this.add(0, 'The totals at the end are missing: the file was cut off.');
		else for (const [key, sum] of this.sums) this.checkTotal(key, sum);
		return this.troubles;
	}

	/** Lines that belong to a payment which is not in the file, with that payment's id. */
	elsewhere(): { line: number; payment: string }[] {
		return this.owners.filter(({ payment }) => !this.seen.has(payment) || this.declinedIds.has(payment));
	}

	private add(line: number, says: string): void {
		if (this.troubles.length < AT_MOST) this.troubles.push({ line, says });
	}

	private takeHeader(line: number, cells: readonly string[]): void {
		const told = cells.join(',');
		const columns: readonly string[] | undefined = [
			SETTLEMENT_COLUMNS,
			[...SETTLEMENT_COLUMNS, ...FURTHER_COLUMNS],
			[...SETTLEMENT_COLUMNS, ...FURTHER_COLUMNS, REFERENCE_COLUMN],
			[...SETTLEMENT_COLUMNS, ...FURTHER_COLUMNS, ...LINE_COLUMNS],
			[...SETTLEMENT_COLUMNS, ...FURTHER_COLUMNS, ...LINE_COLUMNS, REFERENCE_COLUMN]
		].find((names) => names.join(',') === told);
		if (!columns) {
			this.add(
				line,
				`The first line must name the columns: ${SETTLEMENT_COLUMNS.join(', ')}; and may go on: ${FURTHER_COLUMNS.join(', ')}; and then ${LINE_COLUMNS.join(', ')}; and last ${REFERENCE_COLUMN}.`
			);
			return;
		}
		this.columns = columns;
		this.outcomeAt = columns.indexOf('outcome');
		this.tellsOthers = columns.includes('of_payment');
		this.readCaptured = lineReader<SettlementLine>(SettlementLine, columns);
		this.readDeclined = lineReader<DeclinedLine>(DeclinedLine, columns);
		this.readOther = lineReader<Omit<OtherLine, 'outcome'>>(OtherLine, columns);
	}

	private takeCaptured(line: number, cells: readonly string[]): Told | undefined {
		const one = this.readCaptured(cells, line);
		if (this.isWrong(one, line)) return undefined;
		this.once(line, one.payment);
		if (one.refunded_minor + one.disputed_minor > one.amount_minor)
			this.add(line, 'More was refunded and disputed than was taken.');
		if (one.currency !== one.fee_currency && !one.rate)
			this.add(line, `A rate from ${one.currency} to ${one.fee_currency} is missing.`);
		if (one.currency === one.fee_currency && one.base_minor !== one.amount_minor)
			this.add(line, 'base_minor differs from amount_minor in the same currency.');
		if (one.ordered_at !== undefined && one.ordered_at > one.captured_at)
			this.add(line, 'It was captured before it was ordered.');
		if (this.offline) this.checkOffline(line, one, this.offline);
		this.count(one.currency, one);
		return { captured: one };
	}

	/** No processor stands between the payer and the business: there is no fee, no card and no other currency. */
	private checkOffline(line: number, one: SettlementLine, method: Method): void {
		if (one.method !== method) this.add(line, `method is not ${method} (${methodName(method)}).`);
		if (one.fee_minor !== 0) this.add(line, 'fee_minor is not 0: an offline method has no fee.');
		if (one.currency !== one.fee_currency) this.add(line, 'fee_currency differs from currency.');
		if (one.disputed_minor !== 0) this.add(line, 'disputed_minor is not 0: no scheme stands behind an offline method.');
		if ([one.scheme, one.funding, one.issuer].some((cell) => cell !== UNKNOWN))
			this.add(line, 'scheme, funding and issuer must be empty: there is no card.');
	}

	private takeDeclined(line: number, cells: readonly string[], cell: (name: string) => string): Told | undefined {
		const read = this.readDeclined(cells, line);
		for (const name of NOT_DECLINED)
			if (cell(name) !== '') this.add(line, `${name} must be empty: a declined attempt captured nothing.`);
		if (this.isWrong(read, line)) return undefined;
		this.once(line, read.payment);
		this.declinedIds.add(read.payment);
		this.count(`${read.currency} declined`, read);
		return { declined: read };
	}

	private takeOther(line: number, cells: readonly string[], outcome: OtherOutcome): Told | undefined {
		const read = this.readOther(cells, line);
		if (this.isWrong(read, line)) return undefined;
		const other: Placed<OtherLine> = { ...(read as Placed<Omit<OtherLine, 'outcome'>>), outcome };
		if (BELONGS.includes(outcome) && !other.of_payment) this.add(line, `A ${outcome} must name its payment.`);
		if (HAS_SUM.includes(outcome) && other.amount_minor === 0) this.add(line, `A ${outcome} of nothing.`);
		this.once(line, `${outcome} ${other.payment}`);
		if (other.of_payment) this.owners.push({ line, payment: other.of_payment });
		this.count(`${other.currency} ${outcome}`, other);
		return { other };
	}

	private isWrong<T>(read: T | readonly string[], line: number): read is readonly string[] {
		if (!Array.isArray(read)) return false;
		for (const says of read as readonly string[]) this.add(line, says);
		return true;
	}

	private once(line: number, payment: string): void {
		const before = this.seen.get(payment);
		if (before !== undefined) this.add(line, `Payment ${payment} stands in line ${before} already.`);
		this.seen.set(payment, line);
	}

	private count(key: string, { amount_minor, fee_minor }: { amount_minor: number; fee_minor: number }): void {
		const sum = this.sums.get(key);
		if (!sum) {
			this.sums.set(key, { count: 1, sum: BigInt(amount_minor), fees: BigInt(fee_minor) });
			return;
		}
		sum.count++;
		sum.sum += BigInt(amount_minor);
		sum.fees += BigInt(fee_minor);
	}

	private checkTotal(key: string, { count, sum, fees }: { count: number; sum: bigint; fees: bigint }): void {
		const [currency, ...rest] = key.split(' ');
		const what = rest.join(' ');
		const total = this.totals.get(key);
		const of = what === '' ? 'payments' : what === 'declined' ? 'declined attempts' : `lines of ${what}`;
		if (!total) this.add(0, `There is no total for ${what === '' ? currency : `${of} in ${currency}`}.`);
		else if (total.count !== String(count) || total.sum !== String(sum) || total.fees !== String(fees))
			this.add(
				total.line,
				`The total of ${currency} is ${total.count} ${of}, ${total.sum} and fees of ${total.fees}; the lines come to ${count}, ${sum} and ${fees}.`
			);
	}
}
