import { addDays } from '../../core/calendar';
import { counted } from '../../core/counted';
import { totalOfSide, type RateCard, type SideTotal } from '../../core/fees';
import { formatAmount } from '../../core/money';
import type { Verdict, Working } from '../../core/workings';
import { theBusiness, today } from '../connect/business';
import type { ConnectionRow } from '../db';
import { ownHistory, type History } from '../history/columns';
import { pastKind, priceApart, rangeOf } from './compare';
import { rateFinder, shiftDay } from './kinds';

/** Only what one connection carried, of a period. */
function ofCarrier(history: History, [from, to]: readonly [number, number], carrier: string) {
	const mine = history.kinds.map((one) => one.carrier === carrier);
	let count = 0;
	for (let n = from; n < to; n++) if (mine[history.kind[n]!]) count++;
	const columns = {
		kind: new Uint16Array(new SharedArrayBuffer(count * 2)),
		minor: new Float64Array(new SharedArrayBuffer(count * 8)),
		refunded: new Float64Array(new SharedArrayBuffer(count * 8)),
		day: new Uint16Array(new SharedArrayBuffer(count * 2)),
		month: new Uint16Array(new SharedArrayBuffer(count * 2))
	};
	for (let n = from, at = 0; n < to; n++) {
		if (!mine[history.kind[n]!]) continue;
		for (const name of ['kind', 'minor', 'refunded', 'day', 'month'] as const) columns[name][at] = history[name][n]!;
		at++;
	}
	return { count, kinds: history.kinds.map(pastKind), days: history.days, ...columns };
}

/**
 * What another rate card would have cost on the last twelve months' payments of a connection, against the one that holds.
 * @returns undefined where nothing was captured, or the two settle in different currencies
 */
export async function costOfChange(
	row: ConnectionRow,
	before: RateCard,
	after: RateCard,
	locale: string
): Promise<Verdict | undefined> {
	if (before.settlement !== after.settlement) return undefined;
	const { timeZone } = await theBusiness();
	const to = await today();
	const period = { from: shiftDay(addDays(to, 1), -365), to };
	const history = await ownHistory(timeZone);
	const past = ofCarrier(history, rangeOf(history, period), row.id);
	if (!past.count) return undefined;
	const finder = await rateFinder(shiftDay(period.from, -12));
	const around = { disputes: [], declined: [] };
	const price = async (id: string, card: RateCard): Promise<SideTotal> =>
		totalOfSide(
			await priceApart(
				past,
				[0, past.count],
				{ id, card, country: row.accountCountry, bankDays: 0, carries: () => true },
				finder(row.name, card.settlement),
				0,
				around
			)
		);
	const [old, changed] = [await price('before', before), await price('after', after)];
	const say = (minor: number) => formatAmount({ minor: Math.round(minor), currency: after.settlement }, locale);
	const difference = Math.round(changed.total - old.total);
	const working: Working = {
		title: 'The last twelve months by either card',
		about: `${counted(past.count, 'payment', locale)} that ${row.name} carried, each priced by both, with what their refunds gave back and the months’ charges.`,
		steps: [
			{ title: 'By the contract', sum: say(old.total) },
			{ title: 'By this card', sum: say(changed.total) },
			{ title: difference >= 0 ? 'More a year' : 'Less a year', sum: say(Math.abs(difference)), total: true }
		]
	};
	const holes = changed.holes - old.holes;
	return [
		{ text: 'On the last twelve months’ payments, this card would have cost ' },
		{
			text: difference === 0 ? 'the same' : `${say(Math.abs(difference))} ${difference > 0 ? 'more' : 'less'}`,
			working,
			...(difference > 0 ? { tone: 'clay' as const } : difference < 0 ? { tone: 'moss' as const } : {})
		},
		{
			text: `${difference === 0 ? ' as the contract' : ' than the contract'}${holes > 0 ? `; ${counted(holes, 'payment', locale)} it has no price for` : ''}.`
		}
	];
}
