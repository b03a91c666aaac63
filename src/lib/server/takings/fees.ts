import { cardTypeOf, UNKNOWN, type CardType, type ReportedCard } from '../../core/cards';
import { inZone } from '../../core/calendar';
import {
	givenBack,
	isPriced,
	kindOf,
	priceOne,
	RateCard,
	type Kind,
	type Priced,
	type Unpriced
} from '../../core/fees';
import { divideRounded, findRate, type FoundRate } from '../../core/money';
import { capturesBefore, db, ratesUpTo, type ConnectionRow, type PaymentRow, type Tx } from '../db';
import { readJson } from '../json';

/** How the expected fee of one payment came about. */
export interface FeeDerivation {
	readonly day: string;
	readonly card?: { readonly validFrom: string; readonly source: string; readonly body: RateCard };
	readonly kind?: Kind;
	readonly cardType?: CardType;
	readonly rate?: FoundRate;
	readonly priced?: Priced | Unpriced;
	/** gross captures of the month before it, in minor units of the settlement currency; where the card has tiers */
	readonly monthBefore?: number;
	/** given back for refunds so far, in minor units of the settlement currency */
	readonly givenBack: number;
}

/** Gross captures of the account's calendar month before a payment, in its settlement currency. */
async function volumeBefore(
	payment: Pick<PaymentRow, 'id' | 'capturedAt' | 'connectionId'>,
	connection: ConnectionRow,
	tx?: Tx
): Promise<number> {
	const month = inZone(new Date(payment.capturedAt!), connection.timeZone).day.slice(0, 7);
	const rows = await capturesBefore(connection.id, payment.capturedAt! - MONTH_MS, payment.capturedAt!, payment.id, tx);
	return rows
		.filter((row) => inZone(new Date(row.capturedAt), connection.timeZone).day.startsWith(month))
		.reduce((sum, row) => sum + (row.base ?? (row.currency === connection.settlement ? row.taken : 0)), 0);
}
const MONTH_MS = 32 * 86_400_000;

/** Prices a captured payment by the rate card and the rate of its capture, in the account's time zone. */
export async function deriveFee(
	payment: Pick<
		PaymentRow,
		'id' | 'method' | 'currency' | 'minor' | 'taken' | 'refunded' | 'capturedAt' | 'connectionId'
	>,
	card: ReportedCard | undefined,
	connection: ConnectionRow,
	tx?: Tx
): Promise<FeeDerivation | undefined> {
	if (!payment.capturedAt) return undefined;
	const { day } = inZone(new Date(payment.capturedAt), connection.timeZone);
	const version = (
		await db.rateCards.find({ connectionId: connection.id }, { order: [['validFrom', 'DESC']] }, tx)
	).find((row) => row.validFrom <= day);
	if (!version) return { day, givenBack: 0 };
	const body = readJson(RateCard, version.card);
	const cardType = card && cardTypeOf(card, connection.accountCountry, body.areas);
	const kind = kindOf({
		method: payment.method,
		currency: payment.currency,
		...(cardType ?? { scheme: UNKNOWN, funding: UNKNOWN, region: UNKNOWN })
	});
	const rate =
		payment.currency === body.settlement
			? undefined
			: findRate(await ratesUpTo(payment.currency, body.settlement, day, tx), payment.currency, body.settlement, day);
	const before = body.tiers ? await volumeBefore(payment, connection, tx) : 0;
	const priced = priceOne(body, kind, { minor: payment.taken, currency: payment.currency }, rate, before);
	const back = isPriced(priced)
		? givenBack(body, {
				percentagePart: priced.percentagePart,
				fixed: priced.line.fixed,
				captured: payment.taken,
				refunded: payment.refunded
			})
		: 0;
	return {
		day,
		card: { validFrom: version.validFrom, source: version.source, body },
		kind,
		cardType,
		rate,
		priced,
		...(body.tiers ? { monthBefore: before } : {}),
		givenBack: back
	};
}

/** What is left after refunds and fee, in the settlement currency. Refunds count at the rate of the capture. */
export const netOf = (base: number, taken: number, refunded: number, fee: number): number =>
	base - (taken > 0 ? Number(divideRounded(BigInt(base) * BigInt(refunded), BigInt(taken), 'half-even')) : 0) - fee;
