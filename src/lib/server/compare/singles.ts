import { inZone } from '../../core/calendar';
import { theBusiness } from '../connect/business';
import { behindWithin, rowsByIds, type Behind, type BehindRow } from '../db';
import { rangeOf, spanOf, type Compared } from './compare';
import { carriedOnly, ownHistory } from '../history/columns';
import { groupOf, type Period } from './kinds';
import type { ShownSide } from './sides';

/** So many single payments stand on a page. */
export const SINGLE = 25;

export interface SinglePayment {
	readonly row: number;
	readonly processorId: string;
	readonly day: string;
	readonly currency: string;
	readonly minor: number;
	/** what one side takes of it; null where it cannot carry it */
	readonly fee: number | null;
	readonly refunded: number;
	readonly givenBack: number;
	/** the day it was ordered, where that was another */
	readonly ordered: string;
}

/**
 * Single payments of a method with what one side takes of each, newest first, for looking into a figure.
 * @param group only those of a group of kinds
 * @param skip so many later ones are left out
 */
export async function singlePayments(
	side: ShownSide,
	compared: Compared,
	{ method, group }: { method?: string; group?: string },
	skip = 0
): Promise<{ rows: SinglePayment[]; more: boolean }> {
	const { timeZone, country } = await theBusiness();
	const history = carriedOnly(await ownHistory(timeZone));
	const [from, to] = rangeOf(history, compared.period);
	const cost = compared.pricedFor(side.id);
	const wanted = history.kinds.map(
		(kind) =>
			(method === undefined || kind.method === method) &&
			(group === undefined || groupOf(kind, country, compared.areas) === group)
	);
	const at: number[] = [];
	let passed = 0;
	for (let n = to - 1; n >= from && at.length <= SINGLE; n--)
		if (wanted[history.kind[n]!] && passed++ >= skip) at.push(n);
	const shown = at.slice(0, SINGLE);
	const known = new Map((await rowsByIds(shown.map((n) => history.row[n]!))).map((row) => [row.row, row]));
	return {
		more: at.length > SINGLE,
		rows: shown.map((n) => {
			const row = history.row[n]!;
			const fee = cost?.fees[n - from] ?? -1;
			const day = history.days[history.day[n]!]!;
			const stored = known.get(row);
			const ordered = stored?.orderedAt ? inZone(new Date(stored.orderedAt), timeZone).day : day;
			return {
				row,
				processorId: stored?.processorId ?? '',
				day,
				currency: history.kinds[history.kind[n]!]!.currency,
				minor: history.minor[n]!,
				fee: fee < 0 ? null : fee,
				refunded: history.refunded[n]!,
				givenBack: cost?.givenBack.get(n - from) ?? 0,
				ordered: ordered === day ? '' : ordered
			};
		})
	};
}

/** Single payments or attempts behind what happened around those of a period. */
export async function behind(
	what: Behind,
	period: Period,
	skip: number
): Promise<{ rows: (BehindRow & { day: string; ordered: string })[]; more: boolean }> {
	const { timeZone } = await theBusiness();
	const rows = await behindWithin(what, spanOf(period, timeZone), skip, SINGLE);
	const dayOf = (at: number) => inZone(new Date(at), timeZone).day;
	return {
		more: rows.length > SINGLE,
		rows: rows
			.slice(0, SINGLE)
			.map((row) => ({ ...row, day: dayOf(row.at), ordered: row.orderedAt ? dayOf(row.orderedAt) : '' }))
	};
}
