import { formatMoment } from '../../core/calendar';
import { theBusiness } from '../connect/business';
import { db, pageOfOutbox, type OutboxRow } from '../db';

export const OUTBOX_STATES = ['waiting', 'sending', 'sent', 'unknown', 'refused', 'failed'] as const;
const SAYS: Readonly<Record<OutboxRow['state'], string>> = {
	waiting: 'waits',
	sending: 'is being sent',
	sent: 'sent',
	unknown: 'not known whether it arrived',
	refused: 'refused',
	failed: 'given up'
};

/** One page of messages, the newest first. */
export async function outboxPage(state: string, before: number | undefined, locale: string) {
	const wanted = OUTBOX_STATES.find((one) => one === state);
	const [{ rows, more }, { timeZone }] = await Promise.all([pageOfOutbox(wanted, before), theBusiness()]);
	return {
		lines: rows.map((row) => ({
			id: row.id,
			when: formatMoment(row.createdAt, locale, timeZone),
			event: row.event,
			channel: row.channel,
			to: row.toName || row.toAddress,
			subject: row.subject || row.body.slice(0, 80),
			state: row.state,
			stateSays: SAYS[row.state],
			says: row.state === 'sent' ? '' : row.says,
			tries: row.tries,
			bad: ['unknown', 'refused', 'failed'].includes(row.state)
		})),
		states: OUTBOX_STATES.map((value) => ({ value, name: SAYS[value] })),
		next: more ? rows.at(-1)!.id : undefined
	};
}
export const messageById = async (id: number, locale: string) => {
	const row = Number.isSafeInteger(id) ? await db.outbox.one({ id }) : undefined;
	if (!row) return undefined;
	const { timeZone } = await theBusiness();
	return {
		id: row.id,
		event: row.event,
		channel: row.channel,
		to: row.toAddress,
		toName: row.toName,
		subject: row.subject,
		body: row.body,
		language: row.language,
		state: row.state,
		stateSays: SAYS[row.state],
		says: row.says,
		tries: row.tries,
		by: row.byUser,
		when: formatMoment(row.createdAt, locale, timeZone),
		sent: row.sentAt === null ? '' : formatMoment(row.sentAt, locale, timeZone),
		next: row.state === 'waiting' && row.nextAt > 0 ? formatMoment(row.nextAt, locale, timeZone) : '',
		invoiceId: row.invoiceId,
		payerId: row.payerId,
		paymentId: row.paymentId
	};
};
