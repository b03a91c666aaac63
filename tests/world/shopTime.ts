import { inZone, instantIn } from '../../src/lib/core/calendar/index.ts';

/** Where the tests' shop is: around midnight it is another day there than in UTC, and at times another month. */
const ZONE = 'Europe/Brussels';

/** The day that it is at the shop, `YYYY-MM-DD`. @param at milliseconds since 1970 */
export const shopDay = (at = Date.now()): string => inZone(new Date(at), ZONE).day;

/** The month that it is at the shop, or that it was some months ago, `YYYY-MM`. */
export function shopMonth(ago = 0): string {
	const [year, month] = shopDay().split('-').map(Number) as [number, number];
	return new Date(Date.UTC(year, month - 1 - ago, 1)).toISOString().slice(0, 7);
}

/** When the shop's month began, in milliseconds since 1970. */
export const startOfShopMonth = (): number => instantIn(`${shopMonth()}-01T00:00`, ZONE)!;
