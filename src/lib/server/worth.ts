import { addDays, formatDay, formatMoment, inZone } from '../core/calendar';
import { formatAmount } from '../core/money';
import type { Working, WorkingStep } from '../core/workings';
import { lineUpsOf } from './accept/lineups';
import { openPauses } from './accept/pauses';
import { allTills, unmetAt } from './accept/tills';
import { theBusiness } from './connect/business';
import { allConnections } from './connect/connections';
import { domainTable } from './connect/domains';
import { arrivalCounts, db, feeDifferences, onItsWay, sumsOfDays, type DaySum } from './db';
import { openProposals } from './ratecards';
import { timeNow } from './signals/clock';

// What is worth knowing of a section now, with figures: the margin says it as long as nothing was pressed.

const DAY = 86_400_000;
const DAYS = 30;
const FEE_DAYS = 90;

const plural = (count: number, one: string, several = `${one}s`) => `${count} ${count === 1 ? one : several}`;

/** Takings of a stretch of days as steps: one a currency, the most first. */
function takingSteps(rows: readonly DaySum[], locale: string, link: WorkingStep['link']): WorkingStep[] {
	const sums = new Map<string, { count: number; minor: number }>();
	for (const { currency, paid, taken } of rows) {
		const one = sums.get(currency) ?? { count: 0, minor: 0 };
		sums.set(currency, { count: one.count + paid, minor: one.minor + taken });
	}
	const list = [...sums].filter(([, one]) => one.count > 0).sort((a, b) => b[1].count - a[1].count);
	if (!list.length) return [{ title: 'Nothing was taken', link }];
	return list.map(([currency, { count, minor }], at) => ({
		title: `${currency} taken`,
		sub: `${count.toLocaleString(locale)} payment${count === 1 ? '' : 's'}`,
		sum: formatAmount({ minor, currency }, locale),
		...(at === 0 ? { link } : {})
	}));
}

/** Connect: what is connected, what nobody confirmed, what runs out. */
export async function worthOfConnect(locale: string): Promise<Working> {
	const now = timeNow();
	const { timeZone } = await theBusiness();
	const [connections, proposals, domains, fees] = await Promise.all([
		allConnections(),
		openProposals(),
		domainTable(),
		feeDifferences(now - FEE_DAYS * DAY)
	]);
	if (!connections.length)
		return {
			title: 'Nothing is connected',
			steps: [
				{
					title: 'Processors to choose from',
					sub: 'with what each carries and charges',
					link: { href: '/connect/processors', label: 'Open the catalogue' }
				}
			]
		};
	const live = connections.filter((row) => row.mode === 'live');
	const unwell = live.filter((row) => !row.verified || row.failing || row.paused);
	const keyed = live.filter((row) => row.keyMadeAt !== null).sort((a, b) => a.keyMadeAt! - b.keyMadeAt!);
	const [oldest] = keyed;
	const heard = live.filter((row) => row.hookHeardAt).sort((a, b) => b.hookHeardAt! - a.hookHeardAt!);
	const lacking = domains.filter(
		(one) => one.proofs.some((proof) => proof.state !== 'proven') || one.codes.some((code) => code.state !== 'present')
	);
	const open = live.filter((row) => proposals.some((one) => one.connectionId === row.id));
	return {
		title: 'Your connections now',
		steps: [
			{
				...(unwell.length ? { mark: 'no' as const } : {}),
				title: 'Live',
				sub: unwell.length
					? `not working: ${unwell.map((row) => row.name).join(', ')}`
					: live.length
						? 'all of them work'
						: 'none yet: no payer can pay by card',
				sum: String(live.length)
			},
			...(open.length
				? [
						{
							title: 'Rate cards that nobody confirmed',
							sub: `${open.map((row) => row.name).join(', ')}: no fee is expected by them yet`,
							sum: String(open.length),
							link: { href: `/connect/connections/${open[0]!.id}/rates`, label: `See ${open[0]!.name}’s` }
						}
					]
				: []),
			...(oldest
				? [
						{
							title: 'Oldest keys',
							sub: `${oldest.name}; a reminder comes after a year`,
							sum: plural(Math.max(0, Math.floor((now - oldest.keyMadeAt!) / DAY)), 'day')
						}
					]
				: []),
			...(heard[0]
				? [
						{
							title: 'Last notification',
							sub: `${heard[0].name}, ${formatMoment(heard[0].hookHeardAt!, locale, timeZone)}`
						}
					]
				: []),
			...(lacking.length
				? [
						{
							mark: 'no' as const,
							title: 'Domains that lack a proof or code',
							sub: lacking.map((one) => one.domain).join(', '),
							sum: String(lacking.length),
							link: { href: '/connect/domains', label: 'See the domains' }
						}
					]
				: []),
			...fees.map(({ currency, count, minor }, at) => ({
				title: `Charged ${minor >= 0 ? 'over' : 'under'} the contract`,
				sub: `${plural(count, 'payment')} of the last ${FEE_DAYS} days`,
				sum: formatAmount({ minor: Math.abs(minor), currency }, locale),
				...(at === 0 ? { link: { href: '/takings?trouble=fee', label: 'See these payments' } } : {})
			}))
		]
	};
}

/** Accept: what payers met lately, and what waits. */
export async function worthOfAccept(locale: string): Promise<Working> {
	const now = timeNow();
	const { timeZone } = await theBusiness();
	const to = inZone(new Date(now), timeZone).day;
	const [tills, pauses, rows] = await Promise.all([allTills(), openPauses(), sumsOfDays(addDays(to, 1 - DAYS), to)]);
	const versions = await Promise.all(tills.map(async (till) => ({ till, ...(await lineUpsOf(till.id)) })));
	const drafts = versions.filter((one) => one.draft);
	const met = (await Promise.all(tills.map((till) => unmetAt(till.id, now - DAYS * DAY)))).flatMap((sums, at) =>
		sums.filter((one) => one.kind === 'nothing offered').map((one) => ({ ...one, till: tills[at]! }))
	);
	const last = versions
		.filter((one) => one.published)
		.sort((a, b) => (b.published!.row.at ?? 0) - (a.published!.row.at ?? 0))[0];
	const mine = rows.filter((row) => tills.some((till) => till.id === row.tillId));
	return {
		title: `The last ${DAYS} days`,
		steps: [
			...takingSteps(mine, locale, { href: '/takings/days?by=till', label: 'By day and till' }),
			...(met.length
				? met.map((one) => ({
						mark: 'no' as const,
						title: `Met nothing to pay by at ${one.till.name}`,
						sub: plural(one.count, 'payer'),
						sum: formatAmount({ minor: one.minor, currency: one.currency }, locale),
						link: { href: `/accept/tills/${one.till.slug}/situations`, label: 'See the situations' }
					}))
				: [{ mark: 'yes' as const, title: 'Nobody met an empty checkout' }]),
			...drafts.map(({ till }) => ({
				title: `${till.name} has a draft`,
				sub: 'payers do not meet it before it is published',
				link: { href: `/accept/tills/${till.slug}`, label: 'Open the draft' }
			})),
			...(pauses.length
				? [
						{
							title: 'Paused now',
							sum: String(pauses.length),
							link: { href: '/accept/pauses', label: 'See what is paused' }
						}
					]
				: []),
			...(last
				? [
						{
							title: 'Published last',
							sub: `${last.till.name}, version ${last.published!.row.number}, ${formatMoment(last.published!.row.at, locale, timeZone)}`
						}
					]
				: [])
		]
	};
}

/** Takings: what came today, and what is on its way. */
export async function worthOfTakings(locale: string): Promise<Working> {
	const { timeZone } = await theBusiness();
	const to = inZone(new Date(timeNow()), timeZone).day;
	const [today, way] = await Promise.all([sumsOfDays(to, to), onItsWay(addDays(to, 1 - DAYS))]);
	const sums = new Map<string, { count: number; minor: number }>();
	for (const { currency, count, minor } of way) {
		const one = sums.get(currency) ?? { count: 0, minor: 0 };
		sums.set(currency, { count: one.count + count, minor: one.minor + minor });
	}
	return {
		title: `Today, ${formatDay(to, locale)}`,
		steps: [
			...takingSteps(today, locale, { href: '/takings/days', label: 'By day' }),
			...[...sums].map(([currency, { count, minor }], at) => ({
				title: `On its way, ${currency}`,
				sub: `${plural(count, 'payment')} of the last ${DAYS} days, not paid out yet`,
				sum: formatAmount({ minor, currency }, locale),
				...(at === 0 ? { link: { href: '/takings/awaited', label: 'What is expected, by day' } } : {})
			}))
		]
	};
}

/** Watch: what arrived, what does not fit, and who was heard last. */
export async function worthOfWatch(locale: string): Promise<Working> {
	const { timeZone } = await theBusiness();
	const week = inZone(new Date(timeNow() - 7 * DAY), timeZone).day;
	const [counts, connections, refused] = await Promise.all([
		arrivalCounts(),
		allConnections(),
		db.refusedArrivals.find({}, { order: [['lastAt', 'DESC']], limit: 50 })
	]);
	const lately = refused.filter((one) => one.day >= week).reduce((sum, one) => sum + one.count, 0);
	const [stuck, retry] = [counts.get('stuck') ?? 0, counts.get('retry') ?? 0];
	return {
		title: 'Notifications now',
		steps: [
			...(stuck
				? [
						{
							mark: 'no' as const,
							title: 'Stuck',
							sub: 'they do not fit what is known here',
							sum: String(stuck),
							link: { href: '/watch?state=stuck', label: 'See what is stuck' }
						}
					]
				: []),
			...(retry ? [{ title: 'Tried again by themselves', sum: String(retry) }] : []),
			...(lately
				? [{ title: 'Refused this week', sub: 'without a right signature; counted, not stored', sum: String(lately) }]
				: []),
			...connections
				.filter((row) => row.mode === 'live')
				.sort((a, b) => (b.hookHeardAt ?? 0) - (a.hookHeardAt ?? 0))
				.map((row) => ({
					...(row.hookHeardAt ? {} : { mark: 'no' as const }),
					title: row.name,
					sub: row.hookHeardAt ? `heard ${formatMoment(row.hookHeardAt, locale, timeZone)}` : 'never heard',
					...(row.hookHeardAt
						? {}
						: { link: { href: `/connect/connections/${row.id}/notifications`, label: 'Set up its notifications' } })
				}))
		]
	};
}
