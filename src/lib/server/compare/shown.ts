import { daysBetween, formatDay } from '../../core/calendar';
import { sumAround } from '../../core/fees';
import { methodName } from '../../core/lineup';
import { formatNumber } from '../../core/money';
import { BEHIND, LATE_DAYS, type Behind } from '../db';
import type { Asked } from './asked';
import type { Compared } from './compare';
import { behind, singlePayments } from './singles';
import { sayVerdict } from './verdict';

const bpsOf = (cost: number, base: number) => (base ? Math.round((cost * 1_000_000) / base) / 100 : null);

/** A comparison as the page shows it: every figure as text, with what its workings need. */
export function shownComparison(asked: Asked, compared: Compared, locale: string) {
	const { chosen, homeCurrency } = asked;
	const say = (minor: number) => formatNumber({ minor, currency: homeCurrency }, locale);
	return {
		verdict: sayVerdict(asked, compared, locale),
		count: compared.count,
		offline: {
			count: compared.offline.count,
			sums: compared.offline.sums.map((one) => `${formatNumber(one, locale)} ${one.currency}`)
		},
		methods: compared.methods.map((row) => ({
			method: row.method,
			name: row.name,
			count: row.count,
			volume: say(row.volume),
			cells: chosen.map((side) => {
				const { count, base, fee, around, cost, holes, leftOut, leftOutHome, holeWhy, common, rank } =
					row.costs[side.id]!;
				return {
					side: side.id,
					count,
					base: say(base),
					fee: say(fee),
					around: around ? say(around) : undefined,
					cost: say(cost),
					bps: bpsOf(cost, base),
					holes,
					leftOut: leftOut.map((one) => `${formatNumber(one, locale)} ${one.currency}`).join(', '),
					leftOutHome: say(leftOutHome),
					holeWhy,
					rank,
					commonCount: common.count,
					commonCost: say(common.cost),
					commonBps: bpsOf(common.cost, common.base)
				};
			})
		})),
		totals: chosen.map((side) => {
			const one = compared.sides[side.id]!;
			const around = sumAround(one.around);
			const split = {
				percentage: one.fee - one.fixed - one.conversion,
				fixed: one.fixed,
				conversion: one.conversion,
				around,
				monthly: one.monthly,
				waiting: one.waiting
			};
			const { refunds, givenBack, disputes, declined, payouts } = one.around;
			const charge = ({ count, fee }: { count: number; fee: number }) => ({ count, fee: say(fee) });
			return {
				side: side.id,
				count: one.count,
				holes: one.holes,
				base: say(one.base),
				monthly: say(one.monthly),
				months: one.months,
				monthlyFee: say(one.monthlyFee),
				monthlyMinimum: say(one.monthlyMinimum),
				waiting: say(one.waiting),
				averageWait: one.averageWait,
				bankDays: side.bankDays,
				total: say(one.total),
				bps: bpsOf(one.total, one.base),
				split,
				shown: {
					percentage: say(split.percentage),
					fixed: say(split.fixed),
					conversion: say(split.conversion),
					around: say(split.around),
					monthly: say(split.monthly),
					waiting: say(split.waiting)
				},
				around: {
					refunds: charge(refunds),
					givenBack: say(-givenBack),
					disputes: charge(disputes),
					declined: charge(declined),
					payouts: charge(payouts)
				}
			};
		}),
		paysOut: chosen.some((side) => compared.sides[side.id]!.around.payouts.fee > 0),
		kinds: compared.kinds.map((kind) => ({
			name: kind.name,
			count: kind.count,
			cells: chosen.map((side) => {
				const cost = kind.costs[side.id]!;
				return {
					bps: bpsOf(cost.fee + cost.around, cost.base),
					count: cost.count,
					base: say(cost.base),
					fee: say(cost.fee),
					around: cost.around ? say(cost.around) : undefined,
					cost: say(cost.fee + cost.around)
				};
			})
		})),
		happened: shownHappened(compared, locale)
	};
}

const total = (list: readonly { count: number }[]) => list.reduce((all, one) => all + one.count, 0);

function shownHappened({ happened }: Compared, locale: string) {
	const { refunds, disputes, declined, delays } = happened;
	const named = <T extends { method: string }>(list: readonly T[]) =>
		list.map((one) => ({ ...one, name: methodName(one.method as never) }));
	const between = (from: number, to: number) =>
		delays.reduce((all, one) => all + (one.days >= from && one.days < to ? one.count : 0), 0);
	return {
		refunded: {
			count: total(refunds),
			sums: refunds.map(({ currency, count, minor }) => ({
				currency,
				count,
				sum: formatNumber({ minor, currency }, locale)
			}))
		},
		disputed: { count: total(disputes), methods: named(disputes) },
		declined: { count: total(declined), reasons: named(declined) },
		late: {
			count: between(LATE_DAYS, Infinity),
			days: LATE_DAYS,
			told: total(delays),
			spans: [
				{ name: 'within two days', count: between(0, 2) },
				{ name: `two days to ${LATE_DAYS}`, count: between(2, LATE_DAYS) },
				{ name: `${LATE_DAYS} days to 30`, count: between(LATE_DAYS, 30) },
				{ name: '30 days and more', count: between(30, Infinity) }
			]
		}
	};
}

const isBehind = (text: string): text is Behind => (BEHIND as readonly string[]).includes(text);
const TITLES: Record<Behind, string> = {
	refunded: 'Refunded payments',
	disputed: 'Disputed payments',
	declined: 'Declined attempts',
	late: `Came ${LATE_DAYS} days or more after they were ordered`
};

/**
 * The single payments that an address asks to look at: those of a side, by method or kind, or those behind what happened.
 * @param look `side~method~name`, `side~kind~name`, `side~all`, or one of `BEHIND`
 */
export async function lookedAt(asked: Asked, compared: Compared, look: string, skip: number, locale: string) {
	const say = (minor: number, currency: string) => `${formatNumber({ minor, currency }, locale)} ${currency}`;
	const page = { skip, look };
	if (isBehind(look)) {
		const { rows, more } = await behind(look, asked.period, skip);
		return {
			...page,
			title: TITLES[look],
			about: `${formatDay(asked.period.from, locale)} to ${formatDay(asked.period.to, locale)}`,
			columns:
				look === 'declined' ? 'Why' : look === 'late' ? 'Ordered' : look === 'refunded' ? 'Refunded' : 'Disputed',
			more,
			rows: rows.map((one) => ({
				row: one.row,
				day: formatDay(one.day, locale),
				id: one.processorId || (one.row < 0 ? 'own till' : ''),
				own: one.row < 0 ? -one.row : undefined,
				what: `${methodName(one.method as never)}, ${one.source}`,
				amount: say(one.minor, one.currency),
				told:
					look === 'declined'
						? one.reason || 'no reason was told'
						: look === 'late'
							? `${formatDay(one.ordered, locale)}, ${daysBetween(one.ordered, one.day)} days before`
							: say(look === 'refunded' ? one.refunded : one.disputed, one.currency)
			}))
		};
	}
	const [id, by, name = ''] = look.split('~');
	const side = asked.chosen.find((one) => one.id === id);
	if (!side) return undefined;
	const { rows, more } = await singlePayments(
		side,
		compared,
		by === 'kind' ? { group: name } : by === 'method' ? { method: name } : {},
		skip
	);
	return {
		...page,
		title: `${side.name}: ${by === 'method' ? methodName(name as never).toLowerCase() : by === 'kind' ? name : 'all payments'}`,
		about: 'what its rate card takes of each, the latest first',
		columns: 'It takes',
		more,
		rows: rows.map((one) => ({
			row: one.row,
			day: formatDay(one.day, locale),
			id: one.processorId || (one.row < 0 ? 'own till' : ''),
			own: one.row < 0 ? -one.row : undefined,
			what: [
				one.refunded ? `${say(one.refunded, one.currency)} refunded` : '',
				one.ordered ? `ordered ${formatDay(one.ordered, locale)}` : ''
			]
				.filter(Boolean)
				.join(', '),
			amount: say(one.minor, one.currency),
			told:
				one.fee === null
					? 'cannot carry it'
					: `${say(one.fee, asked.homeCurrency)}${one.givenBack ? `, ${say(one.givenBack, asked.homeCurrency)} back` : ''}`
		}))
	};
}
