import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { z } from 'zod';
import { addDays, inZone } from '../../core/calendar';
import { featuresOf, neededNotices, type Notice } from '../../core/notices';
import { suggestDescriptor } from '../../core/references';
import { forgetSnapshot } from '../signals/freshness';
import { audit, randomId, seal, unseal } from '../access';
import {
	connectorOf,
	ConnectorError,
	isProblems,
	withinTime,
	type Account,
	type Choice,
	type Connector,
	type CredentialProblem,
	type Credentials,
	type Mode
} from '../connectors';
import { wake } from '../signals/wake';
import { adoptPayments, db, write, type ConnectDraftRow, type ConnectionRow } from '../db';
import { tell } from '../signals/live';
import { log } from '../log';
import { storeAccount } from '../connectors/account';
import { theBusiness } from './business';
import { hookAddress, ownAddress, usualTroubleMail } from './connections';
import { lastFour, openSecrets, readGiven, sealSecrets, secretNames, splitCredentials } from '../speak/credentials';
import { keepProposal } from '../ratecards';
import { keepRates } from './rates';
import { timeNow } from '../signals/clock';

/** What is asked of the administrator at most before a connection stands, in milliseconds. */
const PATIENCE_MS = 10_000;

export const GivenForm = z.object({ mode: z.enum(['test', 'live']).default('live') });

/**
 * A connection under way: what was given so far, so that leaving and returning goes on where it was. With a connection's
 * id, new credentials for it.
 */
export async function draftOf(
	processor: string,
	mode: Mode,
	userId: string,
	connectionId: string | null = null
): Promise<ConnectDraftRow | undefined> {
	return db.connectDrafts.one({ processor, mode, userId, connectionId });
}
export const draftsOf = (userId: string): Promise<ConnectDraftRow[]> =>
	db.connectDrafts.find({ userId, connectionId: null }, { order: [['changedAt', 'DESC']] });

async function openDraft(
	processor: string,
	mode: Mode,
	userId: string,
	connectionId: string | null
): Promise<ConnectDraftRow> {
	const known = await draftOf(processor, mode, userId, connectionId);
	if (known) return known;
	return write(async (tx) => {
		const row: Partial<ConnectDraftRow> = {
			id: randomId(),
			processor,
			mode,
			userId,
			connectionId,
			given: '{}',
			hookKey: randomId(),
			says: '',
			changedAt: timeNow()
		};
		await db.connectDrafts.insert(row, tx);
		return (await db.connectDrafts.one({ id: row.id }, tx))!;
	});
}

const purposeOf = (draft: Pick<ConnectDraftRow, 'id'>) => `draft ${draft.id}`;
export const draftCredentials = (draft: ConnectDraftRow | undefined): Credentials =>
	draft
		? { ...readGiven(draft.given), ...(draft.secretSealed ? openSecrets(draft.secretSealed, purposeOf(draft)) : {}) }
		: {};

async function keepInDraft(
	draft: ConnectDraftRow,
	connector: Connector,
	credentials: Credentials,
	says = ''
): Promise<void> {
	const { given, secrets } = splitCredentials(connector, credentials);
	await write((tx) =>
		db.connectDrafts.update(
			{ id: draft.id },
			{ given, secretSealed: sealSecrets(secrets, purposeOf(draft)), says, changedAt: timeNow() },
			tx
		)
	);
}

/** What a page may show of a draft: which secrets are kept, by their last four signs, never more. */
export function shownDraft(connector: Connector, draft: ConnectDraftRow | undefined) {
	const credentials = draftCredentials(draft);
	const secret = secretNames(connector);
	return {
		values: Object.fromEntries(
			connector.fields.filter((one) => !one.secret).map((one) => [one.name, credentials[one.name] ?? ''])
		),
		kept: Object.fromEntries(
			secret.filter((name) => credentials[name]).map((name) => [name, credentials[name]!.slice(-4)])
		),
		consented: !!credentials.access,
		choice: connector.chooser ? (credentials[connector.chooser.name] ?? '') : '',
		hook: draft ? hookAddress(draft) : undefined,
		says: draft?.says ?? '',
		changedAt: draft?.changedAt
	};
}

/** Forgets a connection under way. A consent that was given for it is ended at the processor. */
export async function forgetDraft(draft: ConnectDraftRow): Promise<void> {
	const connector = connectorOf(draft.processor);
	const credentials = draftCredentials(draft);
	if (connector.consent && credentials.access) await connector.retire?.(credentials).catch(() => {});
	await write((tx) => db.connectDrafts.remove({ id: draft.id }, tx));
}

// consent ------------------------------------------------------------------------------------------------------------

const sha256 = (text: string) => createHash('sha256').update(text).digest();
const hashed = (text: string) => sha256(text).toString('hex');
const same = (a: string, b: string) => a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));
export const returnAddress = (processor: string): string => `${ownAddress()}/connect/consent/${processor}`;

/**
 * Begins a consent on the processor's page.
 * @param browser a secret of the browser that begins it; the answer is taken from the same one alone
 * @returns where to send the administrator
 */
export async function beginConsent(
	processor: string,
	mode: Mode,
	userId: string,
	browser: string,
	connectionId: string | null = null
): Promise<string> {
	const { consent } = connectorOf(processor);
	if (!consent) throw new Error(`${processor} knows no consent`);
	const draft = await openDraft(processor, mode, userId, connectionId);
	const [state, verifier] = [randomBytes(24).toString('base64url'), randomBytes(48).toString('base64url')];
	await write((tx) =>
		db.connectDrafts.update(
			{ id: draft.id },
			{
				stateHash: hashed(state),
				browserHash: hashed(browser),
				verifierSealed: seal(verifier, purposeOf(draft)),
				says: '',
				changedAt: timeNow()
			},
			tx
		)
	);
	return consent.address({
		state,
		challenge: sha256(verifier).toString('base64url'),
		returnTo: returnAddress(processor),
		mode
	});
}

export type Consented =
	| { readonly draft: ConnectDraftRow; readonly trouble?: string }
	/** not an answer to anything that was asked here */
	| { readonly stranger: string };

/**
 * Takes the answer of a consent. The state must be one that this person began in this browser, and is good once; codes
 * are exchanged with the verifier that never left this server (RFC 7636).
 */
export async function endConsent(
	processor: string,
	userId: string,
	browser: string | undefined,
	answer: { state: string; code: string; error: string }
): Promise<Consented> {
	const connector = connectorOf(processor);
	const stateHash = hashed(answer.state);
	const draft = answer.state ? await db.connectDrafts.one({ stateHash }) : undefined;
	const stranger = {
		stranger: `This is no answer to a consent that you began here just now. Nothing was connected. Begin at ${connector.name} once more.`
	};
	if (!draft || draft.processor !== processor || draft.userId !== userId) return stranger;
	if (!browser || !draft.browserHash || !same(hashed(browser), draft.browserHash)) return stranger;
	const verifier = draft.verifierSealed ? unseal(draft.verifierSealed, purposeOf(draft)).toString() : '';
	// used up before it is tried: a second answer with it is a stranger's
	const first = await write((tx) =>
		db.connectDrafts.update(
			{ id: draft.id, stateHash },
			{ stateHash: null, verifierSealed: null, browserHash: null },
			tx
		)
	);
	if (!first) return stranger;
	const trouble = async (says: string): Promise<Consented> => {
		await write((tx) => db.connectDrafts.update({ id: draft.id }, { says, changedAt: timeNow() }, tx));
		return { draft, trouble: says };
	};
	if (answer.error)
		return trouble(
			answer.error === 'access_denied'
				? `You refused the consent at ${connector.name}. Nothing was connected; you can give it whenever you like.`
				: `${connector.name} ended the consent: ${answer.error.slice(0, 100)}. Begin once more.`
		);
	try {
		const tokens = await withinTime(PATIENCE_MS, () =>
			connector.consent!.exchange({ code: answer.code, verifier, returnTo: returnAddress(processor) })
		);
		if (isProblems(tokens)) return trouble(tokens.map((one) => one.says).join(' '));
		await keepInDraft(draft, connector, { ...draftCredentials(draft), ...tokens });
		return { draft };
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return trouble(`${error.message} Give consent once more in a moment.`);
	}
}

// connecting ---------------------------------------------------------------------------------------------------------

export type Connected =
	| { readonly id: string }
	| { readonly problems: readonly CredentialProblem[] }
	| { readonly choose: readonly Choice[] }
	| { readonly trouble: string };

/** What was typed, over what was kept; an empty box leaves what was kept. */
const merged = (kept: Credentials, typed: Credentials): Credentials => ({
	...kept,
	...Object.fromEntries(
		Object.entries(typed)
			.map(([name, value]) => [name, value.trim()] as const)
			.filter(([name, value]) => value || !(name in kept))
	)
});

/** Asks for new tokens where those of a draft have ended meanwhile. */
async function withAccess(connector: Connector, credentials: Credentials): Promise<Credentials | CredentialProblem[]> {
	if (!connector.consent || !credentials.access || Number(credentials.expiresAt) > timeNow() + 5_000)
		return credentials;
	const told = await connector.consent.refresh(credentials);
	return isProblems(told) ? told : { ...credentials, ...told };
}

/** An account of another country than the business, or one of its brands, could not take its payments. */
async function countryProblem(account: Account, connector: Connector): Promise<CredentialProblem[]> {
	const [{ country }, brands] = await Promise.all([theBusiness(), db.brands.find()]);
	const own = [country, ...brands.filter((one) => !one.removedAt).map((one) => one.country)];
	if (own.includes(account.country)) return [];
	return [
		{
			code: 'country',
			field: connector.chooser?.what === 'account' ? connector.chooser.name : '',
			says: `This account is for a business in ${account.country}; yours is in ${own.join(', ')}. Choose an account of your country, or add a brand there first.`
		}
	];
}

/**
 * Connects an account: looks at the credentials, asks the processor, reads what the account can do, its prices and rates,
 * sets up notifications, and only then keeps anything. What was typed is kept, sealed, only where a step is left to do.
 */
export async function connect(
	processor: string,
	mode: Mode,
	typed: Credentials,
	who: { id: string; name: string }
): Promise<Connected> {
	const connector = connectorOf(processor);
	const draft = await draftOf(processor, mode, who.id);
	let credentials = merged(draftCredentials(draft), typed);
	const problems = connector.inspect(credentials, mode);
	if (problems.length) return { problems };
	const keepFor = async (says = '') => {
		await keepInDraft(draft ?? (await openDraft(processor, mode, who.id, null)), connector, credentials, says);
	};
	try {
		return await withinTime(PATIENCE_MS, async () => {
			const open = await withAccess(connector, credentials);
			if (isProblems(open)) return { problems: open };
			credentials = open;
			const { chooser } = connector;
			if (chooser && !credentials[chooser.name]) {
				const choices = await chooser.list(credentials, mode);
				if (isProblems(choices) && (choices as object[]).some((one) => 'code' in one))
					return { problems: choices as CredentialProblem[] };
				await keepFor();
				return { choose: choices as Choice[] };
			}
			const told = await connector.verify(credentials, mode);
			if (isProblems(told)) {
				// a switch that is off is put right over there; what was given here stays
				if (told.every((one) => one.code === 'switch') || connector.consent) await keepFor();
				return { problems: told };
			}
			const abroad = await countryProblem(told, connector);
			if (abroad.length) {
				if (connector.consent) await keepFor();
				return { problems: abroad };
			}
			return await makeConnection(connector, mode, credentials, told, draft, who.name);
		});
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		const says = `${error.message} Nothing was connected; what you gave is still here. Try again in a moment.`;
		await keepFor(says);
		return { trouble: says };
	}
}

/** The notifications that everything an account can carry relies on; those in use are a part of them. */
export const noticesFor = (connector: Connector, account: Account): Notice[] =>
	neededNotices(featuresOf([...account.abilities, ...account.unable].map((one) => one.method)), [])
		.needed.map((one) => one.notice)
		.filter((one) => connector.sends.includes(one));

async function makeConnection(
	connector: Connector,
	mode: Mode,
	credentials: Credentials,
	account: Account,
	draft: ConnectDraftRow | undefined,
	by: string
): Promise<Connected> {
	const { processor } = connector;
	const same = await db.connections.find({ processor, mode, accountId: account.id });
	const already = same.find((row) => !row.removedAt);
	if (already) return { trouble: `This account is connected already, as ${already.name} (${already.mode}).` };
	// an account that was connected before gets its history back
	const before = same.sort((a, b) => b.createdAt - a.createdAt)[0];
	const id = before?.id ?? randomId();
	const hookKey = draft?.hookKey ?? randomId();
	const address = hookAddress({ hookKey });
	let listening: { id: string; secret: string; notices: Notice[] } | undefined;
	try {
		const today = inZone(new Date(timeNow()), account.timeZone).day;
		const [card, rates, subscribed] = await Promise.all([
			connector.rateCard(credentials),
			Promise.all([today, addDays(today, -1)].map((day) => connector.rates(credentials, day))),
			connector.byHand ? connector.subscribed?.(credentials, '', address) : undefined
		]);
		const troubleMail = connector.mailsTrouble ? (before?.hookMail ?? (await usualTroubleMail())) : null;
		listening = await connector.listen?.(credentials, address, noticesFor(connector, account), troubleMail ?? '');
		const hookSecret =
			listening?.secret ?? (connector.byHand?.secretField ? credentials[connector.byHand.secretField] : undefined);
		const now = timeNow();
		const { name } = await theBusiness();
		const { given, secrets } = splitCredentials(connector, credentials);
		const others = await db.connections.find({ processor, mode, removedAt: null });
		const row: Partial<ConnectionRow> = {
			id,
			processor,
			name: before?.name ?? (others.length ? `${connector.name}, ${account.name}` : connector.name),
			mode,
			accountId: account.id,
			accountName: account.name,
			accountCountry: account.country,
			settlement: account.settlement,
			timeZone: account.timeZone,
			given,
			secretSealed: sealSecrets(secrets, `connection ${id}`),
			secretLast4: lastFour(connector, credentials),
			keyMadeAt: account.keyMadeAt ?? null,
			hookKey,
			hookId: listening?.id ?? null,
			hookMail: troubleMail,
			// a dialect without a secret is called back; its arrivals are taken, and wait for that
			hookSecretSealed: hookSecret === undefined ? null : seal(hookSecret, `hook ${id}`),
			hookNotices: JSON.stringify(listening?.notices ?? subscribed ?? []),
			hookHeardAt: null,
			account: storeAccount(account),
			accountReadAt: now,
			descriptor: before?.descriptor || suggestDescriptor(name, account.descriptor),
			shortDescriptor:
				before?.shortDescriptor || (account.shortDescriptor ? suggestDescriptor(name, account.shortDescriptor) : ''),
			verified: 1,
			paused: 0,
			failing: 0,
			removedAt: null
		};
		await write(async (tx) => {
			if (before) await db.connections.update({ id }, row, tx);
			else await db.connections.insert({ ...row, createdAt: now }, tx);
			await keepProposal(id, card, connector.name, tx);
			if (mode === 'live') await adoptPayments(connector.processor, id, row.accountId!, tx);
			await keepRates(rates.flat(), tx);
			if (draft) await db.connectDrafts.remove({ id: draft.id }, tx);
			await audit(
				{
					by,
					kind: 'connection',
					id,
					name: row.name!,
					act: before ? 'connected again' : 'connected',
					before: before && { removedAt: before.removedAt },
					after: row
				},
				tx
			);
		});
		forgetSnapshot();
		tell('connections');
		// payments that its files told of before become its own
		wake();
		// asked for only now, so that it finds the connection
		if (listening || subscribed?.length)
			void connector
				.sendTestNotification(credentials, listening?.id ?? '')
				.catch((error: unknown) => log.warn({ connection: id, error: String(error) }, 'no test notification'));
		return { id };
	} catch (error) {
		// nothing half-made remains, at the processor either
		if (listening && !(await db.connections.one({ id, removedAt: null })))
			await connector.unlisten?.(credentials, listening.id).catch(() => {});
		throw error;
	}
}

/** The choices that a connection under way, or one that stands, can make. */
export async function choicesOf(
	connector: Connector,
	credentials: Credentials,
	mode: Mode
): Promise<{ choices: readonly Choice[] } | { trouble: string }> {
	if (!connector.chooser) return { choices: [] };
	try {
		const open = await withAccess(connector, credentials);
		if (isProblems(open)) return { trouble: open.map((one) => one.says).join(' ') };
		const told = await withinTime(PATIENCE_MS, () => connector.chooser!.list(open, mode));
		const problems = (told as (Choice | CredentialProblem)[]).filter((one): one is CredentialProblem => 'code' in one);
		if (problems.length) return { trouble: problems.map((one) => one.says).join(' ') };
		return { choices: told as Choice[] };
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return { trouble: error.message };
	}
}
