import type { Channel, MessageEvent } from '../../core/billing';
import { audit } from '../access';
import { theBusiness } from '../connect/business';
import { db, dueMessages, write, type OutboxRow, type PayerRow, type Tx } from '../db';
import { log } from '../log';
import { timeNow } from '../signals/clock';
import { tell } from '../signals/live';
import { MESSAGE_LANES, wake } from '../signals/wake';
import { compose, languageOf, type About } from './compose';
import { openMail, sendMail } from './mail';
import { sending, sendText, type Sending } from './settings';

/** What is to be said to somebody. */
export interface Message {
	readonly event: MessageEvent;
	/** what it is sent for: with payer and channel it is sent once */
	readonly cause: string;
	readonly about: About;
	readonly channel: Channel;
	/** where there is no payer, or another address is meant */
	readonly to?: string;
	readonly toName?: string;
	readonly language?: string;
	readonly brandId?: string;
	readonly by: string;
}

const addressFor = (channel: Channel, payer: PayerRow | undefined): string =>
	channel === 'mail' ? (payer?.mail ?? '') : channel === 'text' ? (payer?.phone ?? '') : (payer?.id ?? '');

/**
 * Puts a message into the outbox, with its words as they are now.
 * @returns its number; nothing where it was put there before, or there is nobody to write to
 */
export async function queue(message: Message, tx: Tx): Promise<{ id: number; isNew: boolean } | undefined> {
	const { about, channel, event } = message;
	const to = (message.to ?? addressFor(channel, about.payer)).trim();
	if (!to) return undefined;
	const cause = `${message.cause} ${about.payer?.id ?? to} ${channel}`;
	const known = await db.outbox.one({ cause }, tx);
	if (known) return { id: known.id, isNew: false };
	const business = await theBusiness();
	const { language, locale } = languageOf(about.payer, business, message.language);
	const { subject, body } = await compose(event, about, { channel, language, locale, brandId: message.brandId });
	const at = timeNow();
	const row = await db.outbox.insert(
		{
			cause,
			event,
			channel,
			payerId: about.payer?.id ?? null,
			invoiceId: about.invoice?.id ?? null,
			paymentId: about.payment?.id ?? null,
			toAddress: to,
			toName: message.toName ?? about.payer?.name ?? about.name ?? '',
			language,
			subject,
			body,
			// a payer's own page is read where it stands
			state: channel === 'page' ? 'sent' : 'waiting',
			sentAt: channel === 'page' ? at : null,
			byUser: message.by,
			createdAt: at
		},
		tx
	);
	if (about.invoice) await db.invoices.update({ id: about.invoice.id }, { messageAt: at }, tx);
	tx.afterCommit(() => {
		tell('bill');
		wake(MESSAGE_LANES);
	});
	return { id: row.id, isNew: true };
}

/** Milliseconds until the next try, by how many there were. */
const WAITS = [60_000, 300_000, 1_800_000, 7_200_000, 21_600_000, 43_200_000, 86_400_000];
const AT_ONCE = 40;

const end = async (row: OutboxRow, changes: Partial<OutboxRow>): Promise<void> => {
	await write((tx) => db.outbox.update({ id: row.id }, changes, tx));
};

/** Sends what waits. What could not be handed over is tried again later; what may have been taken is told as not known. */
export async function deliver(): Promise<number> {
	const now = timeNow();
	const rows = await dueMessages(now, AT_ONCE);
	if (!rows.length) return 0;
	const how = await sending();
	let done = 0;
	const mail =
		rows.some((row) => row.channel === 'mail') && how.form.host ? openMail(how.form, how.mailPassword) : undefined;
	try {
		for (const row of rows) {
			const isReady = row.channel === 'mail' ? !!mail && !!how.form.fromMail : !!how.form.textAddress;
			if (!isReady) continue;
			// noted before anything is handed over: after a kill it is told as not known, not sent again
			const messageId = row.channel === 'mail' ? row.messageId || newMessageId(row, how) : '';
			await end(row, { state: 'sending', tries: row.tries + 1, messageId });
			await keepOutcome(row, await hand({ ...row, messageId }, how, mail));
			done++;
		}
	} finally {
		mail?.close();
		if (done) tell('bill');
	}
	return done;
}

/** What a message is known by at every mail server, the same at every try. */
const newMessageId = (row: OutboxRow, how: Sending): string =>
	`<jp-${row.id}-${row.createdAt}@${how.form.fromMail.split('@')[1] ?? 'localhost'}>`;

async function hand(row: OutboxRow, how: Sending, mail: ReturnType<typeof openMail> | undefined) {
	if (row.channel === 'text') return sendText(how, row.toAddress, row.body, `jp-${row.id}`);
	return sendMail(mail!, how.form, {
		to: row.toAddress,
		toName: row.toName,
		subject: row.subject,
		text: row.body,
		messageId: row.messageId,
		at: row.createdAt
	});
}

async function keepOutcome(row: OutboxRow, { state, says }: { state: string; says: string }): Promise<void> {
	if (state === 'sent') return end(row, { state: 'sent', says, sentAt: timeNow() });
	if (state === 'refused' || state === 'unknown') return end(row, { state, says });
	const wait = WAITS[row.tries];
	if (wait === undefined) return end(row, { state: 'failed', says });
	log.info({ message: row.id, tries: row.tries + 1 }, 'a message could not be sent yet');
	return end(row, { state: 'waiting', says, nextAt: timeNow() + wait });
}

/** What was being sent when the server ended: whether it was taken is not known. */
export async function tellUnfinished(): Promise<void> {
	await write((tx) =>
		db.outbox.update(
			{ state: 'sending' },
			{ state: 'unknown', says: 'Just Purse ended while this was being sent.' },
			tx
		)
	);
}

/**
 * Sends a message again: one that failed or was refused as it is; one that was sent, or may have been, as another of its own,
 * so that it is told as the second.
 */
export async function sendAgain(id: number, by: string): Promise<{ says: string } | { problem: string }> {
	const answer = await write(async (tx): Promise<{ says: string } | { problem: string }> => {
		const row = await db.outbox.one({ id }, tx);
		if (!row) return { problem: 'There is no such message.' };
		if (!row.toAddress) return { problem: 'Its payer was removed.' };
		const debit = /^debit announced (\d+) /.exec(row.cause);
		if (debit && !(await db.announcedDebits.one({ id: Number(debit[1]), state: 'announced' }, tx)))
			return { problem: 'This debit is not to be made any more. Announce it again at its invoice.' };
		if (row.state === 'waiting' || row.state === 'sending') {
			await db.outbox.update({ id, state: 'waiting' }, { nextAt: 0 }, tx);
			return { says: 'It is tried at once.' };
		}
		// a bounce is often mended by another address
		const payer = row.payerId ? await db.payers.one({ id: row.payerId }, tx) : undefined;
		const to = (payer && addressFor(row.channel, payer)) || row.toAddress;
		const note = (act: string) =>
			audit({ by, kind: 'message', id: String(id), name: `${row.event} to ${to}`, act }, tx);
		if (row.state === 'refused' || row.state === 'failed') {
			await db.outbox.update({ id }, { state: 'waiting', tries: 0, nextAt: 0, toAddress: to }, tx);
			await note('sent again');
			return { says: `It is sent to ${to}.` };
		}
		const again = (await db.outbox.count({ invoiceId: row.invoiceId, event: row.event, payerId: row.payerId }, tx)) + 1;
		const { id: _, ...copy } = row;
		await db.outbox.insert(
			{
				...copy,
				cause: `${row.cause} again ${again} ${timeNow()}`,
				state: row.channel === 'page' ? 'sent' : 'waiting',
				toAddress: to,
				tries: 0,
				nextAt: 0,
				says: '',
				messageId: '',
				byUser: by,
				createdAt: timeNow(),
				sentAt: row.channel === 'page' ? timeNow() : null
			},
			tx
		);
		await note('sent a second time');
		return { says: `It is sent a second time, to ${to}.` };
	});
	tell('bill');
	wake();
	return answer;
}
