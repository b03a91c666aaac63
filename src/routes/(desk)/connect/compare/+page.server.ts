import { formatNumber } from '$lib/core/money';
import { inZone, addDays } from '$lib/core/calendar';
import { compare, singlePayments } from '$lib/server/choose/compare';
import { ownHistory } from '$lib/server/choose/history';
import { mixOf } from '$lib/server/choose/mix';
import { allSides } from '$lib/server/choose/sides';
import { theBusiness } from '$lib/server/connect/business';
import type { PageServerLoad } from './$types';

const isDay = (text: string | null): text is string =>
	!!text && /^\d{4}-\d{2}-\d{2}$/.test(text) && !Number.isNaN(Date.parse(text));

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:connections');
	const { timeZone, homeCurrency } = await theBusiness();
	const [sides, history] = await Promise.all([allSides(), ownHistory(timeZone)]);
	const today = inZone(new Date(), timeZone).day;
	const last = history.days[history.day.at(-1) ?? 0] ?? today;
	const [from, to] = [url.searchParams.get('from'), url.searchParams.get('to')];
	const period = { from: isDay(from) ? from : addDays(last, -364), to: isDay(to) ? to : last };
	if (period.from > period.to) [period.from, period.to] = [period.to, period.from];
	const wanted = (url.searchParams.get('with') ?? '').split(',').filter(Boolean);
	const alone = sides.filter((side) => side.card.settlement === homeCurrency);
	const asked = alone.filter((side) => wanted.includes(side.id));
	// one side by itself is put beside all connections
	const chosen =
		asked.length > 1 ? asked : alone.filter((side) => side.kind === 'connection' || wanted.includes(side.id));
	const capital = /^\d{1,2}(\.\d{1,2})?$/.exec(url.searchParams.get('capital') ?? '')?.[0] ?? '4';
	const compared = await compare(chosen, period, Math.round(Number(capital) * 10_000));
	const say = (minor: number) => formatNumber({ minor, currency: homeCurrency }, locals.locale);
	const look = (url.searchParams.get('look') ?? '').split('~');
	const lookSide = chosen.find((side) => side.id === look[0]);
	return {
		period,
		capital,
		currency: homeCurrency,
		count: compared.count,
		all: sides.map(({ id, name, kind, card }) => ({ id, name, kind, fits: card.settlement === homeCurrency })),
		sides: chosen.map(({ id, name, kind, href, terms, validFrom }) => ({ id, name, kind, href, terms, validFrom })),
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
		mix: await mixOf(chosen, period)
	};
};
