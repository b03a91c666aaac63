import { WatchRules } from '../held';
import { freeText, json, orNull, real, table, text, whole, type RowOf } from '../table';

// Watching: what arrived hour by hour, silences, and what needs somebody.

export const arrivalHours = table(
	'arrival_hours',
	{
		connectionId: text,
		/** hours since 1970 */
		hour: whole,
		arrived: whole,
		/** of these, the first of a payment */
		payments: whole
	},
	['connectionId', 'hour']
);

export const silences = table(
	'silences',
	{
		id: whole,
		connectionId: text,
		fromAt: whole,
		/** null while it lasts */
		toAt: orNull(whole),
		expected: real,
		probability: real,
		foundAt: whole,
		/** when the gap was filled by asking */
		askedAt: orNull(whole),
		asked: whole,
		changed: whole,
		byUser: text,
		/** 1 where somebody says that it was none: its hours count for what is usual */
		isDismissed: whole
	},
	['id'],
	true
);
export type SilenceRow = RowOf<typeof silences>;

export const watchSettings = table('watch_settings', { id: whole, falseAlerts: real, rules: json(WatchRules, '{}') }, [
	'id'
]);

export const alerts = table(
	'alerts',
	{
		id: whole,
		/** what it is about: one cause is one alert as long as it is open */
		cause: text,
		kind: text,
		says: freeText,
		figure: freeText,
		href: text,
		act: text,
		isUrgent: whole,
		/** minor units of the home currency that are at stake; 0 where that is not known */
		worth: whole,
		openedAt: whole,
		seenAt: whole,
		/** how often its figure changed while it was open */
		times: whole,
		closedAt: orNull(whole),
		/** who closed it; empty where its cause was gone */
		closedBy: text,
		/** not again until then */
		untilAt: orNull(whole),
		untilBy: text,
		toldAt: orNull(whole)
	},
	['id'],
	true
);
export type AlertRow = RowOf<typeof alerts>;
