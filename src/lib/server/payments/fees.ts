import { cardTypeOf, type CardType, type ReportedCard } from '../../core/cards';
import { addDays, inZone } from '../../core/calendar';
import {
	givenBack,
	isPriced,
	kindAt,
	priceOne,
	type Kind,
	type PastKind,
	type Priced,
	type RateCard,
	type Unpriced
} from '../../core/fees';
import { convert, divideRounded, findRate, type FoundRate, type Rate } from '../../core/money';
import { connectorOf } from '../connectors';
import {
	db,
	ratesOfDays,
	ratesUpTo,
	volumeOfDayBefore,
	volumeOfDays,
	type ConnectionRow,
	type PaymentKindRow,
	type PaymentRow,
	type Tx
} from '../db';
import { cardAt, type KeptCard } from '../ratecards';

/** How the expected fee of one payment came about. */
export interface FeeDerivation {
	readonly day: string;
	readonly card?: KeptCard;
	readonly kind?: Kind;
	readonly cardType?: CardType;
	readonly rate?: FoundRate;
	readonly priced?: Priced | Unpriced;
	/** gross captures of the month before it, in minor units of the settlement currency; where the card has tiers */
	readonly monthBefore?: number;
	/** given back for refunds so far, in minor units of the settlement currency */
	readonly givenBack: number;
	/** the gross amount in the settlement currency, where it can be converted */
	readonly base: number | null;
}

/** Gross captures of the account's calendar month before a payment, in its settlement currency: what tiers count. */
async function volumeBefore(
	payment: Pick<PaymentRow, 'id' | 'capturedAt' | 'processorId'>,
	connection: ConnectionRow,
	day: string,
	tx?: Tx
): Promise<number> {
	const sum = (list: readonly number[]) => list.reduce((all, one) => all + one, 0);
	return sum(
		await Promise.all([
			volumeOfDays(connection.id, `${day.slice(0, 7)}-01`, day, tx),
			volumeOfDayBefore(connection.id, day, payment.capturedAt!, payment.processorId ?? '', payment.id, tx)
		])
	);
}

/** What a rate card makes of one captured payment. */
export function priceCaptured(
	body: RateCard,
	kind: Kind,
	payment: Pick<PaymentRow, 'currency' | 'taken' | 'refunded'>,
	rate: FoundRate | undefined,
	before: number
): { priced: Priced | Unpriced; givenBack: number; base: number | null } {
	const paid = { minor: payment.taken, currency: payment.currency };
	const priced = priceOne(body, kind, paid, rate, before);
	const back = isPriced(priced)
		? givenBack(body, {
				percentagePart: priced.percentagePart,
				fee: priced.fee.minor,
				captured: payment.taken,
				refunded: payment.refunded
			})
		: 0;
	// what has no price counts for tiers all the same; what has no rate cannot
	const base =
		payment.currency === body.settlement ? payment.taken : rate ? convert(paid, body.settlement, rate).minor : null;
	return { priced, givenBack: back, base };
}

/** The published rate by which a payment of a day is converted: the processor's own, where it published one for that day. */
export const rateOn = async (
	currency: string,
	settlement: string,
	day: string,
	processor: string,
	tx?: Tx
): Promise<FoundRate | undefined> =>
	currency === settlement
		? undefined
		: findRate(await ratesUpTo(currency, settlement, day, tx), currency, settlement, day, connectorOf(processor).name);

export type RateFinder = (currency: string, settlement: string, day: string) => Promise<FoundRate | undefined>;
/**
 * The same for many payments of some days, both included: their rates are read at once, and each is found once. A pair of
 * currencies for which nothing was published on the way is looked for by itself.
 */
export async function rateFinderOf(processor: string, from: string, to: string): Promise<RateFinder> {
	const byPair = new Map<string, Rate[]>();
	// few days lie between two that rates are published for
	for (const rate of await ratesOfDays(addDays(from, -10), to))
		for (const pair of [`${rate.from} ${rate.to}`, `${rate.to} ${rate.from}`])
			(byPair.get(pair) ?? byPair.set(pair, []).get(pair)!).push(rate);
	const found = new Map<string, FoundRate | undefined>();
	return async (currency, settlement, day) => {
		if (currency === settlement) return undefined;
		const key = `${currency} ${settlement} ${day}`;
		if (found.has(key)) return found.get(key);
		const rates = byPair.get(`${currency} ${settlement}`) ?? [];
		const latest = rates.find((one) => one.day <= day)?.day;
		const rate = latest
			? findRate(
					rates.filter((one) => one.day === latest),
					currency,
					settlement,
					day,
					connectorOf(processor).name
				)
			: await rateOn(currency, settlement, day, processor);
		found.set(key, rate);
		return rate;
	};
}

/** Prices a captured payment by the contract and the rate of its capture, in the account's time zone. */
export async function deriveFee(
	payment: PaymentRow,
	card: ReportedCard | undefined,
	connection: ConnectionRow,
	tx?: Tx
): Promise<FeeDerivation | undefined> {
	if (!payment.capturedAt) return undefined;
	const { day } = inZone(new Date(payment.capturedAt), connection.timeZone);
	const version = await cardAt(connection.id, day, tx);
	if (!version) return { day, givenBack: 0, base: null };
	const { body } = version;
	const past = (await db.paymentKinds.one({ id: payment.kindId }, tx)) as (PaymentKindRow & PastKind) | undefined;
	const cardType = card && cardTypeOf(card, connection.accountCountry, body.areas);
	const kind = { ...kindAt(past!, body, connection.accountCountry), ...(cardType ?? {}) };
	const rate = await rateOn(payment.currency, body.settlement, day, connection.processor, tx);
	const before = body.tiers ? await volumeBefore(payment, connection, day, tx) : 0;
	return {
		day,
		card: version,
		kind,
		cardType,
		rate,
		...priceCaptured(body, kind, payment, rate, before),
		...(body.tiers ? { monthBefore: before } : {})
	};
}

/** What is left after refunds and fee, in the settlement currency. Refunds count at the rate of the capture. */
export const netOf = (base: number, taken: number, refunded: number, fee: number): number =>
	base - (taken > 0 ? Number(divideRounded(BigInt(base) * BigInt(refunded), BigInt(taken), 'half-even')) : 0) - fee;
