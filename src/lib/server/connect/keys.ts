import type { RateCard } from '../../core/fees';
import { forgetSnapshot } from '../signals/freshness';
import { audit, seal } from '../access';
import {
	connectorOf,
	ConnectorError,
	isProblems,
	withinTime,
	type Account,
	type CredentialProblem,
	type Credentials
} from '../connectors';
import { db, openOutcomes, write, type ConnectionRow } from '../db';
import { tell } from '../signals/live';
import { log } from '../log';
import { settleNow } from '../payments/outcomes';
import { storeAccount } from '../connectors/account';
import { draftCredentials, draftOf } from './connecting';
import { allConnections, change, hookAddress, keepAccount } from './connections';
import {
	credentialsOf,
	lastFour,
	oldCredentialsOf,
	readGiven,
	sealSecrets,
	splitCredentials
} from '../speak/credentials';
import { speak } from '../speak/speak';
import { timeNow } from '../signals/clock';

const PATIENCE_MS = 10_000;

export type Rotated =
	{ readonly done: string } | { readonly problems: readonly CredentialProblem[] } | { readonly trouble: string };

/**
 * Puts new credentials in the place of the old ones. They must open the same account. The old ones are kept, sealed, and
 * stay valid at the processor until the chosen time; then they are ended there.
 * @param until milliseconds since 1970
 */
export async function rotate(
	row: ConnectionRow,
	typed: Credentials,
	until: number,
	who: { id: string; name: string }
): Promise<Rotated> {
	const connector = connectorOf(row.processor);
	if (row.oldSecretSealed)
		return { trouble: 'Keys that were replaced are still valid. Retire them first; two pairs at a time are enough.' };
	const draft = connector.consent ? await draftOf(row.processor, row.mode, who.id, row.id) : undefined;
	const fresh = draftCredentials(draft);
	const old = credentialsOf((await db.connections.one({ id: row.id }))!);
	const trimmed = Object.fromEntries(Object.entries(typed).map(([name, value]) => [name, value.trim()]));
	// the account or tier that was chosen stays; a consent is renewed by a fresh one, a token beside it may stay
	const credentials: Credentials = {
		...(connector.chooser ? { [connector.chooser.name]: readGiven(row.given)[connector.chooser.name] ?? '' } : {}),
		...(connector.consent ? { ...old, ...fresh } : {}),
		...Object.fromEntries(Object.entries(trimmed).filter(([, value]) => value || !connector.consent))
	};
	const problems = connector.inspect(credentials, row.mode);
	if (problems.length) return { problems };
	const { secrets, given } = splitCredentials(connector, credentials);
	const before = splitCredentials(connector, old);
	if (secrets === before.secrets && !fresh.access)
		return {
			problems: [
				{
					code: 'unknown',
					field: connector.fields.find((one) => one.secret)?.name ?? '',
					says: connector.consent
						? 'Nothing new was given: give consent once more, or paste a new token.'
						: 'These are the keys that are in use already. Make new ones in the console first.'
				}
			]
		};
	try {
		const account = await withinTime(PATIENCE_MS, () => connector.verify(credentials, row.mode));
		if (isProblems(account)) return { problems: account };
		if (account.id !== row.accountId)
			return {
				problems: [
					{
						code: 'other account',
						field: connector.fields.find((one) => one.secret)?.name ?? '',
						says: `These open another account, ${account.id}. A connection stays with its account, ${row.accountId}; connect the other one beside it.`
					}
				]
			};
		const sealedBy = connector.byHand?.secretField;
		const newHook = sealedBy && credentials[sealedBy] !== old[sealedBy] ? credentials[sealedBy] : undefined;
		await write(async (tx) => {
			const after: Partial<ConnectionRow> = {
				given,
				secretSealed: sealSecrets(secrets, `connection ${row.id}`),
				secretLast4: lastFour(connector, credentials),
				keyMadeAt: account.keyMadeAt ?? timeNow(),
				oldGiven: before.given,
				oldSecretSealed: sealSecrets(before.secrets, `connection ${row.id}`),
				oldSecretLast4: row.secretLast4,
				oldUntil: until,
				...(newHook === undefined
					? {}
					: { oldHookSecretSealed: row.hookSecretSealed, hookSecretSealed: seal(newHook, `hook ${row.id}`) }),
				account: storeAccount(account),
				accountReadAt: timeNow(),
				verified: 1
			};
			await db.connections.update({ id: row.id }, after, tx);
			if (draft) await db.connectDrafts.remove({ id: draft.id }, tx);
			await audit(
				{
					by: who.name,
					kind: 'connection',
					id: row.id,
					name: row.name,
					act: 'put new credentials in place',
					before: { secretLast4: row.secretLast4, keyMadeAt: row.keyMadeAt },
					after: { secretLast4: after.secretLast4, keyMadeAt: after.keyMadeAt, oldUntil: until }
				},
				tx
			);
		});
		forgetSnapshot();
		tell('connections');
		return {
			done: `New credentials are in use. The old ones (•••• ${row.secretLast4}) stay valid until then, and are ended at ${connector.name} after.`
		};
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return { trouble: `${error.message} Nothing was changed. Try again in a moment.` };
	}
}

/** Ends replaced credentials at the processor, and forgets them here. @returns what went wrong, if anything */
export async function retireOld(row: ConnectionRow, by: string): Promise<string | undefined> {
	const old = oldCredentialsOf(row);
	if (!old) return undefined;
	const connector = connectorOf(row.processor);
	try {
		// an access that has ended opens nothing any more; the consent behind it is ended by a fresh one
		let live = old;
		if (connector.consent && old.access !== credentialsOf(row).access && Number(old.expiresAt) < timeNow() + 5_000) {
			const told = await connector.consent.refresh(old);
			if (!isProblems(told)) live = { ...old, ...told };
		}
		const replaced = !connector.consent || old.access !== credentialsOf(row).access;
		if (replaced) await connector.retire?.(live);
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		// refused means that they are ended already
		if (error.kind !== 'refused') return error.message;
	}
	await change(
		row,
		{ oldGiven: null, oldSecretSealed: null, oldSecretLast4: null, oldHookSecretSealed: null, oldUntil: null },
		'retired the old credentials',
		by
	);
	return undefined;
}

/** Retires replaced credentials whose time has come. */
export async function retireDue(now: number): Promise<void> {
	for (const row of await allConnections())
		if (row.oldUntil !== null && row.oldUntil <= now) {
			const trouble = await retireOld(row, 'Just Purse');
			if (trouble) log.warn({ connection: row.id, trouble }, 'old credentials not retired yet');
		}
}

/**
 * Ends a connection: its notifications and credentials at the processor, then here. Payments and their history stay;
 * connecting the same account again goes on with them.
 * @param anyway also when the processor cannot be asked; its credentials must then be ended there by hand
 * @returns what went wrong, if anything
 */
export async function disconnect(row: ConnectionRow, anyway: boolean, by: string): Promise<string | undefined> {
	// what is open there could never be learned again
	if (await openOutcomes(row.id)) await settleNow(row.id);
	const open = await openOutcomes(row.id);
	if (open)
		return `${open} outcome${open === 1 ? ' is' : 's are'} not known yet: charges, refunds or cancellations of ${row.name}’s that it was asked for. Nothing was disconnected. See them under Needs you; once they are known, disconnect again.`;
	try {
		await speak(row, async (connector, credentials) => {
			if (row.hookId) await connector.unlisten?.(credentials, row.hookId).catch(ignoreRefusal);
			const old = oldCredentialsOf(row);
			if (old && !connector.consent) await connector.retire?.(old).catch(ignoreRefusal);
			await connector.retire?.(credentials).catch(ignoreRefusal);
		});
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		if (!anyway && error.kind !== 'refused')
			return `${error.message} Nothing was disconnected, since its credentials could not be ended there.`;
	}
	await change(
		row,
		{
			removedAt: timeNow(),
			secretSealed: '',
			oldGiven: null,
			oldSecretSealed: null,
			oldSecretLast4: null,
			oldHookSecretSealed: null,
			oldUntil: null,
			hookSecretSealed: null,
			hookId: null,
			hookNotices: '[]',
			verified: 0
		},
		'disconnected',
		by
	);
	return undefined;
}
const ignoreRefusal = (error: unknown): void => {
	if (!(error instanceof ConnectorError) || error.kind !== 'refused') throw error;
};

/** What changes when another account or tier is chosen, asked of the processor; nothing is changed yet. */
export async function tryChoice(
	row: ConnectionRow,
	choice: string
): Promise<
	{ problems: readonly CredentialProblem[] } | { account: Account; credentials: Credentials; card: RateCard }
> {
	return speak(row, async (connector, credentials) => {
		const chosen = { ...credentials, [connector.chooser!.name]: choice };
		const account = await connector.verify(chosen, row.mode);
		if (isProblems(account)) return { problems: account };
		const { card } = await connector.rateCard(chosen);
		return { account, credentials: chosen, card };
	});
}

/** Moves a connection to another account or tier behind the same credentials. */
export async function choose(row: ConnectionRow, choice: string, by: string): Promise<string | undefined> {
	const connector = connectorOf(row.processor);
	if (!connector.chooser) return 'There is nothing to choose here.';
	try {
		const told = await tryChoice(row, choice);
		if ('problems' in told) return told.problems.map((one) => one.says).join(' ');
		const { account, credentials } = told;
		const taken = await db.connections.one({
			processor: row.processor,
			mode: row.mode,
			accountId: account.id,
			removedAt: null
		});
		if (taken && taken.id !== row.id) return `${account.name} is connected already, as ${taken.name}.`;
		const moves = account.id !== row.accountId;
		const card = await connector.rateCard(credentials);
		const address = hookAddress(row);
		const notices = db.connections.json.hookNotices(row.hookNotices);
		const listening = moves ? await connector.listen?.(credentials, address, notices, row.hookMail ?? '') : undefined;
		const { given } = splitCredentials(connector, credentials);
		await keepAccount(row, account, card, by, {
			given,
			accountId: account.id,
			accountName: account.name,
			accountCountry: account.country,
			settlement: account.settlement,
			timeZone: account.timeZone,
			...(listening ? { hookId: listening.id, hookSecretSealed: seal(listening.secret, `hook ${row.id}`) } : {}),
			...(listening ? { oldHookSecretSealed: row.hookSecretSealed } : {})
		});
		if (moves && row.hookId)
			await connector.unlisten?.(credentialsOf(row), row.hookId).catch((error: unknown) => {
				if (!(error instanceof ConnectorError)) throw error;
			});
		await change(
			{ ...row, accountId: account.id },
			{ accountId: account.id },
			`chose ${connector.chooser.what} ${choice}`,
			by
		);
		return undefined;
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return error.message;
	}
}
