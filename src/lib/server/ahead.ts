import { addDays, formatDay, inZone } from '../core/calendar';
import { counted } from '../core/counted';
import { formatAmount } from '../core/money';
import { allConnections } from './connect/connections';
import { theBusiness } from './connect/business';
import { db, duesWithin, onItsWay, openByAge } from './db';
import { timeNow } from './signals/clock';
import { expectedWithin } from './takings/certain';
import { watchRules } from './watch/alerts';

// What lies ahead: money on its way, and what happens by itself in the next days.

const DAYS = 7;
const SINCE = 400;

/** Money that is asked for and not with the bank yet, by currency. */
export interface OnItsWay {
	readonly currency: string;
	readonly owed: string;
	readonly authorised: string;
	readonly pending: string;
	readonly captured: string;
	readonly settled: string;
}

/** Where money stands between being asked for and being paid out, per currency. */
export async function moneyOnItsWay(locale: string): Promise<OnItsWay[]> {
	const { timeZone } = await theBusiness();
	const day = inZone(new Date(timeNow()), timeZone).day;
	const [stages, ages] = await Promise.all([onItsWay(addDays(day, -SINCE)), openByAge(day)]);
	const currencies = [...new Set([...stages.map((one) => one.currency), ...ages.map((one) => one.currency)])];
	return currencies
		.map((currency) => {
			const of = (stage: string) => {
				const minor = stages.find((one) => one.currency === currency && one.stage === stage)?.minor ?? 0;
				return minor ? formatAmount({ minor, currency }, locale) : '';
			};
			const owed = ages.filter((one) => one.currency === currency).reduce((all, one) => all + one.open, 0);
			return {
				currency,
				owed: owed ? formatAmount({ minor: owed, currency }, locale) : '',
				authorised: of('authorised'),
				pending: of('pending'),
				captured: of('captured'),
				settled: of('settled')
			};
		})
		.filter((one) => one.owed || one.authorised || one.pending || one.captured || one.settled);
}

/** What happens by itself in the next seven days, each with its figure and where it is looked at. */
export async function comingUp(locale: string): Promise<{ says: string; figure: string; href: string }[]> {
	const now = timeNow();
	const { timeZone } = await theBusiness();
	const day = inZone(new Date(now), timeZone).day;
	const last = addDays(day, DAYS);
	const end = now + DAYS * 86_400_000;
	const [dues, awaited, pauses, connections, endpoints, rules] = await Promise.all([
		duesWithin(day, last),
		expectedWithin(day, last),
		db.pauses.find({ endedAt: null }),
		allConnections(),
		db.hookEndpoints.find({ state: 'on' }),
		watchRules()
	]);
	const list: { says: string; figure: string; href: string }[] = dues.map((one) => ({
		says: `${counted(one.count, 'sum', locale)} of invoices ${one.count === 1 ? 'falls' : 'fall'} due, in ${one.currency}.`,
		figure: formatAmount({ minor: one.minor, currency: one.currency }, locale),
		href: '/bill'
	}));
	if (awaited.count)
		list.push({
			says: `${counted(awaited.count, 'payment', locale)} ${awaited.count === 1 ? 'is' : 'are'} expected at the bank by ${formatDay(last, locale)}.`,
			figure: [...awaited.sums].map(([currency, minor]) => formatAmount({ minor, currency }, locale)).join(', '),
			href: '/takings/awaited'
		});
	for (const one of pauses)
		if (one.until !== null && one.until > now && one.until <= end)
			list.push({
				says: `A pause of a ${one.kind} ends by itself.`,
				figure: formatDay(inZone(new Date(one.until), timeZone).day, locale),
				href: '/accept/pauses'
			});
	for (const row of connections)
		if (row.oldUntil !== null && row.oldUntil > now && row.oldUntil <= end)
			list.push({
				says: `The keys of ${row.name} before the new ones end.`,
				figure: formatDay(inZone(new Date(row.oldUntil), timeZone).day, locale),
				href: `/connect/connections/${row.id}/keys`
			});
	for (const row of endpoints)
		if (row.oldUntil !== null && row.oldUntil > now && row.oldUntil <= end)
			list.push({
				says: `The secret of ${row.description || row.address} before the new one ends.`,
				figure: formatDay(inZone(new Date(row.oldUntil), timeZone).day, locale),
				href: `/watch/endpoints/${row.id}`
			});
	if (rules.digest !== 'never' && rules.digestTo.length)
		list.push({
			says: `A ${rules.digest} summary goes to ${rules.digestTo.join(', ')}.`,
			figure: `${String(rules.digestHour).padStart(2, '0')}:00`,
			href: '/watch/alerts'
		});
	return list;
}
