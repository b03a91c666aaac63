import { formatAmount, formatNumber } from '../../core/money';
import type { Working } from '../../core/workings';
import { isSummedByDay, sumsByDay, sumsOfPayments, testPayments, type PaymentFilter, type PaymentSum } from '../db';

/** What of one currency is left of what came in. */
const leftOf = (one: PaymentSum): number => one.taken - one.refunded - one.disputed;

/** Sums of what a list shows, one currency a line, each with its derivation. */
export interface ShownSum {
	readonly currency: string;
	readonly count: string;
	readonly asked: string;
	readonly taken: string;
	readonly refunded: string;
	readonly disputed: string;
	readonly left: string;
	readonly working: Working;
}

const showSums = (sums: readonly PaymentSum[], locale: string): ShownSum[] =>
	sums.map((one) => {
		const sum = (minor: number) => formatNumber({ minor, currency: one.currency }, locale);
		const many = one.count.toLocaleString(locale);
		return {
			currency: one.currency,
			count: many,
			asked: sum(one.minor),
			taken: sum(one.taken),
			refunded: one.refunded ? sum(one.refunded) : '',
			disputed: one.disputed ? sum(one.disputed) : '',
			left: sum(leftOf(one)),
			working: {
				title: `Left of what came in, ${one.currency}`,
				about: `${many} payment${one.count === 1 ? '' : 's'} of this list, of live mode.`,
				steps: [
					{ title: 'Captured or received', sum: sum(one.taken) },
					{ title: 'Refunded', sum: `−${sum(one.refunded)}` },
					{ title: 'Disputed or returned', sum: `−${sum(one.disputed)}` },
					{ title: 'Left', sub: 'before fees', sum: sum(leftOf(one)), total: true }
				]
			}
		};
	});

/** The sums of a list: at once from the sums by day where those tell it, else added up from its payments. */
export async function paymentSums(filter: PaymentFilter, locale: string): Promise<{ sums: ShownSum[]; test: number }> {
	const [sums, test] = await Promise.all([
		isSummedByDay(filter) ? sumsByDay(filter) : sumsOfPayments(filter),
		testPayments(filter)
	]);
	return { sums: showSums(sums, locale), test };
}
/** Whether the sums of a list are there at once. */
export const areSumsAtHand = (filter: PaymentFilter): boolean =>
	isSummedByDay(filter) || !!filter.text || !!filter.payer || !!filter.trouble;

/**
 * The proof of a list: its payments added up one by one, against the sums that are kept by day in the same transactions.
 * @returns what was compared, as workings, and whether all of it agrees; nothing to compare with where the sums by day
 * do not tell this list
 */
export async function proveSums(filter: PaymentFilter, locale: string): Promise<{ agrees: boolean; working: Working }> {
	const kept = isSummedByDay(filter) ? await sumsByDay(filter) : undefined;
	const added = await sumsOfPayments(filter);
	const names = ['count', 'minor', 'taken', 'refunded', 'disputed'] as const;
	const currencies = [...new Set([...added, ...(kept ?? added)].map((one) => one.currency))];
	const of = (list: readonly PaymentSum[], currency: string) => list.find((one) => one.currency === currency);
	const differs = (currency: string) =>
		names.filter((name) => (of(added, currency)?.[name] ?? 0) !== (of(kept ?? added, currency)?.[name] ?? 0));
	const agrees = currencies.every((currency) => differs(currency).length === 0);
	const shown = (minor: number, currency: string) => formatAmount({ minor, currency }, locale);
	return {
		agrees,
		working: {
			title: 'Proof of this list',
			about: kept
				? 'Every payment of the list added up one by one, against the sums by day, which are kept apart.'
				: 'Every payment of the list added up one by one. Sums by day do not tell this filter, so there is nothing to hold them against.',
			steps: currencies.map((currency) => {
				const one = of(added, currency);
				const wrong = differs(currency);
				const by = (of(kept ?? added, currency)?.taken ?? 0) - (one?.taken ?? 0);
				return {
					mark: wrong.length ? ('no' as const) : ('yes' as const),
					title: `${(one?.count ?? 0).toLocaleString(locale)} payments, ${shown(one?.taken ?? 0, currency)} captured`,
					sub: wrong.length
						? `the sums by day tell ${shown(Math.abs(by), currency)} ${by > 0 ? 'more' : 'less'}, and other counts: ${wrong.join(', ')}`
						: `${shown(one ? leftOf(one) : 0, currency)} left after refunds and disputes`
				};
			}),
			end: agrees
				? { tone: 'moss', text: kept ? 'Both agree, to the cent.' : 'Added up to the cent.' }
				: { tone: 'clay', text: 'They do not agree. Tell whoever looks after Just Purse; no money moved by it.' }
		}
	};
}
