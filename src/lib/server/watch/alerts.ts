import { formatMoment, inZone, weekdayOf } from '../../core/calendar';
import { isQuiet, isDigestDue } from '../../core/notices';
import { audit } from '../access';
import { business, theBusiness } from '../connect/business';
import { ownAddress } from '../connect/connections';
import { closedAlerts, countClosedSince, db, lastChangeOf, WatchRules, write, type AlertRow, type Tx } from '../db';
import { recordEvent } from '../events';
import { tellStaff } from '../messages/staff';
import { MOST_ALERTS, needs, type Need } from '../needs';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';
import { watchRules } from './rules';

// Alerts: what needs somebody, kept from when it began to when its cause was gone, told once, and silent when asked to be.

let lastLook = -Infinity;
const LOOK_MS = Number(process.env.JUSTPURSE_ALERTS_MS ?? 30_000);

/** What a need is about, without which one it is. */
export const kindOfNeed = (id: string): string => id.split(' ', 1)[0]!;

/** Looks at everything that needs somebody: one cause is one alert, until it is gone. */
export async function lookForAlerts(): Promise<void> {
	if (performance.now() - lastLook < LOOK_MS || !(await business())) return;
	lastLook = performance.now();
	const { locale } = await theBusiness();
	const now = timeNow();
	const list = await needs(locale || 'en-GB', now, MOST_ALERTS);
	await keepAlerts(list, now);
	await tellAlerts(now);
	await sendDigest(list, now);
}

async function keepAlerts(list: readonly Need[], now: number): Promise<void> {
	const open = await db.alerts.find({ closedAt: null });
	const byCause = new Map(open.map((row) => [row.cause, row]));
	const fresh = list.filter((one) => !byCause.has(one.id));
	const causes = new Set(list.map((one) => one.id));
	const gone = open.filter((row) => !causes.has(row.cause));
	const changed = list.filter((one) => {
		const row = byCause.get(one.id);
		return (
			row &&
			(row.says !== one.says ||
				row.figure !== one.figure ||
				row.href !== one.href ||
				row.act !== one.act ||
				row.isUrgent !== Number(one.urgent))
		);
	});
	if (!fresh.length && !gone.length && !changed.length) return;
	await write(async (tx) => {
		for (const { id, says, figure, href, act, urgent, sum } of fresh) {
			const row = await db.alerts.insert(
				{
					cause: id,
					kind: kindOfNeed(id),
					says,
					figure,
					href,
					act,
					isUrgent: Number(urgent),
					worth: sum?.minor ?? 0,
					openedAt: now,
					seenAt: now
				},
				tx
			);
			await recordEvent(
				{
					kind: 'alert.opened',
					object: 'alert',
					id: row.id,
					payload: { kind: row.kind, says, figure, ...(sum ? { currency: sum.currency, minor: sum.minor } : {}) }
				},
				tx
			);
		}
		for (const { id, says, figure, href, act, urgent } of changed) {
			const row = byCause.get(id)!;
			await db.alerts.update(
				{ id: row.id },
				{
					says,
					figure,
					href,
					act,
					isUrgent: Number(urgent),
					seenAt: now,
					times: row.times + Number(figure !== row.figure)
				},
				tx
			);
		}
		for (const row of gone) {
			// whoever changed last what it was about, since it began, has settled it
			const by = await lastChangeOf(row.cause.split(' ').slice(1), row.openedAt, tx);
			await db.alerts.update({ id: row.id }, { closedAt: now, closedBy: by ?? '' }, tx);
			await recordEvent(
				{
					kind: 'alert.closed',
					object: 'alert',
					id: row.id,
					payload: { kind: row.kind, says: row.says, figure: row.figure }
				},
				tx
			);
		}
	});
	tell('alerts');
}

/** Tells of what is urgent and was not told yet, once, but not in quiet hours and not of what is put off. */
async function tellAlerts(now: number): Promise<void> {
	const rules = await watchRules();
	if (!rules.urgentTo.length) return;
	const { timeZone } = await theBusiness();
	const hour = Number(inZone(new Date(now), timeZone).time.slice(0, 2));
	if (isQuiet(hour, rules.quietFrom, rules.quietTo)) return;
	const waiting = (await db.alerts.find({ closedAt: null, isUrgent: 1, toldAt: null })).filter(
		(row) => (row.untilAt ?? 0) <= now
	);
	for (const row of waiting)
		await write(async (tx) => {
			for (const to of rules.urgentTo)
				await tellStaff(
					{
						cause: `alert ${row.id}`,
						to,
						subject: row.says.length > 90 ? `${row.says.slice(0, 88)}…` : row.says,
						body: `${row.says}\n\n${row.figure}\n\n${row.act}: ${ownAddress()}${row.href}`
					},
					tx
				);
			await db.alerts.update({ id: row.id }, { toldAt: now }, tx);
		});
}

/** So many settled alerts are named in a digest, the rest counted. */
const DIGEST_SETTLED = 200;

/** A summary of what needs somebody, and of what was settled since the last one. */
async function sendDigest(list: readonly Need[], now: number): Promise<void> {
	const rules = await watchRules();
	if (rules.digest === 'never' || !rules.digestTo.length) return;
	const { timeZone, locale, name } = await theBusiness();
	const { day, time } = inZone(new Date(now), timeZone);
	if (!isDigestDue(rules, { day, hour: Number(time.slice(0, 2)), weekday: weekdayOf(day) })) return;
	const put = await db.alerts.find({ closedAt: null });
	const hidden = new Set(put.filter((row) => (row.untilAt ?? 0) > now).map((row) => row.cause));
	const shown = list.filter((one) => !hidden.has(one.id));
	// from the moment of the last one, so that nothing falls between two; the first one looks back by its own span
	const since = rules.digestAt || now - (rules.digest === 'daily' ? 1 : 7) * 86_400_000;
	const settled = (await closedAlerts({ limit: DIGEST_SETTLED })).rows.filter((row) => row.closedAt! > since);
	const unnamed = (await countClosedSince(since)) - settled.length;
	const body = [
		shown.length ? 'Needs you:' : 'Nothing needs you.',
		...shown.map((one) => `- ${one.says} ${one.figure}`),
		...(settled.length
			? [
					'',
					'Settled since the last one:',
					...settled.map((row) => `- ${row.says}${row.closedBy ? ` (${row.closedBy})` : ''}`),
					...(unnamed > 0 ? [`- ${unnamed} more: ${ownAddress()}/watch/alerts`] : [])
				]
			: []),
		'',
		`${ownAddress()}/needs-you`
	].join('\n');
	await write(async (tx) => {
		for (const to of rules.digestTo)
			await tellStaff(
				{
					cause: `digest ${day}`,
					to,
					subject: `${name}: ${shown.length ? `${shown.length} ${shown.length === 1 ? 'thing needs' : 'things need'} you` : 'nothing needs you'}, ${formatMoment(now, locale || 'en-GB', timeZone)}`,
					body
				},
				tx
			);
		// read where nobody else writes: what was set meanwhile stays
		await saveRules({ ...(await watchRules(tx)), digestSent: day, digestAt: now }, tx);
	});
}

async function saveRules(rules: WatchRules, tx: Tx): Promise<void> {
	const text = JSON.stringify(rules);
	if (!(await db.watchSettings.update({ id: 1 }, { rules: text }, tx)))
		await db.watchSettings.insert({ id: 1, rules: text }, tx);
}

/** Saves who is told of what. @returns what is wrong, if anything */
export async function setWatchRules(typed: unknown, by: string): Promise<string | undefined> {
	const read = WatchRules.safeParse(typed);
	if (!read.success) return `${read.error.issues[0]!.message}.`;
	await write(async (tx) => {
		const before = await watchRules(tx);
		const after = {
			...read.data,
			digestSent: before.digestSent,
			digestAt: read.data.digest === before.digest ? before.digestAt : 0
		};
		await saveRules(after, tx);
		await audit({ by, kind: 'alert', id: 'rules', name: 'Alerts', act: 'changed who is told', before, after }, tx);
	});
	tell('alerts');
	return undefined;
}

/** Hides a need until a moment: it stays open, and is told again then if it is still there. */
export async function putOff(cause: string, until: number, by: string): Promise<boolean> {
	const done = await write(async (tx) => {
		const row = await db.alerts.one({ cause, closedAt: null }, tx);
		if (!row) return false;
		await db.alerts.update({ id: row.id }, { untilAt: until, untilBy: by, toldAt: null }, tx);
		await audit({ by, kind: 'alert', id: String(row.id), name: row.says.slice(0, 80), act: 'put off' }, tx);
		return true;
	});
	tell('alerts');
	return done;
}
/** Shows again what was put off. */
export async function showAgain(cause: string, by: string): Promise<void> {
	await putOff(cause, 0, by);
}

/** How many alerts are open, put off or not. */
export const countOpenAlerts = (): Promise<number> => db.alerts.count({ closedAt: null });

/** What is put off now, by cause. */
export async function putOffNow(now: number): Promise<Map<string, AlertRow>> {
	return new Map(
		(await db.alerts.find({ closedAt: null })).filter((row) => (row.untilAt ?? 0) > now).map((row) => [row.cause, row])
	);
}
export { closedAlerts, watchRules };
