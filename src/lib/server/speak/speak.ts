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
import { timeNow } from '../signals/clock';

/** An access that ends sooner than this is refreshed before it is used, in milliseconds. */
const MARGIN_MS = 60_000;
const refreshing = new Map<string, Promise<Credentials>>();

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
	const now = (await db.connections.one({ id: row.id })) ?? row;
	const credentials = credentialsOf(now);
	if (Number(credentials.expiresAt ?? 0) - timeNow() > MARGIN_MS) return credentials;
	let under = refreshing.get(row.id);
	if (!under) {
		under = refresh(now, connector, credentials).finally(() => refreshing.delete(row.id));
		refreshing.set(row.id, under);
	}
	return under;
}

/** Asks for a new access. A refresh that is refused means that the consent has ended: the connection is not valid any more. */
export async function refresh(
	row: ConnectionRow,
	connector: Connector,
	credentials: Credentials
): Promise<Credentials> {
	const told = await connector.consent!.refresh(credentials);
	if (isProblems(told)) {
		await markInvalid(row, told);
		throw new ConnectorError('refused', told.map((one) => one.says).join(' '));
	}
	const after = { ...credentials, ...told };
	const { given, secrets } = splitCredentials(connector, after);
	await write((tx) =>
		db.connections.update({ id: row.id }, { given, secretSealed: sealSecrets(secrets, `connection ${row.id}`) }, tx)
	);
	// an access of a consent lives for an hour: what tills offer does not hang on it
	return after;
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
