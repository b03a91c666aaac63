import { AmountError, formatAmount, readTypedAmount } from '../../core/money';
import { audit } from '../access';
import { db, write, type ActionRow } from '../db';
import { cancelling, performAction } from './actions';
import { beginAction } from './begin';

export type HeldEnd = { readonly done: string } | { readonly asking: string } | { readonly problem: string };

/**
 * Captures money that was only authorised, whole or in part, or voids the authorisation.
 * @param key made when the form was shown: the same key does it once
 * @param typed the sum to capture; empty for all of it
 */
export async function endAuthorisation(
	paymentId: number,
	act: 'capture' | 'cancel',
	typed: string,
	key: string,
	by: string,
	locale: string
): Promise<HeldEnd> {
	const payment = await db.payments.one({ id: paymentId });
	if (!payment?.connectionId || !payment.processorId || payment.stage !== 'authorised')
		return { problem: 'Nothing is held for this payment any more.' };
	if (!/^[\w-]{8,60}$/.test(key)) return { problem: 'The form was incomplete. Open the payment again.' };
	let { minor } = payment;
	if (act === 'capture' && typed.trim())
		try {
			minor = readTypedAmount(typed, payment.currency, { locale }).amount.minor;
		} catch (error) {
			if (error instanceof AmountError) return { problem: error.message };
			throw error;
		}
	const shown = formatAmount({ minor, currency: payment.currency }, locale);
	if (minor > payment.minor)
		return {
			problem: `At most ${formatAmount({ minor: payment.minor, currency: payment.currency }, locale)} is held.`
		};
	const begun = await write(async (tx): Promise<{ before?: ActionRow; reused?: true }> => {
		const open = (
			await db.actions.find({ paymentId, act: ['capture', 'cancel'], state: ['unknown', 'stuck', 'planned'] }, {}, tx)
		)[0];
		if (open && open.key !== key) return { before: open };
		const answer = await beginAction({ key, payment, act, minor }, tx);
		if (!answer.before)
			await audit(
				{
					by,
					kind: 'payment',
					id: String(paymentId),
					name: payment.reference,
					act: act === 'capture' ? `captured ${shown} of what was held` : 'voided what was held'
				},
				tx
			);
		return answer;
	});
	if (begun.reused) return { problem: 'This form was used for something else. Open the payment again.' };
	if (begun.before)
		return begun.before.state === 'done'
			? { done: 'It was done already; it was not done twice.' }
			: begun.before.state === 'refused'
				? { problem: begun.before.says }
				: { asking: 'The processor is still being asked about this payment.' };
	const connection = (await db.connections.one({ id: payment.connectionId }))!;
	const ended = await performAction(
		{ key, act, paymentId },
		payment,
		connection,
		act === 'cancel'
			? cancelling(key, payment)
			: async (connector, credentials) =>
					(await connector.capture?.(credentials, {
						key,
						processorId: payment.processorId!,
						amount: { minor, currency: payment.currency }
					})) ?? { outcome: 'refused', says: `${connector.name} cannot do this through us.` }
	);
	if (ended.state === 'refused') return { problem: `${connection.name} refused: ${ended.says}` };
	if (ended.state === 'unknown') return { asking: 'What became of it is not known yet; the processor is being asked.' };
	return {
		done:
			act === 'capture'
				? `${shown} captured through ${connection.name}.`
				: 'The authorisation is void: nothing is held any more.'
	};
}
