/** What the application listens for, in the trade's words. Connectors translate them to their processor's names. */
export const NOTICES = [
	'authorised',
	'captured',
	'failed',
	'voided',
	'refunded',
	'refund-failed',
	'disputed',
	'settled',
	'paid-out',
	'pending',
	'returned'
] as const;
export type Notice = (typeof NOTICES)[number];

/** A feature that relies on notifications. */
export const FEATURES = [
	'cards',
	'capture-later',
	'bank-debit',
	'transfers',
	'payer-pages',
	'bills',
	'payouts'
] as const;
export type Feature = (typeof FEATURES)[number];

const NEEDS: Record<Feature, Partial<Record<Notice, string>>> = {
	cards: {
		authorised: 'a payment that is held but not yet taken would stay at requested',
		captured: 'a payment whose answer was lost would stay at requested',
		failed: 'a declined payment would look as if it were still under way',
		refunded: 'a refund made at the processor would not appear here',
		disputed: 'a dispute would be heard of only when the money is gone'
	},
	'capture-later': {
		authorised: 'a payment that is held but not yet taken would stay at requested',
		voided: 'a payment given up at the processor would look as if it were still held'
	},
	'bank-debit': {
		pending: 'a debit under way would look as if nothing had happened',
		captured: 'a collected debit would stay at pending',
		failed: 'a refused mandate would look as if it were still under way',
		settled: 'a debit would never become safe to fulfil',
		returned: 'a debit that came back would still count as paid',
		refunded: 'money sent back at the processor would not appear here'
	},
	transfers: {
		captured: 'a transfer that was matched would never count as paid',
		refunded: 'money sent back at the processor would not appear here'
	},
	'payer-pages': {
		captured: 'a payer who pays and closes the page would stay at requested',
		failed: 'a payer who gives up would look as if they were still paying',
		refunded: 'a refund made at the processor would not appear here'
	},
	bills: {
		captured: 'an invoice that was paid would stay open, and its payer would be reminded of it',
		refunded: 'an invoice whose money went back would still count as paid'
	},
	payouts: {
		settled: 'no payment would become settled',
		'paid-out': 'no payment would become paid out'
	}
};

const FEATURE_OF: Readonly<Record<string, Feature>> = {
	card: 'cards',
	'device-wallet': 'cards',
	'bank-debit': 'bank-debit',
	'credit-transfer': 'transfers',
	'bank-redirect': 'payer-pages',
	'account-wallet': 'payer-pages',
	'pay-later': 'payer-pages',
	'bank-app': 'payer-pages'
};
/**
 * The features behind the methods in use; payouts are always one.
 * @param bills whether invoices, quotes or pay links are paid by them
 */
export const featuresOf = (
	methods: readonly string[],
	capture: 'at once' | 'later' = 'at once',
	bills = false
): Feature[] => [
	...new Set<Feature>([
		...methods.map((method) => FEATURE_OF[method]).filter((one): one is Feature => !!one),
		...(capture === 'later' ? (['capture-later'] as const) : []),
		...(bills ? (['bills'] as const) : []),
		'payouts'
	])
];

export interface NeededReport {
	readonly needed: {
		notice: Notice;
		because: Feature;
		breaks: string;
		/** further features that rely on it, and what would break with them */
		also: { because: Feature; breaks: string }[];
		subscribed: boolean;
	}[];
	readonly noise: Notice[];
}

/** Which notifications the features in use rely on, which of them are not subscribed, and which are noise. */
export function neededNotices(features: readonly Feature[], subscribed: readonly Notice[]): NeededReport {
	const needed = new Map<Notice, NeededReport['needed'][number]>();
	for (const because of features)
		for (const [notice, breaks] of Object.entries(NEEDS[because]) as [Notice, string][]) {
			const known = needed.get(notice);
			if (known) known.also.push({ because, breaks });
			else needed.set(notice, { notice, because, breaks, also: [], subscribed: subscribed.includes(notice) });
		}
	return { needed: [...needed.values()], noise: subscribed.filter((notice) => !needed.has(notice)) };
}
