import { parse } from 'csv-parse/sync';
import { inZone } from '../../core/calendar';
import {
	priceSide,
	spreadOf,
	type Kind,
	type Past,
	type PastAround,
	type RateCard,
	type SideCost,
	type Spread,
	type SpreadAsked
} from '../../core/fees';
import { divideRounded, type FoundRate } from '../../core/money';
import { readSettlement, type FileTrouble, type SettlementLine } from '../../core/settlement';

/** One side without what cannot be handed to another thread. */
export interface PlainSide {
	readonly id: string;
	readonly card: RateCard;
	readonly country: string;
	readonly bankDays: number;
	readonly rhythm?: string;
	/** kinds that it carries, as `plainKind` tells them */
	readonly carried: readonly string[];
}
/** A kind as a text, the same for kinds that are equal. */
export const plainKind = (kind: Kind): string =>
	[kind.method, kind.scheme, kind.funding, kind.region, kind.currency, kind.entry].join(' ');

export interface PriceAsked {
	readonly past: Past;
	readonly range: readonly [number, number];
	readonly side: PlainSide;
	/** by currency and day, with a space between */
	readonly rates: ReadonlyMap<string, FoundRate>;
	readonly capitalPpm: number;
	readonly happened: PastAround;
}

function price({ past, range, side, rates, capitalPpm, happened }: PriceAsked): SideCost {
	const carried = new Set(side.carried);
	return priceSide(
		past,
		range,
		{ ...side, carries: (kind) => carried.has(plainKind(kind)) },
		(currency, day) => rates.get(`${currency} ${day}`),
		capitalPpm,
		happened
	);
}

/** So many payments go into the database at once, as one text. */
const CHUNK = 2_000;

export interface CheckedFile {
	/** JSON lists of captured payments, each a list of values in the order of `SETTLED_VALUES` */
	readonly captured: readonly string[];
	/** the same of declined attempts, in the order of `DECLINED_VALUES` */
	readonly declined: readonly string[];
	/** refunds, disputes, charges and payouts that are lines of their own, as lists of `OtherLine` */
	readonly others: readonly string[];
	readonly counts: { readonly captured: number; readonly declined: number; readonly others: number };
	/** so many lines stand in each list, but the last */
	readonly chunkLines: number;
	/** lines that belong to a payment which is not in the file, with that payment's id */
	readonly elsewhere: readonly { line: number; payment: string }[];
	/** calendar months of the captures, in the account's time zone */
	readonly months: readonly string[];
	/** rates that the processor converted at, by day in the account's time zone */
	readonly rates: readonly { day: string; fromCurrency: string; toCurrency: string; rate: string }[];
}
export const LARGEST = 400_000_000;
const utf8 = new TextDecoder('utf-8', { fatal: true });

/** The file as records with their line numbers, or what keeps it from being read at all. */
function recordsOf(bytes: Uint8Array): { line: number; cells: string[] }[] | FileTrouble {
	if (bytes.length > LARGEST) return { line: 0, says: 'The file is larger than 400 MB.' };
	let text: string;
	try {
		text = utf8.decode(bytes);
	} catch {
		return { line: 0, says: 'The file is not in UTF-8. Save it in that encoding and try again.' };
	}
	try {
		const read = parse(text, {
			bom: true,
			info: true,
			relax_column_count: true,
			skip_empty_lines: true
		}) as unknown as { record: string[]; info: { lines: number } }[];
		return read.map(({ record, info }) => ({ line: info.lines, cells: record }));
	} catch (error) {
		const { lines, message } = error as { lines?: number; message: string };
		return { line: lines ?? 0, says: `It is not CSV: ${message}` };
	}
}

/** What is left of a payment after refunds and fee, in the settlement currency; refunds count at the rate of the capture. */
const netOf = ({
	base_minor: base,
	amount_minor: taken,
	refunded_minor: refunded,
	fee_minor: fee
}: SettlementLine): number =>
	base - (refunded ? Number(divideRounded(BigInt(base) * BigInt(refunded), BigInt(taken), 'half-even')) : 0) - fee;

/** Reads a settlement file and checks every line of it; what is sound comes as texts that the database takes whole. */
function checkFile({
	bytes,
	timeZone,
	accountZone
}: {
	bytes: Uint8Array;
	timeZone: string;
	accountZone: string;
}): CheckedFile | { readonly troubles: readonly FileTrouble[] } {
	const records = recordsOf(bytes);
	if ('says' in records) return { troubles: [records] };
	const read = readSettlement(records);
	if ('troubles' in read) return read;
	const rates = new Map<string, CheckedFile['rates'][number]>();
	// within a quarter of an hour no day begins
	const dayFinder = (zone: string) => {
		const days = new Map<number, string>();
		return (at: number) => {
			const quarter = Math.floor(at / 900_000);
			const known = days.get(quarter);
			if (known) return known;
			const { day } = inZone(new Date(at), zone);
			days.set(quarter, day);
			return day;
		};
	};
	const dayOf = dayFinder(timeZone);
	const accountDayOf = timeZone === accountZone ? dayOf : dayFinder(accountZone);
	const months = new Set<string>();
	for (const one of read.lines) {
		months.add(accountDayOf(one.captured_at).slice(0, 7));
		if (!one.rate) continue;
		const day = accountDayOf(one.captured_at);
		rates.set(`${day} ${one.currency} ${one.fee_currency}`, {
			day,
			fromCurrency: one.currency,
			toCurrency: one.fee_currency,
			rate: one.rate
		});
	}
	const ids = new Set(read.others.length ? read.lines.map((one) => one.payment) : []);
	const chunks = <T>(list: readonly T[], values: (one: T) => unknown[]) =>
		Array.from({ length: Math.ceil(list.length / CHUNK) }, (_, n) =>
			JSON.stringify(list.slice(n * CHUNK, (n + 1) * CHUNK).map(values))
		);
	return {
		captured: chunks(read.lines, (one) => [
			one.line,
			one.payment,
			one.source,
			one.captured_at,
			one.method,
			one.currency,
			one.amount_minor,
			one.entry,
			one.scheme,
			one.funding,
			one.issuer,
			one.fee_currency,
			one.fee_minor,
			one.base_minor,
			one.refunded_minor,
			one.disputed_minor,
			one.ordered_at ?? null,
			dayOf(one.captured_at),
			accountDayOf(one.captured_at),
			netOf(one)
		]),
		declined: chunks(read.declined, (one) => [
			one.line,
			one.payment,
			one.source,
			one.ordered_at,
			one.method,
			one.currency,
			one.amount_minor,
			one.entry,
			one.scheme,
			one.funding,
			one.issuer,
			one.fee_currency,
			one.fee_minor,
			one.reason,
			dayOf(one.ordered_at)
		]),
		others: chunks(read.others, (one) => [one] as unknown[]),
		counts: { captured: read.lines.length, declined: read.declined.length, others: read.others.length },
		chunkLines: CHUNK,
		elsewhere: read.others.flatMap(({ line, of_payment: payment }) =>
			payment && !ids.has(payment) ? [{ line, payment }] : []
		),
		months: [...months],
		rates: [...rates.values()]
	};
}

/** What can be worked out apart from everything else: each takes and gives what can be handed from thread to thread. */
export const TASKS = {
	price,
	spread: (asked: SpreadAsked): Spread => spreadOf(asked),
	checkFile
};
export type TaskName = keyof typeof TASKS;
export type Asked<K extends TaskName> = Parameters<(typeof TASKS)[K]>[0];
export type Answered<K extends TaskName> = ReturnType<(typeof TASKS)[K]>;
