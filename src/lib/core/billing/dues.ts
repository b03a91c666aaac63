import { addDays, type Day } from '../calendar';
import { AmountError, fraction, PPM, round } from '../money';
import { splitEvenly } from './split';

/** One sum of an invoice with its day. */
export interface Due {
	readonly day: Day;
	readonly minor: number;
}
/** How a total is asked for. Days are counted from the day of approval. */
export type DuePlan =
	| { readonly kind: 'all at once'; readonly days: number }
	| {
			readonly kind: 'deposit';
			/** parts per million of the total, or a sum */
			readonly deposit: { readonly ppm: number } | { readonly minor: number };
			readonly days: number;
			/** days until the rest */
			readonly rest: number;
	  }
	| { readonly kind: 'instalments'; readonly count: number; readonly days: number; readonly every: number }
	| { readonly kind: 'by hand'; readonly dues: readonly Due[] };

/**
 * The dues of a total: they always add up to it. A deposit that is a share is rounded half-up; instalments are split by the
 * largest remainder, the larger parts first.
 * @throws AmountError where sums set by hand do not add up, or a deposit is more than the total
 */
export function makeDues(total: number, plan: DuePlan, approved: Day): Due[] {
	switch (plan.kind) {
		case 'all at once':
			return [{ day: addDays(approved, plan.days), minor: total }];
		case 'deposit': {
			const minor =
				'ppm' in plan.deposit
					? Number(round(fraction(BigInt(total) * BigInt(plan.deposit.ppm), BigInt(PPM)), 'half-up'))
					: plan.deposit.minor;
			if (minor > total) throw new AmountError('The deposit is more than the total.');
			const first = { day: addDays(approved, plan.days), minor };
			return minor === total ? [first] : [first, { day: addDays(approved, plan.rest), minor: total - minor }];
		}
		case 'instalments': {
			if (!Number.isInteger(plan.count) || plan.count < 1 || plan.count > 120)
				throw new AmountError('There are 1 to 120 instalments.');
			return splitEvenly(total, plan.count).map((minor, at) => ({
				day: addDays(approved, plan.days + at * plan.every),
				minor
			}));
		}
		case 'by hand': {
			const sum = plan.dues.reduce((all, one) => all + one.minor, 0);
			if (sum !== total) throw new AmountError(`The dues add up to ${sum}, and the total is ${total}.`);
			return [...plan.dues].sort((a, b) => (a.day < b.day ? -1 : a.day > b.day ? 1 : 0));
		}
	}
}

/** A due as it stands. Sums are minor units; credited, paid and open add up to it. */
export interface StandingDue extends Due {
	readonly credited: number;
	readonly paid: number;
	readonly open: number;
}
export interface Standing {
	readonly dues: readonly StandingDue[];
	readonly total: number;
	readonly open: number;
	/** what was placed or credited beyond the total: the payer's credit */
	readonly surplus: number;
}

/**
 * How an invoice stands. Credit notes take from the last due first, money fills the dues by their days.
 * @param placed money placed on it, in minor units
 * @param credited by credit notes
 */
export function standOfDues(dues: readonly Due[], placed: number, credited: number): Standing {
	const sorted = [...dues].sort((a, b) => (a.day < b.day ? -1 : a.day > b.day ? 1 : 0));
	let credit = credited;
	const after = [...sorted]
		.reverse()
		.map((due) => {
			const taken = Math.min(due.minor, credit);
			credit -= taken;
			return { ...due, credited: taken };
		})
		.reverse();
	let money = placed;
	const standing = after.map((due): StandingDue => {
		const paid = Math.min(due.minor - due.credited, money);
		money -= paid;
		return { ...due, paid, open: due.minor - due.credited - paid };
	});
	const total = dues.reduce((all, due) => all + due.minor, 0);
	return {
		dues: standing,
		total,
		open: standing.reduce((all, due) => all + due.open, 0),
		surplus: credit + money
	};
}
