import { db, type Tx } from '../db';
import { timeNow } from '../signals/clock';

/** Names that never enter the trail, whatever holds them. */
const SECRET = /secret|sealed|password|token|signingKey|hookKey/i;

function withoutSecrets(value: unknown): unknown {
	if (Array.isArray(value)) return value.map(withoutSecrets);
	if (value && typeof value === 'object')
		return Object.fromEntries(
			Object.entries(value)
				.filter(([name]) => !SECRET.test(name) || name === 'secretLast4')
				.map(([name, one]) => [name, withoutSecrets(one)])
		);
	return value;
}

/** What a change can be of, as the trail names it. */
export const AUDITED = [
	'business',
	'brand',
	'bank account',
	'ledger account',
	'domain',
	'application',
	'settlement file',
	'candidate',
	'rate card',
	'connection',
	'offline method',
	'till',
	'line-up',
	'payer',
	'group',
	'pause',
	'template',
	'token',
	'trial',
	'payment',
	'order',
	'invoice',
	'quote',
	'credit note',
	'price list',
	'pay link',
	'discount code',
	'message',
	'endpoint',
	'alert',
	'dispute'
] as const;

export interface Change {
	readonly by: string;
	readonly kind: (typeof AUDITED)[number];
	readonly id: string;
	readonly name: string;
	readonly act: string;
	readonly before?: object;
	readonly after?: object;
}

/** Writes one change to the trail, in the transaction that makes it. Only what differs is kept; secrets never are. */
export async function audit(change: Change, tx: Tx): Promise<void> {
	const before = withoutSecrets(change.before) as Record<string, unknown> | undefined;
	const after = withoutSecrets(change.after) as Record<string, unknown> | undefined;
	const differing = (one: Record<string, unknown> | undefined) =>
		one && before && after
			? Object.fromEntries(
					Object.entries(one).filter(([name]) => JSON.stringify(before[name]) !== JSON.stringify(after[name]))
				)
			: one;
	await db.audit.insert(
		{
			at: timeNow(),
			userName: change.by,
			objectKind: change.kind,
			objectId: change.id,
			objectName: change.name,
			act: change.act,
			before: before ? JSON.stringify(differing(before)) : null,
			after: after ? JSON.stringify(differing(after)) : null
		},
		tx
	);
}
