import { inZone } from '../../core/calendar';
import type { Method } from '../../core/lineup';
import { packedMonths, pastStamp, type PackedKind } from '../db';

/** What distinguishes kinds of payments, before a rate card says what counts as regional. */
export interface HistoryKind extends PackedKind {
	readonly method: Method;
}

/** A text that is alike for payments of one kind only. */
export const kindKey = (
	kind: Record<Exclude<keyof HistoryKind, 'method' | 'entry' | 'offline'>, string> & { method: string; entry: string }
) =>
	`${kind.method} ${kind.currency} ${kind.entry} ${kind.scheme} ${kind.funding} ${kind.issuer} ${kind.carrier} ${kind.till} ${kind.source}`;

/** The business's own captured payments as columns, in order of capture. */
export interface History {
	readonly count: number;
	readonly kinds: readonly HistoryKind[];
	readonly kind: Uint16Array;
	readonly minor: Float64Array;
	/** index into `days` */
	readonly day: Uint16Array;
	/** ordinal of the calendar month of capture, from year 0 */
	readonly month: Uint16Array;
	readonly refunded: Float64Array;
	/** the day of each, `YYYY-MM-DD` */
	readonly days: readonly string[];
	/** id of the payment behind each */
	readonly row: Float64Array;
}

let held: { stamp: string; history: Promise<History> } | undefined;

/** All captured live payments, wherever they came from. Read once and kept until something changes. */
export async function ownHistory(timeZone: string): Promise<History> {
	const stamp = `${timeZone} ${await pastStamp()}`;
	if (held?.stamp !== stamp) {
		const history = read(timeZone);
		held = { stamp, history };
		history.catch(() => (held = undefined));
	}
	return held!.history;
}

/** Others are served in between: a million payments take a while. */
const breathe = () => new Promise((next) => setImmediate(next));
const QUARTER_MS = 900_000;
const DAY_MS = 86_400_000;
const QUARTERS = DAY_MS / QUARTER_MS;

async function read(timeZone: string): Promise<History> {
	const months = await packedMonths();
	const kinds: HistoryKind[] = [];
	const index = new Map<string, number>();
	const kindOf = (kind: HistoryKind): number => {
		const key = kindKey(kind);
		const at = index.get(key) ?? kinds.push(kind) - 1;
		index.set(key, at);
		return at;
	};
	const count = months.reduce((all, one) => all + one.count, 0);
	const at = new Float64Array(count);
	// columns that another thread reads are shared with it, not copied
	const columns = {
		kind: new Uint16Array(new SharedArrayBuffer(count * 2)),
		minor: new Float64Array(new SharedArrayBuffer(count * 8)),
		refunded: new Float64Array(new SharedArrayBuffer(count * 8)),
		row: new Float64Array(count)
	};
	let n = 0;
	for (const month of months) {
		await breathe();
		const mine = month.kinds.map((kind) => kindOf(kind as HistoryKind));
		at.set(month.at, n);
		columns.minor.set(month.minor, n);
		columns.refunded.set(month.refunded, n);
		columns.row.set(month.id, n);
		for (let i = 0; i < month.count; i++) columns.kind[n + i] = mine[month.kind[i]!]!;
		n += month.count;
	}
	const days: string[] = [];
	const dayIndex = new Map<string, number>();
	const day = new Uint16Array(new SharedArrayBuffer(count * 2));
	const month = new Uint16Array(new SharedArrayBuffer(count * 2));
	const monthOfDay: number[] = [];
	const indexOf = (text: string): number => {
		const known = dayIndex.get(text);
		if (known !== undefined) return known;
		const made = days.push(text) - 1;
		dayIndex.set(text, made);
		monthOfDay.push(Number(text.slice(0, 4)) * 12 + Number(text.slice(5, 7)) - 1);
		return made;
	};
	// within 24 hours the day changes once, at a whole quarter of an hour: that moment is looked for once
	let [from, turn, before, after] = [NaN, 0, 0, 0];
	for (let i = 0; i < count; i++) {
		if (i % 50_000 === 0) await breathe();
		if (!(at[i]! >= from && at[i]! < from + DAY_MS)) {
			from = Math.floor(at[i]! / DAY_MS) * DAY_MS;
			const dayAt = (quarter: number) => inZone(new Date(from + quarter * QUARTER_MS), timeZone).day;
			const first = dayAt(0);
			let [low, high] = [0, QUARTERS];
			while (low < high) {
				const middle = (low + high) >> 1;
				if (dayAt(middle) === first) low = middle + 1;
				else high = middle;
			}
			turn = from + low * QUARTER_MS;
			before = indexOf(first);
			after = low < QUARTERS ? indexOf(dayAt(low)) : before;
		}
		day[i] = at[i]! < turn ? before : after;
		month[i] = monthOfDay[day[i]!]!;
	}
	return { count, kinds, ...columns, day, month, days };
}

let carried: { of: History; history: History } | undefined;

/** Only what processors carried: offline methods have no price to compare. */
export function carriedOnly(history: History): History {
	if (carried?.of === history) return carried.history;
	const offline = history.kinds.map((kind) => kind.offline === 1);
	let result = history;
	if (offline.includes(true)) {
		let count = 0;
		for (let n = 0; n < history.count; n++) if (!offline[history.kind[n]!]) count++;
		const columns = {
			kind: new Uint16Array(new SharedArrayBuffer(count * 2)),
			minor: new Float64Array(new SharedArrayBuffer(count * 8)),
			refunded: new Float64Array(new SharedArrayBuffer(count * 8)),
			day: new Uint16Array(new SharedArrayBuffer(count * 2)),
			month: new Uint16Array(new SharedArrayBuffer(count * 2)),
			row: new Float64Array(count)
		};
		for (let n = 0, at = 0; n < history.count; n++) {
			if (offline[history.kind[n]!]) continue;
			for (const name of ['kind', 'minor', 'refunded', 'day', 'month', 'row'] as const)
				columns[name][at] = history[name][n]!;
			at++;
		}
		result = { ...history, count, ...columns };
	}
	carried = { of: history, history: result };
	return result;
}
