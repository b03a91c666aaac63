import type { z } from 'zod';
import { DISCREPANCY_STATES, isAccountCause, sayCause, type DiscrepancyState, type FeeCause } from '../../core/fees';
import { readDay } from '../../core/calendar';
import { allTills } from '../accept/tills';
import { accountFees, db, feeMonths, type DiscrepancyRow } from '../db';
import { lastDayOf, readMonthsAsked } from '../fees/overTime';
import { beginRouting, readRoutingQuestion } from '../fees/routing';
import { remaining } from '../fees/view';
import { schemeName } from '../fees/words';
import { notFound, Problem } from './problem';
import type * as schemas from './schemas';

/** Fees of a stretch of months, by everything that tells payments apart. @throws Problem 400 for a month that is none */
export async function readFees(url: URL): Promise<z.output<typeof schemas.Fees>> {
	const read = await readMonthsAsked(url);
	if (read?.wrong) throw new Problem(400, 'Broken request', read.wrong);
	if (!read) throw new Problem(404, 'Not found', 'Nothing was captured yet.');
	const { from, to, currency } = read.asked;
	const [sums, kinds, tills, charges] = await Promise.all([
		feeMonths(from, to),
		db.paymentKinds.find(),
		allTills(),
		accountFees(`${from}-01`, lastDayOf(to))
	]);
	const kindOf = new Map(kinds.map((one) => [one.id, one]));
	const slugs = new Map(tills.map((one) => [one.id, one.slug]));
	return {
		currency,
		from,
		to,
		fees: sums
			.filter((one) => one.currency === currency)
			.map((one) => {
				const kind = kindOf.get(one.kindId)!;
				return {
					month: one.month,
					connection: one.carrier,
					till: slugs.get(one.tillId) ?? null,
					method: kind.method,
					currency: kind.currency,
					scheme: kind.scheme,
					funding: kind.funding,
					issuer: kind.issuer,
					entry: kind.entry,
					payments: one.count,
					grossMinor: one.gross,
					feeMinor: one.fee,
					expectedMinor: one.expected,
					priced: one.priced,
					differenceMinor: one.difference
				};
			}),
		accountMinor: charges
			.filter((one) => one.currency === currency && one.kind !== 'adjustment')
			.reduce((all, one) => all + one.minor, 0)
	};
}

const show = (row: DiscrepancyRow): z.output<typeof schemas.Discrepancy> => ({
	discrepancy: row.id,
	connection: row.connectionId,
	cause: row.cause as FeeCause,
	parameter: row.parameter,
	says: sayCause({ cause: row.cause as FeeCause, parameter: row.parameter }, 'en-GB', schemeName),
	state: row.state as DiscrepancyState,
	currency: row.currency,
	firstDay: row.firstDay,
	lastDay: row.lastDay,
	payments: isAccountCause(row.cause) ? 0 : row.count,
	charges: isAccountCause(row.cause) ? row.count : 0,
	overMinor: row.over,
	underMinor: row.under,
	correctedMinor: row.corrected,
	leftMinor: remaining(row)
});

/** Discrepancies, the newest first. */
export async function listDiscrepancies(
	state: (typeof DISCREPANCY_STATES)[number] | undefined
): Promise<z.output<typeof schemas.Discrepancies>> {
	const rows = await db.discrepancies.find(state ? { state } : {}, { order: [['id', 'DESC']] });
	return { discrepancies: rows.map(show) };
}

/** One discrepancy. @throws Problem 404 */
export async function readDiscrepancy(id: string | undefined): Promise<z.output<typeof schemas.Discrepancy>> {
	const number = Number(id);
	const row = Number.isSafeInteger(number) ? await db.discrepancies.one({ id: number }) : undefined;
	if (!row) throw notFound('There is no such discrepancy.');
	return show(row);
}

/** The cheapest routing of past payments. @throws Problem 400 for a day that is none */
export async function readRouting(url: URL): Promise<z.output<typeof schemas.Routing>> {
	for (const name of ['from', 'to']) {
		const text = url.searchParams.get(name);
		if (text !== null && !readDay(text, 'en-GB'))
			throw new Problem(400, 'Broken request', `${name} is no day: ${text}`);
	}
	const most = url.searchParams.get('most');
	if (most !== null && !/^[1-9]\d{0,3}$/.test(most))
		throw new Problem(400, 'Broken request', `most is no number: ${most}`);
	const [result, tills] = await Promise.all([
		readRoutingQuestion(url.searchParams, 'en-GB').then(async (asked) => (await beginRouting(asked)).result),
		allTills()
	]);
	const { found, groups, connections, moves, counts, today, period, currency } = result;
	const slugs = new Map(tills.map((one) => [one.id, one.slug]));
	return {
		currency,
		from: period.from,
		to: period.to,
		payments: counts.reduce((all, one) => all + one, 0),
		todayMinor: today,
		cheapestMinor: found?.cost ?? null,
		boundMinor: found?.bound ?? null,
		isExact: !!found?.isExact,
		moves: moves.map(({ group, from, to, saves }) => ({
			till: slugs.get(groups[group]!.till) ?? '',
			method: groups[group]!.method,
			currency: groups[group]!.currency,
			from: connections[from]!.id,
			to: connections[to]!.id,
			payments: counts[group]!,
			savesMinor: saves
		}))
	};
}
