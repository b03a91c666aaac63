import { forgetSnapshot } from '../signals/freshness';
import { audit } from '../access';
import {
	connectorOf,
	ConnectorError,
	isProblems,
	type Connector,
	type CredentialProblem,
	type Credentials
} from '../connectors';
import { db, write, type ConnectionRow } from '../db';
import { tell } from '../signals/live';
import { credentialsOf, sealSecrets, splitCredentials } from './credentials';
import { attempt } from './health';
import { log } from '../log';
import { timeNow } from '../signals/clock';

/** An access that ends sooner than this is refreshed before it is used, in milliseconds. */
const MARGIN_MS = 60_000;
const renewing = new Map<string, Promise<Credentials>>();
/** What a processor gave in place of what is kept, where it could not be kept yet: what is kept opens nothing any more. */
const unkept = new Map<string, { readonly insteadOf: string; readonly credentials: Credentials }>();

/**
 * Does something at a connection's processor: with credentials that are valid now, its soundness noted.
 * @param row the connection; what a consent gave is read afresh
 * @param account the account at the processor that a payment was taken in, where it was another one
 * @throws ConnectorError
 */
export const speak = <T>(
	row: ConnectionRow,
	act: (connector: Connector, credentials: Credentials) => Promise<T>,
	{ probe = false, account }: { probe?: boolean; account?: string | null } = {}
): Promise<T> =>
	attempt(
		row.id,
		async () => {
			const connector = connectorOf(row.processor);
			const credentials = await freshCredentials(row, connector);
			return act(
				connector,
				account && connector.chooser?.what === 'account'
					? { ...credentials, [connector.chooser.name]: account }
					: credentials
			);
		},
		probe
	);

/** Credentials whose access has not ended: refreshed where it has, once for all who ask meanwhile. */
async function freshCredentials(row: ConnectionRow, connector: Connector): Promise<Credentials> {
	if (!connector.consent) return credentialsOf(row);
	const credentials = credentialsOf((await db.connections.one({ id: row.id })) ?? row);
	return isEnding(credentials) || unkept.has(row.id) ? renewAccess(row, connector) : credentials;
}
const isEnding = ({ expiresAt }: Credentials): boolean => Number(expiresAt ?? 0) - timeNow() <= MARGIN_MS;

/**
 * A new access of a consent, once for all who ask at the same time: a refresh token that comes a second time ends everything
 * that the consent gave. A refresh that is refused means that the consent has ended: the connection is not valid any more.
 * @param ended an access that the processor does not take any more, though its time is not over
 * @throws ConnectorError
 */
export function renewAccess(row: ConnectionRow, connector: Connector, ended?: string): Promise<Credentials> {
	let under = renewing.get(row.id);
	if (!under) {
		under = renew(row, connector, ended).finally(() => renewing.delete(row.id));
		renewing.set(row.id, under);
	}
	return under;
}

async function renew(row: ConnectionRow, connector: Connector, ended?: string): Promise<Credentials> {
	// read where nobody else renews: who came just after another finds what that one was given
	const now = (await db.connections.one({ id: row.id })) ?? row;
	const waiting = unkept.get(row.id);
	const isWaiting = waiting?.insteadOf === now.secretSealed;
	if (!isWaiting) unkept.delete(row.id);
	const credentials = isWaiting ? waiting.credentials : credentialsOf(now);
	if (!isEnding(credentials) && credentials.access !== ended) {
		if (isWaiting) await keepAccess(now, connector, credentials);
		return credentials;
	}
	const told = await connector.consent!.refresh(credentials);
	if (isProblems(told)) {
		unkept.delete(row.id);
		await markInvalid(now, told);
		throw new ConnectorError('refused', told.map((one) => one.says).join(' '));
	}
	const after = { ...credentials, ...told };
	await keepAccess(now, connector, after);
	return after;
}

/** Keeps a new access. Where that cannot be done now, it is used all the same, and kept with the next call. */
async function keepAccess(row: ConnectionRow, connector: Connector, credentials: Credentials): Promise<void> {
	const { given, secrets } = splitCredentials(connector, credentials);
	try {
		await write((tx) =>
			// an access of a consent lives for an hour: what tills offer does not hang on it
			db.connections.update({ id: row.id }, { given, secretSealed: sealSecrets(secrets, `connection ${row.id}`) }, tx)
		);
		unkept.delete(row.id);
	} catch (error) {
		unkept.set(row.id, { insteadOf: row.secretSealed, credentials });
		log.error({ connection: row.id, error: String(error) }, 'a new access was not kept yet');
	}
}

/** Notes that a processor does not take a connection's credentials any more. */
export async function markInvalid(row: ConnectionRow, problems: readonly CredentialProblem[]): Promise<void> {
	const says = problems.map((one) => one.says).join(' ');
	await write(async (tx) => {
		const changed = await db.connections.update({ id: row.id, verified: 1 }, { verified: 0 }, tx);
		if (!changed) return;
		await db.connectionChanges.insert(
			{ connectionId: row.id, at: timeNow(), change: 'not valid any more', why: says },
			tx
		);
		await audit(
			{
				by: 'Just Purse',
				kind: 'connection',
				id: row.id,
				name: row.name,
				act: 'found not valid any more',
				before: { verified: 1 },
				after: { verified: 0, says }
			},
			tx
		);
	});
	forgetSnapshot();
	tell('connections');
}

/** Asks each failing connection whether it is sound again. */
export async function probeFailing(): Promise<void> {
	for (const row of await db.connections.find({ failing: 1, removedAt: null }))
		await speak(row, (connector, credentials) => connector.verify(credentials, row.mode), { probe: true }).catch(
			() => {}
		);
}
