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
import { db, ratesUpTo, type ConnectionRow, type PaymentRow, type Tx } from '../db';
import { readJson } from '../json';

/** How the expected fee of one payment came about. */
export interface FeeDerivation {
	readonly day: string;
	readonly card?: { readonly validFrom: string; readonly source: string; readonly body: RateCard };
	readonly kind?: Kind;
	readonly cardType?: CardType;
	readonly rate?: FoundRate;
	readonly priced?: Priced | Unpriced;
	/** given back for refunds so far, in minor units of the settlement currency */
	readonly givenBack: number;
}

/** Prices a captured payment by the rate card and the rate of its capture, in the account's time zone. */
export async function deriveFee(
	payment: Pick<PaymentRow, 'method' | 'currency' | 'minor' | 'taken' | 'refunded' | 'capturedAt' | 'connectionId'>,
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
	const priced = priceOne(body, kind, { minor: payment.taken, currency: payment.currency }, rate);
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
		givenBack: back
	};
}

/** What is left after refunds and fee, in the settlement currency. Refunds count at the rate of the capture. */
export const netOf = (base: number, taken: number, refunded: number, fee: number): number =>
	base - (taken > 0 ? Number(divideRounded(BigInt(base) * BigInt(refunded), BigInt(taken), 'half-even')) : 0) - fee;
