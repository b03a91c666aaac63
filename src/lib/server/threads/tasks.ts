import {
	priceMonth,
	priceSide,
	priceSideInTime,
	spreadOf,
	type Kind,
	type MonthPayment,
	type Past,
	type PastAround,
	type RateCard,
	type SideCost,
	type Spread,
	type SpreadAsked,
	type TimedCard
} from '../../core/fees';
import {
	coverage,
	lostSituations,
	type Coverage,
	type CoverageInput,
	type IsStopped,
	type Lost
} from '../../core/lineup';
import type { FoundRate } from '../../core/money';
import { checkFile } from './checkFile';
import { drawPdf } from '../draw';
import { explainFees } from './explainFees';
import { findRouting } from './findRouting';
import { checkPayers } from './checkPayers';

export type { CheckedFile, FilePiece } from './checkFile';
export type { FoundRouting } from './findRouting';

/** One side without what cannot be handed to another thread. */
export interface PlainSide {
	readonly id: string;
	readonly card: RateCard;
	readonly country: string;
	readonly bankDays: number;
	readonly rhythm?: string;
	/** kinds that it carries, as `plainKind` tells them */
	readonly carried: readonly string[];
}
/** A kind as a text, the same for kinds that are equal. */
export const plainKind = (kind: Kind): string =>
	[kind.method, kind.scheme, kind.funding, kind.region, kind.currency, kind.entry].join(' ');

export interface PriceAsked {
	readonly past: Past;
	readonly range: readonly [number, number];
	readonly side: PlainSide;
	/** by currency and day, with a space between */
	readonly rates: ReadonlyMap<string, FoundRate>;
	readonly capitalPpm: number;
	readonly happened: PastAround;
	/** where each payment is priced by the version of its day, and not by the side's card */
	readonly versions?: readonly TimedCard[];
}

function price({ past, range, side, rates, capitalPpm, happened, versions }: PriceAsked): SideCost {
	const carried = new Set(side.carried);
	const seen = { ...side, carries: (kind: Kind) => carried.has(plainKind(kind)) };
	const rateOf = (currency: string, day: string) => rates.get(`${currency} ${day}`);
	return versions
		? priceSideInTime(past, range, seen, versions, rateOf, capitalPpm)
		: priceSide(past, range, seen, rateOf, capitalPpm, happened);
}

export interface LostAsked extends Pick<CoverageInput, 'base' | 'domains'> {
	readonly before: Pick<CoverageInput, 'lineUp' | 'states'>;
	readonly after: Pick<CoverageInput, 'lineUp' | 'states'>;
}

/** Tasks of a second or two, which somebody looks at a page for: they have a thread of their own, beside those of minutes. */
export const SHORT_TASKS: readonly string[] = ['coverage', 'lost'];
/** Documents: a thousand of them wait for no file, and nobody's page for a thousand of them. */
export const DOCUMENT_TASKS: readonly string[] = ['drawPdf'];

/** What can be worked out apart from everything else: each takes and gives what can be handed from thread to thread. */
export const TASKS = {
	price,
	spread: (asked: SpreadAsked): Spread => spreadOf(asked),
	coverage: (asked: CoverageInput, _: unknown, isStopped: IsStopped): Coverage => coverage(asked, isStopped),
	lost: ({ before, after, base, domains }: LostAsked, _: unknown, isStopped: IsStopped): Lost =>
		lostSituations(before, after, base, domains, isStopped),
	checkFile,
	checkPayers,
	drawPdf,
	explainFees,
	findRouting,
	/** what is missing to a month's minimum, in minor units of the settlement currency */
	shortfall: ({ card, payments }: { card: RateCard; payments: readonly MonthPayment[] }): number =>
		priceMonth(card, payments).minimum
};
export type TaskName = keyof typeof TASKS;
export type Asked<K extends TaskName> = Parameters<(typeof TASKS)[K]>[0];
export type Answered<K extends TaskName> = Awaited<ReturnType<(typeof TASKS)[K]>>;
/** What a task hands over on its way, piece by piece; only some do. */
export type Piece<K extends TaskName> =
	Parameters<(typeof TASKS)[K]> extends [unknown, (piece: infer P) => Promise<void>, ...unknown[]] ? P : never;
