import type { Payment, Priced } from './engine.ts';
import { dayIn } from './days.ts';
import { converted, halvesUp, rateOf, scaled } from './sums.ts';
import { timeNow } from './clock.ts';

/** Prices of one kind of payment, as a house publishes them: shares in per cent, sums in the settlement currency, as texts. */
export interface Terms {
	readonly label: string;
	readonly share: string;
	readonly plus: string;
	readonly floor?: string;
	readonly cap?: string;
	/** shares that are passed on beside the house's own, by name */
	readonly passedOn?: Readonly<Record<string, string>>;
	/** one more share when the payment is not in the settlement currency */
	readonly exchange?: string;
	/** rounds each part instead of the sum */
	readonly each?: boolean;
	/** what of the fee goes back with a refund */
	readonly back: 'share' | 'nothing' | 'all';
}

/** Prices one payment exactly, in millionths of a minor unit of the settlement currency. */
export function priceBy(
	payment: Pick<Payment, 'minor' | 'currency' | 'takenAt'>,
	settles: string,
	zone: string,
	lean: number,
	terms: Terms
): Priced {
	const day = dayIn(zone, new Date(payment.takenAt ?? timeNow()));
	const foreign = payment.currency !== settles;
	const value = foreign ? rateOf(day, payment.currency, settles, lean) : undefined;
	const base = value ? converted(payment.minor, payment.currency, settles, value) : payment.minor;
	const digits = settles === 'JPY' ? 0 : 2;
	const MILLION = 1_000_000n;
	const exact = (share: string) => BigInt(base) * scaled(share, 4);
	const sum = (text: string) => scaled(text, digits) * MILLION;
	const part = (millionths: bigint) => (terms.each ? halvesUp(millionths, MILLION) * MILLION : millionths);
	const own = part(exact(terms.share));
	const plus = sum(terms.plus);
	let mine = own + plus;
	if (terms.floor && mine < sum(terms.floor)) mine = sum(terms.floor);
	if (terms.cap && mine > sum(terms.cap)) mine = sum(terms.cap);
	let fee = mine;
	const parts: Record<string, number> = {};
	for (const [name, share] of Object.entries(terms.passedOn ?? {})) {
		const passed = part(exact(share));
		parts[name] = Number(halvesUp(passed, MILLION));
		fee += passed;
	}
	if (foreign && terms.exchange) fee += part(exact(terms.exchange));
	const returned = terms.back === 'all' ? fee : terms.back === 'share' && mine > plus ? mine - plus : 0n;
	return {
		currency: settles,
		fee: Number(halvesUp(fee, MILLION)),
		base,
		rate: value ? { day, value } : undefined,
		label: terms.label,
		share: { top: returned.toString(), bottom: MILLION.toString() },
		...(Object.keys(parts).length ? { parts } : {})
	};
}

/** What is given back in all once so much is refunded: the share in proportion, rounded once. */
export const backInProportion = ({ charged, minor }: Payment, refunded: number): number =>
	charged
		? Number(halvesUp(BigInt(charged.share.top) * BigInt(refunded), BigInt(charged.share.bottom) * BigInt(minor)))
		: 0;

export const EEA = 'AT BE BG CY CZ DE DK EE ES FI FR GR HR HU IE IS IT LI LT LU LV MT NL NO PL PT RO SE SI SK'.split(
	' '
);
/** Where a card was issued, seen from the account's country. */
export const regionOf = (issuedIn: string, home: string): 'home' | 'near' | 'far' =>
	issuedIn === home ? 'home' : EEA.includes(issuedIn) && EEA.includes(home) ? 'near' : 'far';
