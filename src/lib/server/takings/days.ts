import { addDays, daysBetween, type Day } from '../../core/calendar';
import { methodName } from '../../core/lineup';
import { convert, findRate, formatAmount, formatNumber, plainAmount, type Amount } from '../../core/money';
import { snapshot } from '../accept/snapshot';
import { allTills } from '../accept/tills';
import { today } from '../connect/business';
import { daySumsBy, onItsWay, type DayBy } from '../db';

export const DAYS_BY = ['till', 'method', 'connection', 'currency'] as const;

/** Money of so many days before the last may still be on its way. */
const WAY_DAYS = 30;
/** At most so many days stand in one table. */
const MOST = 400;

export interface DaysAsked {
	readonly from: Day;
	readonly to: Day;
	readonly by: DayBy;
	readonly currency?: string;
}

/** Reads a stretch of days; the last thirty where nothing is asked. */
export async function readDays(
	url: URL,
	read: (text: string) => Day | undefined
): Promise<DaysAsked & { wrong?: string }> {
	const last = await today();
	const [from, to] = ['from', 'to'].map((name) => read(url.searchParams.get(name) ?? ''));
	const by = DAYS_BY.find((one) => one === url.searchParams.get('by')) ?? 'till';
	const asked = { by, currency: url.searchParams.get('currency') || undefined };
	const end = to ?? last;
	const begin = from ?? addDays(end, -29);
	const unread = ['from', 'to']
		.map((name) => url.searchParams.get(name)?.trim().slice(0, 40) ?? '')
		.find((text) => text && !read(text));
	if (unread)
		return { ...asked, from: addDays(last, -29), to: last, wrong: `“${unread}” is no day: the last thirty are shown.` };
	if (begin > end) return { ...asked, from: addDays(end, -29), to: end, wrong: 'The first day lies after the last.' };
	if (daysBetween(begin, end) >= MOST)
		return {
			...asked,
			from: addDays(end, 1 - MOST),
			to: end,
			wrong: `At most ${MOST} days at once: the last ${MOST} are shown.`
		};
	return { ...asked, from: begin, to: end };
}

/** What the parts of a day are called. */
async function partNames(): Promise<Readonly<Record<DayBy, (value: string) => string>>> {
	const [held, tills] = await Promise.all([snapshot(), allTills()]);
	return {
		till: (id) => tills.find((one) => one.id === id)?.name ?? 'no till',
		method: (id) => methodName(id),
		connection: (id) => held.connections.get(id)?.name ?? held.offline.get(id)?.name ?? (id || 'not connected'),
		currency: (code) => code
	};
}

/** Takings a day: what came, went back and is left, by till, method, connection or currency. */
export async function takingsByDay({ from, to, by, currency: only }: DaysAsked, locale: string) {
	const [rows, held, names, way] = await Promise.all([
		daySumsBy(by, from, to),
		snapshot(),
		partNames(),
		onItsWay(addDays(to, -WAY_DAYS))
	]);
	const counts = new Map<string, number>();
	for (const row of rows) counts.set(row.currency, (counts.get(row.currency) ?? 0) + row.count);
	const currencies = [...counts].sort((a, b) => b[1] - a[1]).map(([code]) => code);
	const currency = only && currencies.includes(only) ? only : (currencies[0] ?? held.business.homeCurrency);
	const mine = rows.filter((row) => row.currency === currency);
	const parts = [...new Set(mine.map((row) => row.part))];
	const total = (part: string) => mine.reduce((sum, row) => sum + (row.part === part ? row.taken : 0), 0);
	parts.sort((a, b) => total(b) - total(a));
	const shown = (minor: number) => formatNumber({ minor, currency }, locale);
	const days: Day[] = [];
	for (let day = from; day <= to; day = addDays(day, 1)) days.push(day);
	const at = new Map(mine.map((row) => [`${row.day} ${row.part}`, row]));
	const lines = days.map((day) => {
		const each = parts.map((part) => at.get(`${day} ${part}`));
		const sum = (name: 'count' | 'taken' | 'refunded' | 'disputed') =>
			each.reduce((all, one) => all + (one?.[name] ?? 0), 0);
		const [count, taken, refunded, disputed] = [sum('count'), sum('taken'), sum('refunded'), sum('disputed')];
		return {
			day,
			count,
			parts: each.map((one) => (one?.taken ? shown(one.taken) : '')),
			values: each.map((one) => one?.taken ?? 0),
			taken: count ? shown(taken) : '',
			back: refunded + disputed ? shown(refunded + disputed) : '',
			left: count ? shown(taken - refunded - disputed) : '',
			minor: { taken, refunded, disputed }
		};
	});
	const all = (name: 'taken' | 'refunded' | 'disputed') => lines.reduce((sum, line) => sum + line.minor[name], 0);
	const count = lines.reduce((sum, line) => sum + line.count, 0);
	const best = lines.reduce((most, line) => (line.minor.taken > most.minor.taken ? line : most), lines[0]!);
	const { rates } = held.states;
	const home = held.business.homeCurrency;
	const inHome = (sum: Amount): number | undefined => {
		if (sum.currency === home) return sum.minor;
		const found = findRate(rates, sum.currency, home, to);
		return found && convert(sum, home, found).minor;
	};
	const others = currencies
		.filter((code) => code !== currency)
		.map((code) => {
			const minor = rows.reduce(
				(sum, row) => sum + (row.currency === code ? row.taken - row.refunded - row.disputed : 0),
				0
			);
			return {
				currency: code,
				left: formatAmount({ minor, currency: code }, locale),
				home: inHome({ minor, currency: code })
			};
		});
	return {
		from,
		to,
		by,
		currency,
		currencies,
		parts: parts.map((part) => ({ id: part, name: names[by](part), taken: shown(total(part)) })),
		lines: lines.map(({ minor: _, ...line }) => line),
		sums: {
			count,
			taken: shown(all('taken')),
			back: shown(all('refunded') + all('disputed')),
			left: shown(all('taken') - all('refunded') - all('disputed'))
		},
		best:
			best && best.minor.taken > 0
				? { day: best.day, taken: formatAmount({ minor: best.minor.taken, currency }, locale) }
				: undefined,
		average: formatAmount({ minor: Math.round(all('taken') / days.length), currency }, locale),
		left: formatAmount({ minor: all('taken') - all('refunded') - all('disputed'), currency }, locale),
		others,
		way: way.map((one) => ({
			stage: one.stage,
			count: one.count,
			sum: formatAmount({ minor: one.minor, currency: one.currency }, locale)
		}))
	};
}

/** The same as rows of a file: sums as plain decimals. */
export async function dayRows({ from, to, by }: DaysAsked): Promise<Record<string, string | number>[]> {
	const [rows, names] = await Promise.all([daySumsBy(by, from, to), partNames()]);
	return rows.map((row) => {
		const sum = (minor: number) => plainAmount({ minor, currency: row.currency });
		return {
			day: row.day,
			[by]: names[by](row.part),
			currency: row.currency,
			payments: row.count,
			captured: sum(row.taken),
			refunded: sum(row.refunded),
			disputed: sum(row.disputed),
			left: sum(row.taken - row.refunded - row.disputed)
		};
	});
}
