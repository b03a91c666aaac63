import type { FoundRate } from '../../money';
import type { Kind } from '../rateCard';

/** Payments as columns, one entry a payment: the form in which many are priced without workings. */
export interface PaymentColumns {
	/** index into `kinds` */
	readonly kind: Uint16Array;
	/** minor units of the payment's currency, whole */
	readonly minor: Float64Array;
	/** index into `rates`, or 0 where the payment's currency is the settlement currency */
	readonly rate: Uint16Array;
	/** ordinal of the calendar month of capture, never falling; a card with tiers needs it */
	readonly month?: Uint16Array;
	readonly kinds: readonly Kind[];
	/** entry 0 is unused */
	readonly rates: readonly (FoundRate | undefined)[];
}

/** The fee that stands for a payment that the card cannot price. */
export const UNPRICED = -1;
