import { inZone } from '../../core/calendar';
import { hasCard, type Method } from '../../core/lineup';
import { capturedPayments, eachSettled } from '../db';

/** What distinguishes kinds of payments, before a rate card says what counts as regional. */
export interface HistoryKind {
	readonly method: Method;
	readonly currency: string;
	readonly entry: 'present' | 'online' | 'keyed' | 'recurring';
	readonly scheme: string;
	readonly funding: string;
	readonly issuer: string;
}

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

let held: { zone: string; history: Promise<History> } | undefined;
export const forgetHistory = (): void => void (held = undefined);

/** All captured payments: of settlement files, and of our own tills. Read once and kept until something comes in. */
export function ownHistory(timeZone: string): Promise<History> {
	if (held?.zone !== timeZone) {
		const history = read(timeZone);
		held = { zone: timeZone, history };
		history.catch(() => (held = undefined));
	}
	return held!.history;
}

async function read(timeZone: string): Promise<History> {
	const rows: { at: number; minor: number; refunded: number; kind: number; id: number }[] = [];
	const kinds: HistoryKind[] = [];
	const index = new Map<string, number>();
	const kindOf = (kind: HistoryKind): number => {
		const key = `${kind.method} ${kind.currency} ${kind.entry} ${kind.scheme} ${kind.funding} ${kind.issuer}`;
		const at = index.get(key) ?? kinds.push(kind) - 1;
		index.set(key, at);
		return at;
	};
	await eachSettled((row) =>
		rows.push({
			at: row.capturedAt,
			minor: row.minor,
			refunded: row.refunded,
			kind: kindOf({
				method: row.method as Method,
				currency: row.currency,
				entry: row.entry as HistoryKind['entry'],
				scheme: row.scheme,
				funding: row.funding,
				issuer: row.issuer
			}),
			id: row.id
		})
	);
	for (const row of await capturedPayments()) {
		const card = row.card
			? (JSON.parse(row.card) as { scheme: string; funding: string; issuerCountry: string })
			: undefined;
		rows.push({
			at: row.capturedAt!,
			minor: row.taken,
			refunded: row.refunded,
			kind: kindOf({
				method: row.method as Method,
				currency: row.currency,
				entry: 'online',
				scheme: (hasCard(row.method) && card?.scheme) || 'unknown',
				funding: (hasCard(row.method) && card?.funding) || 'unknown',
				issuer: (hasCard(row.method) && card?.issuerCountry) || 'unknown'
			}),
			id: -row.id
		});
	}
	rows.sort((a, b) => a.at - b.at || a.id - b.id);
	const days: string[] = [];
	const dayIndex = new Map<string, number>();
	const known = new Map<number, number>();
	const day = new Uint16Array(rows.length);
	const month = new Uint16Array(rows.length);
	rows.forEach(({ at }, n) => {
		// an hour is within one day of any zone that is a whole number of hours off; asked for once each
		const quarter = Math.floor(at / 900_000);
		let mine = known.get(quarter);
		if (mine === undefined) {
			const text = inZone(new Date(at), timeZone).day;
			mine = dayIndex.get(text) ?? days.push(text) - 1;
			dayIndex.set(text, mine);
			known.set(quarter, mine);
		}
		day[n] = mine;
		const text = days[mine]!;
		month[n] = Number(text.slice(0, 4)) * 12 + Number(text.slice(5, 7)) - 1;
	});
	return {
		count: rows.length,
		kinds,
		kind: Uint16Array.from(rows, (row) => row.kind),
		minor: Float64Array.from(rows, (row) => row.minor),
		refunded: Float64Array.from(rows, (row) => row.refunded),
		row: Float64Array.from(rows, (row) => row.id),
		day,
		month,
		days
	};
}
