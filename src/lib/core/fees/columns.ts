import { convert, PPM, type FoundRate } from '../money';
import { isPriced, priceOne } from './price';
import { costOf, hasInterchange, lineFor, type Kind, type RateCard } from './rateCard';

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

const SAFE = Number.MAX_SAFE_INTEGER;

/**
 * Below this, in millionths of a minor unit, `Math.floor(x / 1,000,000)` of a whole x is exact: the quotient stays under
 * 2^32, where doubles lie closer together than a millionth, so it can never be rounded up to the next whole number.
 */
const EXACT = 2 ** 32 * PPM;

/** What a card says of each kind of payment, as columns, in parts per million and millionths of a minor unit. */
interface Tables {
	/** up to this base in the settlement currency the plain way is exact; -1 where it is not the way */
	readonly plain: Float64Array;
	/** the same where the markup may be clamped and all else is plain */
	readonly clamped: Float64Array;
	/** up to this base the clamped, converted or part by part way is exact; -1 where the card cannot price the kind */
	readonly ceiling: Float64Array;
	readonly own: Float64Array;
	readonly rest: Float64Array;
	readonly all: Float64Array;
	readonly interchange: Float64Array;
	readonly scheme: Float64Array;
	readonly conversion: Float64Array;
	readonly fixed: Float64Array;
	readonly low: Float64Array;
	readonly high: Float64Array;
	/** the same three in whole minor units, for cards that round part by part */
	readonly fixedWhole: Float64Array;
	readonly lowWhole: Float64Array;
	readonly highWhole: Float64Array;
	readonly foreign: Uint8Array;
}

function tablesOf(card: RateCard, lines: RateCard['lines'], kinds: readonly Kind[]): Tables {
	const each = card.rounding === 'each';
	// what makes a floor of the mode's rounding is in the fixed part, and in what clamps it; part by part each has its own
	const bias = each ? 0 : card.mode === 'up' ? PPM - 1 : PPM / 2;
	const column = (fill = 0) => new Float64Array(kinds.length).fill(fill);
	const tables = {
		plain: column(-1),
		clamped: column(-1),
		ceiling: column(-1),
		own: column(),
		rest: column(),
		all: column(),
		interchange: column(),
		scheme: column(),
		conversion: column(),
		fixed: column(),
		low: column(),
		high: column(Infinity),
		fixedWhole: column(),
		lowWhole: column(),
		highWhole: column(Infinity),
		foreign: new Uint8Array(kinds.length)
	};
	kinds.forEach((kind, k) => {
		const foreign = kind.currency !== card.settlement;
		tables.foreign[k] = foreign ? 1 : 0;
		const choice = lineFor({ lines }, kind);
		if (choice.found !== 'one') return;
		const cost = hasInterchange(card, kind) ? costOf(card, kind) : undefined;
		if (hasInterchange(card, kind) && !cost) return;
		const { percentage, fixed, minimum, maximum } = choice.line;
		const conversion = foreign ? card.conversion : 0;
		const rest = card.intermediary + conversion + (cost ? cost.interchange + cost.schemeFee : 0);
		tables.own[k] = percentage;
		tables.rest[k] = rest;
		tables.all[k] = percentage + rest;
		tables.interchange[k] = cost?.interchange ?? 0;
		tables.scheme[k] = cost?.schemeFee ?? 0;
		tables.conversion[k] = conversion;
		tables.fixed[k] = fixed * PPM + bias;
		tables.fixedWhole[k] = fixed;
		if (minimum !== undefined) tables.lowWhole[k] = minimum;
		if (maximum !== undefined) tables.highWhole[k] = maximum;
		if (minimum !== undefined) tables.low[k] = minimum * PPM + bias;
		if (maximum !== undefined) tables.high[k] = maximum * PPM + bias;
		// whatever is added to the percentages, the sum stays below the bound
		const most = Math.floor((EXACT - PPM - Math.max(fixed, minimum ?? 0) * PPM) / Math.max(1, percentage + rest));
		tables.ceiling[k] = most;
		tables.clamped[k] = each || foreign ? -1 : most;
		tables.plain[k] = each || foreign || minimum !== undefined || maximum !== undefined ? -1 : most;
	});
	return tables;
}

/**
 * Prices columns, exactly as `priceOne` does, without workings. A card with bands prices each payment by the volume of
 * its month before it; one with `whole` tiers by the tier that its month reached, which is what the month came to.
 * Works in whole millionths of a minor unit as long as they are exact in a double, and through `priceOne` beyond.
 * @param fees filled with minor units of the settlement currency, or `UNPRICED`
 * @param bases filled with what each fee was taken from, in minor units of the settlement currency, where given
 */
export function priceColumns(card: RateCard, columns: PaymentColumns, fees: Float64Array, bases?: Float64Array): void {
	const { kind, minor, rate, month, kinds, rates } = columns;
	const { tops, bottoms } = ratesOf(rates);
	const tiers = [card.lines, ...(card.tiers?.steps.map((step) => step.lines) ?? [])].map((lines) =>
		tablesOf(card, lines, kinds)
	);
	const limits = card.tiers?.steps.map((step) => step.from) ?? [];
	const tierAt = (volume: number) => {
		let tier = 0;
		while (tier < limits.length && volume >= limits[tier]!) tier++;
		return tier;
	};
	const even = card.mode === 'half-even';
	const each = card.rounding === 'each';
	const bias = card.mode === 'up' ? PPM - 1 : PPM / 2;
	/** one part, rounded by itself */
	const plainPart = (base: number, ppm: number): number => (ppm === 0 ? 0 : Math.floor((base * ppm + bias) / PPM));
	const evenPart = (base: number, ppm: number): number => {
		const exact = base * ppm + bias;
		const rounded = Math.floor(exact / PPM);
		return exact === rounded * PPM && rounded % 2 === 1 ? rounded - 1 : rounded;
	};
	const part = even ? evenPart : plainPart;
	const intermediary = card.intermediary;

	const one = (
		tables: Tables,
		n: number,
		k: number,
		base: number,
		before: number,
		lines: RateCard['lines']
	): number => {
		if (!(base >= 0 && base <= tables.ceiling[k]!))
			return slow(
				before < 0 ? { ...card, lines, tiers: undefined } : card,
				kinds[k]!,
				minor[n]!,
				rates[rate[n]!],
				Math.max(0, before)
			);
		if (each) {
			const markup = part(base, tables.own[k]!) * PPM + tables.fixed[k]!;
			return (
				Math.min(Math.max(markup, tables.low[k]!), tables.high[k]!) / PPM +
				part(base, tables.interchange[k]!) +
				part(base, tables.scheme[k]!) +
				part(base, tables.conversion[k]!) +
				part(base, intermediary)
			);
		}
		const markup = Math.min(Math.max(base * tables.own[k]! + tables.fixed[k]!, tables.low[k]!), tables.high[k]!);
		const exact = markup + base * tables.rest[k]!;
		const fee = Math.floor(exact / PPM);
		return even && exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
	};

	const count = kind.length;
	if (!card.tiers || !month) {
		const tables = tiers[0]!;
		const { plain, clamped, ceiling, own, rest, all, fixed, low, high, foreign } = tables;
		for (let n = 0; n < count; n++) {
			const k = kind[n]!;
			const paid = minor[n]!;
			if (paid <= plain[k]!) {
				// a tie goes up; to the even neighbour it goes down again where that is the odd one
				const exact = paid * all[k]! + fixed[k]!;
				const fee = Math.floor(exact / PPM);
				fees[n] = even && exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
				if (bases) bases[n] = paid;
				continue;
			}
			if (paid <= clamped[k]!) {
				let markup = paid * own[k]! + fixed[k]!;
				if (markup < low[k]!) markup = low[k]!;
				else if (markup > high[k]!) markup = high[k]!;
				const exact = markup + paid * rest[k]!;
				const fee = Math.floor(exact / PPM);
				fees[n] = even && exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
				if (bases) bases[n] = paid;
				continue;
			}
			const base = foreign[k] === 1 ? converted(paid, tops[rate[n]!]!, bottoms[rate[n]!]!) : paid;
			if (bases) bases[n] = base >= 0 ? base : slowBase(card, kinds[k]!, paid, rates[rate[n]!]);
			if (each || !(base >= 0 && base <= ceiling[k]!)) {
				fees[n] = one(tables, n, k, base, -1, card.lines);
				continue;
			}
			let markup = base * own[k]! + fixed[k]!;
			if (markup < low[k]!) markup = low[k]!;
			else if (markup > high[k]!) markup = high[k]!;
			const exact = markup + base * rest[k]!;
			const fee = Math.floor(exact / PPM);
			fees[n] = even && exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
		}
		return;
	}
	const linesOf = [card.lines, ...card.tiers.steps.map((step) => step.lines)];
	// bases are taken once; months and their volumes stand in columns, too
	const taken = bases ?? new Float64Array(count);
	const { foreign } = tiers[0]!;
	const volumes = new Float64Array(2 ** 16);
	const baseOf = (n: number, k: number): number => {
		const base = converted(minor[n]!, tops[rate[n]!]!, bottoms[rate[n]!]!);
		return base < 0 ? slowBase(card, kinds[k]!, minor[n]!, rates[rate[n]!]) : base;
	};
	if (card.tiers.way === 'whole') {
		const plainEach = each && !even;
		// month by month: what one came to is known before its payments are priced, while they are still at hand
		for (let from = 0; from < count;) {
			const now = month[from]!;
			let [volume, to] = [0, from];
			for (; to < count && month[to] === now; to++) {
				const k = kind[to]!;
				const base = foreign[k] === 1 ? baseOf(to, k) : minor[to]!;
				taken[to] = base;
				// what has no line counts for tiers all the same; what has no rate cannot
				if (base >= 0) volume += base;
			}
			const tier = tierAt(volume);
			const tables = tiers[tier]!;
			const { own, fixedWhole, lowWhole, highWhole, interchange, scheme, conversion, ceiling: most } = tables;
			for (let n = from; n < to; n++) {
				const k = kind[n]!;
				const base = taken[n]!;
				if (!plainEach || !(base >= 0 && base <= most[k]!)) {
					fees[n] = one(tables, n, k, base, -1, linesOf[tier]!);
					continue;
				}
				// part by part, halves up or everything up: the same as `one`, without a call
				let fee = Math.floor((base * own[k]! + bias) / PPM) + fixedWhole[k]!;
				if (fee < lowWhole[k]!) fee = lowWhole[k]!;
				else if (fee > highWhole[k]!) fee = highWhole[k]!;
				if (interchange[k]! > 0) fee += Math.floor((base * interchange[k]! + bias) / PPM);
				if (scheme[k]! > 0) fee += Math.floor((base * scheme[k]! + bias) / PPM);
				if (conversion[k]! > 0) fee += Math.floor((base * conversion[k]! + bias) / PPM);
				if (intermediary > 0) fee += Math.floor((base * intermediary + bias) / PPM);
				fees[n] = fee;
			}
			from = to;
		}
		return;
	}
	for (let n = 0; n < count; n++) {
		const k = kind[n]!;
		const before = volumes[month[n]!]!;
		const base = foreign[k] === 1 ? baseOf(n, k) : minor[n]!;
		taken[n] = base;
		const tier = tierAt(before);
		const crosses = tier < limits.length && before + base > limits[tier]!;
		const fee = crosses
			? slow(card, kinds[k]!, minor[n]!, rates[rate[n]!], before)
			: one(tiers[tier]!, n, k, base, before, linesOf[tier]!);
		fees[n] = fee;
		if (base >= 0) volumes[month[n]!] = before + base;
	}
}

/** Rates as doubles, where both parts fit; 0 over 1 where they do not, or where there is none. */
function ratesOf(rates: PaymentColumns['rates']): { tops: Float64Array; bottoms: Float64Array } {
	const tops = new Float64Array(rates.length);
	const bottoms = new Float64Array(rates.length).fill(1);
	rates.forEach((found, i) => {
		if (!found) return;
		const { top, bottom } = found.perMinor;
		if (top * 2n < BigInt(SAFE) && bottom * 2n < BigInt(SAFE)) {
			tops[i] = Number(top);
			bottoms[i] = Number(bottom);
		}
	});
	return { tops, bottoms };
}

/** An amount at a rate, rounded half-even; -1 where that is not exact in a double. */
function converted(minor: number, top: number, bottom: number): number {
	const product = minor * top;
	if (top === 0 || product * 2 > SAFE) return -1;
	let quotient = Math.floor(product / bottom);
	let left = product - quotient * bottom;
	// the division may have been rounded up to a whole number that it does not reach
	if (left < 0) {
		quotient--;
		left += bottom;
	}
	const twice = left * 2;
	return twice > bottom || (twice === bottom && quotient % 2 === 1) ? quotient + 1 : quotient;
}

function slow(card: RateCard, kind: Kind, minor: number, rate: FoundRate | undefined, before = 0): number {
	const priced = priceOne(card, kind, { minor, currency: kind.currency }, rate, before);
	return isPriced(priced) ? priced.fee.minor : UNPRICED;
}

function slowBase(card: RateCard, kind: Kind, minor: number, rate: FoundRate | undefined): number {
	if (kind.currency === card.settlement) return minor;
	return rate ? convert({ minor, currency: kind.currency }, card.settlement, rate).minor : UNPRICED;
}
