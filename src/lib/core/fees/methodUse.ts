import { divideRounded, PPM } from '../money';

// How a method is used at a till: its share, what it costs, how often it fails, how long it takes, the work by hand.

/** Why a method may not be worth having. */
export type Doubt = 'not used' | 'rare' | 'dear' | 'laborious' | 'often fails';

/** What a method did at a till in a period. Sums are minor units of one currency. */
export interface MethodFacts {
	readonly method: string;
	/** payments that brought money */
	readonly paid: number;
	readonly taken: number;
	/** captured where fees are known, and those fees */
	readonly priced: number;
	readonly fees: number;
	/** sums times calendar days from the order, or the capture, until they are at the bank */
	readonly waited: bigint;
	/** attempts that came to nothing */
	readonly failed: number;
	/** orders that chose it and brought no money, a day later */
	readonly givenUp: number;
	readonly returned: number;
	readonly disputed: number;
	/** how many payments came after so many whole days from the order; only where both are known */
	readonly days: readonly { readonly days: number; readonly count: number }[];
	/** receipts that somebody recorded */
	readonly byHand: number;
}
/** The same as figures. Shares and rates are parts of 10,000. */
export interface MethodUse extends MethodFacts {
	readonly share: number;
	readonly amountShare: number;
	/** fees of what was captured; undefined where none are known */
	readonly costBps?: number;
	/** what waiting for the money costs, in minor units, and as a part of what was taken */
	readonly waiting: number;
	readonly waitingBps: number;
	/** of all attempts */
	readonly failedShare: number;
	readonly median?: number;
	readonly slowest?: number;
	/** minutes of work by hand in the period */
	readonly minutes: number;
	/** why it may not be worth it; none where it is */
	readonly doubts: readonly Doubt[];
}

/** A method that brings less than this of all payments is rare: 2 %. */
export const RARE = 200;
/** One that costs more than so many times the till's average is dear. */
export const DEAR = 2;
/** Minutes a payment from which a method is laborious. */
export const LABORIOUS = 5;
/** One of which more than this comes to nothing fails often: a third. */
export const FAILING = 3_333;

const share = (part: number, whole: number): number =>
	whole > 0 ? Number(divideRounded(BigInt(part) * 10_000n, BigInt(whole), 'half-up')) : 0;

/**
 * The day on which a part of all payments had come, by the nearest-rank rule.
 * @param part of 100
 */
export function daysOf(days: MethodFacts['days'], part: number): number | undefined {
	const all = days.reduce((sum, one) => sum + one.count, 0);
	if (!all) return undefined;
	const rank = Math.ceil((part / 100) * all);
	let seen = 0;
	for (const one of [...days].sort((a, b) => a.days - b.days)) {
		seen += one.count;
		if (seen >= rank) return one.days;
	}
	return undefined;
}

/**
 * Use of the methods of one till. A method is doubted where it is rare and, beside that, dear, laborious or often fails.
 * @param minutesEach minutes that recording one receipt takes
 * @param capitalPpm what waiting for money costs a year, in parts per million
 */
export function useOfMethods(facts: readonly MethodFacts[], minutesEach: number, capitalPpm: number): MethodUse[] {
	const sum = (pick: (one: MethodFacts) => number) => facts.reduce((all, one) => all + pick(one), 0);
	const [paid, taken, priced, fees] = [
		sum((one) => one.paid),
		sum((one) => one.taken),
		sum((one) => one.priced),
		sum((one) => one.fees)
	];
	const waitingOf = (waited: bigint) =>
		Number(divideRounded(waited * BigInt(capitalPpm), 365n * BigInt(PPM), 'half-up'));
	const average = share(fees, priced) + share(waitingOf(facts.reduce((all, one) => all + one.waited, 0n)), taken);
	return facts
		.map((one): MethodUse => {
			const minutes = one.byHand * minutesEach;
			const own = { share: share(one.paid, paid), costBps: one.priced > 0 ? share(one.fees, one.priced) : undefined };
			const waiting = waitingOf(one.waited);
			const waitingBps = share(waiting, one.taken);
			const failedShare = share(one.failed, one.failed + one.paid);
			const doubts: Doubt[] = [];
			if (own.costBps !== undefined && priced > 0 && own.costBps + waitingBps > DEAR * average) doubts.push('dear');
			if (one.paid > 0 && minutes / one.paid >= LABORIOUS) doubts.push('laborious');
			if (failedShare > FAILING) doubts.push('often fails');
			const isRare = own.share < RARE;
			return {
				...one,
				...own,
				waiting,
				waitingBps,
				amountShare: share(one.taken, taken),
				failedShare,
				median: daysOf(one.days, 50),
				slowest: daysOf(one.days, 90),
				minutes,
				doubts: !one.paid ? ['not used'] : isRare && doubts.length ? ['rare', ...doubts] : []
			};
		})
		.sort((a, b) => b.paid - a.paid || (a.method < b.method ? -1 : 1));
}
