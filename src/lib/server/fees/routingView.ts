import { counted } from '../../core/counted';
import { daysBetween, formatDay } from '../../core/calendar';
import { takeKinds, methodName, type Method } from '../../core/lineup';
import { formatAmount, formatDecimal } from '../../core/money';
import type { Verdict, Working } from '../../core/workings';
import { allTills } from '../accept/tills';
import { historyOf } from '../accept/lineups';
import { pastKind, priceApart } from '../compare/compare';
import { rateFinder, shiftDay } from '../compare/kinds';
import { allSides } from '../compare/sides';
import { theBusiness } from '../connect/business';
import { db, feeMonths, type PromisedMoveRow } from '../db';
import { carriedOnly, ownHistory } from '../history/columns';
import { inZone } from '../../core/calendar';
import type { RoutingResult } from './routing';
import { sayMonth } from './words';

const BARRED = {
	refused: 'refused',
	domain: 'domain not proven there',
	capture: 'cannot take money later than at once',
	limits: 'outside its limits of amount',
	paused: 'paused or not verified'
} as const;

/** What a result says, as the page shows it. */
export async function showRouting(result: RoutingResult, share: number, locale: string) {
	const { groups, connections, currency, counts, costs, found, moves, today, sides, shifts, period } = result;
	const tills = new Map((await allTills()).map((one) => [one.id, one]));
	const tillName = (id: string) => tills.get(id)?.name ?? id;
	const say = (minor: number) => formatAmount({ minor, currency }, locale);
	const name = (at: number) => connections[at]?.name ?? '';
	const groupName = (at: number) => `${methodName(groups[at]!.method as Method)}, ${groups[at]!.currency}`;
	const days = daysBetween(period.from, period.to) + 1;
	const saves = found ? today - found.cost : 0;
	const payments = counts.reduce((all, one) => all + one, 0);
	const gap = found && found.cost ? ((found.cost - found.bound) / found.cost) * 100 : 0;
	const working: Working = {
		title: 'Cheapest routing',
		about: `${counted(payments, 'payment', locale)} of ${days} days, each priced by the rate card of today: fees, refunds, disputes, declined attempts, payouts, monthly fees and minimums. What waiting for money is worth is not in it.`,
		steps: [
			...sides.flatMap((one, at) =>
				one.today || one.found
					? [
							{
								title: name(at),
								sub: `today ${say(one.today)}, cheapest ${say(one.found)}`,
								sum: say(one.found - one.today)
							}
						]
					: []
			),
			{ title: 'Today', sum: say(today) },
			...(found
				? [
						{ title: 'Cheapest found', sum: say(found.cost) },
						{
							title: 'No arrangement costs less than',
							sub: found.isExact
								? 'all arrangements were tried: it is the cheapest there is'
								: 'every payment at its cheapest, tiers and minimums left aside',
							sum: say(found.bound)
						}
					]
				: []),
			{ title: 'Saved', sum: say(saves), total: true }
		]
	};
	const sure = !found
		? ''
		: found.isExact || gap === 0
			? ' No arrangement is cheaper.'
			: ` It is at most ${formatDecimal(gap, 2, locale)}\u00a0% above the least there could be.`;
	const verdict: Verdict = !payments
		? [
				{ text: 'No verdict: no payment of this time can be routed. ' },
				{ text: 'Import settlement files', href: '/connect/files' },
				{ text: ' or choose other days.' }
			]
		: !found
			? [
					{
						text: 'No arrangement keeps to these limits and carries every payment. Allow more connections, or take back what you refused.',
						tone: 'clay'
					}
				]
			: saves > 0
				? [
						{ text: 'The cheapest arrangement costs ' },
						{ text: `${say(saves)} less`, working, tone: 'moss' },
						{ text: ` in ${days} days than what is published today: ${counted(moves.length, 'move', locale)}.${sure}` }
					]
				: saves < 0
					? [
							{ text: 'Within this limit it costs ' },
							{ text: `${say(-saves)} more`, working, tone: 'clay' },
							{ text: ` in ${days} days than what is published today.${sure}` }
						]
					: [
							{ text: 'What is published today ' },
							{ text: 'is the cheapest arrangement', working, tone: 'moss' },
							{ text: ` for these payments.${sure}` }
						];
	const refused = groups.flatMap((group, at) =>
		group.barred
			.filter((one) => one.why === 'refused')
			.map(({ side }) => ({
				till: group.till,
				method: group.method,
				currency: group.currency,
				connection: connections[side]!.id,
				says: `${tillName(group.till)}: ${groupName(at)} to ${name(side)}`
			}))
	);
	const used = new Set(groups.map((one) => one.today));
	return {
		verdict,
		payments: payments.toLocaleString(locale),
		/** no payment can be routed: there is nothing to compare */
		isEmpty: !payments,
		currency,
		period,
		periodName: `${formatDay(period.from, locale)} to ${formatDay(period.to, locale)}`,
		inUse: used.size,
		connections: connections.map((one) => one.name),
		moves: moves.map(({ group, from, to, saves: alone }) => ({
			group,
			till: tillName(groups[group]!.till),
			tillId: groups[group]!.till,
			what: groupName(group),
			method: groups[group]!.method,
			currency: groups[group]!.currency,
			from: name(from),
			to: name(to),
			toId: connections[to]!.id,
			payments: counts[group]!.toLocaleString(locale),
			taken: formatAmount({ minor: groups[group]!.taken, currency: groups[group]!.currency }, locale),
			saves: say(alone),
			isWorse: alone < 0,
			isMixed: groups[group]!.isMixed
		})),
		alone: say(moves.reduce((all, one) => all + one.saves, 0)),
		together: say(saves),
		refused,
		rows: groups.map((group, at) => ({
			till: tillName(group.till),
			what: groupName(at),
			payments: counts[at]!.toLocaleString(locale),
			cells: connections.map((_, side) => {
				const cost = costs[at]![side];
				const barred = group.barred.find((one) => one.side === side);
				return {
					cost: cost === undefined ? '' : say(cost),
					isToday: group.today === side,
					isFound: found?.routes[at] === side,
					note: cost === undefined ? 'cannot carry them' : barred ? BARRED[barred.why] : ''
				};
			})
		})),
		totals: sides.map((one) => ({ today: say(one.today), found: say(one.found) })),
		total: { today: say(today), found: found ? say(found.cost) : '' },
		leftOut: result.leftOut.map(({ why, count }) =>
			why === 'no till'
				? `${counted(count, 'payment', locale)} of no till`
				: why === 'not offered'
					? `${counted(count, 'payment', locale)} of what no published line-up offers any more, or offers another way`
					: `${counted(count, 'payment', locale)} of a kind that today’s connection does not carry`
		),
		apartByCurrency: result.apartByCurrency,
		share,
		shifts: shifts.slice(0, 8).map((one) => ({
			till: tillName(groups[one.from]!.till),
			from: groupName(one.from),
			to: methodName(groups[one.to]!.method as Method),
			now: say(one.now),
			then: say(one.then),
			saves: say(Math.round(((one.now - one.then) * share) / 100))
		}))
	};
}

export interface KeptPromise {
	readonly till: string;
	readonly slug: string;
	readonly what: string;
	readonly from: string;
	readonly to: string;
	readonly state: string;
	/** of the days it was worked out on, and a month of them */
	readonly promised: string;
	readonly promisedPer100: string;
	readonly months: readonly {
		readonly month: string;
		readonly payments: string;
		readonly saved: string;
		readonly per100: string;
	}[];
	readonly saved: string;
}

/** What drafts made of cheapest routing promised, and month by month what they really saved since they were published. */
export async function keptPromises(locale: string): Promise<KeptPromise[]> {
	const rows = await db.promisedMoves.find({}, { order: [['id', 'DESC']], limit: 200 });
	if (!rows.length) return [];
	const { timeZone, homeCurrency } = await theBusiness();
	const [tills, sides] = await Promise.all([allTills(), allSides()]);
	const latest = new Map<string, PromisedMoveRow>();
	// the same move drafted twice is one promise, the newest
	for (const row of rows) {
		const key = `${row.tillId} ${row.method} ${row.currency} ${row.toId}`;
		if (!latest.has(key)) latest.set(key, row);
	}
	const say = (minor: number) => formatAmount({ minor, currency: homeCurrency }, locale);
	const told: KeptPromise[] = [];
	for (const row of latest.values()) {
		const till = tills.find((one) => one.id === row.tillId);
		const from = sides.find((one) => one.id === row.fromId);
		const to = sides.find((one) => one.id === row.toId);
		if (!till) continue;
		const versions = (await historyOf(till.id)).filter((one) => one.row.at >= row.at).reverse();
		const isIn = (offers: (typeof versions)[number]['offers']) =>
			offers.some(
				(one) =>
					one.on &&
					one.method === row.method &&
					Object.hasOwn(one.routes, row.currency) &&
					one.routes[row.currency]!.first.id === row.toId
			);
		const since = versions.find((one) => isIn(one.offers));
		const until = since && versions.find((one) => one.row.at > since.row.at && !isIn(one.offers));
		const monthsOf = Math.max(1, (daysBetween(row.firstDay, row.lastDay) + 1) / (365 / 12));
		const saved =
			since && from ? await savedSince(row, inZone(new Date(since.row.at), timeZone).day, from, timeZone) : [];
		const sum = saved.reduce((all, one) => all + one.saved, 0);
		told.push({
			till: till.name,
			slug: till.slug,
			what: `${methodName(row.method as Method)}, ${row.currency}`,
			from: from?.name ?? 'a connection that is gone',
			to: to?.name ?? 'a connection that is gone',
			state: !since
				? 'drafted, not published'
				: `published ${formatDay(inZone(new Date(since.row.at), timeZone).day, locale)}${until ? `, changed again ${formatDay(inZone(new Date(until.row.at), timeZone).day, locale)}` : ''}`,
			promised: say(Math.round(row.saves / monthsOf)),
			promisedPer100: row.payments ? say(Math.round((row.saves * 100) / row.payments)) : '',
			months: saved.map((one) => ({
				month: sayMonth(one.month, locale),
				payments: one.count.toLocaleString(locale),
				saved: say(one.saved),
				per100: one.count ? say(Math.round((one.saved * 100) / one.count)) : ''
			})),
			saved: say(sum)
		});
	}
	return told;
}

/** What the payments that the new connection carried would have cost at the old one, less what was charged for them. */
async function savedSince(
	row: PromisedMoveRow,
	since: string,
	from: Awaited<ReturnType<typeof allSides>>[number],
	timeZone: string
): Promise<{ month: string; count: number; saved: number }[]> {
	const history = carriedOnly(await ownHistory(timeZone));
	const isMine = history.kinds.map(
		(kind) =>
			kind.till === row.tillId &&
			kind.method === row.method &&
			kind.currency === row.currency &&
			kind.carrier === row.toId
	);
	const first = history.days.findIndex((day) => day.slice(0, 7) >= since.slice(0, 7));
	if (first < 0) return [];
	let begin = 0;
	while (begin < history.count && history.day[begin]! < first) begin++;
	const own = takeKinds(history, isMine, [begin, history.count]);
	const months = new Map<string, [number, number]>();
	for (let n = 0; n < own.count; n++) {
		const month = history.days[own.day[n]!]!.slice(0, 7);
		const known = months.get(month);
		if (known) known[1] = n + 1;
		else months.set(month, [n, n + 1]);
	}
	const [kinds, finder] = await Promise.all([
		db.paymentKinds.find(),
		rateFinder(shiftDay(`${since.slice(0, 7)}-01`, -12))
	]);
	const ofKind = new Set(
		kinds.filter((one) => one.method === row.method && one.currency === row.currency).map((one) => one.id)
	);
	const told: { month: string; count: number; saved: number }[] = [];
	for (const [month, range] of months) {
		const past = {
			...own,
			kinds: history.kinds.map(pastKind),
			days: history.days,
			month: monthColumn(own.day, history.days)
		};
		const cost = await priceApart(
			past,
			range,
			{ ...from, carries: () => true },
			finder(from.name, from.card.settlement),
			0,
			{ disputes: [], declined: [] }
		);
		const charged = (await feeMonths(month, month)).filter(
			(one) => one.carrier === row.toId && one.tillId === row.tillId && ofKind.has(one.kindId)
		);
		const would = cost.kinds.reduce((all, one) => all + one.fee, 0);
		const was = charged.reduce((all, one) => all + one.fee, 0);
		told.push({ month, count: range[1] - range[0], saved: would - was });
	}
	return told;
}
const monthColumn = (day: Uint16Array, days: readonly string[]): Uint16Array =>
	Uint16Array.from(day, (one) => Number(days[one]!.slice(0, 4)) * 12 + Number(days[one]!.slice(5, 7)) - 1);
