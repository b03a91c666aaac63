import { sumAround, type AroundCost } from './around';
import type { KindCost, SideCost } from './compare';

// What several sides come to when the same payments are priced by each of them.

/** Costs of one side for one method. Sums are minor units of the home currency. */
export interface MethodCost {
	readonly count: number;
	readonly base: number;
	/** fees of the payments */
	readonly fee: number;
	/** charges around them: refunds less what they give back, disputes, declined attempts */
	readonly around: number;
	/** both together */
	readonly cost: number;
	readonly holes: number;
	/** what is left out, by currency in its own minor units */
	readonly leftOut: readonly { readonly currency: string; readonly minor: number }[];
	/** the same in minor units of the home currency; what has no rate is not in it */
	readonly leftOutHome: number;
	readonly holeWhy: string;
	/** over the kinds that all ranked sides can carry */
	readonly common: { readonly count: number; readonly base: number; readonly cost: number };
	/** 1 is the cheapest */
	readonly rank?: number;
}
export interface MethodOfSides {
	readonly method: string;
	readonly count: number;
	/** minor units of the home currency */
	readonly volume: number;
	readonly costs: Readonly<Record<string, MethodCost>>;
}
/** All of one side. Sums are minor units of the home currency. */
export interface SideTotal {
	readonly count: number;
	readonly base: number;
	readonly fee: number;
	readonly fixed: number;
	readonly conversion: number;
	readonly monthly: number;
	readonly months: number;
	readonly monthlyFee: number;
	readonly monthlyMinimum: number;
	readonly waiting: number;
	/** calendar days to the bank on average, by volume */
	readonly averageWait: number;
	readonly around: AroundCost;
	readonly holes: number;
	readonly total: number;
}
export interface GroupOfSides {
	readonly name: string;
	readonly count: number;
	readonly costs: Readonly<Record<string, { count: number; base: number; fee: number; around: number }>>;
}

/** The payments of a period, by kind. */
export interface KindCounts {
	readonly counts: readonly number[];
	/** minor units of the kind's own currency */
	readonly volumes: readonly number[];
}
/** Counts the payments between two places by kind. */
export function countKinds(
	kinds: number,
	{ kind, minor }: { readonly kind: ArrayLike<number>; readonly minor: ArrayLike<number> },
	[from, to]: readonly [number, number]
): KindCounts {
	const counts = new Array<number>(kinds).fill(0);
	const volumes = new Array<number>(kinds).fill(0);
	for (let n = from; n < to; n++) {
		counts[kind[n]!]!++;
		volumes[kind[n]!]! += minor[n]!;
	}
	return { counts, volumes };
}

export interface SidesInput extends KindCounts {
	readonly kinds: readonly { readonly method: string; readonly currency: string }[];
	/** in the order in which they are shown */
	readonly sides: readonly SideCost[];
	/** minor units of the home currency that so much of a kind's currency is worth; 0 where no rate is known */
	worth(kind: number, minor: number): number;
}

const sumOver = (ks: readonly number[], own: readonly KindCost[], pick: (one: KindCost) => number): number =>
	ks.reduce((all, k) => all + pick(own[k]!), 0);

/** What every side costs for each method, and its rank; the methods with most payments first. */
export function methodsOfSides({ kinds, counts, volumes, sides, worth }: SidesInput): MethodOfSides[] {
	return [...new Set(kinds.map((kind) => kind.method))]
		.map((method) => {
			const ks = kinds.flatMap((kind, k) => (kind.method === method ? [k] : []));
			const able = sides.filter((side) => ks.some((k) => side.kinds[k]!.count > 0));
			// compared is what all of them can carry: a side that leaves dear kinds out is not cheaper for it
			const common = ks.filter((k) => counts[k]! > 0 && able.every((side) => !side.kinds[k]!.holes));
			const list = sides.map((side) => ({ id: side.id, ...methodCost(side.kinds, ks, common, kinds, worth) }));
			const ranked = list
				.filter((one) => one.common.count > 0)
				.sort((a, b) => a.common.cost / a.common.base - b.common.cost / b.common.base);
			return {
				method,
				count: ks.reduce((all, k) => all + counts[k]!, 0),
				volume: ks.reduce((all, k) => all + worth(k, volumes[k]!), 0),
				costs: Object.fromEntries(
					list.map(({ id, ...one }) => {
						const rank = ranked.findIndex((other) => other.id === id) + 1;
						return [id, { ...one, rank: rank && ranked.length > 1 ? rank : undefined }];
					})
				)
			};
		})
		.filter((one) => one.count > 0)
		.sort((a, b) => b.count - a.count);
}

function methodCost(
	own: readonly KindCost[],
	ks: readonly number[],
	common: readonly number[],
	kinds: SidesInput['kinds'],
	worth: SidesInput['worth']
): MethodCost {
	const totalOf = (of: readonly number[]) => ({
		count: sumOver(of, own, (one) => one.count),
		base: sumOver(of, own, (one) => one.base),
		cost: sumOver(of, own, (one) => one.fee + one.around)
	});
	const leftOut = new Map<string, number>();
	for (const k of ks) {
		const { currency } = kinds[k]!;
		if (own[k]!.leftOut) leftOut.set(currency, (leftOut.get(currency) ?? 0) + own[k]!.leftOut);
	}
	const whys = ks.map((k) => own[k]!.hole).filter((one): one is NonNullable<typeof one> => !!one);
	return {
		...totalOf(ks),
		fee: sumOver(ks, own, (one) => one.fee),
		around: sumOver(ks, own, (one) => one.around),
		holes: sumOver(ks, own, (one) => one.holes),
		leftOut: [...leftOut].map(([currency, minor]) => ({ currency, minor })),
		leftOutHome: ks.reduce((all, k) => all + worth(k, own[k]!.leftOut), 0),
		holeWhy: [...new Set(whys)].join(', '),
		common: totalOf(common)
	};
}

/** All that one side comes to: fees, charges around payments, by the month, and what waiting is worth. */
export function totalOfSide(cost: SideCost): SideTotal {
	const add = (pick: (one: KindCost) => number) => cost.kinds.reduce((all, one) => all + pick(one), 0);
	const monthly = cost.monthlyFee + cost.monthlyMinimum;
	const fee = add((one) => one.fee);
	return {
		count: add((one) => one.count),
		base: add((one) => one.base),
		fee,
		fixed: add((one) => one.fixed),
		conversion: add((one) => one.conversion),
		monthly,
		months: cost.months,
		monthlyFee: cost.monthlyFee,
		monthlyMinimum: cost.monthlyMinimum,
		waiting: cost.waiting,
		averageWait: cost.averageWait,
		around: cost.around,
		holes: add((one) => one.holes),
		total: fee + sumAround(cost.around) + monthly + cost.waiting
	};
}

/**
 * What every side costs for groups of kinds, the largest group first.
 * @param nameOf the group of a kind
 */
export function groupsOfSides(
	counts: readonly number[],
	sides: readonly SideCost[],
	nameOf: (kind: number) => string
): GroupOfSides[] {
	const groups = new Map<string, number[]>();
	counts.forEach((count, k) => {
		if (!count) return;
		const name = nameOf(k);
		groups.set(name, [...(groups.get(name) ?? []), k]);
	});
	return [...groups]
		.map(([name, ks]) => ({
			name,
			count: ks.reduce((all, k) => all + counts[k]!, 0),
			costs: Object.fromEntries(
				sides.map(({ id, kinds: own }) => [
					id,
					{
						count: sumOver(ks, own, (one) => one.count),
						base: sumOver(ks, own, (one) => one.base),
						fee: sumOver(ks, own, (one) => one.fee),
						around: sumOver(ks, own, (one) => one.around)
					}
				])
			)
		}))
		.sort((a, b) => b.count - a.count);
}

/** Counts that are alike in some columns as one, the most first. */
export function mergeCounts<T extends { readonly count: number }, K extends keyof T>(
	list: readonly T[],
	by: readonly K[]
): (Pick<T, K> & { count: number })[] {
	const found = new Map<string, Pick<T, K> & { count: number }>();
	for (const one of list) {
		const key = JSON.stringify(by.map((name) => one[name]));
		const known = found.get(key);
		if (known) known.count += one.count;
		else
			found.set(key, { ...(Object.fromEntries(by.map((name) => [name, one[name]])) as Pick<T, K>), count: one.count });
	}
	return [...found.values()].sort((a, b) => b.count - a.count);
}
