import { addBankDays, addDays, daysBetween, instantIn, TARGET } from '../../core/calendar';
import { counted } from '../../core/counted';
import { useOfMethods, type MethodFacts, type MethodUse } from '../../core/fees';
import { methodName, type Method } from '../../core/lineup';
import { formatAmount, formatDecimal, round, unrounded } from '../../core/money';
import { PAID_STAGES, type Stage } from '../../core/stages';
import type { Verdict, Working } from '../../core/workings';
import { changeDraft, lineUpsOf } from '../accept/lineups';
import { allTills } from '../accept/tills';
import { rateFinder, shiftDay } from '../compare/kinds';
import { theBusiness } from '../connect/business';
import { daysToMoney, db, feeMonths, givenUpOrders, stagesOfMethods } from '../db';
import { allSides } from '../compare/sides';
import { timeNow } from '../signals/clock';
import { lastDayOf, monthsBetween, readMonthsAsked } from './overTime';
import { sayMonth } from './words';

const ENDED = ['failed', 'voided', 'expired'];
/** Minutes that recording one receipt takes, where nobody says otherwise. */
export const MINUTES = 4;
/** What waiting for money costs, percent a year, where nobody says otherwise: as side by side has it. */
const CAPITAL = '4';
const DAY = 86_400_000;

/** Use of the methods of a till over a period of whole months: what its published line-up offers, and what came all the same. */
export async function useAtTill(url: URL, locale: string) {
	const tills = (await allTills()).filter((one) => one.mode === 'live');
	const till = tills.find((one) => one.slug === url.searchParams.get('till')) ?? tills[0];
	const given = new URL(url);
	const read = await readMonthsAsked(given);
	if (!till || !read) return undefined;
	const { homeCurrency, timeZone } = await theBusiness();
	const { to } = read.asked;
	// a year where the address says nothing
	const from = url.searchParams.get('from')
		? read.asked.from
		: `${Number(to.slice(0, 4)) - 1}${to.slice(4)}` < to
			? nextMonth(`${Number(to.slice(0, 4)) - 1}${to.slice(4)}`)
			: to;
	const minutes = Math.min(120, Math.max(0, Number(url.searchParams.get('minutes') ?? MINUTES) || 0));
	const [firstDay, lastDay] = [`${from}-01`, lastDayOf(to)];
	const capital = /^\d{1,2}(\.\d{1,2})?$/.exec(url.searchParams.get('capital') ?? '')?.[0] ?? CAPITAL;
	const span = [
		instantIn(`${firstDay}T00:00`, timeZone)!,
		instantIn(`${shiftDay(lastDay, 1)}T00:00`, timeZone)!
	] as const;
	const [stages, fees, kinds, times, finder, { published, draft }, sides, givenUp] = await Promise.all([
		stagesOfMethods(firstDay, lastDay),
		feeMonths(from, to),
		db.paymentKinds.find(),
		daysToMoney(till.id, ...span),
		rateFinder(shiftDay(lastDay, -40)),
		lineUpsOf(till.id),
		allSides(),
		givenUpOrders(till.id, span[0], Math.min(span[1], timeNow() - DAY))
	]);
	const rateOf = finder('', homeCurrency);
	const worth = (minor: number, currency: string): number => {
		if (currency === homeCurrency) return minor;
		const rate = rateOf(currency, lastDay);
		return rate ? Number(round(unrounded(minor, rate), 'half-even')) : 0;
	};
	const offered = (published?.offers ?? []).filter((one) => one.on);
	const facts = new Map<
		string,
		{ -readonly [K in keyof MethodFacts]: MethodFacts[K] } & { days: { days: number; count: number }[] }
	>();
	const of = (method: string) => {
		const known = facts.get(method) ?? {
			method,
			paid: 0,
			taken: 0,
			priced: 0,
			fees: 0,
			waited: 0n,
			failed: 0,
			givenUp: 0,
			returned: 0,
			disputed: 0,
			days: [],
			byHand: 0
		};
		facts.set(method, known);
		return known;
	};
	for (const offer of offered) of(offer.method);
	for (const one of stages.filter((row) => row.tillId === till.id)) {
		const mine = of(one.method);
		if (PAID_STAGES.includes(one.stage as Stage)) {
			mine.paid += one.count;
			mine.taken += worth(one.taken, one.currency);
		} else if (ENDED.includes(one.stage)) mine.failed += one.count;
		if (one.stage === 'returned') mine.returned += one.count;
		if (one.stage === 'disputed') mine.disputed += one.count;
	}
	const methodOf = new Map(kinds.map((one) => [one.id, one.method]));
	for (const one of fees.filter((row) => row.tillId === till.id)) {
		const mine = of(methodOf.get(one.kindId)!);
		mine.priced += worth(one.gross, one.currency);
		mine.fees += worth(one.fee, one.currency);
	}
	const bankDays = new Map(sides.map((one) => [one.id, one.bankDays]));
	const toBank = new Map<string, number>();
	/** calendar days from a capture to the bank; none where the money needs no processor */
	const daysToBank = (carrier: string, capturedDay: number): number => {
		const key = `${carrier} ${capturedDay}`;
		let days = toBank.get(key);
		if (days === undefined) {
			const day = addDays('1970-01-01', capturedDay);
			days = carrier ? daysBetween(day, addBankDays(day, bankDays.get(carrier) ?? 0, TARGET)) : 0;
			toBank.set(key, days);
		}
		return days;
	};
	for (const one of givenUp) of(one.method).givenUp += one.orders;
	for (const one of times) {
		const mine = of(one.method);
		const waits = (one.days ?? 0) + daysToBank(one.carrier, one.capturedDay);
		mine.waited += BigInt(worth(one.taken, one.currency)) * BigInt(waits);
		mine.byHand += one.byHand;
		if (one.days !== null) mine.days.push({ days: one.days, count: one.count });
	}
	const use = useOfMethods([...facts.values()], minutes, Math.round(Number(capital) * 10_000));
	const percent = (share: number) => `${formatDecimal(share / 100, 1, locale)}\u00a0%`;
	const rows = use.map((one) => ({
		method: one.method,
		name: methodName(one.method as Method),
		offers: offered.filter((offer) => offer.method === one.method).map((offer) => offer.name),
		paid: one.paid.toLocaleString(locale),
		share: percent(one.share),
		taken: formatAmount({ minor: one.taken, currency: homeCurrency }, locale),
		amountShare: percent(one.amountShare),
		cost: one.paid ? formatDecimal(((one.costBps ?? 0) + one.waitingBps) / 100, 2, locale) : '',
		working: costWorking(one, homeCurrency, capital, locale),
		givenUp: one.givenUp ? one.givenUp.toLocaleString(locale) : '',
		failed: one.failed ? one.failed.toLocaleString(locale) : '',
		failedShare: one.failed ? percent(one.failedShare) : '',
		days: one.median === undefined ? '' : `${one.median}${one.slowest !== one.median ? `, ${one.slowest}` : ''}`,
		back: [
			one.returned ? `${counted(one.returned, 'returned', locale, 'returned')}` : '',
			one.disputed ? `${counted(one.disputed, 'disputed', locale, 'disputed')}` : ''
		]
			.filter(Boolean)
			.join(', '),
		minutes: one.minutes ? `${one.minutes.toLocaleString(locale)} min` : '',
		doubts: one.doubts
	}));
	const doubted = rows.filter((one) => one.doubts.length && one.offers.length);
	const period = from === to ? sayMonth(from, locale) : `${sayMonth(from, locale)} to ${sayMonth(to, locale)}`;
	const verdict: Verdict = doubted.length
		? [
				{ text: `${doubted.map((one) => one.name).join(', ')}`, tone: 'clay' },
				{
					text: `${doubted.length === 1 ? ' is' : ' are'} hardly worth it at ${till.name}: ${doubted.map((one) => one.doubts.join(', ')).join('; ')}. A draft without it shows who would be left with what.`
				}
			]
		: [{ text: `Every method that ${till.name} offers is used enough for what it costs.`, tone: 'moss' }];
	return {
		rows,
		verdict,
		period,
		from,
		to,
		minutes,
		capital,
		currency: homeCurrency,
		revision: draft?.row.revision ?? 0,
		hasDraft: !!draft,
		till: { slug: till.slug, name: till.name },
		tills: tills.map((one) => ({ value: one.slug, name: one.name })),
		months: monthsBetween(read.reach.from < from ? read.reach.from : from, read.reach.to > to ? read.reach.to : to).map(
			(month) => ({
				value: month,
				name: sayMonth(month, locale)
			})
		)
	};
}
/** How the cost of a method came about. */
function costWorking(one: MethodUse, currency: string, capital: string, locale: string): Working {
	const say = (minor: number) => formatAmount({ minor, currency }, locale);
	const per100 = (bps: number) => `${formatDecimal(bps / 100, 2, locale)} per 100`;
	return {
		title: `What ${methodName(one.method as Method)} costs`,
		steps: [
			{
				title: 'Fees',
				sub: one.priced
					? `${say(one.fees)} of ${say(one.priced)} captured by processors`
					: 'no processor takes a fee of it',
				sum: per100(one.costBps ?? 0)
			},
			{
				title: 'Waiting for the money',
				sub: `${say(one.waiting)}: what was taken × days from the order to the bank ÷ 365, at ${capital} % a year`,
				sum: per100(one.waitingBps)
			},
			{ title: 'Together', sum: per100((one.costBps ?? 0) + one.waitingBps), total: true }
		]
	};
}
const nextMonth = (month: string): string => shiftDay(lastDayOf(month), 1).slice(0, 7);

/** Makes a draft of a till without a method: its offers are off. @returns the till, or what is wrong */
export async function draftWithout(
	slug: string,
	method: string,
	revision: number,
	by: string
): Promise<{ slug: string } | { problem: string }> {
	const till = (await allTills()).find((one) => one.slug === slug);
	if (!till) return { problem: 'There is no such till.' };
	const { draft, published } = await lineUpsOf(till.id);
	const offers = draft?.offers ?? published?.offers ?? [];
	if (!offers.some((one) => one.method === method && one.on)) return { problem: `${till.name} does not offer it.` };
	if ((draft?.row.revision ?? 0) !== revision)
		return { problem: 'Somebody else changed the draft meanwhile. Look again.' };
	await changeDraft(
		till,
		revision,
		(before) => before.map((one) => (one.method === method ? { ...one, on: false } : one)),
		by,
		`draft without ${methodName(method as Method)}`
	);
	return { slug };
}
