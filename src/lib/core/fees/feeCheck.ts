import { FUNDINGS, REGIONS } from '../cards';
import type { Amount, FoundRate, RoundingMode } from '../money';
import { isPriced, priceOne } from './price';
import type { Kind, RateCard, RateLine } from './rateCard';
import { givenBack } from './refund';

// Fee check: what was charged against what was promised. Payments whose charge differs are put together with others of their
// kind, and a cause is named only where with one parameter it explains every one of them to the minor unit.

/** A version of the contract. */
export interface ContractVersion {
	readonly id: number;
	/** `YYYY-MM-DD` */
	readonly validFrom: string;
	readonly card: RateCard;
}

/** One payment whose charge differs from what was expected. Fees are minor units of the card's settlement currency. */
export interface DifferingPayment {
	readonly id: number;
	/** `YYYY-MM-DD`, in the account's time zone */
	readonly day: string;
	readonly paid: Amount;
	/** minor units of its currency, in all so far */
	readonly refunded: number;
	readonly rate?: FoundRate;
	/** gross captures of the month before it, for tiers */
	readonly before: number;
	readonly expected: number;
	readonly charged: number;
}

/** Differing payments of one connection, one kind and one version of its contract. */
export interface DifferingGroup {
	readonly kind: Kind;
	readonly version: ContractVersion;
	/** in order of day, then id */
	readonly payments: readonly DifferingPayment[];
}

/** Causes in the order in which they are tried. */
export const FEE_CAUSES = [
	'another line',
	'another version',
	'fixed part',
	'rounding',
	'conversion',
	'refund',
	'monthly charge',
	'payout charge',
	'refund charge',
	'dispute charge',
	'not explained'
] as const;
export type FeeCause = (typeof FEE_CAUSES)[number];

/**
 * What was done instead of what was promised.
 * - another line: `region international`, `funding commercial`, `scheme corvid`
 * - another version: the day it is valid from
 * - fixed part: `missing` or `doubled`
 * - rounding: `each half-up`, `total up` …
 * - conversion: parts per million
 * - refund: `keeps all`, `keeps fixed`, `keeps nothing`
 * - charges of the account: `missing`, `twice`, `not agreed`, `from 2026-01-01` (as another version says) or `other`
 */
export interface NamedCause {
	readonly cause: FeeCause;
	readonly parameter: string;
}
/** A stretch of a group that one cause explains, or that nothing does. */
export interface ExplainedSpan extends NamedCause {
	readonly first: string;
	readonly last: string;
	readonly payments: readonly DifferingPayment[];
	/** charged above and below what was promised, both as positive sums */
	readonly over: number;
	readonly under: number;
}

type Judge = (payment: DifferingPayment) => number | undefined;
interface Suspect extends NamedCause {
	/** the fee as it would be charged, less what refunds give back */
	readonly fee: Judge;
}

/** What a payment costs under a card, less what its refunds give back; undefined where the card has no price for it. */
export function feeUnder(
	card: RateCard,
	kind: Kind,
	payment: Omit<DifferingPayment, 'expected' | 'charged'>
): number | undefined {
	const priced = priceOne(card, kind, payment.paid, payment.rate, payment.before);
	if (!isPriced(priced)) return undefined;
	const back = givenBack(card, {
		percentagePart: priced.percentagePart,
		fee: priced.fee.minor,
		captured: payment.paid.minor,
		refunded: payment.refunded
	});
	return priced.fee.minor - back;
}

const allLines = (card: RateCard): readonly RateLine[] => [
	...card.lines,
	...(card.tiers?.steps.flatMap((step) => step.lines) ?? [])
];
const mapLines = (card: RateCard, change: (line: RateLine) => RateLine): RateCard => ({
	...card,
	lines: card.lines.map(change),
	...(card.tiers
		? { tiers: { ...card.tiers, steps: card.tiers.steps.map((step) => ({ ...step, lines: step.lines.map(change) })) } }
		: {})
});

/** Kinds that differ in one thing that a card may ask for, where the card then takes another line or another cost. */
function neighbours(card: RateCard, kind: Kind): { parameter: string; kind: Kind }[] {
	const schemes = new Set([
		...allLines(card).flatMap((line) => (line.when.scheme ? [line.when.scheme] : [])),
		...(card.costs?.map((one) => one.scheme) ?? [])
	]);
	const choices = { region: REGIONS, funding: FUNDINGS, scheme: [...schemes].sort() } as const;
	return (['region', 'funding', 'scheme'] as const).flatMap((name) =>
		choices[name]
			.filter((value) => value !== kind[name])
			.map((value) => ({ parameter: `${name} ${value}`, kind: { ...kind, [name]: value } }))
	);
}

const ROUNDINGS: readonly [RateCard['rounding'], RoundingMode][] = [
	['total', 'half-up'],
	['total', 'half-even'],
	['total', 'up'],
	['each', 'half-up'],
	['each', 'half-even'],
	['each', 'up']
];
const KEEPS = ['all', 'fixed', 'nothing'] as const;

/** Whatever could be the cause, in order; conversion is found apart, since its parameter is worked out. */
function suspectsOf({ kind, version }: DifferingGroup, versions: readonly ContractVersion[]): Suspect[] {
	const { card } = version;
	const under =
		(other: RateCard, as = kind): Judge =>
		(payment) =>
			feeUnder(other, as, payment);
	const away = (one: ContractVersion) => Math.abs(Date.parse(one.validFrom) - Date.parse(version.validFrom));
	return [
		...neighbours(card, kind).map(({ parameter, kind: as }): Suspect => ({
			cause: 'another line',
			parameter,
			fee: under(card, as)
		})),
		...versions
			.filter((one) => one.id !== version.id && one.card.settlement === card.settlement)
			.sort((a, b) => away(a) - away(b))
			.map((one): Suspect => ({ cause: 'another version', parameter: one.validFrom, fee: under(one.card) })),
		{
			cause: 'fixed part',
			parameter: 'missing',
			fee: under(mapLines(card, (line) => ({ ...line, fixed: 0 })))
		},
		{
			cause: 'fixed part',
			parameter: 'doubled',
			fee: under(mapLines(card, (line) => ({ ...line, fixed: line.fixed * 2 })))
		},
		...ROUNDINGS.filter(([rounding, mode]) => rounding !== card.rounding || mode !== card.mode).map(
			([rounding, mode]): Suspect => ({
				cause: 'rounding',
				parameter: `${rounding} ${mode}`,
				fee: under({ ...card, rounding, mode })
			})
		)
	];
}
const refundSuspects = ({ kind, version: { card } }: DifferingGroup): Suspect[] =>
	KEEPS.filter((keeps) => keeps !== card.refund.keeps).map((keeps) => ({
		cause: 'refund',
		parameter: `keeps ${keeps}`,
		fee: (payment) => feeUnder({ ...card, refund: { ...card.refund, keeps } }, kind, payment)
	}));

/** No processor's margin is beyond a quarter. */
const LARGEST_MARGIN = 250_000;
/** A margin is agreed in hundredths of a percent; anything finer is no margin but a coincidence. */
const FINEST_MARGIN = 100;

/** The conversion percentages, in ppm, that bring a payment to its charge: the least and the largest, or undefined. */
function marginsOf(card: RateCard, kind: Kind, payment: DifferingPayment): [number, number] | undefined {
	const feeAt = (conversion: number) => feeUnder({ ...card, conversion }, kind, payment);
	const lowest = (reached: (fee: number) => boolean) => {
		let [low, high] = [0, LARGEST_MARGIN + 1];
		while (low < high) {
			const middle = (low + high) >> 1;
			const fee = feeAt(middle);
			if (fee === undefined) return undefined;
			if (reached(fee)) high = middle;
			else low = middle + 1;
		}
		return low;
	};
	const from = lowest((fee) => fee >= payment.charged);
	const beyond = lowest((fee) => fee > payment.charged);
	if (from === undefined || beyond === undefined || from > LARGEST_MARGIN || from >= beyond) return undefined;
	return [from, beyond - 1];
}

/** The roundest number of a stretch: the multiple of the largest power of ten, the least of several. */
function roundest(from: number, to: number): number | undefined {
	for (let step = 100_000; step >= FINEST_MARGIN; step /= 10)
		for (const unit of [step, step / 2, step / 4]) {
			const least = Math.ceil(from / unit) * unit;
			if (unit >= FINEST_MARGIN && least <= to) return least;
		}
	return undefined;
}

/** A margin that explains all payments of a list; it takes two at least to tell one. */
function findMargin(
	{ kind, version: { card } }: DifferingGroup,
	payments: readonly DifferingPayment[]
): Suspect | undefined {
	if (payments.length < 2 || payments.some((one) => one.paid.currency === card.settlement)) return undefined;
	let [from, to] = [0, LARGEST_MARGIN];
	for (const payment of payments) {
		const found = marginsOf(card, kind, payment);
		if (!found) return undefined;
		[from, to] = [Math.max(from, found[0]), Math.min(to, found[1])];
		if (from > to) return undefined;
	}
	const conversion = roundest(from, to);
	if (conversion === undefined || conversion === card.conversion) return undefined;
	return {
		cause: 'conversion',
		parameter: String(conversion),
		fee: (payment) => feeUnder({ ...card, conversion }, kind, payment)
	};
}

/** The first cause that explains all payments of a list, or undefined. */
function explain(
	group: DifferingGroup,
	payments: readonly DifferingPayment[],
	suspects: readonly Suspect[]
): NamedCause | undefined {
	const explains = (suspect: Suspect) => payments.every((payment) => suspect.fee(payment) === payment.charged);
	return suspects.find(explains) ?? findMargin(group, payments) ?? refundSuspects(group).find(explains);
}

/** A span of its own holds so many payments at least: fewer fit something or other by chance. */
const LEAST_IN_SPAN = 3;

/**
 * Names what was done to a group of differing payments. A cause that explains all of them is named. Else the group is cut at
 * days into spans, each explained whole, as where one mistake was followed by another; days that belong to none are told
 * together, as what nothing explains.
 * @param versions all versions of the connection's contract
 */
export function explainGroup(group: DifferingGroup, versions: readonly ContractVersion[]): ExplainedSpan[] {
	const { payments } = group;
	if (!payments.length) return [];
	const suspects = suspectsOf(group, versions);
	const whole = explain(group, payments, suspects);
	return whole ? [spanOf(whole, payments)] : cutIntoSpans(group, suspects);
}

function cutIntoSpans(group: DifferingGroup, suspects: readonly Suspect[]): ExplainedSpan[] {
	const { payments } = group;
	const spans: ExplainedSpan[] = [];
	const left: DifferingPayment[] = [];
	const all = [...suspects, ...refundSuspects(group)];
	for (let at = 0; at < payments.length;) {
		let best: { suspect: NamedCause; end: number } | undefined;
		const consider = (suspect: NamedCause, end: number) => {
			if (end - at >= LEAST_IN_SPAN && (!best || end > best.end)) best = { suspect, end };
		};
		for (const suspect of all) {
			let end = at;
			while (end < payments.length && suspect.fee(payments[end]!) === payments[end]!.charged) end++;
			consider(suspect, wholeDays(payments, at, end));
		}
		const margin = longestMargin(group, at);
		if (margin) consider(margin.suspect, margin.end);
		const end = best?.end ?? endOfDay(payments, at);
		if (best) spans.push(spanOf(best.suspect, payments.slice(at, end)));
		else left.push(...payments.slice(at, end));
		at = end;
	}
	return left.length ? [...spans, spanOf({ cause: 'not explained', parameter: '' }, left)] : spans;
}
function endOfDay(payments: readonly DifferingPayment[], at: number): number {
	let end = at + 1;
	while (end < payments.length && payments[end]!.day === payments[at]!.day) end++;
	return end;
}
/** Cuts a run back to where a day ends: a mistake does not begin between two payments of a day that look alike. */
function wholeDays(payments: readonly DifferingPayment[], from: number, end: number): number {
	if (end === payments.length) return end;
	while (end > from && payments[end - 1]!.day === payments[end]!.day) end--;
	return end;
}
function longestMargin(group: DifferingGroup, from: number): { suspect: NamedCause; end: number } | undefined {
	const { payments } = group;
	let [low, high] = [from + 1, payments.length];
	let found: { suspect: NamedCause; end: number } | undefined;
	// what explains a run explains each shorter one, but for how round the margin is
	while (low <= high) {
		const middle = (low + high) >> 1;
		const end = wholeDays(payments, from, middle);
		const suspect = end > from ? findMargin(group, payments.slice(from, end)) : undefined;
		if (suspect) {
			if (!found || end > found.end) found = { suspect, end };
			low = middle + 1;
		} else high = middle - 1;
	}
	return found;
}

function spanOf({ cause, parameter }: NamedCause, payments: readonly DifferingPayment[]): ExplainedSpan {
	let [over, under] = [0, 0];
	for (const { charged, expected } of payments)
		if (charged > expected) over += charged - expected;
		else under += expected - charged;
	return {
		cause,
		parameter,
		first: payments[0]!.day,
		last: payments.at(-1)!.day,
		payments,
		over,
		under
	};
}

/** How far a discrepancy has come: found, told to the processor, agreed by it, corrected, or let be. */
export const DISCREPANCY_STATES = ['open', 'sent', 'agreed', 'settled', 'accepted'] as const;
export type DiscrepancyState = (typeof DISCREPANCY_STATES)[number];
