import { PPM } from '../../money';
import { costOf, hasInterchange, lineFor, type Kind, type RateCard } from '../rateCard';

/**
 * Below this, in millionths of a minor unit, `Math.floor(x / 1,000,000)` of a whole x is exact: the quotient stays under
 * 2^32, where doubles lie closer together than a millionth, so it can never be rounded up to the next whole number.
 */
const EXACT = 2 ** 32 * PPM;

/** What a card says of each kind of payment, as columns, in parts per million and millionths of a minor unit. */
export interface Tables {
	/** up to this base in the settlement currency the way without conversion, rounded as a whole, is exact; -1 where it is not the way */
	readonly near: Float64Array;
	/** up to this base the converted or part by part way is exact; -1 where the card cannot price the kind */
	readonly ceiling: Float64Array;
	readonly own: Float64Array;
	readonly rest: Float64Array;
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

export function tablesOf(card: RateCard, lines: RateCard['lines'], kinds: readonly Kind[]): Tables {
	const each = card.rounding === 'each';
	// what makes a floor of the mode's rounding is in the fixed part, and in what clamps it; part by part each has its own
	const bias = each ? 0 : card.mode === 'up' ? PPM - 1 : PPM / 2;
	const column = (fill = 0) => new Float64Array(kinds.length).fill(fill);
	const tables = {
		near: column(-1),
		ceiling: column(-1),
		own: column(),
		rest: column(),
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
		tables.near[k] = each || foreign ? -1 : most;
	});
	return tables;
}
