import { bridgeOf, showBridge, type BridgePeriod } from '../../core/fees';
import { addDays, daysBetween, formatDay, readDay } from '../../core/calendar';
import { counted } from '../../core/counted';
import { methodName } from '../../core/lineup';
import { formatAmount, formatDecimal } from '../../core/money';
import type { Verdict, Working } from '../../core/workings';
import { allTills } from '../accept/tills';
import { theBusiness, today } from '../connect/business';
import { accountFees, db, feeMonths, feeReach, feesOfDays, type FeeSum } from '../db';
import { sayMonth, schemeName } from './words';

/** What fees can be looked at by. */
export const FEE_BY = {
	connection: 'connection',
	method: 'method',
	card: 'card type',
	till: 'till',
	brand: 'brand',
	currency: 'currency paid in'
} as const;
export type FeeBy = keyof typeof FEE_BY;

/** Fees by kind, connection and till, with the names that they are told apart by. */
interface NamedSum extends FeeSum {
	/** what it counts to, by what fees are looked at by: two of one name are two */
	readonly of: Readonly<Record<FeeBy, { readonly id: string; readonly name: string }>>;
	readonly tillSlug: string;
	readonly method: string;
	readonly scheme: string;
	readonly funding: string;
	readonly issuer: string;
}
/** Percent with two places: fees of 142 of 10,000 are 1.42 per 100. */
const per100 = (bps: number, locale: string): string => formatDecimal(bps / 100, 2, locale);
const rateOf = (fee: number, gross: number): number => (gross > 0 ? Math.round((fee / gross) * 10_000) : 0);

const same = (name: string) => ({ id: name, name });
/** Sums of several months as one of each kind, connection, till and currency. */
function withoutMonths(sums: readonly FeeSum[]): FeeSum[] {
	const all = new Map<string, FeeSum>();
	for (const one of sums) {
		const key = `${one.carrier} ${one.tillId} ${one.kindId} ${one.currency}`;
		const known = all.get(key);
		all.set(key, known ? addSums(known, one) : one);
	}
	return [...all.values()];
}
async function nameSums(sums: readonly FeeSum[]): Promise<NamedSum[]> {
	const [connections, tills, brands, kinds] = await Promise.all([
		db.connections.find({}),
		allTills(),
		db.brands.find({}),
		db.paymentKinds.find({})
	]);
	const connection = new Map(connections.map((one) => [one.id, one.name]));
	const till = new Map(tills.map((one) => [one.id, one]));
	const brand = new Map(brands.map((one) => [one.id, one.name]));
	const kind = new Map(kinds.map((one) => [one.id, one]));
	return withoutMonths(sums).map((sum) => {
		const of = kind.get(sum.kindId)!;
		const at = till.get(sum.tillId);
		const hasCard = of.method === 'card' || of.method === 'device-wallet';
		const card = [schemeName(of.scheme), of.funding].filter((one) => one && !/^unknown$/i.test(one)).join(', ');
		return {
			...sum,
			tillSlug: at?.slug ?? '',
			method: of.method,
			scheme: of.scheme,
			funding: of.funding,
			issuer: of.issuer,
			of: {
				connection: { id: sum.carrier, name: connection.get(sum.carrier) ?? sum.carrier },
				method: { id: of.method, name: methodName(of.method as never) },
				card: same(hasCard ? card || 'card of unknown type' : `${methodName(of.method as never)}, no card`),
				till: { id: sum.tillId, name: at?.name ?? 'No till' },
				brand: { id: at?.brandId ?? '', name: brand.get(at?.brandId ?? '') ?? 'No brand' },
				currency: same(of.currency)
			}
		};
	});
}

export interface FeesAsked {
	/** `YYYY-MM-DD`, both included; the period that is looked at */
	readonly from: string;
	readonly to: string;
	/** what it is compared with */
	readonly againstFrom: string;
	readonly againstTo: string;
	readonly by: FeeBy;
	readonly currency: string;
}
/** The same for whole months, `YYYY-MM`. */
export interface MonthsAsked {
	readonly from: string;
	readonly to: string;
	readonly currency: string;
}
const isMonth = (text: string | null): boolean => /^\d{4}-(0[1-9]|1[0-2])$/.test(text ?? '');
const shiftMonth = (month: string, by: number): string => {
	const at = Number(month.slice(0, 4)) * 12 + Number(month.slice(5)) - 1 + by;
	return `${Math.floor(at / 12)}-${String((at % 12) + 1).padStart(2, '0')}`;
};
export const lastDayOf = (month: string): string => addDays(`${shiftMonth(month, 1)}-01`, -1);
export const monthsBetween = (from: string, to: string): string[] => {
	const list: string[] = [];
	for (let at = from; at <= to && list.length < 240; at = shiftMonth(at, 1)) list.push(at);
	return list;
};
const isFirst = (day: string): boolean => day.endsWith('-01');
const isLast = (day: string): boolean => day === lastDayOf(day.slice(0, 7));
/** Whole months by their names, anything else by its days. */
const sayPeriod = (from: string, to: string, locale: string): string => {
	if (!isFirst(from) || !isLast(to))
		return from === to ? formatDay(from, locale) : `${formatDay(from, locale)} to ${formatDay(to, locale)}`;
	const [first, last] = [from.slice(0, 7), to.slice(0, 7)];
	return first === last ? sayMonth(first, locale) : `${sayMonth(first, locale)} to ${sayMonth(last, locale)}`;
};

/** The same within a sentence: `in October 2026`, `on 3 May 2026`, `from … to …`. */
const duringPeriod = (from: string, to: string, locale: string): string =>
	`${isFirst(from) && isLast(to) ? 'in' : from === to ? 'on' : 'from'} ${sayPeriod(from, to, locale)}`;

interface Reach {
	readonly from: string;
	readonly to: string;
}
/** The months of captures, and the one that is looked at where nobody says which: the last whole one. */
async function usualMonth(): Promise<{ reach: Reach; last: string } | undefined> {
	const [reach, day] = await Promise.all([feeReach(), today()]);
	if (!reach) return undefined;
	const current = day.slice(0, 7);
	return { reach, last: reach.to < current ? reach.to : reach.from < current ? shiftMonth(current, -1) : current };
}
async function currencyAsked(url: URL): Promise<string> {
	const { homeCurrency } = await theBusiness();
	const currency = url.searchParams.get('currency') ?? homeCurrency;
	return /^[A-Z]{3}$/.test(currency) ? currency : homeCurrency;
}

/** Reads the whole months that an address asks for; what it does not say is the last whole month. */
export async function readMonthsAsked(
	url: URL
): Promise<{ asked: MonthsAsked; wrong: string; reach: Reach } | undefined> {
	const usual = await usualMonth();
	if (!usual) return undefined;
	let wrong = '';
	const month = (name: string, otherwise: string): string => {
		const text = url.searchParams.get(name);
		if (text === null || text === '') return otherwise;
		if (isMonth(text)) return text;
		wrong = `“${text.slice(0, 20)}” is no month, such as 2026-10.`;
		return otherwise;
	};
	let from = month('from', usual.last);
	let to = month('to', url.searchParams.get('from') ? from : usual.last);
	if (from > to) {
		wrong = 'The period ended before it began; its ends were swapped.';
		[from, to] = [to, from];
	}
	return { wrong, reach: usual.reach, asked: { from, to, currency: await currencyAsked(url) } };
}

/**
 * Reads the two periods that an address asks for, as days or as whole months; what it does not say is the last whole month,
 * against as long a time before it.
 */
export async function readFeesAsked(
	url: URL,
	locale: string
): Promise<{ asked: FeesAsked; wrong: string; reach: Reach } | undefined> {
	const usual = await usualMonth();
	if (!usual) return undefined;
	const given = (name: string) => url.searchParams.get(name) ?? '';
	let wrong = '';
	const day = (name: string, isEnd: boolean): string | undefined => {
		const text = given(name);
		if (!text) return undefined;
		if (isMonth(text)) return isEnd ? lastDayOf(text) : `${text}-01`;
		const found = readDay(text, locale);
		if (!found) wrong = `“${text.slice(0, 20)}” is no month or day, such as 2026-10 or 2026-10-31.`;
		return found ?? undefined;
	};
	const ends = (from: string, to: string): [string, string] => {
		if (from <= to) return [from, to];
		wrong ||= 'The period ended before it began; its ends were swapped.';
		return [to, from];
	};
	const begin = day('from', false);
	const [from, to] = ends(begin ?? `${usual.last}-01`, day('to', true) ?? lastDayOf(begin?.slice(0, 7) ?? usual.last));
	// whole months are held against as many months, days against as many days
	const length = daysBetween(from, to) + 1;
	const whole = isFirst(from) && isLast(to);
	const months = monthsBetween(from.slice(0, 7), to.slice(0, 7)).length;
	const [againstFrom, againstTo] = ends(
		day('againstFrom', false) ?? (whole ? `${shiftMonth(from.slice(0, 7), -months)}-01` : addDays(from, -length)),
		day('againstTo', true) ?? addDays(from, -1)
	);
	const by = given('by');
	return {
		wrong,
		reach: usual.reach,
		asked: {
			from,
			to,
			againstFrom,
			againstTo,
			by: by in FEE_BY ? (by as FeeBy) : 'connection',
			currency: await currencyAsked(url)
		}
	};
}

const addSums = (a: FeeSum, b: FeeSum): FeeSum => ({
	...a,
	count: a.count + b.count,
	gross: a.gross + b.gross,
	fee: a.fee + b.fee,
	told: a.told + b.told,
	expected: a.expected + b.expected,
	priced: a.priced + b.priced,
	difference: a.difference + b.difference,
	differing: a.differing + b.differing
});

/** Fees of a stretch of days in one currency, of all its months together: whole months from their sums, the rest from those of its days. */
async function sumsOfDays(
	months: readonly FeeSum[],
	{ from, to, currency }: { from: string; to: string; currency: string }
): Promise<NamedSum[]> {
	const sums: FeeSum[] = [];
	for (const month of monthsBetween(from.slice(0, 7), to.slice(0, 7))) {
		const [first, last] = [`${month}-01`, lastDayOf(month)];
		const [begin, end] = [first > from ? first : from, last < to ? last : to];
		sums.push(
			...(begin === first && end === last ? months.filter((one) => one.month === month) : await feesOfDays(begin, end))
		);
	}
	return nameSums(sums.filter((one) => one.currency === currency));
}

/** Charges of accounts of a stretch of days, or of months, in one currency, by connection. */
async function chargesOf(from: string, to: string, currency: string) {
	return (await accountFees(from, to)).filter((one) => one.currency === currency && one.kind !== 'adjustment');
}
type Charges = Awaited<ReturnType<typeof chargesOf>>;

/** What tells kinds apart in a bridge: where and how it was paid, and by which card. */
const kindKey = (one: NamedSum): string => [one.carrier, one.method, one.scheme, one.funding, one.issuer].join(' ');
const kindName = (one: NamedSum): string =>
	[one.of.connection.name, one.of.method.name, schemeName(one.scheme), one.funding, one.issuer]
		.filter((part) => part && !/^unknown$/i.test(part))
		.join(', ');
function periodOf(sums: readonly NamedSum[], charges: Charges): BridgePeriod {
	const kinds = new Map<string, { key: string; gross: number; fees: number }>();
	for (const one of sums) {
		const key = kindKey(one);
		const sum = kinds.get(key) ?? { key, gross: 0, fees: 0 };
		kinds.set(key, { key, gross: sum.gross + one.gross, fees: sum.fees + one.fee });
	}
	return { kinds: [...kinds.values()], account: charges.reduce((all, one) => all + one.minor, 0) };
}

/** Fees of a period against another: by month, by what is asked for, and how much of the change is mix, price and account. */
export async function feesOverTime(asked: FeesAsked, locale: string) {
	const reach = (await feeReach())!;
	const first = [reach.from, asked.from.slice(0, 7), asked.againstFrom.slice(0, 7)].sort()[0]!;
	const last = [reach.to, asked.to.slice(0, 7), asked.againstTo.slice(0, 7)].sort().at(-1)!;
	const all = await feeMonths(first, last);
	const currencies = [...new Set(all.map((one) => one.currency))].sort();
	const { currency } = asked;
	const [now, then, allCharges, chargesNow, chargesThen] = await Promise.all([
		sumsOfDays(all, asked),
		sumsOfDays(all, { from: asked.againstFrom, to: asked.againstTo, currency }),
		chargesOf(`${first}-01`, lastDayOf(last), asked.currency),
		chargesOf(asked.from, asked.to, asked.currency),
		chargesOf(asked.againstFrom, asked.againstTo, asked.currency)
	]);
	const say = (minor: number) => formatAmount({ minor, currency: asked.currency }, locale);
	const ofMonth = new Map<string, { gross: number; fee: number }>();
	const addTo = (month: string, gross: number, fee: number) => {
		const known = ofMonth.get(month);
		ofMonth.set(month, { gross: (known?.gross ?? 0) + gross, fee: (known?.fee ?? 0) + fee });
	};
	for (const one of all) if (one.currency === currency) addTo(one.month, one.gross, one.fee);
	for (const one of allCharges) addTo(one.month, 0, one.minor);
	const months = monthsBetween(reach.from, reach.to).map((month) => {
		const { gross, fee } = ofMonth.get(month) ?? { gross: 0, fee: 0 };
		return {
			month,
			name: sayMonth(month, locale),
			gross,
			fee,
			bps: rateOf(fee, gross),
			shownGross: say(gross),
			shownFee: say(fee),
			per100: gross > 0 ? per100(rateOf(fee, gross), locale) : '',
			isIn: month >= asked.from.slice(0, 7) && month <= asked.to.slice(0, 7)
		};
	});
	const groups = groupsOf(now, then, chargesNow, asked, locale);
	const bridge = bridgeOf(periodOf(then, chargesThen), periodOf(now, chargesNow));
	const shown = bridge && showBridge(bridge);
	const named = new Map([...then, ...now].map((one) => [kindKey(one), kindName(one)]));
	/** where the payments of a kind are listed */
	const where = new Map(
		[...then, ...now].map((one) => [
			kindKey(one),
			{
				via: one.carrier,
				method: one.method,
				...(/^(|unknown)$/.test(one.scheme) ? {} : { scheme: one.scheme }),
				...(/^(|unknown)$/.test(one.funding) ? {} : { funding: one.funding })
			}
		])
	);
	const steps =
		bridge &&
		shown!.kinds
			.map((one, at) => ({ ...one, ...bridge.kinds[at]!, mix: one.mix, price: one.price }))
			.filter((one) => one.mix || one.price)
			.sort(
				(a, b) => Math.abs(b.mix) + Math.abs(b.price) - Math.abs(a.mix) - Math.abs(a.price) || (a.key < b.key ? -1 : 1)
			)
			.map((one) => ({
				key: one.key,
				name: named.get(one.key)!,
				mix: signed(one.mix, locale),
				price: signed(one.price, locale),
				before: one.from.gross ? per100(rateOf(one.from.fees, one.from.gross), locale) : '',
				after: one.to.gross ? per100(rateOf(one.to.fees, one.to.gross), locale) : '',
				href: `/takings?${new URLSearchParams(Object.entries({ ...where.get(one.key), from: asked.againstFrom < asked.from ? asked.againstFrom : asked.from, to: asked.to > asked.againstTo ? asked.to : asked.againstTo }))}`,
				volumeBefore: say(one.from.gross),
				volumeAfter: say(one.to.gross)
			}));
	return {
		currencies,
		months,
		groups,
		period: sayPeriod(asked.from, asked.to, locale),
		against: sayPeriod(asked.againstFrom, asked.againstTo, locale),
		bridge: shown && {
			from: per100(shown.from, locale),
			to: per100(shown.to, locale),
			change: signed(shown.to - shown.from, locale),
			mix: signed(shown.mix, locale),
			price: signed(shown.price, locale),
			account: signed(shown.account, locale),
			bps: { from: shown.from, mix: shown.mix, price: shown.price, account: shown.account, to: shown.to },
			steps: steps!,
			behind: counted(steps!.length, 'kind of payment', locale, 'kinds of payment')
		},
		verdict: verdictOf(asked, shown, now, then, locale),
		sums: {
			fee: now.reduce((sum, one) => sum + one.fee, 0),
			expected: now.reduce((sum, one) => sum + one.expected, 0),
			difference: now.reduce((sum, one) => sum + one.difference, 0),
			account: chargesNow.reduce((sum, one) => sum + one.minor, 0)
		},
		streams: streamsOf(now, asked, locale)
	};
}

/** Where the money of a period goes: from till by method to connection, and from there to the bank, less the fees on the way. */
function streamsOf(now: readonly NamedSum[], { from, to, currency }: FeesAsked, locale: string) {
	const streams = new Map<
		string,
		{ till: string; method: string; connection: string; gross: number; fee: number; query: Record<string, string> }
	>();
	for (const one of now) {
		const key = `${one.of.till.id} ${one.method} ${one.carrier}`;
		const known = streams.get(key) ?? {
			till: one.of.till.name,
			method: one.of.method.name,
			connection: one.of.connection.name,
			gross: 0,
			fee: 0,
			query: {
				via: one.carrier,
				method: one.method,
				...(one.tillSlug ? { till: one.tillSlug } : {}),
				from,
				to
			}
		};
		streams.set(key, { ...known, gross: known.gross + one.gross, fee: known.fee + one.fee });
	}
	const say = (minor: number) => formatAmount({ minor, currency }, locale);
	return [...streams.values()]
		.filter((one) => one.gross > 0)
		.sort((a, b) => b.gross - a.gross)
		.map((one) => ({
			till: one.till,
			method: one.method,
			connection: one.connection,
			gross: one.gross,
			fee: one.fee,
			shownGross: say(one.gross),
			shownFee: say(one.fee),
			shownBank: say(one.gross - one.fee),
			href: `/takings?${new URLSearchParams(one.query)}`
		}));
}
const signed = (bps: number, locale: string): string =>
	bps === 0 ? per100(0, locale) : `${bps > 0 ? '+' : '−'}${per100(Math.abs(bps), locale)}`;

function groupsOf(
	now: readonly NamedSum[],
	then: readonly NamedSum[],
	charges: Charges,
	{ by, currency }: FeesAsked,
	locale: string
) {
	const groups = new Map<
		string,
		{
			name: string;
			count: number;
			gross: number;
			fee: number;
			before: number;
			beforeFee: number;
			difference: number;
		}
	>();
	const of = ({ id, name }: { id: string; name: string }) => {
		const known = groups.get(id) ?? { name, count: 0, gross: 0, fee: 0, before: 0, beforeFee: 0, difference: 0 };
		groups.set(id, known);
		return known;
	};
	for (const one of now) {
		const group = of(one.of[by]);
		group.count += one.count;
		group.gross += one.gross;
		group.fee += one.fee;
		group.difference += one.difference;
	}
	for (const one of then) {
		const group = of(one.of[by]);
		group.before += one.gross;
		group.beforeFee += one.fee;
	}
	const account = charges.reduce((sum, one) => sum + one.minor, 0);
	const total = [...groups.values()].reduce(
		(sum, one) => ({ count: sum.count + one.count, gross: sum.gross + one.gross, fee: sum.fee + one.fee }),
		{ count: 0, gross: 0, fee: 0 }
	);
	const say = (minor: number) => formatAmount({ minor, currency }, locale);
	const rows = [...groups]
		.sort(([a, x], [b, y]) => y.fee - x.fee || (a < b ? -1 : 1))
		.map(([id, one]) => ({
			id,
			name: one.name,
			count: one.count.toLocaleString(locale),
			gross: say(one.gross),
			fee: say(one.fee),
			share: total.fee > 0 ? `${formatDecimal((one.fee / total.fee) * 100, 1, locale)}\u00a0%` : '',
			per100: one.gross > 0 ? per100(rateOf(one.fee, one.gross), locale) : '',
			before: one.before > 0 ? per100(rateOf(one.beforeFee, one.before), locale) : '',
			difference: one.difference ? say(one.difference) : ''
		}));
	return {
		rows,
		account: account ? say(account) : '',
		total: {
			count: total.count.toLocaleString(locale),
			gross: say(total.gross),
			fee: say(total.fee + account),
			per100: total.gross > 0 ? per100(rateOf(total.fee + account, total.gross), locale) : ''
		}
	};
}

/** The answer in a sentence: what was paid, how much more or less than before, and what moved it most. */
function verdictOf(
	asked: FeesAsked,
	shown: ReturnType<typeof showBridge> | undefined,
	now: readonly NamedSum[],
	then: readonly NamedSum[],
	locale: string
): Verdict {
	const period = sayPeriod(asked.from, asked.to, locale);
	const during = (from: string, to: string) => duringPeriod(from, to, locale);
	if (!now.length)
		return [
			{ text: `Nothing was captured in ${asked.currency} ${during(asked.from, asked.to)}, so there is no rate.` }
		];
	const [gross, fee] = [now.reduce((sum, one) => sum + one.gross, 0), now.reduce((sum, one) => sum + one.fee, 0)];
	const against = sayPeriod(asked.againstFrom, asked.againstTo, locale);
	if (!shown)
		return [
			{
				text: `You paid ${per100(rateOf(fee, gross), locale)} per 100 ${during(asked.from, asked.to)}. Nothing was captured ${during(asked.againstFrom, asked.againstTo)}, so there is nothing to compare with.`
			}
		];
	const change = shown.to - shown.from;
	const working: Working = {
		title: `${period} against ${against}`,
		about:
			'Fees of every 100 captured. Mix: other shares of kinds of payment. Price: the same kinds, charged otherwise. Account: charges that belong to no payment.',
		steps: [
			{ title: against, sum: per100(shown.from, locale) },
			{ title: 'Mix', sum: signed(shown.mix, locale) },
			{ title: 'Price', sum: signed(shown.price, locale) },
			{ title: 'Account', sum: signed(shown.account, locale) },
			{ title: period, sum: per100(shown.to, locale), total: true }
		]
	};
	const said =
		change === 0 ? ', as much as' : `, ${per100(Math.abs(change), locale)} ${change > 0 ? 'more' : 'less'} than`;
	const reasons = reasonsOf(shown, now, then, change, locale);
	return [
		{ text: 'You paid ' },
		{
			text: `${per100(shown.to, locale)} per 100`,
			working,
			...(change > 0 ? { tone: 'clay' as const } : change < 0 ? { tone: 'moss' as const } : {})
		},
		{
			text: ` ${during(asked.from, asked.to)}${said} ${during(asked.againstFrom, asked.againstTo)}${reasons ? `: ${reasons}` : ''}.`
		}
	];
}

/** The two parts that moved a rate most, each by the connection or the method that brought it. */
function reasonsOf(
	shown: ReturnType<typeof showBridge>,
	now: readonly NamedSum[],
	then: readonly NamedSum[],
	change: number,
	locale: string
): string {
	const connectionOf = new Map([...then, ...now].map((one) => [kindKey(one), one.of.connection.name]));
	const prices = new Map<string, number>();
	for (const one of shown.kinds) {
		const name = connectionOf.get(one.key) ?? one.key;
		prices.set(name, (prices.get(name) ?? 0) + one.price);
	}
	const parts: { size: number; says: string }[] = [...prices]
		.filter(([, size]) => size !== 0)
		.map(([name, size]) => ({ size, says: `because ${name} charged ${size > 0 ? 'more' : 'less'}` }));
	if (shown.mix)
		parts.push({
			size: shown.mix,
			says: `because ${shown.mix > 0 ? 'dearer' : 'cheaper'} kinds of payment had a larger share`
		});
	if (shown.account)
		parts.push({
			size: shown.account,
			says: `because charges of the accounts were ${shown.account > 0 ? 'larger' : 'smaller'}`
		});
	parts.sort((a, b) => Math.abs(b.size) - Math.abs(a.size));
	return parts
		.slice(0, 2)
		.map(
			({ size, says }) =>
				`${per100(Math.abs(size), locale)} ${Math.sign(size) === Math.sign(change) || !change ? '' : 'the other way '}${says}`
		)
		.join(', ');
}

/** Periods that are often looked at, each with its address; the one before it stands against it. */
export function usualSpans({ by, currency, ...asked }: FeesAsked, day: string) {
	const month = day.slice(0, 7);
	const quarter = shiftMonth(month, -((Number(month.slice(5)) - 1) % 3));
	const spans: [string, string, string][] = [
		['This month', `${month}-01`, day],
		['Last month', `${shiftMonth(month, -1)}-01`, lastDayOf(shiftMonth(month, -1))],
		['Last quarter', `${shiftMonth(quarter, -3)}-01`, lastDayOf(shiftMonth(quarter, -1))],
		['Twelve months', `${shiftMonth(month, -12)}-01`, lastDayOf(shiftMonth(month, -1))]
	];
	return spans.map(([name, from, to]) => ({
		name,
		href: `?${new URLSearchParams({ from, to, by, currency })}`,
		isShown: from === asked.from && to === asked.to
	}));
}
