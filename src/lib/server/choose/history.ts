import { inZone } from '../../core/calendar';
import { hasCard, type Method } from '../../core/lineup';
import { capturedPayments, db, lastCapture, packedMonths, pastCounts } from '../db';

/** What distinguishes kinds of payments, before a rate card says what counts as regional. */
export interface HistoryKind {
	readonly method: Method;
	readonly currency: string;
	readonly entry: 'present' | 'online' | 'keyed' | 'recurring';
	readonly scheme: string;
	readonly funding: string;
	readonly issuer: string;
	/** the till's name */
	readonly source: string;
}

/** A text that is alike for payments of one kind only. */
export const kindKey = (
	kind: Record<Exclude<keyof HistoryKind, 'method' | 'entry'>, string> & { method: string; entry: string }
) => `${kind.method} ${kind.currency} ${kind.entry} ${kind.scheme} ${kind.funding} ${kind.issuer} ${kind.source}`;

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
	/** id of the row behind each: settled payments above zero, payments of our own tills below */
	readonly row: Float64Array;
}

let held: { stamp: string; history: Promise<History> } | undefined;

/** Something that differs whenever the history does. */
export const historyStamp = async (): Promise<string> => JSON.stringify([await lastCapture(), await pastCounts()]);

/** All captured payments: of settlement files, and of our own tills. Read once and kept until something comes in. */
export async function ownHistory(timeZone: string): Promise<History> {
	const stamp = `${timeZone} ${await historyStamp()}`;
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
	const [months, own, tills] = await Promise.all([packedMonths(), ownRows(), db.tills.find()]);
	const nameOf = new Map(tills.map((till) => [till.id, till.name]));
	const kinds: HistoryKind[] = [];
	const index = new Map<string, number>();
	const kindOf = (kind: HistoryKind): number => {
		const key = kindKey(kind);
		const at = index.get(key) ?? kinds.push(kind) - 1;
		index.set(key, at);
		return at;
	};
	const count = months.reduce((all, one) => all + one.count, own.length);
	const at = new Float64Array(count);
	// columns that another thread reads are shared with it, not copied
	const columns = {
		kind: new Uint16Array(new SharedArrayBuffer(count * 2)),
		minor: new Float64Array(new SharedArrayBuffer(count * 8)),
		refunded: new Float64Array(new SharedArrayBuffer(count * 8)),
		row: new Float64Array(count)
	};
	let n = 0;
	const takeOwn = (before: number) => {
		for (; own[0] && own[0].capturedAt! < before; n++) {
			const row = own.shift()!;
			const card =
				row.card && hasCard(row.method)
					? (JSON.parse(row.card) as { scheme: string; funding: string; issuerCountry: string })
					: undefined;
			at[n] = row.capturedAt!;
			columns.minor[n] = row.taken;
			columns.refunded[n] = row.refunded;
			columns.row[n] = -row.id;
			columns.kind[n] = kindOf({
				method: row.method as Method,
				currency: row.currency,
				entry: 'online',
				scheme: card?.scheme || 'unknown',
				funding: card?.funding || 'unknown',
				issuer: card?.issuerCountry || 'unknown',
				source: nameOf.get(row.tillId) ?? ''
			});
		}
	};
	for (const month of months) {
		await breathe();
		const mine = month.kinds.map((kind) => kindOf(kind as HistoryKind));
		// our own payments stand among those of the files; where there are none, a month is taken as it lies
		if (!own[0] || own[0].capturedAt! >= (month.at.at(-1) ?? 0)) {
			at.set(month.at, n);
			columns.minor.set(month.minor, n);
			columns.refunded.set(month.refunded, n);
			columns.row.set(month.id, n);
			for (let i = 0; i < month.count; i++) columns.kind[n + i] = mine[month.kind[i]!]!;
			n += month.count;
			continue;
		}
		for (let i = 0; i < month.count; i++) {
			takeOwn(month.at[i]!);
			at[n] = month.at[i]!;
			columns.minor[n] = month.minor[i]!;
			columns.refunded[n] = month.refunded[i]!;
			columns.row[n] = month.id[i]!;
			columns.kind[n] = mine[month.kind[i]!]!;
			n++;
		}
	}
	takeOwn(Infinity);
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

const ownRows = async () => (await capturedPayments()).sort((a, b) => a.capturedAt! - b.capturedAt! || a.id - b.id);
