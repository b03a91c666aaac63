import { formatNumber } from '$lib/core/money';
import { askedFor } from '$lib/server/choose/asked';
import { comparison, MANY, singlePayments, Stopped } from '$lib/server/choose/compare';
import type { PageServerLoad } from './$types';

/** Longer than this nobody waits for a page: it shows how far the comparison has come instead. */
const PATIENCE_MS = 150;

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:connections');
	const asked = await askedFor(url.searchParams);
	const { all: sides, chosen, period, capital, homeCurrency } = asked;
	const begun = await comparison(chosen, period, asked.capitalPpm);
	const compared = await Promise.race([
		begun.result.catch((error: unknown) => {
			if (error instanceof Stopped) return undefined;
			throw error;
		}),
		new Promise<undefined>((next) => setTimeout(next, begun.payments > MANY && !begun.ended ? 0 : PATIENCE_MS))
	]);
	const common = {
		period,
		capital,
		currency: homeCurrency,
		all: sides.map(({ id, name, kind, card }) => ({ id, name, kind, fits: card.settlement === homeCurrency })),
		sides: chosen.map(({ id, name, kind, href, terms, validFrom }) => ({ id, name, kind, href, terms, validFrom }))
	};
	if (!compared) return { ...common, pending: { key: begun.key, ...begun.progress } };
	const say = (minor: number) => formatNumber({ minor, currency: homeCurrency }, locals.locale);
	const look = (url.searchParams.get('look') ?? '').split('~');
	const lookSide = chosen.find((side) => side.id === look[0]);
	return {
		...common,
		count: compared.count,
		methods: compared.methods.map((row) => ({
			method: row.method,
			name: row.name,
			count: row.count,
			cells: chosen.map((side) => {
				const { count, base, fee, holes, holeWhy, common, rank } = row.costs[side.id]!;
				return {
					side: side.id,
					count,
					base: say(base),
					fee: say(fee),
					bps: base ? Math.round((fee * 1_000_000) / base) / 100 : null,
					holes,
					holeWhy,
					rank,
					commonCount: common.count,
					commonFee: say(common.fee),
					commonBps: common.base ? Math.round((common.fee * 1_000_000) / common.base) / 100 : null
				};
			})
		})),
		totals: chosen.map((side) => {
			const one = compared.sides[side.id]!;
			const follows = one.fee - one.fixed - one.conversion;
			return {
				side: side.id,
				count: one.count,
				holes: one.holes,
				base: say(one.base),
				fee: say(one.fee),
				monthly: say(one.monthly),
				waiting: say(one.waiting),
				total: say(one.total),
				bps: one.base ? Math.round((one.total * 1_000_000) / one.base) / 100 : null,
				split: {
					percentage: follows,
					fixed: one.fixed,
					conversion: one.conversion,
					monthly: one.monthly,
					waiting: one.waiting
				},
				shown: {
					percentage: say(follows),
					fixed: say(one.fixed),
					conversion: say(one.conversion),
					monthly: say(one.monthly),
					waiting: say(one.waiting)
				}
			};
		}),
		kinds: compared.kinds.map((kind) => ({
			name: kind.name,
			count: kind.count,
			bps: chosen.map((side) => kind.bps[side.id] ?? null)
		})),
		single:
			lookSide && look[1]
				? {
						side: lookSide.name,
						method: look[1],
						rows: (await singlePayments(lookSide, compared, look[1])).map((one) => ({
							row: one.row,
							day: one.day,
							amount: `${formatNumber({ minor: one.minor, currency: one.currency }, locals.locale)} ${one.currency}`,
							fee: one.fee === null ? null : say(one.fee)
						}))
					}
				: undefined,
		mix: compared.mix
	};
};
