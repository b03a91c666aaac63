import { plainAmount } from '$lib/core/money';
import { addDays, inZone } from '$lib/core/calendar';
import { compare } from '$lib/server/choose/compare';
import { allSides } from '$lib/server/choose/sides';
import { theBusiness } from '$lib/server/connect/business';
import { stringify } from 'csv-stringify/sync';
import type { RequestHandler } from './$types';

/** The comparison of an address as CSV: one line a side and method, and one with what comes by the month. */
export const GET: RequestHandler = async ({ url }) => {
	const { timeZone, homeCurrency } = await theBusiness();
	const today = inZone(new Date(), timeZone).day;
	const q = (name: string) => url.searchParams.get(name) ?? '';
	const period = { from: q('from') || addDays(today, -364), to: q('to') || today };
	const wanted = q('with').split(',').filter(Boolean);
	const sides = (await allSides()).filter(
		(side) => side.card.settlement === homeCurrency && (!wanted.length || wanted.includes(side.id))
	);
	const compared = await compare(sides, period, Math.round(Number(q('capital') || '4') * 10_000));
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
