import { BODY } from '../limits';
import { packText } from '../packText';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { parse } from 'csv-parse';
import { inZone } from '../../core/calendar';
import type { Method } from '../../core/lineup';
import { divideRounded } from '../../core/money';
import {
	SettlementReader,
	type DeclinedLine,
	type FileTrouble,
	type OtherLine,
	type Placed,
	type SettlementLine
} from '../../core/settlement';

/** So many lines go into the database at once: whoever else writes waits for no more than these. */
const CHUNK = 1_000;
/** Signs of one line: twenty columns of what a line tells are a tenth of it. */
const LONGEST_LINE = 10_000;

/** Lines of a file that were checked, as a text that the database takes apart itself. */
export interface FilePiece {
	readonly kind: 'captured' | 'declined' | 'others';
	readonly lines: number;
	/**
	 * JSON, packed by `packText`. Of payments and attempts: `kinds`, `sources`, and `lines` whose values stand in the order of `CAPTURED` and
	 * `DECLINED`, with numbers of a kind and a source; of others a list of `OtherLine`.
	 */
	readonly body: string;
}
/** What a whole file came to. */
export interface CheckedFile {
	readonly counts: { readonly captured: number; readonly declined: number; readonly others: number };
	/** lines that belong to a payment which is not in the file, with that payment's id */
	readonly elsewhere: readonly { line: number; payment: string }[];
	/** calendar months of the captures, in the account's time zone */
	readonly months: readonly string[];
	/** rates that the processor converted at, by day in the account's time zone */
	readonly rates: readonly { day: string; fromCurrency: string; toCurrency: string; rate: string }[];
}
export interface FileAsked {
	/** where the file lies */
	readonly path: string;
	readonly timeZone: string;
	readonly accountZone: string;
	/** the offline method whose receipts it tells, where it is no processor's */
	readonly offline?: Method;
}

/** What is left of a payment after refunds and fee, in the settlement currency; refunds count at the rate of the capture. */
const netOf = ({
	base_minor: base,
	amount_minor: taken,
	refunded_minor: refunded,
	fee_minor: fee
}: SettlementLine): number =>
	base - (refunded ? Number(divideRounded(BigInt(base) * BigInt(refunded), BigInt(taken), 'half-even')) : 0) - fee;

const QUARTER_MS = 900_000;
const DAY_QUARTERS = 96;

/**
 * Finds the day of a moment in a time zone. Within a quarter of an hour no day begins, and within 24 hours one at most: the
 * calendar is asked a few times for each of these, not for each payment.
 */
function dayFinder(zone: string): (at: number) => string {
	const dayOf = (quarter: number) => inZone(new Date(quarter * QUARTER_MS), zone).day;
	/** by days of UTC: the day at their begin, the quarter in which the next one begins, and that one */
	const known = new Map<number, { first: string; change: number; next: string }>();
	const find = (day: number) => {
		const from = day * DAY_QUARTERS;
		const [first, next] = [dayOf(from), dayOf(from + DAY_QUARTERS - 1)];
		let [low, high] = [from, from + DAY_QUARTERS - 1];
		while (first !== next && high - low > 1) {
			const middle = Math.floor((low + high) / 2);
			if (dayOf(middle) === first) low = middle;
			else high = middle;
		}
		const found = { first, change: first === next ? Infinity : high, next };
		known.set(day, found);
		return found;
	};
	return (at) => {
		const quarter = Math.floor(at / QUARTER_MS);
		const day = Math.floor(quarter / DAY_QUARTERS);
		const { first, change, next } = known.get(day) ?? find(day);
		return quarter < change ? first : next;
	};
}

/** Lines of payments or attempts on their way into one piece; what they have in common is told once. */
class PieceOfPayments {
	private readonly kinds = new Map<string, number>();
	private readonly sources = new Map<string, number>();
	private readonly lines: unknown[][] = [];

	add(
		one: Omit<DeclinedLine, 'ordered_at' | 'reason' | 'fee_minor'>,
		values: (kind: number, source: number) => unknown[]
	) {
		const kind = JSON.stringify([one.method, one.currency, one.entry, one.scheme, one.funding, one.issuer]);
		this.lines.push(values(numberOf(this.kinds, kind), numberOf(this.sources, one.source)));
	}
	get count(): number {
		return this.lines.length;
	}
	take(kind: 'captured' | 'declined'): FilePiece {
		const body = `{"kinds":[${[...this.kinds.keys()].join(',')}],"sources":${JSON.stringify([...this.sources.keys()])},"lines":${JSON.stringify(this.lines)}}`;
		const piece = { kind, lines: this.lines.length, body: packText(body) };
		this.kinds.clear();
		this.sources.clear();
		this.lines.length = 0;
		return piece;
	}
}
function numberOf(known: Map<string, number>, key: string): number {
	const number = known.get(key) ?? known.size;
	known.set(key, number);
	return number;
}

/** How many lines a record takes: a quoted cell may go over several. */
function linesOf(cells: readonly string[]): number {
	let lines = 1;
	for (const cell of cells) if (cell.includes('\n')) lines += cell.split('\n').length - 1;
	return lines;
}

class NotUtf8 extends Error {}
/** As much is wrong with a file as is told. */
class Enough extends Error {}
async function* decoded(source: AsyncIterable<Uint8Array>): AsyncGenerator<string> {
	const utf8 = new TextDecoder('utf-8', { fatal: true });
	const decode = (bytes?: Uint8Array) => {
		try {
			return utf8.decode(bytes, { stream: !!bytes });
		} catch {
			throw new NotUtf8();
		}
	};
	for await (const bytes of source) yield decode(bytes);
	yield decode();
}

/**
 * Reads a settlement file and checks every line of it, holding little of it at a time.
 * @param give takes what is sound, piece by piece; it counts only when the answer tells no troubles
 */
export async function checkFile(
	{ path, timeZone, accountZone, offline }: FileAsked,
	give: (piece: FilePiece) => Promise<void>
): Promise<CheckedFile | { readonly troubles: readonly FileTrouble[] }> {
	if ((await stat(path)).size > BODY.settlementFile)
		return { troubles: [{ line: 0, says: 'The file is larger than 400 MB.' }] };
	const reader = new SettlementReader(offline);
	const dayOf = dayFinder(timeZone);
	const accountDayOf = timeZone === accountZone ? dayOf : dayFinder(accountZone);
	const counts = { captured: 0, declined: 0, others: 0 };
	const months = new Set<string>();
	const rates = new Map<string, CheckedFile['rates'][number]>();
	const captured = new PieceOfPayments();
	const declined = new PieceOfPayments();
	const others: Placed<OtherLine>[] = [];

	const addCaptured = (one: Placed<SettlementLine>) => {
		const accountDay = accountDayOf(one.captured_at);
		months.add(accountDay.slice(0, 7));
		if (one.rate)
			rates.set(`${accountDay} ${one.currency} ${one.fee_currency}`, {
				day: accountDay,
				fromCurrency: one.currency,
				toCurrency: one.fee_currency,
				rate: one.rate
			});
		counts.captured++;
		captured.add(one, (kind, source) => [
			one.line,
			one.payment,
			kind,
			source,
			one.captured_at,
			one.amount_minor,
			one.fee_currency,
			one.fee_minor,
			one.base_minor,
			one.refunded_minor,
			one.disputed_minor,
			one.ordered_at ?? null,
			dayOf(one.captured_at),
			accountDay,
			netOf(one),
			one.reference
		]);
	};
	const addDeclined = (one: Placed<DeclinedLine>) => {
		counts.declined++;
		declined.add(one, (kind, source) => [
			one.line,
			one.payment,
			kind,
			source,
			one.ordered_at,
			one.amount_minor,
			one.fee_currency,
			one.fee_minor,
			one.reason,
			dayOf(one.ordered_at)
		]);
	};
	/** Hands over what has come together; at the end, all. */
	const giveFrom = async (least: number) => {
		// what is wrong is read to its end, so that all of it can be told; nothing of the file is kept
		if (reader.isBroken) return;
		if (captured.count >= least) await give(captured.take('captured'));
		if (declined.count >= least) await give(declined.take('declined'));
		if (others.length >= least)
			await give({ kind: 'others', lines: others.length, body: packText(JSON.stringify(others.splice(0))) });
	};
	try {
		await pipeline(
			createReadStream(path, { highWaterMark: 262_144 }),
			decoded,
			parse({ bom: true, relax_column_count: true, max_record_size: LONGEST_LINE }),
			async (records: AsyncIterable<string[]>) => {
				// counted here: asked for them, the parser takes longer for the numbers than for the lines
				let line = 0;
				for await (const record of records) {
					line += linesOf(record);
					if (record.length === 1 && record[0] === '') continue;
					const told = reader.take(line, record);
					// with fifty things wrong it is another file that is needed
					if (reader.isFull) throw new Enough();
					if (!told) continue;
					if ('captured' in told) addCaptured(told.captured);
					else if ('declined' in told) addDeclined(told.declined);
					else {
						counts.others++;
						others.push(told.other);
					}
					if (captured.count >= CHUNK || declined.count >= CHUNK || others.length >= CHUNK) await giveFrom(CHUNK);
				}
			}
		);
	} catch (error) {
		if (error instanceof NotUtf8)
			return { troubles: [{ line: 0, says: 'The file is not in UTF-8. Save it in that encoding and try again.' }] };
		if (error instanceof Enough) return { troubles: reader.end() };
		const { code, lines, message } = error as { code?: string; lines?: number; message: string };
		if (!code?.startsWith('CSV_')) throw error;
		return { troubles: [{ line: lines ?? 0, says: `It is not CSV: ${message}` }] };
	}
	const troubles = reader.end();
	if (troubles.length) return { troubles };
	await giveFrom(1);
	return { counts, elsewhere: reader.elsewhere(), months: [...months], rates: [...rates.values()] };
}
