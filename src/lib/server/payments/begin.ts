import { db, type ActionRow, type PaymentRow, type Tx } from '../db';
import { timeNow } from '../signals/clock';
import { wake } from '../signals/wake';

/** An action of ours at a processor. Its key makes it happen once, there and here. */
export interface Action {
	readonly key: string;
	readonly payment: Pick<PaymentRow, 'id' | 'currency'>;
	readonly act: ActionRow['act'];
	readonly minor: number;
	/** what else the same key must mean: another content under one key is refused */
	readonly more?: string;
}

/** What the same key stands for: the payment belongs to it. */
const contentOf = ({ payment, act, minor, more }: Action): string =>
	[`payment ${payment.id}`, act, payment.currency, minor, ...(more ? [more] : [])].join(' ');

/** An answer is waited for by whoever asked; the worker asks after it only when they must have given up. */
export const ANSWER_MS = 30_000;
/**
 * Begins an action where the transaction decides that it may happen.
 * @param state `planned` leaves the asking to the worker
 * @returns the action that this key stood for before, if it did; nothing is begun then
 */
export async function beginAction(
	action: Action,
	tx: Tx,
	state: 'unknown' | 'planned' = 'unknown'
): Promise<{ before?: ActionRow; reused?: true }> {
	const content = contentOf(action);
	const before = await db.actions.one({ key: action.key }, tx);
	if (before) return before.content === content ? { before } : { before, reused: true };
	await db.actions.insert(
		{
			key: action.key,
			paymentId: action.payment.id,
			act: action.act,
			content,
			minor: action.minor,
			state,
			nextAt: state === 'planned' ? 0 : timeNow() + ANSWER_MS,
			createdAt: timeNow()
		},
		tx
	);
	// it is left to the worker, which may not look again for half a minute: until then a payer could still pay it there
	if (state === 'planned') tx.afterCommit(() => wake());
	return {};
}
