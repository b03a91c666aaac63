import { add, divideRounded, fraction, type Fraction } from '../money';

// Two periods compared: how much of a change of what is paid per 100 is mix, how much price, how much the account itself.

/** What a kind of payment took and cost in a period, in minor units of one currency. */
export interface KindFees {
	readonly key: string;
	readonly gross: number;
	readonly fees: number;
}
export interface BridgePeriod {
	/** one entry a kind */
	readonly kinds: readonly KindFees[];
	/** charges that belong to no payment: months, payouts, adjustments */
	readonly account: number;
}
/** What one kind adds to a change, in fees of one minor unit taken. */
export interface BridgeKind {
	readonly key: string;
	readonly mix: Fraction;
	readonly price: Fraction;
	/** gross and fees of both periods */
	readonly from: { readonly gross: number; readonly fees: number };
	readonly to: { readonly gross: number; readonly fees: number };
}
/** All rates are fees of one minor unit taken. `mix` + `price` + `account` is `to` less `from`, exactly. */
export interface Bridge {
	readonly from: Fraction;
	readonly to: Fraction;
	readonly mix: Fraction;
	readonly price: Fraction;
	readonly account: Fraction;
	readonly kinds: readonly BridgeKind[];
}

/** Parts of a kind are exact to so many digits beyond what the volumes need; the sum of mix and price is exact. */
const FINE = 10n ** 9n;

/**
 * Takes a change apart. With shares s and rates r of a kind: mix = (s₁ − s₀)(r₀ + r₁)/2, price = (s₀ + s₁)/2 (r₁ − r₀); a
 * kind that is in one period only takes that period's rate in both, so all of it is mix.
 * @returns undefined where a period took nothing: there is no rate then
 * @example shares .7 .2 .1 to .6 .2 .2, rates 140 200 300 to 140 205 310: 168 to 187, mix 16.5, price 2.5
 */
export function bridgeOf(before: BridgePeriod, after: BridgePeriod): Bridge | undefined {
	const grossOf = (period: BridgePeriod) => period.kinds.reduce((sum, one) => sum + BigInt(one.gross), 0n);
	const [v0, v1] = [grossOf(before), grossOf(after)];
	if (v0 <= 0n || v1 <= 0n) return undefined;
	const fees = (period: BridgePeriod) => period.kinds.reduce((sum, one) => sum + BigInt(one.fees), 0n);
	const keys = [...new Set([...before.kinds, ...after.kinds].map((one) => one.key))];
	const byKey = (period: BridgePeriod) => new Map(period.kinds.map((one) => [one.key, one]));
	const [first, second] = [byKey(before), byKey(after)];
	// everything in parts of one bottom, so that sums of hundreds of kinds stay exact and quick
	const bottom = v0 * v1 * FINE;
	let [mix, price] = [0n, 0n];
	const kinds = keys.map((key): BridgeKind => {
		const from = first.get(key) ?? { gross: 0, fees: 0 };
		const to = second.get(key) ?? { gross: 0, fees: 0 };
		const [g0, f0, g1, f1] = [from.gross, from.fees, to.gross, to.fees].map((one) => BigInt(one)) as [
			bigint,
			bigint,
			bigint,
			bigint
		];
		const change = (f1 * v0 - f0 * v1) * FINE;
		// (s₁ − s₀)(r₀ + r₁)/2, over v0·v1
		const shares = g1 * v0 - g0 * v1;
		const part =
			g0 === 0n || g1 === 0n ? change : divideRounded(shares * (f0 * g1 + f1 * g0) * FINE, 2n * g0 * g1, 'half-even');
		mix += part;
		price += change - part;
		return {
			key,
			mix: fraction(part, bottom),
			price: fraction(change - part, bottom),
			from: { gross: from.gross, fees: from.fees },
			to: { gross: to.gross, fees: to.fees }
		};
	});
	const charged = (period: BridgePeriod, gross: bigint) => fraction(BigInt(period.account), gross);
	const negative = (one: Fraction) => fraction(-one.top, one.bottom);
	return {
		from: fraction(fees(before) + BigInt(before.account), v0),
		to: fraction(fees(after) + BigInt(after.account), v1),
		mix: fraction(mix, bottom),
		price: fraction(price, bottom),
		account: add(charged(after, v1), negative(charged(before, v0))),
		kinds
	};
}

/**
 * Rounds parts so that they add up to a total that is shown: each is cut, and what is missing goes to the largest rests, the
 * first of equals first.
 * @param parts exact, in the units that are shown
 * @param total what they must add up to, in whole units; less than one unit for each part away from their sum
 */
export function roundToTotal(parts: readonly Fraction[], total: number): number[] {
	const floor = ({ top, bottom }: Fraction) => {
		const cut = top / bottom;
		return top < 0n && top % bottom !== 0n ? cut - 1n : cut;
	};
	const floors = parts.map(floor);
	const rests = parts.map((part, at) => {
		const rest = part.top - floors[at]! * part.bottom;
		return { at, rest, bottom: part.bottom };
	});
	rests.sort((a, b) => {
		const difference = b.rest * a.bottom - a.rest * b.bottom;
		return difference > 0n ? 1 : difference < 0n ? -1 : a.at - b.at;
	});
	const shown = floors.map(Number);
	let missing = total - shown.reduce((sum, one) => sum + one, 0);
	for (let n = 0; missing > 0 && parts.length; n = (n + 1) % parts.length, missing--) shown[rests[n]!.at]!++;
	for (let n = parts.length - 1; missing < 0 && parts.length; n = (n || parts.length) - 1, missing++)
		shown[rests[n]!.at]!--;
	return shown;
}

/** A bridge in whole units as it is shown: parts add up to the difference of the two rates that stand beside them. */
export interface ShownBridge {
	readonly from: number;
	readonly to: number;
	readonly mix: number;
	readonly price: number;
	readonly account: number;
	readonly kinds: readonly { readonly key: string; readonly mix: number; readonly price: number }[];
}

/**
 * Rounds a bridge for showing. @param units in one whole: 10,000 are basis points, or hundredths of what is paid per 100
 */
export function showBridge(bridge: Bridge, units = 10_000): ShownBridge {
	const scaled = (one: Fraction) => fraction(one.top * BigInt(units), one.bottom);
	const whole = (one: Fraction) => {
		const { top, bottom } = scaled(one);
		return Number(divideRounded(top, bottom, 'half-up'));
	};
	const [from, to] = [whole(bridge.from), whole(bridge.to)];
	const [mix, price, account] = roundToTotal([bridge.mix, bridge.price, bridge.account].map(scaled), to - from) as [
		number,
		number,
		number
	];
	const mixes = roundToTotal(
		bridge.kinds.map((one) => scaled(one.mix)),
		mix
	);
	const prices = roundToTotal(
		bridge.kinds.map((one) => scaled(one.price)),
		price
	);
	return {
		from,
		to,
		mix,
		price,
		account,
		kinds: bridge.kinds.map(({ key }, at) => ({ key, mix: mixes[at]!, price: prices[at]! }))
	};
}
