/**
 * Whether an hour is within the quiet ones, which may go over midnight.
 * @param from the first quiet hour, 0 to 23; the same as `to` means never
 * @param to the first hour that is not quiet any more
 */
export const isQuiet = (hour: number, from: number, to: number): boolean =>
	from === to ? false : from < to ? hour >= from && hour < to : hour >= from || hour < to;

/**
 * Whether a summary is due: once on its day, from its hour on.
 * @param now day `YYYY-MM-DD`, hour and weekday (0 is Sunday) in the business's time zone; a weekly one comes on Mondays
 */
export const isDigestDue = (
	rules: { readonly digest: 'never' | 'daily' | 'weekly'; readonly digestHour: number; readonly digestSent: string },
	now: { readonly day: string; readonly hour: number; readonly weekday: number }
): boolean =>
	rules.digest !== 'never' &&
	rules.digestSent < now.day &&
	now.hour >= rules.digestHour &&
	(rules.digest === 'daily' || now.weekday === 1);
