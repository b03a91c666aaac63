import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { PAYERS, TOKENS } from '../limits';

// How often anyone may ask for payers' pages and act on them. Counted in this process, by a clock that never jumps.

/** An installation whose payers all come through one proxy, without a header that tells them apart, needs more. */
const times = Math.max(1, Number(process.env.JUSTPURSE_PAYERS_PER_ADDRESS ?? 1));
const limiter = (keyPrefix: string, points: number) =>
	new RateLimiterMemory({ keyPrefix, points, duration: PAYERS.windowSeconds });
const pages = limiter('page', PAYERS.pagesPerAddress * times);
const acts = limiter('act', PAYERS.actsPerAddress * times);
const orders = limiter('order', PAYERS.actsPerOrder);
const tills = limiter('till', PAYERS.actsPerTill * times);

/**
 * Pays for one request of a payer's page out of what its address, order and till may have in a minute.
 * @returns after how many seconds to come again, where it is too many
 */
export async function payForPage(asked: {
	readonly address: string;
	readonly isAct: boolean;
	readonly till: string;
	readonly order: string;
}): Promise<number | undefined> {
	const { address, isAct, till, order } = asked;
	const wanted: [RateLimiterMemory, string][] = isAct
		? [
				[acts, address],
				[orders, `${till} ${order}`],
				[tills, till]
			]
		: [[pages, address]];
	for (const [limit, key] of wanted)
		try {
			await limit.consume(key);
		} catch (refused) {
			if (!(refused instanceof RateLimiterRes)) throw refused;
			// never more than the window, also when the machine's clock was set back meanwhile
			return Math.min(PAYERS.windowSeconds, Math.max(1, Math.ceil(refused.msBeforeNext / 1000)));
		}
	return undefined;
}

const wrongTokens = new RateLimiterMemory({
	keyPrefix: 'token',
	points: TOKENS.wrongPerAddress,
	duration: TOKENS.windowSeconds
});
const reads = new RateLimiterMemory({ keyPrefix: 'api', points: TOKENS.requests, duration: TOKENS.windowSeconds });

/** Pays for a request whose token is none of ours. @returns after how many seconds to come again, where there were too many */
export async function payForWrongToken(address: string): Promise<number | undefined> {
	try {
		await wrongTokens.consume(address);
		return undefined;
	} catch (refused) {
		if (!(refused instanceof RateLimiterRes)) throw refused;
		return secondsOf(refused);
	}
}

/** Pays for a request of a token. @returns what is left of its minute; below zero where there were too many */
export async function payForRead(tokenId: string): Promise<{ limit: number; remaining: number; seconds: number }> {
	try {
		const { remainingPoints, msBeforeNext } = await reads.consume(tokenId);
		return { limit: TOKENS.requests, remaining: remainingPoints, seconds: Math.max(1, Math.ceil(msBeforeNext / 1000)) };
	} catch (refused) {
		if (!(refused instanceof RateLimiterRes)) throw refused;
		return { limit: TOKENS.requests, remaining: -1, seconds: secondsOf(refused) };
	}
}

const secondsOf = ({ msBeforeNext }: RateLimiterRes): number =>
	Math.min(TOKENS.windowSeconds, Math.max(1, Math.ceil(msBeforeNext / 1000)));
