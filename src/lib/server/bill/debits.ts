import {
	isToldInTime,
	nextDebit,
	noticeDaysOf,
	standOfDues,
	whenDebit,
	whyOver,
	type Mandate
} from '../../core/billing';
import { calendarNamed, formatDay, inZone } from '../../core/calendar';
import { hasCard, type Offered } from '../../core/lineup';
import { formatAmount } from '../../core/money';
import { audit } from '../access';
import { askTill } from '../accept/ask';
import { snapshot } from '../accept/snapshot';
import { isKeptAt, nameOfStored, storedWays } from '../accept/storedWays';
import { visit } from '../accept/visit';
import { theBusiness } from '../connect/business';
import { ownAddress } from '../connect/connections';
import {
	db,
	standingDebits,
	write,
	type AnnouncedDebitRow,
	type InvoiceRow,
	type PayerRow,
	type PaymentRow,
	type StoredMethodRow,
	type Tx
} from '../db';
import { recordEvent } from '../events';
import { channelOf, queue } from '../messages';
import { payThrough } from '../payments/charge';
import { factsOfStored, mandateOf } from '../payments/stored';
import { requestOfPayment } from '../payments/requests';
import { timeNow } from '../signals/clock';
import { done, type Acted } from './approve';
import { payerAsking } from './asking';
import { payInvoice } from './collect';
import { billSettings } from './settings';

// Bank debits that the business begins by a payer's mandate. The payer is told sum and day first; on the day the debit is
// begun as the payer would begin it, at the invoice's own till.

/** A mandate by which an invoice could be collected: the debit as it would be announced now, or why it cannot be. */
export interface Collectable {
	readonly storedId: number;
	readonly name: string;
	readonly mandate: Mandate;
	readonly noticeDays: number;
	readonly day: string;
	readonly minor: number;
	readonly why: string;
}

const nowIn = (zone: string) => inZone(new Date(timeNow()), zone);

/** Why nothing can be collected of an invoice, whichever the mandate. */
function whyNothing(invoice: InvoiceRow): string {
	if (invoice.kind !== 'invoice' || invoice.approvedAt === null) return 'The invoice is not approved yet.';
	if (invoice.voidAt !== null) return 'The invoice is void.';
	if (invoice.writtenOffAt !== null) return 'The invoice is written off.';
	if (invoice.heldAt !== null) return 'The invoice is held.';
	if (invoice.open - invoice.promised <= 0) return 'It is paid, or its money is on its way.';
	return '';
}

/** The offer of an invoice's till through which a mandate can be used now, for its payer and this sum. */
async function offerFor(invoice: InvoiceRow, payer: PayerRow, stored: StoredMethodRow, minor: number) {
	const held = await snapshot();
	const till = [...held.tills.values()].find((one) => one.row.id === invoice.tillId);
	if (!till?.published || till.row.mode !== stored.mode) return undefined;
	const { answer } = await askTill(till, till.published.lineUp, await payerAsking(payer, invoice.currency, minor));
	return answer.offered.find(({ offer, carrier }: Offered) => {
		const connection = carrier.kind === 'connection' ? held.connections.get(carrier.id) : undefined;
		return offer.method === stored.method && !hasCard(offer.method) && connection && isKeptAt(stored, connection);
	});
}

/** The mandates of an invoice's payer, each with the debit that could be announced today. */
export async function collectables(invoice: InvoiceRow): Promise<Collectable[]> {
	const payer = invoice.payerId ? await db.payers.one({ id: invoice.payerId, removedAt: null }) : undefined;
	if (!payer || whyNothing(invoice)) return [];
	const rows = await db.storedMethods.find(
		{ payerId: payer.id, method: 'bank-debit', state: 'active' },
		{ order: [['id', 'DESC']], limit: 20 }
	);
	if (!rows.length) return [];
	const [held, dues, settings] = await Promise.all([
		snapshot(),
		db.invoiceDues.find({ invoiceId: invoice.id }),
		billSettings()
	]);
	const standing = standOfDues(dues, invoice.placed, invoice.credited);
	const { day: today } = nowIn(held.business.timeZone);
	const list: Collectable[] = [];
	for (const row of rows) {
		const mandate = mandateOf(row);
		if (!mandate || mandate.use !== 'recurring') continue;
		const agreed = db.storedMethods.json.consent(row.consent).noticeDays;
		const noticeDays = noticeDaysOf(settings.noticeDays, agreed ?? 0);
		const connection = held.connections.get(row.connectionId);
		const { day, minor } = nextDebit(
			standing.dues,
			invoice.promised,
			{ told: today, noticeDays },
			calendarNamed(connection?.bankCalendar ?? '')
		);
		const channel = channelOf({ payer });
		const why = whyOver(factsOfStored(row, held.business.timeZone), today)
			? 'The mandate has come to its end.'
			: agreed === undefined
				? `${payer.name} agreed to debits that they begin themselves, not to this. When they keep the account again at a payment, they are asked.`
				: channel === 'mail' && !payer.mail
					? `${payer.name} has no mail address: nobody could be told of the debit.`
					: !(await offerFor(invoice, payer, row, minor))
						? 'Its till does not offer a bank debit at the account that keeps the mandate, for this payer and sum.'
						: '';
		list.push({
			storedId: row.id,
			name: nameOfStored(row, held.schemeNames),
			mandate,
			noticeDays,
			day,
			minor,
			why
		});
	}
	return list;
}

const told = async (row: AnnouncedDebitRow, invoice: InvoiceRow, tx: Tx) => {
	const stored = await db.storedMethods.one({ id: row.storedId }, tx);
	return {
		number: invoice.number,
		currency: row.currency,
		minor: row.minor,
		day: row.day,
		mandate: (stored && mandateOf(stored)?.reference) ?? ''
	};
};
const note = (invoice: InvoiceRow, by: string, act: string, tx: Tx) =>
	audit({ by, kind: invoice.kind, id: String(invoice.id), name: invoice.number, act }, tx);

/**
 * Announces a debit: the payer is told sum and day now, and it is made on the day.
 * @param seen the debit as it was looked at; nothing is announced where it is another by now
 */
export async function announceDebit(
	id: number,
	seen: { readonly storedId: number; readonly day: string; readonly minor: number },
	by: string,
	locale: string
): Promise<Acted> {
	const before = await db.invoices.one({ id });
	if (!before) return { problem: 'It is gone.' };
	const nothing = whyNothing(before);
	if (nothing) return { problem: nothing };
	const found = (await collectables(before)).find((one) => one.storedId === seen.storedId);
	if (!found) return { problem: 'This mandate cannot be used any more.' };
	if (found.why) return { problem: found.why };
	if (found.day !== seen.day || found.minor !== seen.minor)
		return {
			problem: `The debit would be another one by now: ${formatAmount({ minor: found.minor, currency: before.currency }, locale)} on ${formatDay(found.day, locale)}. Look at it again, then announce it.`
		};
	return done(
		await write(async (tx): Promise<Acted> => {
			const invoice = (await db.invoices.one({ id }, tx))!;
			const payer = (await db.payers.one({ id: invoice.payerId! }, tx))!;
			if (invoice.open !== before.open || invoice.promised !== before.promised || whyNothing(invoice))
				return { problem: 'Something came for it just now. Look at it again.' };
			const sum = formatAmount({ minor: found.minor, currency: invoice.currency }, locale);
			const standing = await db.announcedDebits.one({ invoiceId: id, state: 'announced' }, tx);
			if (standing)
				return {
					problem: `A debit is announced already, for ${formatDay(standing.day, locale)}. Call it off before another is announced.`
				};
			const row = await db.announcedDebits.insert(
				{
					invoiceId: id,
					payerId: payer.id,
					storedId: found.storedId,
					currency: invoice.currency,
					minor: found.minor,
					day: found.day,
					noticeDays: found.noticeDays,
					state: 'announced',
					byUser: by,
					createdAt: timeNow()
				},
				tx
			);
			const till = invoice.tillId ? await db.tills.one({ id: invoice.tillId }, tx) : undefined;
			const message = await queue(
				{
					event: 'debit announced',
					cause: `debit announced ${row.id}`,
					about: { payer, invoice, debit: { day: found.day, minor: found.minor, mandate: found.mandate } },
					channel: channelOf({ payer }),
					brandId: till?.brandId ?? '',
					by
				},
				tx
			);
			await db.announcedDebits.update({ id: row.id }, { outboxId: message?.id ?? null }, tx);
			await recordEvent({ kind: 'debit.announced', object: 'invoice', id, payload: await told(row, invoice, tx) }, tx);
			await note(invoice, by, `announced a bank debit of ${sum} for ${formatDay(found.day, locale)}`, tx);
			return {
				says: `${payer.name} is told now that ${sum} is collected on ${formatDay(found.day, locale)}. Until then it can be called off.`
			};
		})
	);
}

/** Ends an announced debit that is not made. Whoever was told of it is told that nothing is collected, unless they have paid. */
async function endDebit(
	row: AnnouncedDebitRow,
	{ state, why, by, tells }: { state: 'called off' | 'not made'; why: string; by: string; tells: boolean },
	tx: Tx
): Promise<boolean> {
	const now = await db.announcedDebits.one({ id: row.id, state: 'announced' }, tx);
	if (!now) return false;
	await db.announcedDebits.update({ id: row.id }, { state, why, endedBy: by, endedAt: timeNow() }, tx);
	const invoice = (await db.invoices.one({ id: row.invoiceId }, tx))!;
	const payer = await db.payers.one({ id: row.payerId, removedAt: null }, tx);
	const stored = await db.storedMethods.one({ id: row.storedId }, tx);
	const mandate = stored && mandateOf(stored);
	const notice = row.outboxId === null ? undefined : await db.outbox.one({ id: row.outboxId }, tx);
	if (tells && payer && mandate && notice && !['refused', 'failed'].includes(notice.state))
		await queue(
			{
				event: 'debit called off',
				cause: `debit called off ${row.id}`,
				about: { payer, invoice, debit: { day: row.day, minor: row.minor, mandate } },
				channel: channelOf({ payer }),
				by
			},
			tx
		);
	await recordEvent(
		{
			kind: state === 'not made' ? 'debit.not_made' : 'debit.called_off',
			object: 'invoice',
			id: row.invoiceId,
			payload: { ...(await told(row, invoice, tx)), why }
		},
		tx
	);
	await note(
		invoice,
		by,
		`${state === 'not made' ? 'did not make' : 'called off'} the bank debit of ${formatDay(row.day, (await theBusiness()).locale || 'en-GB')}: ${why}`,
		tx
	);
	return true;
}

/** Somebody at the desk calls a debit off before it is begun. */
export async function callOffDebit(invoiceId: number, debitId: number, by: string): Promise<Acted> {
	return done(
		await write(async (tx): Promise<Acted> => {
			const row = await db.announcedDebits.one({ id: debitId, invoiceId }, tx);
			if (!row) return { problem: 'There is no such debit.' };
			if (row.state !== 'announced' || row.begunAt !== null)
				return row.state === 'called off'
					? { says: 'The debit is called off.' }
					: { problem: 'The debit is begun already. Refund the payment once it has come.' };
			await endDebit(row, { state: 'called off', why: `by ${by}`, by, tells: true }, tx);
			return { says: 'The debit is called off. Whoever was told of it is told that nothing is collected.' };
		})
	);
}

/** The payment that was begun for a debit, if it was: it is known after a kill, too. */
async function begunFor(row: AnnouncedDebitRow): Promise<PaymentRow | undefined> {
	if (row.orderId === null || row.begunAt === null) return undefined;
	const payments = await db.payments.find({ orderId: row.orderId }, { order: [['id', 'DESC']] });
	for (const one of payments)
		if (one.createdAt >= row.begunAt && (await requestOfPayment(one.id))?.storedId === row.storedId) return one;
	return undefined;
}

async function keepMade(row: AnnouncedDebitRow, payment: PaymentRow): Promise<void> {
	done(
		await write(async (tx) => {
			if (!(await db.announcedDebits.one({ id: row.id, state: 'announced' }, tx))) return;
			await db.announcedDebits.update(
				{ id: row.id },
				{ state: 'made', paymentId: payment.id, endedAt: timeNow(), why: payment.failure },
				tx
			);
			const invoice = (await db.invoices.one({ id: row.invoiceId }, tx))!;
			await recordEvent(
				{
					kind: 'debit.made',
					object: 'invoice',
					id: row.invoiceId,
					payload: { ...(await told(row, invoice, tx)), payment: payment.id }
				},
				tx
			);
			await note(invoice, 'itself', 'began the bank debit that was announced', tx);
		})
	);
}

/** Why a debit is not to be made, looked at again and again until its day. */
async function whyEnded(
	row: AnnouncedDebitRow,
	zone: string
): Promise<{ state: 'called off' | 'not made'; why: string; tells: boolean } | undefined> {
	const [invoice, stored, notice] = await Promise.all([
		db.invoices.one({ id: row.invoiceId }),
		db.storedMethods.one({ id: row.storedId }),
		row.outboxId === null ? undefined : db.outbox.one({ id: row.outboxId })
	]);
	const nothing = whyNothing(invoice!);
	if (nothing) {
		const { voidAt, writtenOffAt, heldAt } = invoice!;
		// whoever has paid has a receipt
		return { state: 'called off', why: nothing, tells: [voidAt, writtenOffAt, heldAt].some((one) => one !== null) };
	}
	if (!stored || stored.state === 'ended') return { state: 'not made', why: 'The mandate is ended.', tells: true };
	const today = nowIn(zone).day;
	const toldOn = notice?.sentAt ? inZone(new Date(notice.sentAt), zone).day : undefined;
	if (!notice || ['refused', 'failed'].includes(notice.state))
		return {
			state: 'not made',
			why: 'Its payer could not be told: the message was not taken.',
			tells: false
		};
	// a message of which nobody knows whether it was taken tells nobody for sure
	if (!isToldInTime(toldOn ?? today, row))
		return {
			state: 'not made',
			why: toldOn
				? `Its payer was told on ${formatDay(toldOn, (await theBusiness()).locale || 'en-GB')} only: that is fewer than ${row.noticeDays} days before.`
				: `Its payer could not be told ${row.noticeDays} days before.`,
			tells: true
		};
	return undefined;
}

/** Begins a debit whose day has come. @returns why it could not be begun now, or nothing */
async function begin(row: AnnouncedDebitRow): Promise<string> {
	const collected = await payInvoice(row.invoiceId, { atMost: row.minor });
	if (!('address' in collected))
		return collected.problem === 'no till' ? 'The invoice has no till.' : 'It is paid, or its money is on its way.';
	const { pathname, search } = new URL(collected.address);
	const arrival = await visit(decodeURIComponent(pathname.split('/').at(-1)!), search.slice(1));
	if ('unknownTill' in arrival) return 'The invoice has no till.';
	if ('problems' in arrival) return arrival.problems.map((one) => one.says).join(' ');
	const seen = arrival.visit;
	const way = (await storedWays(seen, row.payerId)).ways.find((one) => one.stored.id === row.storedId);
	const connection = way && seen.held.connections.get(way.offered.carrier.id);
	if (!way || !connection) return `${seen.till.row.name} does not offer this bank debit now.`;
	// noted before the processor is asked: after a kill the payment is found, and no other is begun
	await write((tx) =>
		db.announcedDebits.update({ id: row.id }, { orderId: collected.order.id, begunAt: timeNow() }, tx)
	);
	const choice = await payThrough(
		{
			till: seen.till.row,
			timeZone: seen.held.business.timeZone,
			mode: seen.mode,
			ask: seen.ask,
			sign: seen.sign,
			version: seen.till.published?.number ?? 0,
			offered: way.offered,
			creditorReference: seen.told.creditorReference
		},
		connection,
		{ stored: way.stored },
		seen.held.states.pausedSchemes ?? [],
		(mine) => `${ownAddress()}/paid/${mine}`
	);
	const again = (await db.announcedDebits.one({ id: row.id }))!;
	const payment = await begunFor(again);
	if (payment) {
		await keepMade(row, payment);
		return '';
	}
	await write((tx) => db.announcedDebits.update({ id: row.id }, { begunAt: null }, tx));
	return 'payment' in choice ? 'Another payment of it is under way.' : 'It could not be begun.';
}

const AT_ONCE = 200;

/** Looks after announced debits: ends those that are not to be made, begins those whose day has come. */
export async function tendDebits(): Promise<number> {
	const business = await db.business.one({ id: 1 });
	if (!business) return 0;
	const { timeZone } = business;
	let finished = 0;
	let after = 0;
	for (;;) {
		const rows = await standingDebits(after, AT_ONCE);
		for (const row of rows) finished += Number(await tendDebit(row, timeZone));
		if (rows.length < AT_ONCE) return finished;
		after = rows.at(-1)!.id;
	}
}

async function tendDebit(row: AnnouncedDebitRow, zone: string): Promise<boolean> {
	const begun = await begunFor(row);
	if (begun) {
		await keepMade(row, begun);
		return true;
	}
	const ended = await whyEnded(row, zone);
	if (ended) return done(await write((tx) => endDebit(row, { ...ended, by: 'itself' }, tx)));
	const when = whenDebit(row.day, nowIn(zone));
	if (when === 'later') return false;
	if (when === 'too late')
		return done(
			await write((tx) =>
				endDebit(
					row,
					{ state: 'not made', why: row.why || 'Just Purse was not running on its day.', by: 'itself', tells: true },
					tx
				)
			)
		);
	const why = await begin(row);
	if (why && why !== row.why) await write((tx) => db.announcedDebits.update({ id: row.id }, { why }, tx));
	return !why;
}

/** An announced debit, or one that came to its end, as the desk and its payer see it. */
export async function debitsOf(
	where: { readonly invoiceId: number } | { readonly payerId: string; readonly state: 'announced' },
	locale: string,
	limit = 20
) {
	const rows = await db.announcedDebits.find(where, { order: [['id', 'DESC']], limit });
	const { schemeNames } = await snapshot();
	const stored = new Map(
		(await db.storedMethods.find({ id: [...new Set(rows.map((row) => row.storedId))] })).map((one) => [one.id, one])
	);
	const payments = new Map(
		(await db.payments.find({ id: rows.flatMap((row) => row.paymentId ?? []) })).map((one) => [one.id, one])
	);
	const invoices = new Map(
		(await db.invoices.find({ id: [...new Set(rows.map((row) => row.invoiceId))] })).map((one) => [one.id, one])
	);
	return rows.map((row) => {
		const method = stored.get(row.storedId);
		const payment = row.paymentId === null ? undefined : payments.get(row.paymentId);
		const hasFailed = payment?.stage === 'failed';
		return {
			id: row.id,
			invoiceId: row.invoiceId,
			number: invoices.get(row.invoiceId)?.number ?? '',
			storedId: row.storedId,
			state: hasFailed ? ('not made' as const) : row.state,
			sum: formatAmount({ minor: row.minor, currency: row.currency }, locale),
			minor: row.minor,
			day: row.day,
			says: formatDay(row.day, locale),
			account: method ? nameOfStored(method, schemeNames) : '',
			mandate: (method && mandateOf(method)?.reference) ?? '',
			message: row.outboxId,
			payment: row.paymentId,
			why: hasFailed ? payment.failure || 'It was declined.' : row.why,
			hasBegun: row.begunAt !== null
		};
	});
}
export type ShownDebit = Awaited<ReturnType<typeof debitsOf>>[number];
