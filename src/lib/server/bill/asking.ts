import { payerFacts, type Asking } from '../accept/ask';
import { db, type PayerRow } from '../db';

/** What is known of a payer, as a line-up asks for it; by their number here, so that it holds without a mail address. */
export async function payerAsking(payer: PayerRow | undefined, currency: string, minor: number): Promise<Asking> {
	if (!payer) return { currency, minor };
	const facts = payer.mail
		? await payerFacts(payer.mail)
		: {
				groups: (await db.payerMemberships.find({ payerId: payer.id })).map((one) => one.groupId),
				...(payer.onlineMethod === null ? {} : { hasOnlineMethod: payer.onlineMethod === 1 }),
				...(payer.country ? { country: payer.country } : {})
			};
	return { currency, minor, ...facts };
}
