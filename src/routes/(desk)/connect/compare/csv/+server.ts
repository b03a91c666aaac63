import { plainAmount } from '$lib/core/money';
import { askedFor } from '$lib/server/choose/asked';
import { compare } from '$lib/server/choose/compare';
import { stringify } from 'csv-stringify/sync';
import type { RequestHandler } from './$types';

/** The comparison of an address as CSV: one line a side and method, and one with what comes by the month. */
export const GET: RequestHandler = async ({ url }) => {
	const { chosen: sides, period, capitalPpm, homeCurrency } = await askedFor(url.searchParams);
	const compared = await compare(sides, period, capitalPpm);
	const say = (minor: number) => plainAmount({ minor, currency: homeCurrency });
	const lines = sides.flatMap((side) => [
		...compared.methods.map((row) => {
			const one = row.costs[side.id]!;
			return {
				side: side.name,
				method: row.name,
				payments: one.count,
				volume: say(one.base),
				cost: say(one.fee),
				cannot_carry: one.holes,
				why: one.holeWhy,
				rank: one.rank ?? ''
			};
		}),
		...(['monthly', 'waiting'] as const).map((part) => ({
			side: side.name,
			method: part,
			payments: '',
			volume: '',
			cost: say(compared.sides[side.id]![part]),
			cannot_carry: '',
			why: '',
			rank: ''
		}))
	]);
	return new Response(stringify(lines, { header: true, escape_formulas: true, bom: true }), {
		headers: {
			'content-type': 'text/csv; charset=utf-8',
			'content-disposition': `attachment; filename="side-by-side-${period.from}-${period.to}.csv"`
		}
	});
};
