import { AmountError, formatAmount, readTypedAmount } from '../../core/money';
import { audit } from '../access';
import { db, write, type ActionRow, type PaymentRow, type Tx } from '../db';
import { performAction } from './actions';
import { beginAction } from './begin';

export type Refunded = { readonly done: string } | { readonly asking: string } | { readonly problem: string };

/** What may still be refunded: less refunds whose outcome is not known yet. */
export async function leftToRefund(payment: PaymentRow, tx?: Tx): Promise<number> {
	const open = await db.actions.find({ paymentId: payment.id, act: 'refund', state: ['unknown', 'stuck'] }, {}, tx);
	return Math.max(0, payment.refundable - open.reduce((sum, one) => sum + one.minor, 0));
}

/**
 * Refunds a payment of a processor, whole or in part.
 * @param reason why, for the audit trail
 * @param key made when the form was shown: the same key, payment and amount does it once, anything else under it is refused
 */
export async function refundPayment(
	paymentId: number,
	typed: string,
	key: string,
	by: string,
	locale: string,
	reason = ''
): Promise<Refunded> {
	const payment = await db.payments.one({ id: paymentId });
	if (!payment?.connectionId || !payment.processorId) return { problem: 'This payment cannot be refunded here.' };
	const connection = (await db.connections.one({ id: payment.connectionId }))!;
	if (connection.removedAt) return { problem: `${connection.name} is disconnected. Connect it again, then refund.` };
	if (!/^[\w-]{8,60}$/.test(key)) return { problem: 'The form was incomplete. Open the payment again.' };
	let minor: number;
	try {
		minor = readTypedAmount(typed, payment.currency, { locale }).amount.minor;
	} catch (error) {
		if (error instanceof AmountError) return { problem: error.message };
		throw error;
	}
	const shown = formatAmount({ minor, currency: payment.currency }, locale);
	const begun = await write(async (tx): Promise<{ before?: ActionRow; reused?: true; problem?: string }> => {
		const known = await db.actions.one({ key }, tx);
		if (!known) {
			const left = await leftToRefund((await db.payments.one({ id: paymentId }, tx))!, tx);
			if (minor > left)
				return {
					problem: `At most ${formatAmount({ minor: left, currency: payment.currency }, locale)} is left to refund.`
				};
		}
		const answer = await beginAction({ key, payment, act: 'refund', minor }, tx);
		if (!answer.before)
			await audit(
				{
					by,
					kind: 'payment',
					id: String(paymentId),
					name: payment.reference,
					act: `asked for a refund of ${shown}${reason ? `: ${reason}` : ''}`
				},
				tx
			);
		return answer;
	});
	if (begun.problem) return { problem: begun.problem };
	if (begun.reused) return { problem: 'This form was used for another refund. Open the payment again.' };
	if (begun.before) {
		if (begun.before.state === 'refused') return { problem: begun.before.says };
		return begun.before.state === 'done'
			? { done: `${shown} was refunded already; it was not refunded twice.` }
			: { asking: askingSays(shown) };
	}
	const ended = await performAction({ key, act: 'refund', paymentId }, payment, connection, (connector, credentials) =>
		connector.refund(credentials, {
			key,
			processorId: payment.processorId!,
			amount: { minor, currency: payment.currency }
		})
	);
	if (ended.state === 'done') return { done: `${shown} refunded through ${connection.name}.` };
	return ended.state === 'refused'
		? { problem: `${connection.name} refused: ${ended.says}` }
		: { asking: askingSays(shown) };
}

const askingSays = (shown: string) =>
	`Whether ${shown} went back is not known yet. The processor is being asked; until it answers, this sum is held and cannot be refunded again.`;
