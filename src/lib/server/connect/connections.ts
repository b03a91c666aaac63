import { methodName } from '../../core/lineup';
import { descriptorProblems } from '../../core/references';
import { forgetSnapshot } from '../signals/freshness';
import { audit } from '../access';
import { connectorOf, ConnectorError, isProblems, type Account, type Connector } from '../connectors';
import { db, write, type AbilityChangeRow, type ConnectionChangeRow, type ConnectionRow } from '../db';
import { tell } from '../signals/live';
import { accountDifferences, readAccount, storeAccount } from '../connectors/account';
import { keepProposal } from '../ratecards';
import { markInvalid, renewAccess, speak } from '../speak/speak';
import { timeNow } from '../signals/clock';

/** Where processors reach us: the address of the application, without a slash at its end. */
export const ownAddress = (): string => (process.env.ORIGIN ?? 'http://127.0.0.1:5230').replace(/\/$/, '');
export const hookAddress = (row: Pick<ConnectionRow, 'hookKey'>): string => `${ownAddress()}/hooks/${row.hookKey}`;

export const allConnections = (): Promise<ConnectionRow[]> =>
	db.connections.find({ removedAt: null }, { order: [['createdAt', 'ASC']] });

/** What happened to a connection of late, and what its account can do otherwise than before; the newest first. */
export async function changesOf(
	connectionId: string
): Promise<{ changes: ConnectionChangeRow[]; differences: AbilityChangeRow[] }> {
	const [changes, differences] = await Promise.all([
		db.connectionChanges.find({ connectionId }, { order: [['id', 'DESC']], limit: 5 }),
		db.abilityChanges.find({ connectionId }, { order: [['id', 'DESC']], limit: 12 })
	]);
	return { changes, differences };
}

export const connectionById = async (id: string): Promise<ConnectionRow | undefined> =>
	db.connections.one({ id, removedAt: null });

type ReadCard = Awaited<ReturnType<Connector['rateCard']>>;

/**
 * Reads again what the account can do and what it costs, and tells what differs. What the processor does not take any
 * more is noted at the connection.
 */
export async function reread(row: ConnectionRow, by: string): Promise<{ says: string[] } | { trouble: string }> {
	try {
		// both at once: what the account can do is known as soon as the processor has answered once
		let access: string | undefined;
		const ask = () =>
			speak(row, (one, credentials) => {
				access = credentials.access;
				return Promise.all([
					one.verify(credentials, row.mode),
					one.rateCard(credentials).catch((error: unknown) => error)
				]);
			});
		let [told, card] = await ask();
		const connector = connectorOf(row.processor);
		if (isProblems(told) && told.some((one) => one.code === 'expired') && connector.consent) {
			await renewAccess(row, connector, access);
			[told, card] = await ask();
		}
		if (isProblems(told)) {
			await markInvalid(row, told);
			return { trouble: told.map((one) => one.says).join(' ') };
		}
		if (card instanceof Error) throw card;
		return { says: await keepAccount(row, told, card as ReadCard, by) };
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return { trouble: error.message };
	}
}

/** Keeps what an account was read to be. @returns what differs from before, in sentences */
export async function keepAccount(
	row: ConnectionRow,
	account: Account,
	card: ReadCard,
	by: string,
	more: Partial<ConnectionRow> = {}
): Promise<string[]> {
	const before = readAccount(row.account);
	const stored = storeAccount(account);
	const says = accountDifferences(before, readAccount(stored), methodName);
	await write(async (tx) => {
		await db.connections.update(
			{ id: row.id },
			{ account: stored, accountReadAt: timeNow(), verified: 1, keyMadeAt: account.keyMadeAt ?? null, ...more },
			tx
		);
		const kept = await keepProposal(row.id, card, connectorOf(row.processor).name, tx);
		if (kept)
			says.push(
				`${row.name} says that its prices are others from ${kept.validFrom} on; until you confirm them, fees are held against your contract. ${kept.says.slice(0, 4).join(' ')}${kept.says.length > 4 ? ` And ${kept.says.length - 4} more.` : ''}`
			);
		if (!says.length) return;
		await db.abilityChanges.insertMany(
			says.map((one) => ({ connectionId: row.id, at: timeNow(), says: one })),
			tx
		);
		await audit(
			{
				by,
				kind: 'connection',
				id: row.id,
				name: row.name,
				act: 'read the account again',
				before,
				after: readAccount(stored)
			},
			tx
		);
	});
	forgetSnapshot();
	tell('connections');
	return says;
}

const REREAD_MS = Number(process.env.JUSTPURSE_REREAD_MS ?? 6 * 3_600_000);

/** Reads each account again once it is time; what differs is reported under Needs you. */
export async function rereadDue(now: number): Promise<void> {
	for (const row of await allConnections())
		if (!row.failing && now - row.accountReadAt > REREAD_MS) await reread(row, 'Just Purse');
}

/** Says that differences which were reported have been seen. */
export async function seeChanges(row: ConnectionRow): Promise<void> {
	await write((tx) => db.abilityChanges.update({ connectionId: row.id, seenAt: null }, { seenAt: timeNow() }, tx));
	tell('connections');
}

/** Changes the lines on payers' statements, within the processor's limits. @returns what is wrong, by field */
export async function setDescriptor(
	row: ConnectionRow,
	descriptor: string,
	by: string,
	shortDescriptor = row.shortDescriptor
): Promise<{ descriptor?: string; shortDescriptor?: string }> {
	const account = readAccount(row.account);
	const wrong = {
		descriptor: descriptorProblems(descriptor, account.descriptor).join(' ') || undefined,
		shortDescriptor:
			(account.shortDescriptor && descriptorProblems(shortDescriptor, account.shortDescriptor).join(' ')) || undefined
	};
	if (wrong.descriptor || wrong.shortDescriptor) return wrong;
	await change(row, { descriptor, shortDescriptor }, 'changed the statement descriptor', by);
	return {};
}

/** Changes columns of a connection, with its trail. */
export async function change(
	row: ConnectionRow,
	changes: Partial<ConnectionRow>,
	act: string,
	by: string
): Promise<void> {
	await write(async (tx) => {
		await db.connections.update({ id: row.id }, changes, tx);
		const before = Object.fromEntries(Object.keys(changes).map((name) => [name, row[name as keyof ConnectionRow]]));
		await audit({ by, kind: 'connection', id: row.id, name: row.name, act, before, after: changes }, tx);
	});
	forgetSnapshot();
	tell('connections');
}

export const setPaused = (row: ConnectionRow, paused: boolean, by: string): Promise<void> =>
	change(row, { paused: Number(paused) }, paused ? 'paused' : 'resumed', by);

/** Asks for a test notification. @returns what went wrong, if anything */
export async function sayHello(row: ConnectionRow): Promise<string | undefined> {
	if (connectorOf(row.processor).listen && !row.hookId) return 'No notifications are set up.';
	try {
		await speak(row, (connector, credentials) => connector.sendTestNotification(credentials, row.hookId ?? ''));
		return undefined;
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return error.message;
	}
}

/** Who is mailed when notifications do not get here, where nobody said: who hears of urgent alerts first, else the first administrator. */
export async function usualTroubleMail(): Promise<string> {
	const rules = db.watchSettings.json.rules((await db.watchSettings.one({ id: 1 }))?.rules ?? '{}');
	return rules.urgentTo[0] ?? (await db.users.find({}, { order: [['createdAt', 'ASC']], limit: 1 }))[0]?.mail ?? '';
}
