import { randomBytes } from 'node:crypto';
import { z } from 'zod';
import { isHookEvent, TOLD_KINDS } from '../../core/hooks';
import { audit, seal, unseal } from '../access';
import { db, deliveryCounts, write, type HookEndpointRow, type Tx } from '../db';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';
import { wake } from '../signals/wake';

// Outside programs that are told of events: who they are, and what they are told of.

/** The secret before a rotation is good for so long beside the new one, in milliseconds. */
export const BOTH_VALID = 7 * 86_400_000;
const MOST = 100;

export const EndpointForm = z.object({
	address: z
		.string()
		.trim()
		.max(1_000, 'At most 1000 characters.')
		.refine((text) => {
			try {
				const { protocol, username, password } = new URL(text);
				return (protocol === 'https:' || protocol === 'http:') && !username && !password;
			} catch {
				return false;
			}
		}, 'Give a whole address, such as https://shop.example/hooks, without a name and password in it.'),
	description: z.string().trim().max(120, 'At most 120 characters.').default(''),
	/** none means all */
	kinds: z.array(z.string().refine(isHookEvent, 'There is no such event.')).default([])
});
export type EndpointForm = z.infer<typeof EndpointForm>;

export const readKinds = (row: Pick<HookEndpointRow, 'kinds'>): string[] => db.hookEndpoints.json.kinds(row.kinds);
/** Whether an endpoint wants to hear of a kind of event. */
export const wants = (row: Pick<HookEndpointRow, 'kinds'>, kind: string): boolean => {
	const kinds = readKinds(row);
	return kinds.length === 0 || kinds.includes(kind);
};

const sealedFor = (id: number) => `endpoint ${id}`;
/** A secret as Standard Webhooks has it: 24 random bytes. */
const newSecret = () => `whsec_${randomBytes(24).toString('base64')}`;

/** The secrets that are valid now, the newest first. */
export const secretsOf = (row: HookEndpointRow, now: number): string[] => [
	String(unseal(row.secretSealed, sealedFor(row.id))),
	...(row.oldSecretSealed && (row.oldUntil ?? 0) > now ? [String(unseal(row.oldSecretSealed, sealedFor(row.id)))] : [])
];

export const allEndpoints = async (): Promise<HookEndpointRow[]> =>
	(await db.hookEndpoints.find({}, { order: [['id', 'ASC']] })).filter((row) => row.state !== 'removed');
export const endpointById = async (id: number): Promise<HookEndpointRow | undefined> => {
	const row = await db.hookEndpoints.one({ id });
	return row?.state === 'removed' ? undefined : row;
};
export const countsOfDeliveries = deliveryCounts;

const note = (row: Pick<HookEndpointRow, 'id' | 'address'>, by: string, act: string, tx: Tx, more: object = {}) =>
	audit({ by, kind: 'endpoint', id: String(row.id), name: row.address, act, ...more }, tx);

/** @returns the endpoint with its secret, which is shown this once; or what is wrong */
export async function addEndpoint(
	form: EndpointForm,
	by: string
): Promise<{ id: number; secret: string } | { problem: string }> {
	if ((await allEndpoints()).length >= MOST) return { problem: `There are ${MOST} endpoints already.` };
	const secret = newSecret();
	const id = await write(async (tx) => {
		const row = await db.hookEndpoints.insert(
			{
				address: form.address,
				description: form.description,
				kinds: JSON.stringify(allOrSome(form.kinds)),
				state: 'on',
				secretSealed: '',
				createdAt: timeNow(),
				createdBy: by
			},
			tx
		);
		await db.hookEndpoints.update({ id: row.id }, { secretSealed: seal(secret, sealedFor(row.id)) }, tx);
		await note(row, by, 'added', tx, { after: form });
		return row.id;
	});
	tell('hooks');
	return { id, secret };
}
/** All of them chosen one by one is all, also of those that come later. */
const allOrSome = (kinds: readonly string[]) => (TOLD_KINDS.every((kind) => kinds.includes(kind)) ? [] : kinds);

const changeEndpoint = async (
	id: number,
	by: string,
	act: string,
	change: (row: HookEndpointRow) => Partial<HookEndpointRow> | undefined
): Promise<HookEndpointRow | undefined> => {
	const row = await write(async (tx) => {
		const before = await db.hookEndpoints.one({ id }, tx);
		if (!before || before.state === 'removed') return undefined;
		const changes = change(before);
		if (!changes) return before;
		await db.hookEndpoints.update({ id }, changes, tx);
		const after = (await db.hookEndpoints.one({ id }, tx))!;
		await note(after, by, act, tx, { before, after });
		return after;
	});
	tell('hooks');
	wake();
	return row;
};

export const saveEndpoint = (id: number, form: EndpointForm, by: string) =>
	changeEndpoint(id, by, 'changed', () => ({
		address: form.address,
		description: form.description,
		kinds: JSON.stringify(allOrSome(form.kinds))
	}));

/** Pauses an endpoint by hand, or lets it go on: what waited meanwhile is told then, at once. */
export async function setPaused(id: number, isPaused: boolean, by: string): Promise<HookEndpointRow | undefined> {
	if (!isPaused) await write((tx) => db.hookDeliveries.update({ endpointId: id, state: 'waiting' }, { nextAt: 0 }, tx));
	return changeEndpoint(id, by, isPaused ? 'paused' : 'switched on', (row) =>
		(row.state === 'on') === isPaused
			? { state: isPaused ? 'paused' : 'on', says: '', failingSince: null, warnedAt: null }
			: undefined
	);
}
export const removeEndpoint = (id: number, by: string) =>
	changeEndpoint(id, by, 'removed', () => ({ state: 'removed' }));

/** Gives an endpoint a new secret; the one before is good for a week beside it. @returns the new one, shown this once */
export async function rotateSecret(id: number, by: string): Promise<string | undefined> {
	const secret = newSecret();
	const row = await changeEndpoint(id, by, 'rotated the secret', (before) => ({
		secretSealed: seal(secret, sealedFor(id)),
		oldSecretSealed: before.secretSealed,
		oldUntil: timeNow() + BOTH_VALID
	}));
	return row && secret;
}
