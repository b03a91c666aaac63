import { plainAmount } from '$lib/core/money';
import { askedFor } from '$lib/server/compare/asked';
import { compare } from '$lib/server/compare/compare';
import { csvFile } from '$lib/server/csv';
import type { RequestHandler } from './$types';

/** The comparison of an address as CSV: one line a side and method, then what comes beside payments, and the whole. */
export const GET: RequestHandler = async ({ url, locals }) => {
	const { chosen: sides, period, capitalPpm, homeCurrency } = await askedFor(url.searchParams, locals.locale);
	const compared = await compare(sides, period, capitalPpm);
	const say = (minor: number) => plainAmount({ minor, currency: homeCurrency });
	const lines = sides.flatMap((side) => [
		...compared.methods.map((row) => {
			const one = row.costs[side.id]!;
			return {
				side: side.name,
				method: row.name,
				currency: homeCurrency,
				payments: one.count,
				volume: say(one.base),
				fees: say(one.fee),
				around: say(one.around),
				cost: say(one.cost),
				cannot_carry: one.holes,
				cannot_carry_volume: say(one.leftOutHome),
				why: one.holeWhy,
				rank: one.rank ?? ''
			};
		}),
		...(['payouts', 'monthly', 'waiting', 'total'] as const).map((part) => ({
			side: side.name,
			method: part === 'total' ? 'in all' : part,
			currency: homeCurrency,
			payments: '',
			volume: '',
			fees: '',
			around: '',
			cost: say(part === 'payouts' ? compared.sides[side.id]!.around.payouts.fee : compared.sides[side.id]![part]),
			cannot_carry: '',
			cannot_carry_volume: '',
			why: '',
			rank: ''
		}))
	]);
	return csvFile(`side-by-side-${period.from}-${period.to}.csv`, lines);
};
