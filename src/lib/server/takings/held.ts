import { AmountError, formatAmount, readTypedAmount } from '../../core/money';
import { audit } from '../access';
import { speak } from '../connect/speak';
import { ConnectorError, type Outcome } from '../connectors';
import { db, write, type ActionRow, type PaymentRow } from '../db';
import { tell } from '../live';
import { wake } from '../work/wake';
import { keepReport } from './record';

export type HeldEnd = { readonly done: string } | { readonly asking: string } | { readonly problem: string };

/**
 * Takes money that was only authorised, whole or in part, or lets go of it.
 * @param key made when the form was shown: the same key does it once
 * @param typed the sum to take; empty for all of it
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
			minor = readTypedAmount(typed, payment.currency).amount.minor;
		} catch (error) {
			if (error instanceof AmountError) return { problem: error.message };
			throw error;
		}
	const shown = formatAmount({ minor, currency: payment.currency }, locale);
	if (minor > payment.minor)
		return {
			problem: `At most ${formatAmount({ minor: payment.minor, currency: payment.currency }, locale)} is held.`
		};
	const content = `${act} ${payment.currency} ${minor}`;
	const before = await write(async (tx): Promise<ActionRow | undefined> => {
		const open = (await db.actions.find({ paymentId, act: ['capture', 'cancel'], state: 'unknown' }, {}, tx))[0];
		const known = (await db.actions.one({ key }, tx)) ?? open;
		if (known) return known;
		await db.actions.insert(
			{
				key,
				paymentId,
				act,
				content,
				minor,
				state: 'unknown',
				nextAt: Date.now() + 30_000,
				createdAt: Date.now()
			},
			tx
		);
		await audit(
			{
				by,
				kind: 'payment',
				id: String(paymentId),
				name: payment.reference,
				act: act === 'capture' ? `took ${shown} of what was held` : 'let go of what was held'
			},
			tx
		);
		return undefined;
	});
	if (before)
		return before.state === 'unknown'
			? { asking: 'The processor is still being asked about this payment.' }
			: before.content !== content
				? { problem: 'This form was used for something else. Open the payment again.' }
				: before.state === 'done'
					? { done: 'It was done already; it was not done twice.' }
					: { problem: before.says };
	const connection = (await db.connections.one({ id: payment.connectionId }))!;
	try {
		const outcome = await speak(
			connection,
			async (connector, credentials): Promise<Outcome> => {
				const action = { key, processorId: payment.processorId!, amount: { minor, currency: payment.currency } };
				const done =
					act === 'capture'
						? await connector.capture?.(credentials, action)
						: await connector.cancel?.(credentials, action);
				return done ?? { outcome: 'refused', says: `${connector.name} cannot do this through us.` };
			},
			{ account: payment.accountId }
		);
		await endHeld(payment, key, outcome, 'answer');
		if (outcome.outcome === 'refused') return { problem: `${connection.name} refused: ${outcome.says}` };
		return { done: act === 'capture' ? `${shown} taken through ${connection.name}.` : 'What was held is let go.' };
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		await write((tx) => db.actions.update({ key }, { says: error.message, nextAt: Date.now() + 1_000 }, tx));
		wake();
		return { asking: 'What became of it is not known yet; the processor is being asked.' };
	}
}

/** Keeps what became of a capture or a cancellation. */
export async function endHeld(
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
					says: outcome.outcome === 'refused' ? outcome.says : 'It never reached the processor. Nothing was done.'
				},
				tx
			);
	});
	tell('takings');
}
