import { formatDay, formatMoment, inZone } from '../../core/calendar';
import { counted } from '../../core/counted';
import { methodName, type Method } from '../../core/lineup';
import { formatAmount, formatDecimal } from '../../core/money';
import { percentile } from '../../core/notices';
import type { Verdict } from '../../core/workings';
import { theBusiness } from '../connect/business';
import { db, lastDelays } from '../db';
import { timeNow } from '../signals/clock';
import { awaitedPayments } from './awaited';
import { missingNotices } from './needed';
import { acceptedFalseAlerts, listened, pulseOf, type Pulse } from './silence';

const HOUR = 3_600_000;
const SHOWN_HOURS = 7 * 24;
const LAST = 1_000;

/** A span of time as one says it. */
export function sayMs(ms: number, locale: string): string {
	if (ms < 1_000) return `${Math.round(ms)} ms`;
	if (ms < 60_000) return `${formatDecimal(ms / 1_000, 1, locale)} s`;
	if (ms < 2 * HOUR) return `${Math.round(ms / 60_000)} min`;
	return ms < 72 * HOUR ? `${formatDecimal(ms / HOUR, 1, locale)} h` : `${Math.round(ms / (24 * HOUR))} days`;
}
/** A probability as one in so many. */
export const sayOneIn = (probability: number, locale: string): string =>
	probability >= 0.5
		? 'nothing unusual'
		: `once in ${Math.min(1e9, Math.round(1 / Math.max(probability, 1e-9))).toLocaleString(locale)} such pauses`;

/** The pulse of every connection, as the page shows it. */
export async function showPulse(chosen: string | undefined, locale: string) {
	const now = timeNow();
	const { timeZone } = await theBusiness();
	const when = (at: number) => formatMoment(at, locale, timeZone);
	const connections = await listened();
	const pulses = await Promise.all(connections.map((row) => pulseOf(row, now)));
	const [open, latest, awaited, refused, accepted, delays, missing] = await Promise.all([
		db.silences.find({ askedAt: null, isDismissed: 0 }, { order: [['fromAt', 'DESC']], limit: 500 }),
		db.silences.find({}, { order: [['fromAt', 'DESC']], limit: 50 }),
		awaitedPayments(now),
		db.refusedArrivals.find({}, { order: [['lastAt', 'DESC']], limit: 500 }),
		acceptedFalseAlerts(),
		Promise.all(connections.map((row) => lastDelays(row.id, LAST))),
		missingNotices()
	]);
	// a gap that nobody filled is shown however old it is
	const silences = [...new Map([...open, ...latest].map((one) => [one.id, one])).values()].sort(
		(a, b) => b.fromAt - a.fromAt
	);
	const nameOf = new Map(connections.map((row) => [row.id, row.name]));
	const silent = pulses.filter((one) => one.silence?.isAlert);
	const unfilled = silences.filter((one) => nameOf.has(one.connectionId) && !one.isDismissed && one.askedAt === null);
	const verdict: Verdict = silent.length
		? [
				{
					text: `${silent.map((one) => one.connection.name).join(', ')} ${silent.length === 1 ? 'tells' : 'tell'} nothing`,
					tone: 'clay'
				},
				{
					text: ` although about ${formatDecimal(silent[0]!.silence!.expected, 1, locale)} payments should have been told of since ${when(silent[0]!.silence!.since)}. Fill the gap by asking, then look at its notifications.`
				}
			]
		: unfilled.length
			? [
					{ text: `${unfilled.length === 1 ? 'A gap is' : `${unfilled.length} gaps are`} not filled`, tone: 'clay' },
					{
						text: `: ${nameOf.get(unfilled[0]!.connectionId)} told nothing from ${when(unfilled[0]!.fromAt)} to ${when(unfilled[0]!.toAt ?? now)}. Ask for what was missed.`
					}
				]
			: missing.length
				? [
						{
							text: `${missing.map((one) => one.name).join(', ')} ${missing.length === 1 ? 'does' : 'do'} not tell of all that is relied on`,
							tone: 'clay'
						},
						{ text: `: without ${missing[0]!.notices[0]!}, ${missing[0]!.breaks}. Set it up.` }
					]
				: awaited.inAll
					? [
							{
								text: `${counted(awaited.inAll, 'payment', locale)} ${awaited.inAll === 1 ? 'waits' : 'wait'} longer than usual`,
								tone: 'clay'
							},
							{ text: ' for the word of its processor. Ask after them.' }
						]
					: [
							{ text: 'Nothing is missing', tone: 'moss' },
							{ text: ': every connection tells as much as it usually does.' }
						];
	const shown =
		pulses.find((one) => one.connection.id === chosen) ?? silent[0] ?? pulses.find((one) => one.usual) ?? pulses[0];
	return {
		verdict,
		accepted: String(accepted),
		missing,
		rows: pulses.map((pulse, at) => {
			const { connection, usual, silence, lastAt, alertAt, slowest, falseAlerts } = pulse;
			const mine = refused.filter((row) => row.connectionId === connection.id);
			const sum = (is: (reason: string) => boolean) =>
				mine.filter((row) => is(row.reason)).reduce((all, row) => all + row.count, 0);
			const list = delays[at]!;
			return {
				id: connection.id,
				name: connection.name,
				last: lastAt === null ? 'never' : when(lastAt),
				expected: silence ? formatDecimal(silence.expected, 1, locale) : '',
				verdict: !usual
					? 'too few known: no verdict'
					: silence?.isAlert
						? 'silent'
						: alertAt
							? `an alert from ${when(alertAt)} on`
							: 'quiet is usual',
				isSilent: !!silence?.isAlert,
				monthly: usual ? Math.round(usual.monthly).toLocaleString(locale) : '',
				falseAlerts: usual ? formatDecimal(falseAlerts, 2, locale) : '',
				slowest: usual ? (slowest === undefined ? 'more than two weeks' : sayMs(slowest, locale)) : '',
				median: list.length ? sayMs(percentile(list, 0.5), locale) : '',
				slow: list.length ? sayMs(percentile(list, 0.99), locale) : '',
				refused: sum((reason) => reason !== 'double').toLocaleString(locale),
				doubles: sum((reason) => reason === 'double').toLocaleString(locale)
			};
		}),
		chart: shown && chartOf(shown, now, timeZone, locale),
		silences: silences
			.filter((one) => nameOf.has(one.connectionId))
			.map((one) => ({
				id: one.id,
				connection: nameOf.get(one.connectionId)!,
				from: when(one.fromAt),
				to: one.toAt === null ? '' : when(one.toAt),
				length: sayMs((one.toAt ?? now) - one.fromAt, locale),
				expected: formatDecimal(one.expected, 1, locale),
				chance: sayOneIn(one.probability, locale),
				isDismissed: one.isDismissed === 1,
				filled:
					one.askedAt === null
						? ''
						: `${when(one.askedAt)}: ${counted(one.asked, 'payment', locale)} asked after, ${one.changed.toLocaleString(locale)} changed`
			})),
		/** of those that wait too long, so many are not in the list */
		awaitedMore: awaited.inAll - awaited.longest.length,
		awaited: awaited.longest.map((one) => ({
			id: one.id,
			connection: one.connection,
			connectionId: one.connectionId,
			reference: one.reference,
			method: methodName(one.method as Method),
			amount: formatAmount({ minor: one.minor, currency: one.currency }, locale),
			since: when(one.since),
			usually: sayMs(one.usually, locale)
		}))
	};
}

/** What came and what usually comes, hour by hour of the last week. */
function chartOf({ connection, usual, hours, hourAt }: Pulse, now: number, timeZone: string, locale: string) {
	const list = hours.slice(-SHOWN_HOURS);
	return {
		id: connection.id,
		name: connection.name,
		hours: list.map((one) => formatMoment(one.hour * HOUR, locale, timeZone)),
		/** the day at its first hour, nothing at the others */
		starts: startsOf(list, timeZone).map((day) => day && formatDay(day, locale)),
		received: list.map((one) => one.payments),
		all: list.map((one) => one.arrived),
		expected: usual ? list.map((one) => Math.round(usual.rates[hourAt(one.hour * HOUR)]! * 100) / 100) : [],
		days: dayTable(list, usual ? (hour) => usual.rates[hourAt(hour * HOUR)]! : undefined, timeZone, locale)
	};
}

/** Of each hour the day that begins with it, if one does. The first hour of the list begins none. */
const startsOf = (list: Pulse['hours'], timeZone: string): string[] => {
	const days = list.map((one) => inZone(new Date(one.hour * HOUR), timeZone).day);
	return days.map((day, at) => (at > 0 && day !== days[at - 1] ? day : ''));
};

/** The table behind the chart: the same hours as sums of days. */
function dayTable(
	list: Pulse['hours'],
	rate: ((hour: number) => number) | undefined,
	timeZone: string,
	locale: string
): { day: string; received: string; expected: string }[] {
	const days = new Map<string, { received: number; expected: number }>();
	for (const { hour, payments } of list) {
		const day = formatMoment(hour * HOUR, locale, timeZone).split(/[ ,]/)[0]!;
		const one = days.get(day) ?? { received: 0, expected: 0 };
		days.set(day, { received: one.received + payments, expected: one.expected + (rate?.(hour) ?? 0) });
	}
	return [...days].map(([day, one]) => ({
		day,
		received: one.received.toLocaleString(locale),
		expected: rate ? formatDecimal(one.expected, 1, locale) : ''
	}));
}
