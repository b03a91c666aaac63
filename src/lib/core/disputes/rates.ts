// How often payments are disputed, and what schemes allow.

/**
 * What a card scheme allows of a month's payments. The schemes are invented, and so are these numbers: an installation has
 * those of its own contract.
 */
export interface SchemeLimit {
	readonly scheme: string;
	/** disputes to payments, in parts per ten thousand: from here on it is warned */
	readonly warnAt: number;
	/** from here on the scheme charges more, or ends the contract */
	readonly mostAt: number;
	/** fewer disputes than this are never too many */
	readonly atLeast: number;
}
export const SCHEME_LIMITS: readonly SchemeLimit[] = [
	{ scheme: 'corvid', warnAt: 65, mostAt: 90, atLeast: 20 },
	{ scheme: 'mainsail', warnAt: 75, mostAt: 100, atLeast: 20 },
	{ scheme: 'tessel', warnAt: 100, mostAt: 150, atLeast: 10 },
	{ scheme: 'gildern', warnAt: 65, mostAt: 100, atLeast: 10 }
];

export interface DisputeCount {
	readonly payments: number;
	readonly disputes: number;
}
/** Disputes to payments, in parts per ten thousand, not rounded; 0 where nothing was paid. */
export const disputeRate = ({ payments, disputes }: DisputeCount): number =>
	payments > 0 ? (disputes * 10_000) / payments : 0;

/** How a scheme sees so many disputes. Both conditions must hold: the rate, and enough of them. */
export function judgeDisputes(count: DisputeCount, limit: SchemeLimit): 'fine' | 'near' | 'over' {
	if (count.disputes < limit.atLeast) return 'fine';
	const rate = disputeRate(count);
	return rate >= limit.mostAt ? 'over' : rate >= limit.warnAt ? 'near' : 'fine';
}

/** How many more disputes of a month's payments a scheme allows before it is over. */
export function disputesLeft({ payments, disputes }: DisputeCount, limit: SchemeLimit): number {
	const most = Math.max(limit.atLeast, Math.ceil((payments * limit.mostAt) / 10_000));
	return Math.max(0, most - disputes);
}
