import {
	falseAlertsAMonth,
	foundAt,
	hourOfWeekIn,
	HOURS_OF_WEEK,
	judgeSilence,
	pastSilences,
	slowestFinding,
	thresholdFor,
	USUAL_WEEKS,
	usualRate,
	type HourCount,
	type Silence,
	type UsualRate
} from '../../core/notices';
import { audit } from '../access';
import { business, theBusiness } from '../connect/business';
import { allConnections } from '../connect/connections';
import { db, heardAround, hoursSince, paymentsToAsk, write, type ConnectionRow, type SilenceRow } from '../db';
import { Jobs, type Job } from '../jobs';
import { log } from '../log';
import { refetch } from '../payments/actions';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';

// Silence: connections that tell nothing although something is due, found from what usually comes, and filled by asking.

const HOUR = 3_600_000;
/** So many false alerts a month, where nobody chose another number. */
export const FALSE_ALERTS = 0.5;
/** Fewer weeks than this say nothing about what is usual. */
const KNOWN_WEEKS = 2;
/** Silences of the past are looked for so many weeks back. */
export const WEEKS_BACK = 5;

/** How many false alerts a month are accepted of each connection. */
export const acceptedFalseAlerts = async (): Promise<number> =>
	(await db.watchSettings.one({ id: 1 }))?.falseAlerts ?? FALSE_ALERTS;

/** @returns what is wrong with the number, if anything */
export async function setFalseAlerts(typed: string, by: string): Promise<string | undefined> {
	const value = Number(typed.replace(',', '.'));
	if (!(value >= 0.01 && value <= 30)) return 'Give a number from 0.01 to 30 a month.';
	await write(async (tx) => {
		const before = await db.watchSettings.one({ id: 1 }, tx);
		if (before) await db.watchSettings.update({ id: 1 }, { falseAlerts: value }, tx);
		else await db.watchSettings.insert({ id: 1, falseAlerts: value, rules: '{}' }, tx);
		await audit(
			{
				by,
				kind: 'alert',
				id: 'silence',
				name: 'Silence',
				act: `accepts ${value} false alerts a month`,
				before: { falseAlerts: before?.falseAlerts ?? FALSE_ALERTS },
				after: { falseAlerts: value }
			},
			tx
		);
	});
	tell('arrivals');
	return undefined;
}

/** What usually comes of a connection, and what its silence means now. */
export interface Pulse {
	readonly connection: ConnectionRow;
	readonly lastAt: number | null;
	/** undefined where fewer than 50 arrivals, or two weeks, are known */
	readonly usual?: UsualRate;
	readonly threshold: number;
	readonly falseAlerts: number;
	readonly silence?: Silence;
	/** from when on silence is an alert, if nothing more comes */
	readonly alertAt?: number;
	/** whenever silence begins, it is found within so many milliseconds */
	readonly slowest?: number;
	/** hour by hour, the oldest first: hours since 1970, what came, and what usually does */
	readonly hours: readonly { readonly hour: number; readonly arrived: number; readonly payments: number }[];
	readonly hourAt: (at: number) => number;
}

const isOutAt = (outages: readonly SilenceRow[], at: number, now: number): boolean =>
	outages.some((one) => !one.isDismissed && at >= Math.floor(one.fromAt / HOUR) * HOUR && at < (one.toAt ?? now));

export async function pulseOf(connection: ConnectionRow, now: number): Promise<Pulse> {
	const { timeZone } = await theBusiness();
	const hourAt = hourOfWeekIn(timeZone);
	const since = Math.floor(now / HOUR) - WEEKS_BACK * HOURS_OF_WEEK;
	const [told, { last, first }, outages, accepted] = await Promise.all([
		hoursSince(connection.id, since),
		heardAround(connection.id, now),
		db.silences.find({ connectionId: connection.id }),
		acceptedFalseAlerts()
	]);
	const byHour = new Map(told.map((one) => [one.hour, one]));
	// what came before it was connected says nothing of what is usual
	const begin = Math.max(since, first === null ? Infinity : Math.floor(first / HOUR));
	const hours = [];
	for (let hour = begin; hour <= Math.floor(now / HOUR); hour++)
		hours.push({ hour, arrived: byHour.get(hour)?.arrived ?? 0, payments: byHour.get(hour)?.payments ?? 0 });
	const counts: HourCount[] = hours
		.filter(
			(one) => one.hour >= Math.floor(now / HOUR) - USUAL_WEEKS * HOURS_OF_WEEK && one.hour < Math.floor(now / HOUR)
		)
		.map(({ hour, payments }) => ({
			hour: hourAt(hour * HOUR),
			count: payments,
			isOut: isOutAt(outages, hour * HOUR, now)
		}));
	// one week tells nothing of the next: a month's debits in it would be a promise
	const usual = counts.length >= KNOWN_WEEKS * HOURS_OF_WEEK ? usualRate(counts) : undefined;
	const threshold = usual ? thresholdFor(usual, accepted) : 0;
	return {
		connection,
		lastAt: last,
		usual,
		threshold,
		falseAlerts: usual ? falseAlertsAMonth(usual, threshold) : 0,
		silence: usual && last !== null ? judgeSilence(usual, last, now, threshold, hourAt) : undefined,
		alertAt: usual && last !== null ? foundAt(usual, last, threshold, hourAt) : undefined,
		slowest: usual && slowestFinding(usual, threshold),
		hours,
		hourAt
	};
}

/** Connections whose silence is looked at: live ones that work. */
export const listened = async (): Promise<ConnectionRow[]> =>
	(await allConnections()).filter((row) => row.mode === 'live' && row.verified === 1);

let lastLook = -Infinity;
const LOOK_MS = Number(process.env.JUSTPURSE_SILENCE_MS ?? 60_000);

/** Looks at every connection once a minute: what fell silent is noted, what speaks again is noted as ended. */
export async function lookForSilence(): Promise<void> {
	if (performance.now() - lastLook < LOOK_MS || !(await business())) return;
	lastLook = performance.now();
	const now = timeNow();
	for (const connection of await listened()) await lookAt(connection, now);
}

async function lookAt(connection: ConnectionRow, now: number): Promise<void> {
	for (const open of await db.silences.find({ connectionId: connection.id, toAt: null })) {
		const { next } = await heardAround(connection.id, open.fromAt);
		if (next === null) continue;
		await write((tx) => db.silences.update({ id: open.id }, { toAt: next }, tx));
		tell('arrivals');
	}
	const pulse = await pulseOf(connection, now);
	const { usual, silence, hours, threshold, hourAt } = pulse;
	if (!usual) return;
	const known = await db.silences.find({ connectionId: connection.id });
	const found = pastSilences(
		usual,
		hours.map((one) => ({ at: one.hour * HOUR, count: one.arrived })),
		threshold,
		hourAt
	).filter(({ from, to }) => !known.some((one) => one.fromAt < to && (one.toAt ?? now) > from));
	for (const one of found) {
		// the last arrival before it, and the first after it, to the minute
		const { next } = await heardAround(connection.id, one.from);
		await note(connection, { fromAt: one.from, toAt: next, expected: one.expected, probability: one.probability }, now);
	}
	if (silence?.isAlert && !known.some((one) => one.fromAt === silence.since))
		await note(
			connection,
			{ fromAt: silence.since, toAt: null, expected: silence.expected, probability: silence.probability },
			now
		);
}

async function note(
	connection: ConnectionRow,
	found: Pick<SilenceRow, 'fromAt' | 'toAt' | 'expected' | 'probability'>,
	now: number
): Promise<void> {
	await write((tx) =>
		db.silences.insertNew([{ connectionId: connection.id, ...found, foundAt: now }], ['connectionId', 'fromAt'], tx)
	);
	log.warn({ connection: connection.name, since: new Date(found.fromAt).toISOString() }, 'a connection fell silent');
	tell('arrivals');
}

const MOST = 5_000;
export interface Filled {
	readonly asked: number;
	readonly changed: number;
	readonly failed: number;
}
const fills = new Jobs<Filled>('filling a gap', 8);
export const fillAt = (key: string): Job<Filled> | undefined => fills.at(key);

/**
 * Fills a gap by asking the processor after every payment that it may have told something of in the span. What arrives late
 * changes nothing twice: effects are kept by connection, object and kind.
 */
export function fillGap(
	connection: ConnectionRow,
	from: number,
	to: number,
	by: string,
	silenceId?: number
): Job<Filled> {
	return fills.begin(`${connection.id} ${from} ${to}`, async ({ progress, breathe }) => {
		const rows = await paymentsToAsk(connection.id, from, to, MOST);
		progress.of = rows.length;
		let [changed, failed] = [0, 0];
		for (const { id } of rows) {
			await breathe();
			const before = await db.payments.one({ id });
			if (!before) continue;
			try {
				const after = await refetch(before, connection);
				if (after.stage !== before.stage || after.refunded !== before.refunded || after.taken !== before.taken)
					changed++;
			} catch (error) {
				failed++;
				log.warn({ payment: id, error: String(error) }, 'a payment could not be asked after');
			}
			progress.done++;
		}
		await write(async (tx) => {
			if (silenceId !== undefined)
				await db.silences.update(
					{ id: silenceId },
					{ askedAt: timeNow(), asked: rows.length - failed, changed, byUser: by },
					tx
				);
			await audit(
				{
					by,
					kind: 'connection',
					id: connection.id,
					name: connection.name,
					act: `filled the gap from ${new Date(from).toISOString()} to ${new Date(to).toISOString()} by asking: ${rows.length} payments, ${changed} changed`
				},
				tx
			);
		});
		tell('arrivals');
		tell('takings');
		return { asked: rows.length, changed, failed };
	});
}

export const silenceById = (id: number): Promise<SilenceRow | undefined> => db.silences.one({ id });

/** Says that a silence was none: its hours count for what is usual. */
export async function dismissSilence(id: number, by: string): Promise<void> {
	await write(async (tx) => {
		const row = await db.silences.one({ id }, tx);
		if (!row) return;
		await db.silences.update({ id }, { isDismissed: 1, byUser: by }, tx);
		await audit({ by, kind: 'alert', id: String(id), name: 'Silence', act: 'was none' }, tx);
	});
	tell('arrivals');
}
