import { audit } from '../access';
import { db, write } from '../db';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';

/** Notes that somebody has looked at what contradicts itself in a payment, and at what was told otherwise. */
export async function seeContradiction(paymentId: number, by: string): Promise<void> {
	await write(async (tx) => {
		const payment = await db.payments.one({ id: paymentId }, tx);
		if (!payment) return;
		const at = timeNow();
		await db.factClashes.update({ paymentId, seenAt: null }, { seenAt: at }, tx);
		await db.seenContradictions.remove({ paymentId }, tx);
		if (payment.contradiction)
			await db.seenContradictions.insert({ paymentId, contradiction: payment.contradiction, byUser: by, at }, tx);
		await audit(
			{ by, kind: 'payment', id: String(paymentId), name: payment.reference, act: 'looked at a contradiction' },
			tx
		);
	});
	tell('takings');
}
