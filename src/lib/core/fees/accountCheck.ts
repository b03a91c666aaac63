import type { ContractVersion, NamedCause } from './feeCheck';
import type { RateCard } from './rateCard';

// Charges of an account that belong to no payment's own fee: what was charged for months, payouts, refunds and disputes, against
// what the contract of the time says.

/** What a processor charges an account for. */
export const ACCOUNT_CHARGES = ['monthly', 'payout', 'refund', 'dispute'] as const;
export type AccountChargeKind = (typeof ACCOUNT_CHARGES)[number];

/** One charge as the processor told it. */
export interface ToldCharge {
	readonly id: number;
	readonly kind: AccountChargeKind;
	/** what it is for, in the processor's words: a payout's or a refund's id */
	readonly object: string;
	/** `YYYY-MM-DD` in the account's time zone */
	readonly day: string;
	readonly currency: string;
	/** minor units of `currency` */
	readonly minor: number;
}

/** A charge that differs from what was agreed. Sums are minor units of the settlement currency. */
export interface DifferingCharge extends NamedCause {
	/** `monthly 2026-10`, `payout po_4`: the same charge has the same key at every check */
	readonly key: string;
	/** undefined where it was never charged */
	readonly id?: number;
	readonly day: string;
	/** the version of the contract that it was held against */
	readonly versionId: number;
	readonly charged: number;
	readonly expected: number;
}

/** Until this day of a month, a monthly charge is for the month before. */
const LAST_BILLING_DAY = 10;

const monthBefore = (month: string): string => {
	const [year, number] = month.split('-').map(Number) as [number, number];
	return number === 1 ? `${year - 1}-12` : `${year}-${String(number - 1).padStart(2, '0')}`;
};
const monthAfter = (month: string): string => {
	const [year, number] = month.split('-').map(Number) as [number, number];
	return number === 12 ? `${year + 1}-01` : `${year}-${String(number + 1).padStart(2, '0')}`;
};
/** The month, `YYYY-MM`, that a monthly charge of a day is for: the one before, until the tenth. */
export const monthCharged = (day: string): string =>
	Number(day.slice(8, 10)) <= LAST_BILLING_DAY ? monthBefore(day.slice(0, 7)) : day.slice(0, 7);

/** What a contract says of one charge that is not a month's. */
const agreedFor = (card: RateCard, kind: Exclude<AccountChargeKind, 'monthly'>): number =>
	kind === 'payout' ? card.payout : kind === 'refund' ? card.refund.fee : card.dispute.fee;

/** The version of a contract on a day; undefined before the first. @param versions in any order */
function versionOn(versions: readonly ContractVersion[], day: string): ContractVersion | undefined {
	let found: ContractVersion | undefined;
	for (const one of versions) if (one.validFrom <= day && (!found || one.validFrom > found.validFrom)) found = one;
	return found;
}

function parameterOf(
	charged: number,
	expected: number,
	version: ContractVersion,
	versions: readonly ContractVersion[],
	agreed: (card: RateCard) => number
): string {
	if (expected === 0) return 'not agreed';
	if (charged === 0) return 'missing';
	if (charged === expected * 2) return 'twice';
	const other = versions.find((one) => one.id !== version.id && agreed(one.card) === charged);
	return other ? `from ${other.validFrom}` : 'other';
}

/**
 * What of an account's charges differs from its contract. A charge in another currency than the contract's, or before its first
 * version, is not checked. A month that was left out is told where months before and after it were charged.
 * @param versions all versions of the contract
 * @param shortfalls what is missing to a month's minimum, in minor units of the settlement currency, by `YYYY-MM`
 */
export function checkCharges(
	charges: readonly ToldCharge[],
	versions: readonly ContractVersion[],
	shortfalls: ReadonlyMap<string, number> = new Map()
): DifferingCharge[] {
	const found: DifferingCharge[] = [];
	const inOrder = [...charges].sort((a, b) => (a.day < b.day ? -1 : a.day > b.day ? 1 : a.id - b.id));
	const months = new Set<string>();
	for (const { id, kind, object, day, currency, minor } of inOrder) {
		if (kind === 'monthly') {
			const month = monthCharged(day);
			const version = versionOn(versions, `${month}-31`);
			const isAgain = months.has(month);
			months.add(month);
			if (!version || version.card.settlement !== currency) continue;
			const whole = (card: RateCard) => card.monthly.fee + (shortfalls.get(month) ?? 0);
			const expected = isAgain ? 0 : whole(version.card);
			if (minor === expected) continue;
			found.push({
				key: `monthly ${month}${isAgain ? ` ${id}` : ''}`,
				id,
				day,
				versionId: version.id,
				charged: minor,
				expected,
				cause: 'monthly charge',
				parameter: isAgain ? 'twice' : parameterOf(minor, expected, version, versions, whole)
			});
			continue;
		}
		const version = versionOn(versions, day);
		if (!version || version.card.settlement !== currency) continue;
		const expected = agreedFor(version.card, kind);
		if (minor === expected) continue;
		found.push({
			key: `${kind} ${object}`,
			id,
			day,
			versionId: version.id,
			charged: minor,
			expected,
			cause: `${kind} charge`,
			parameter: parameterOf(minor, expected, version, versions, (card) => agreedFor(card, kind))
		});
	}
	return [...found, ...missingMonths(months, versions, shortfalls)];
}

function missingMonths(
	months: ReadonlySet<string>,
	versions: readonly ContractVersion[],
	shortfalls: ReadonlyMap<string, number>
): DifferingCharge[] {
	const told = [...months].sort();
	const last = told.at(-1);
	const found: DifferingCharge[] = [];
	if (!last) return found;
	for (let month = told[0]!; month < last; month = monthAfter(month)) {
		if (months.has(month)) continue;
		const version = versionOn(versions, `${month}-31`);
		const expected = version ? version.card.monthly.fee + (shortfalls.get(month) ?? 0) : 0;
		if (!version || expected === 0) continue;
		found.push({
			key: `monthly ${month}`,
			day: `${monthAfter(month)}-01`,
			versionId: version.id,
			charged: 0,
			expected,
			cause: 'monthly charge',
			parameter: 'missing'
		});
	}
	return found;
}
