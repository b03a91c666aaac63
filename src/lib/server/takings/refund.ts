import { AmountError, formatAmount, readTypedAmount } from '../../core/money';
import { audit } from '../access';
import { speak } from '../connect/speak';
import { ConnectorError, type Outcome } from '../connectors';
import { db, write, type ActionRow, type PaymentRow, type Tx } from '../db';
import { tell } from '../live';
import { wake } from '../work/wake';
import { keepReport } from './record';

export type Refunded = { readonly done: string } | { readonly asking: string } | { readonly problem: string };

/** What may still be refunded: less refunds whose outcome is not known yet. */
export async function leftToRefund(payment: PaymentRow, tx?: Tx): Promise<number> {
	const open = await db.actions.find({ paymentId: payment.id, act: 'refund', state: 'unknown' }, {}, tx);
	return Math.max(0, payment.refundable - open.reduce((sum, one) => sum + one.minor, 0));
}

/**
 * Refunds a card payment, whole or in part.
 * @param key made when the form was shown: the same key and amount does it once, another amount is refused
 */
export async function refundPayment(
	paymentId: number,
	typed: string,
	key: string,
	by: string,
	locale: string
): Promise<Refunded> {
	const payment = await db.payments.one({ id: paymentId });
	if (!payment?.connectionId || !payment.processorId) return { problem: 'This payment cannot be refunded here.' };
	const connection = (await db.connections.one({ id: payment.connectionId }))!;
	if (connection.removedAt) return { problem: `${connection.name} is disconnected. Connect it again, then refund.` };
	if (!/^[\w-]{8,60}$/.test(key)) return { problem: 'The form was incomplete. Open the payment again.' };
	let minor: number;
	try {
		minor = readTypedAmount(typed, payment.currency).amount.minor;
	} catch (error) {
		if (error instanceof AmountError) return { problem: error.message };
		throw error;
	}
	const shown = formatAmount({ minor, currency: payment.currency }, locale);
	const begun = await write(async (tx): Promise<{ before?: ActionRow; problem?: string }> => {
		const before = await db.actions.one({ key }, tx);
		if (before) return { before };
		const current = (await db.payments.one({ id: paymentId }, tx))!;
		const left = await leftToRefund(current, tx);
		if (minor > left)
			return {
				problem: `At most ${formatAmount({ minor: left, currency: payment.currency }, locale)} is left to refund.`
			};
		await db.actions.insert(
			{
				key,
				paymentId,
				act: 'refund',
				content: `${payment.currency} ${minor}`,
				minor,
				state: 'unknown',
				nextAt: Date.now() + 30_000,
				createdAt: Date.now()
			},
			tx
		);
		await audit(
			{ by, kind: 'payment', id: String(paymentId), name: payment.reference, act: `asked for a refund of ${shown}` },
			tx
		);
		return {};
	});
	if (begun.problem) return { problem: begun.problem };
	if (begun.before) {
		if (begun.before.content !== `${payment.currency} ${minor}`)
			return { problem: 'This form was used for another amount. Open the payment again.' };
		if (begun.before.state === 'refused') return { problem: begun.before.says };
		return begun.before.state === 'done'
			? { done: `${shown} was refunded already; it was not refunded twice.` }
			: { asking: askingSays(shown) };
	}
	try {
		const outcome = await speak(
			connection,
			(connector, credentials) =>
				connector.refund(credentials, {
					key,
					processorId: payment.processorId!,
					amount: { minor, currency: payment.currency }
				}),
			{ account: payment.accountId }
		);
		await endRefund(payment, key, outcome, 'answer');
		return outcome.outcome === 'done'
			? { done: `${shown} refunded through ${connection.name}.` }
			: { problem: `${connection.name} refused: ${outcome.says}` };
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		await write((tx) => db.actions.update({ key }, { says: error.message, nextAt: Date.now() + 1_000 }, tx));
		wake();
		return { asking: askingSays(shown) };
	}
}

const askingSays = (shown: string) =>
	`Whether ${shown} went back is not known yet. The processor is being asked; until it answers, this sum is held and cannot be refunded again.`;

/** Keeps what became of a refund. */
export async function endRefund(
	payment: PaymentRow,
	key: string,
	outcome: Outcome | { outcome: 'never came' },
	source: string
): Promise<void> {
	await write(async (tx) => {
		if (outcome.outcome === 'done') {
			await keepReport((await db.payments.one({ id: payment.id }, tx))!, outcome.report, source, tx);
			await db.actions.update({ key }, { state: 'done' }, tx);
		} else
			await db.actions.update(
				{ key },
				{
					state: 'refused',
					says:
						outcome.outcome === 'refused' ? outcome.says : 'The refund never reached the processor. Nothing went back.'
				},
				tx
			);
	});
	tell('takings');
}
