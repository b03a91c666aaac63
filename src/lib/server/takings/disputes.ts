import { Buffer } from 'node:buffer';
import { disputeRate, disputesLeft, judgeDisputes, SCHEME_LIMITS } from '../../core/disputes';
import { formatDay, formatMoment, inZone } from '../../core/calendar';
import { counted } from '../../core/counted';
import { hasCard, methodName, type Method } from '../../core/lineup';
import { formatAmount, formatDecimal } from '../../core/money';
import type { Verdict } from '../../core/workings';
import { snapshot } from '../accept/snapshot';
import { audit, randomId } from '../access';
import { theBusiness } from '../connect/business';
import { connectorOf, ConnectorError } from '../connectors';
import {
	db,
	disputeCounts,
	listedDisputes,
	messagesOfPayment,
	write,
	type DisputeRow,
	type ListedDispute,
	type PaymentRow
} from '../db';
import { readTold } from '../payments/orders';
import { keepReport } from '../payments/record';
import { newestCard } from '../ratecards';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';
import { speak } from '../speak/speak';

// Disputes: what is asked, until when, what is known to answer it with, and what became of it.

const DAY = 86_400_000;
const LISTED = 100;
const RATE_DAYS = 90;
/** As the processors of the catalogue take them. */
export const FILES_AT_MOST = 5;
export const FILE_BYTES = 2_000_000;
const TYPES: Readonly<Record<string, string>> = {
	pdf: 'application/pdf',
	png: 'image/png',
	jpg: 'image/jpeg',
	jpeg: 'image/jpeg',
	txt: 'text/plain'
};

export const openDisputes = (): Promise<ListedDispute[]> => listedDisputes(true, LISTED);

/** Open disputes by their deadline, those that are over, and how often payments are disputed. */
export async function showDisputes(locale: string) {
	const now = timeNow();
	const { timeZone } = await theBusiness();
	const held = await snapshot();
	const [open, closed, counts] = await Promise.all([
		openDisputes(),
		listedDisputes(false, LISTED),
		disputeCounts(now - RATE_DAYS * DAY)
	]);
	const fees = new Map<string, number>();
	for (const id of new Set([...open, ...closed].map((one) => one.connectionId)))
		if (id) fees.set(id, (await newestCard(id))?.body.dispute.fee ?? 0);
	const nameOf = (id: string | null) => (id ? (held.connections.get(id)?.name ?? '') : '');
	const line = (one: ListedDispute) => ({
		id: one.paymentId,
		reference: one.reference || String(one.paymentId),
		payer: one.payer,
		connection: nameOf(one.connectionId),
		method: methodName(one.method as Method),
		amount: formatAmount({ minor: one.minor, currency: one.currency }, locale),
		cost:
			one.connectionId && fees.get(one.connectionId)
				? formatAmount(
						{ minor: fees.get(one.connectionId)!, currency: held.connections.get(one.connectionId)!.settlement },
						locale
					)
				: '',
		reason: one.reason,
		opened: formatDay(inZone(new Date(one.openedAt), timeZone).day, locale),
		answerBy: one.answerBy === null ? '' : formatMoment(one.answerBy, locale, timeZone),
		left: one.answerBy === null ? '' : sayLeft(one.answerBy - now),
		isLate: one.answerBy !== null && one.answerBy < now,
		answered: one.answeredAt === null ? '' : formatMoment(one.answeredAt, locale, timeZone),
		outcome: one.outcome
	});
	const waiting = open.filter((one) => one.answeredAt === null && (one.answerBy ?? one.openedAt + 30 * DAY) > now);
	const next = waiting[0];
	const verdict: Verdict = next
		? [
				{
					text: `${counted(waiting.length, 'dispute', locale)} ${waiting.length === 1 ? 'waits' : 'wait'} for an answer`,
					tone: 'clay'
				},
				{
					text: next.answerBy === null ? '. ' : `, the first until ${formatMoment(next.answerBy, locale, timeZone)}. `
				},
				{ text: `Answer ${next.reference || next.paymentId}`, href: `/takings/disputes/${next.paymentId}` },
				{ text: '.' }
			]
		: open.length
			? [{ text: 'Nothing waits for an answer', tone: 'moss' }, { text: '; the processors decide.' }]
			: [{ text: 'Nobody disputes a payment', tone: 'moss' }, { text: '.' }];
	return {
		verdict,
		open: open.map(line),
		closed: closed.map(line),
		rates: ratesOf(counts, nameOf, held.schemeNames, locale),
		days: RATE_DAYS
	};
}
const sayLeft = (ms: number): string =>
	ms < 0
		? 'over'
		: ms < DAY
			? `${Math.max(1, Math.floor(ms / 3_600_000))} h left`
			: `${Math.floor(ms / DAY)} days left`;

function ratesOf(
	counts: Awaited<ReturnType<typeof disputeCounts>>,
	nameOf: (id: string | null) => string,
	schemes: Readonly<Record<string, string>>,
	locale: string
) {
	const groups = new Map<
		string,
		{ what: string; scheme: string; payments: number; disputes: number; lost: Map<string, number> }
	>();
	for (const one of counts) {
		const isCard = hasCard(one.method) && one.scheme !== 'unknown';
		const key = `${one.connectionId} ${one.method} ${isCard ? one.scheme : ''}`;
		const group = groups.get(key) ?? {
			what: `${nameOf(one.connectionId)}, ${methodName(one.method as Method).toLowerCase()}${isCard ? `, ${schemes[one.scheme] ?? one.scheme}` : ''}`,
			scheme: isCard ? one.scheme : '',
			payments: 0,
			disputes: 0,
			lost: new Map<string, number>()
		};
		group.payments += one.payments;
		group.disputes += one.disputes;
		if (one.lost) group.lost.set(one.currency, (group.lost.get(one.currency) ?? 0) + one.lost);
		groups.set(key, group);
	}
	return [...groups.values()]
		.filter((one) => one.disputes > 0 || one.scheme)
		.map((one) => {
			const limit = SCHEME_LIMITS.find((each) => each.scheme === one.scheme);
			return {
				what: one.what,
				payments: one.payments.toLocaleString(locale),
				disputes: one.disputes.toLocaleString(locale),
				rate: `${formatDecimal(disputeRate(one) / 100, 2, locale)}\u00a0%`,
				order: disputeRate(one),
				lost: [...one.lost].map(([currency, minor]) => formatAmount({ minor, currency }, locale)).join(', '),
				limit: limit ? `${formatDecimal(limit.mostAt / 100, 2, locale)}\u00a0%, from ${limit.atLeast} on` : '',
				verdict: limit ? judgeDisputes(one, limit) : ('fine' as const),
				left: limit ? disputesLeft(one, limit).toLocaleString(locale) : ''
			};
		})
		.sort((a, b) => b.order - a.order || a.what.localeCompare(b.what));
}

/** What is known of a disputed payment, as lines that a processor can read. */
async function gather(payment: PaymentRow, locale: string): Promise<string> {
	const { timeZone, name } = await theBusiness();
	const when = (at: number) => formatMoment(at, locale, timeZone);
	const order = payment.orderId === null ? undefined : await db.orders.one({ id: payment.orderId });
	const told = readTold(order?.more);
	const asked = await db.paymentRequests.one({ paymentId: payment.id });
	const given = JSON.parse(asked?.details || '{}') as { address?: string; phone?: string; note?: string };
	const [events, messages, claim] = await Promise.all([
		db.paymentEvents.find({ paymentId: payment.id }, { order: [['at', 'ASC']] }),
		messagesOfPayment(payment.id),
		order ? db.orderClaims.one({ orderId: order.id }) : undefined
	]);
	const invoice = claim?.invoiceId ? await db.invoices.one({ id: claim.invoiceId }) : undefined;
	const to = told.address;
	const address = to
		? [to.name, to.street, `${to.postcode} ${to.city}`, to.country].filter((one) => one.trim()).join(', ')
		: '';
	return [
		`${name}: payment ${payment.reference || payment.id} of ${formatAmount({ minor: payment.minor, currency: payment.currency }, locale)}.`,
		...(order?.purpose ? [`What was bought: ${order.purpose}.`] : []),
		...(invoice ? [`Invoice ${invoice.number}.`] : []),
		`Payer: ${[payment.payerName, payment.payerMail].filter(Boolean).join(', ') || 'not told'}.`,
		...(address || given.address ? [`Delivered to: ${address || given.address}.`] : []),
		...(given.phone ? [`Phone: ${given.phone}.`] : []),
		...(given.note ? [`The payer wrote: ${given.note}`] : []),
		'',
		'What happened:',
		...events.map((one) => `- ${when(one.at)}: ${one.kind}`),
		...(messages.length
			? [
					'',
					'What we wrote:',
					...messages.map(
						(one) => `- ${one.sentAt ? when(one.sentAt) : 'not sent'}: ${one.subject || one.event}, to ${one.to}`
					)
				]
			: [])
	].join('\n');
}

const find = async (id: number): Promise<{ dispute: DisputeRow; payment: PaymentRow } | undefined> => {
	const dispute = Number.isSafeInteger(id) ? await db.disputes.one({ paymentId: id }) : undefined;
	const payment = dispute && (await db.payments.one({ id }));
	return dispute && payment && { dispute, payment };
};

/** One dispute with what is known to answer it. */
export async function showDispute(id: number, locale: string) {
	const found = await find(id);
	if (!found) return undefined;
	const { dispute, payment } = found;
	const { timeZone } = await theBusiness();
	const when = (at: number | null) => (at === null ? '' : formatMoment(at, locale, timeZone));
	const connection = payment.connectionId ? await db.connections.one({ id: payment.connectionId }) : undefined;
	const files = await db.disputeFiles.find({ paymentId: id }, { order: [['id', 'ASC']] });
	const now = timeNow();
	const isOver = dispute.outcome !== '' || (dispute.answerBy !== null && dispute.answerBy < now);
	return {
		id,
		reference: payment.reference || String(id),
		payer: payment.payerName,
		amount: formatAmount({ minor: dispute.minor, currency: payment.currency }, locale),
		connection: connection?.name ?? '',
		takesAnswers: !!connection && !!connectorOf(connection.processor).answerDispute,
		reason: dispute.reason,
		opened: when(dispute.openedAt),
		answerBy: when(dispute.answerBy),
		left: dispute.answerBy === null ? '' : sayLeft(dispute.answerBy - now),
		answered: when(dispute.answeredAt),
		answeredBy: dispute.answeredBy,
		way: dispute.way,
		outcome: dispute.outcome,
		closed: when(dispute.closedAt),
		isOver,
		text: dispute.text || (await gather(payment, locale)),
		files: files.map((one) => ({ id: one.id, name: one.name, size: `${Math.max(1, Math.round(one.size / 1_000))} KB` }))
	};
}

export async function fileOfDispute(id: number, fileId: number) {
	if (!Number.isSafeInteger(id) || !Number.isSafeInteger(fileId)) return undefined;
	const row = await db.disputeFiles.one({ id: fileId, paymentId: id });
	return row && { name: row.name, type: row.type, content: Buffer.from(row.content, 'base64') };
}

/** Adds a file to what will be answered. @returns what is wrong with it, if anything */
export async function addFile(id: number, file: File, by: string): Promise<string | undefined> {
	const type = TYPES[file.name.split('.').at(-1)?.toLowerCase() ?? ''];
	if (!file.size) return 'Choose a file that is not empty.';
	if (!type) return 'Only PDF, PNG, JPEG and text files are taken.';
	if (file.size > FILE_BYTES) return `At most ${FILE_BYTES / 1_000_000} MB.`;
	const content = Buffer.from(await file.arrayBuffer()).toString('base64');
	const problem = await write(async (tx) => {
		const dispute = await db.disputes.one({ paymentId: id }, tx);
		if (!dispute || dispute.answeredAt !== null) return 'It is answered already.';
		if ((await db.disputeFiles.count({ paymentId: id }, tx)) >= FILES_AT_MOST) return `At most ${FILES_AT_MOST} files.`;
		await db.disputeFiles.insert(
			{ paymentId: id, name: file.name.slice(-120), type, size: file.size, content, at: timeNow(), byUser: by },
			tx
		);
		return undefined;
	});
	tell('takings');
	return problem;
}
export const removeFile = (id: number, fileId: number): Promise<unknown> =>
	write(async (tx) => {
		const dispute = await db.disputes.one({ paymentId: id }, tx);
		if (dispute?.answeredAt === null) await db.disputeFiles.remove({ id: fileId, paymentId: id }, tx);
	}).then(() => tell('takings'));

/** Keeps what was written so far. */
export async function keepText(id: number, text: string): Promise<void> {
	await write((tx) => db.disputes.update({ paymentId: id, answeredAt: null }, { text: text.slice(0, 10_000) }, tx));
}

export type Answered = { readonly says: string } | { readonly trouble: string };

/**
 * Answers a dispute: through its processor where that takes it, else it is noted that it was done there by hand. Twice is
 * once: the answer goes under one key.
 */
export async function answerDispute(
	id: number,
	text: string,
	way: 'processor' | 'by hand',
	by: string
): Promise<Answered> {
	if (!text.trim()) return { trouble: 'Write why the payer is wrong.' };
	await keepText(id, text);
	const found = await find(id);
	if (!found) return { trouble: 'There is no such dispute.' };
	const { dispute, payment } = found;
	if (dispute.answeredAt !== null) return { trouble: 'It is answered already.' };
	if (dispute.outcome) return { trouble: 'It is over.' };
	if (dispute.answerBy !== null && dispute.answerBy < timeNow()) return { trouble: 'The time to answer is over.' };
	if (way === 'processor') {
		const connection = payment.connectionId ? await db.connections.one({ id: payment.connectionId }) : undefined;
		if (!connection || !payment.processorId) return { trouble: 'Its connection is gone. Answer it at the processor.' };
		// two people at once go under one key: whoever comes second takes that of the first
		const key = await write(async (tx) => {
			const held = (await db.disputes.one({ paymentId: id }, tx))!.answerKey;
			if (held) return held;
			const made = `jp-${randomId()}`;
			await db.disputes.update({ paymentId: id }, { answerKey: made }, tx);
			return made;
		});
		const files = await db.disputeFiles.find({ paymentId: id }, { order: [['id', 'ASC']] });
		try {
			const told = await speak(connection, async (connector, credentials) =>
				connector.answerDispute?.(credentials, {
					key,
					processorId: payment.processorId!,
					text,
					files: files.map(({ name, type, content }) => ({ name, type, content }))
				})
			);
			if (!told)
				return { trouble: `${connection.name} takes no answers by its interface. Answer there, then note it here.` };
			if (told.outcome === 'refused') {
				// another text under the same key would be another request
				await write((tx) => db.disputes.update({ paymentId: id }, { answerKey: '' }, tx));
				return { trouble: `${connection.name} did not take it: ${told.says}` };
			}
			await write((tx) => keepReport(payment, told.report, 'answer', tx));
		} catch (error) {
			if (!(error instanceof ConnectorError)) throw error;
			return { trouble: `${error.message} What you wrote is kept: try again.` };
		}
	}
	await write(async (tx) => {
		const isFirst = await db.disputes.update(
			{ paymentId: id, answeredAt: null },
			{ answeredAt: timeNow(), answeredBy: by, way },
			tx
		);
		if (!isFirst) return;
		await audit(
			{
				by,
				kind: 'dispute',
				id: String(id),
				name: payment.reference || String(id),
				act: way === 'processor' ? 'answered through the processor' : 'noted as answered by hand'
			},
			tx
		);
	});
	tell('takings');
	return { says: 'It is answered. The processor decides, and tells here what comes of it.' };
}

/** Gives a dispute up: the money stays with the payer. */
export async function acceptDispute(id: number, by: string): Promise<Answered> {
	const done = await write(async (tx) => {
		const dispute = await db.disputes.one({ paymentId: id }, tx);
		if (!dispute || dispute.outcome) return false;
		await db.disputes.update({ paymentId: id }, { outcome: 'accepted', closedAt: timeNow() }, tx);
		await audit({ by, kind: 'dispute', id: String(id), name: String(id), act: 'accepted' }, tx);
		return true;
	});
	tell('takings');
	return done ? { says: 'It is given up: the money stays with the payer.' } : { trouble: 'It is over already.' };
}
