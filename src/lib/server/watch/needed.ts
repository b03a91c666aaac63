import { featuresOf, neededNotices, NOTICES, type NeededReport, type Notice } from '../../core/notices';
import { readAccount } from '../connectors/account';
import { allConnections, change, hookAddress, usualTroubleMail } from '../connect/connections';
import { speak } from '../speak/speak';
import { methodsInUse, usesOf } from '../accept/usage';
import { seal } from '../access';
import { connectorOf, ConnectorError } from '../connectors';
import { db, write, type ConnectionRow } from '../db';
import { tell } from '../signals/live';

/** What a connection needs to hear, for what is in use of it; what it hears; and how the two are brought together. */
export interface Needed extends NeededReport {
	readonly methods: readonly string[];
	/** the notifications that this processor can send at all */
	readonly sends: readonly Notice[];
	readonly missing: readonly Notice[];
	/** set up in one step, or by hand at the processor */
	readonly oneStep: boolean;
	/** whom the processor mails when its notifications do not get here; undefined where it mails nobody */
	readonly troubleMail?: string;
	readonly byHand?: {
		readonly where: string;
		readonly names: Partial<Record<Notice, string>>;
		readonly ticked: readonly Notice[];
	};
	readonly address: string;
}

export async function neededOf(row: ConnectionRow): Promise<Needed> {
	const connector = connectorOf(row.processor);
	const account = readAccount(row.account);
	const methods = await methodsInUse(
		row.id,
		[...account.abilities, ...account.unable].map((one) => one.method)
	);
	const later = row.capture === 'later' && !!connector.capture;
	const report = neededNotices(
		featuresOf(methods, later ? 'later' : 'at once', await paysBills(row.id)),
		db.connections.json.hookNotices(row.hookNotices)
	);
	return {
		...report,
		methods,
		sends: connector.sends,
		missing: report.needed
			.filter((one) => !one.subscribed && connector.sends.includes(one.notice))
			.map((one) => one.notice),
		oneStep: !!connector.listen,
		...(connector.mailsTrouble ? { troubleMail: row.hookMail ?? '' } : {}),
		byHand: connector.byHand && {
			where: connector.byHand.where,
			names: connector.byHand.names,
			ticked: db.connections.json.hookTicked(row.hookTicked)
		},
		address: hookAddress(row)
	};
}

/** Tills at which invoices, quotes and pay links are paid. */
const BILLED: readonly string[] = ['invoice sheet', 'pay link', 'plan'];
const paysBills = async (connectionId: string): Promise<boolean> =>
	(await usesOf({ kind: 'connection', id: connectionId })).some((one) => BILLED.includes(one.till.kind));

/** What connections do not tell of, though what is in use relies on it. */
export interface MissingNotices {
	readonly id: string;
	readonly name: string;
	readonly href: string;
	readonly notices: readonly Notice[];
	/** set up in one step, or by hand at the processor */
	readonly oneStep: boolean;
	/** what goes wrong without the first of them */
	readonly breaks: string;
}
/** @param ids only these connections; all where it is left out */
export async function missingNotices(ids?: ReadonlySet<string>): Promise<MissingNotices[]> {
	const found: MissingNotices[] = [];
	for (const row of await allConnections()) {
		if (ids && !ids.has(row.id)) continue;
		const { missing, needed, oneStep } = await neededOf(row);
		if (missing.length)
			found.push({
				id: row.id,
				name: row.name,
				href: `/connect/connections/${row.id}/notifications`,
				notices: missing,
				oneStep,
				breaks: needed.find((one) => one.notice === missing[0])!.breaks
			});
	}
	return found;
}

/** Sets up at the processor just what is needed, in one step. @returns what went wrong, if anything */
export async function setUpNotices(row: ConnectionRow, by: string): Promise<string | undefined> {
	const { needed, sends } = await neededOf(row);
	const wanted = needed.map((one) => one.notice).filter((one) => sends.includes(one));
	const mail = connectorOf(row.processor).mailsTrouble ? (row.hookMail ?? (await usualTroubleMail())) : null;
	return listenAt(row, wanted, mail, 'set up notifications', by);
}

/** Says whom the processor mails when its notifications do not get here. @returns what went wrong, if anything */
export const setTroubleMail = (row: ConnectionRow, mail: string, by: string): Promise<string | undefined> =>
	listenAt(
		row,
		db.connections.json.hookNotices(row.hookNotices),
		mail,
		`set who is mailed about failing notifications: ${mail || 'nobody'}`,
		by
	);

async function listenAt(
	row: ConnectionRow,
	wanted: readonly Notice[],
	mail: string | null,
	act: string,
	by: string
): Promise<string | undefined> {
	try {
		const told = await speak(row, async (connector, credentials) =>
			connector.listen?.(credentials, hookAddress(row), wanted, mail ?? '')
		);
		if (!told) return `${row.name} is set up by hand, at its own settings.`;
		await change(
			row,
			{
				hookId: told.id,
				hookNotices: JSON.stringify(told.notices),
				hookSecretSealed: seal(told.secret, `hook ${row.id}`),
				hookMail: mail
			},
			act,
			by
		);
		return undefined;
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return error.message;
	}
}

/** Asks the processor what is switched on there. @returns what went wrong, if anything */
export async function readSubscribed(row: ConnectionRow): Promise<string | undefined> {
	try {
		const told = await speak(row, async (connector, credentials) =>
			connector.subscribed
				? { notices: await connector.subscribed(credentials, row.hookId ?? '', hookAddress(row)) }
				: undefined
		);
		if (!told) return `${row.name} does not tell what is switched on. Ask for a test notification instead.`;
		await write((tx) => db.connections.update({ id: row.id }, { hookNotices: JSON.stringify(told.notices ?? []) }, tx));
		tell('connections');
		return told.notices
			? undefined
			: `${row.name} tells this address of nothing: it is not given there, or notifications are switched off.`;
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return error.message;
	}
}

/** Notes which notifications somebody has switched on by hand. Where the processor does not tell, this is what counts. */
export async function tick(row: ConnectionRow, ticked: readonly Notice[], by: string): Promise<void> {
	const { subscribed } = connectorOf(row.processor);
	await change(
		row,
		{ hookTicked: JSON.stringify(ticked), ...(subscribed ? {} : { hookNotices: JSON.stringify(ticked) }) },
		'ticked off notifications',
		by
	);
}
export const readTicked = (values: readonly string[]): Notice[] =>
	values.filter((one): one is Notice => (NOTICES as readonly string[]).includes(one));
