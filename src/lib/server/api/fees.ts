import type { z } from 'zod';
import { DISCREPANCY_STATES, sayCause, type DiscrepancyState, type FeeCause } from '../../core/fees';
import { allTills } from '../accept/tills';
import { accountFees, db, feeMonths, type DiscrepancyRow } from '../db';
import { readFeesAsked } from '../fees/overTime';
import { remaining } from '../fees/view';
import { schemeName } from '../fees/words';
import { notFound, Problem } from './problem';
import type * as schemas from './schemas';

/** Fees of a stretch of months, by everything that tells payments apart. @throws Problem 400 for a month that is none */
export async function readFees(url: URL): Promise<z.output<typeof schemas.Fees>> {
	const read = await readFeesAsked(url);
	if (read?.wrong) throw new Problem(400, 'Broken request', read.wrong);
	if (!read) throw new Problem(404, 'Not found', 'Nothing was captured yet.');
	const { from, to, currency } = read.asked;
	const [sums, kinds, tills, charges] = await Promise.all([
		feeMonths(from, to),
		db.paymentKinds.find(),
		allTills(),
		accountFees(from, to)
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
	payments: row.count,
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
