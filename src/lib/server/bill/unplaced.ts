import { z } from 'zod';
import { suggestPlaces, type Suggestion } from '../../core/billing';
import { dayPattern, formatDay, inZone, readDay } from '../../core/calendar';
import { methodName } from '../../core/lineup';
import { AmountError, formatAmount, formatNumber, isCurrency, readTypedAmount } from '../../core/money';
import { readIban, referenceIn } from '../../core/references';
import { audit } from '../access';
import { snapshot } from '../accept/snapshot';
import { theBusiness, today } from '../connect/business';
import {
	db,
	ibansOf,
	openInvoicesFor,
	payersLike,
	placesOfPayment,
	unplacedIds,
	unplacedSums,
	write,
	type PaymentRow
} from '../db';
import { partGratuity } from '../../core/billing';
import { placeByHand, type PlacedByHand } from '../placing';
import { receiveByHand } from '../payments/byHand';
import { timeNow } from '../signals/clock';
import { done } from './approve';

/** Words of a text that could be a number or a reference of ours. */
const wordsOf = (text: string): string[] =>
	[...new Set(text.split(/[\s,;:]+/).filter((one) => /\d/.test(one) && one.length > 2))].slice(0, 20);
/** What money could be for, the likeliest first. */
export async function suggestionsFor(payment: PaymentRow): Promise<Suggestion[]> {
	const details = await db.moneyDetails.one({ paymentId: payment.id });
	const business = await theBusiness();
	const text = [details?.text ?? '', payment.reference].join(' ');
	const payerName = details?.payerName || payment.payerName;
	const reference = payment.creditorReference || referenceIn(text);
	const payerIds = payment.payerId ? [payment.payerId] : await payersLike(payerName || text, details?.iban ?? '');
	const words = wordsOf(text);
	// people leave the letters of a number out
	const prefixes = (await db.numberSeries.find({ kind: 'invoice' })).map((one) => one.prefix);
	const rows = await openInvoicesFor({
		currency: payment.currency,
		minor: payment.unplaced,
		words: [
			...words,
			...words.flatMap((word) => prefixes.map((prefix) => prefix + word)),
			...(reference ? [reference] : [])
		],
		payerIds
	});
	const payers = new Map(
		(rows.length ? await db.payers.find({ id: [...new Set(rows.flatMap((row) => row.payerId ?? []))] }) : []).map(
			(row) => [row.id, row]
		)
	);
	const ibans = await ibansOf([...payers.keys()]);
	return suggestPlaces(
		{
			currency: payment.currency,
			minor: payment.unplaced,
			day: inZone(new Date(payment.capturedAt ?? payment.createdAt), business.timeZone).day,
			text,
			creditorReference: reference,
			payerName,
			iban: details?.iban ?? ''
		},
		rows.map((row) => {
			const payer = payers.get(row.payerId ?? '');
			return {
				invoice: String(row.id),
				number: row.number,
				creditorReference: row.creditorReference,
				payer: row.payerId ?? '',
				payerName: payer?.company || payer?.name || row.payerName,
				ibans: ibans.get(row.payerId ?? '') ?? [],
				currency: row.currency,
				open: row.open,
				day: row.nextDue
			};
		})
	);
}

/** Money that nobody claims, and payers' credit, the oldest first; each with what it could be for. */
export async function unplacedList(after: number, locale: string) {
	const [ids, sums, held, business] = await Promise.all([
		unplacedIds(after, 31),
		unplacedSums(),
		snapshot(),
		theBusiness()
	]);
	const rows = ids.length
		? await db.payments.find({ id: ids.slice(0, 30).map((one) => one.id) }, { order: [['id', 'ASC']] })
		: [];
	const details = new Map(
		(rows.length ? await db.moneyDetails.find({ paymentId: rows.map((row) => row.id) }) : []).map((one) => [
			one.paymentId,
			one
		])
	);
	const payers = new Map(
		(await db.payers.find({ id: [...new Set(rows.flatMap((row) => row.payerId ?? []))] })).map((row) => [
			row.id,
			row.company || row.name
		])
	);
	const lines = [];
	for (const row of rows) {
		const [best] = await suggestionsFor(row);
		const numbers = best
			? (await db.invoices.find({ id: best.parts.map((part) => Number(part.invoice)) })).map((one) => one.number)
			: [];
		const detail = details.get(row.id);
		lines.push({
			id: row.id,
			day: formatDay(inZone(new Date(row.capturedAt ?? row.createdAt), business.timeZone).day, locale),
			from: detail?.payerName || row.payerName || '',
			text: detail?.text || row.reference || row.creditorReference,
			iban: detail?.iban ?? '',
			by: row.offlineId
				? (held.offline.get(row.offlineId)?.name ?? '')
				: (held.connections.get(row.connectionId ?? '')?.name ?? methodName(row.method as never)),
			sum: formatAmount({ minor: row.unplaced, currency: row.currency }, locale),
			payer: row.payerId ? (payers.get(row.payerId) ?? '') : '',
			payerId: row.payerId ?? '',
			best: best && { says: numbers.join(', '), reasons: best.reasons, isSure: best.isSure }
		});
	}
	return {
		lines,
		next: ids.length > 30 ? rows.at(-1)!.id : undefined,
		sums: sums.map((one) => ({
			currency: one.currency,
			count: one.count,
			sum: formatNumber({ minor: one.minor, currency: one.currency }, locale),
			credit: formatNumber({ minor: one.credit, currency: one.currency }, locale)
		}))
	};
}

/** One piece of money: what is known of it, where it is placed, what it could be for. */
export async function unplacedView(id: number, locale: string) {
	const payment = Number.isSafeInteger(id) ? await db.payments.one({ id }) : undefined;
	if (!payment) return undefined;
	const [detail, standing, suggestions, business, steps] = await Promise.all([
		db.moneyDetails.one({ paymentId: id }),
		placesOfPayment(id),
		payment.unplaced > 0 ? suggestionsFor(payment) : [],
		theBusiness(),
		db.places.find({ paymentId: id }, { order: [['id', 'ASC']] })
	]);
	const invoices = new Map(
		(
			await db.invoices.find({
				id: [
					...new Set([
						...standing.map((one) => one.invoiceId),
						...steps.map((one) => one.invoiceId),
						...suggestions.flatMap((one) => one.parts.map((part) => Number(part.invoice)))
					])
				]
			})
		).map((row) => [row.id, row])
	);
	const say = (minor: number) => formatAmount({ minor, currency: payment.currency }, locale);
	const payer = payment.payerId ? await db.payers.one({ id: payment.payerId }) : undefined;
	return {
		id,
		currency: payment.currency,
		unplaced: say(payment.unplaced),
		isOpen: payment.unplaced > 0,
		came: say(partGratuity(payment).goods),
		day: formatDay(inZone(new Date(payment.capturedAt ?? payment.createdAt), business.timeZone).day, locale),
		from: detail?.payerName || payment.payerName,
		text: detail?.text || payment.reference,
		iban: detail?.iban ?? '',
		reference: payment.creditorReference,
		payer: payer && { id: payer.id, name: payer.company || payer.name },
		setAside: detail?.setAsideAt ? { reason: detail.setAsideReason, by: detail.setAsideBy } : undefined,
		placed: standing.map((one) => ({
			invoiceId: one.invoiceId,
			number: invoices.get(one.invoiceId)?.number ?? '',
			sum: say(one.left),
			by: one.byUser
		})),
		steps: steps.map((one) => ({
			number: invoices.get(one.invoiceId)?.number ?? '',
			sum: say(one.minor),
			why: one.why,
			by: one.byUser,
			at: one.at
		})),
		suggestions: suggestions.map((one) => ({
			parts: one.parts.map((part) => ({
				invoiceId: Number(part.invoice),
				minor: part.minor,
				number: invoices.get(Number(part.invoice))?.number ?? '',
				payer: invoices.get(Number(part.invoice))?.payerName ?? '',
				sum: say(part.minor)
			})),
			isSure: one.isSure,
			reasons: one.reasons
		}))
	};
}

export const IncomingForm = z.object({
	amount: z.string().trim().min(1, 'Give the amount that came.'),
	currency: z.string().trim().toUpperCase().refine(isCurrency, 'No currency code.'),
	day: z.string().trim().min(1, 'Give the day it came.'),
	text: z.string().trim().max(300).default(''),
	from: z.string().trim().max(120).default(''),
	iban: z.string().trim().max(42).default(''),
	method: z.string().min(1, 'Choose the account or method it came by.'),
	key: z.string().regex(/^[\w-]{8,60}$/)
});
export type IncomingForm = z.infer<typeof IncomingForm>;

/** Records money that somebody saw come: placed by itself where its reference proves what it is for, else put before whoever places. */
export async function recordIncoming(
	form: IncomingForm,
	by: string,
	locale: string
): Promise<PlacedByHand & { id?: number }> {
	const day = readDay(form.day, locale);
	if (!day) return { problem: `“${form.day}” is no day. Write it as ${dayPattern(locale)}.` };
	if (day > (await today())) return { problem: `${formatDay(day, locale)} has not come yet.` };
	let minor: number;
	try {
		minor = readTypedAmount(form.amount, form.currency, { locale }).amount.minor;
	} catch (error) {
		if (!(error instanceof AmountError)) throw error;
		return { problem: error.message };
	}
	let iban = '';
	if (form.iban) {
		const read = readIban(form.iban);
		if (!('iban' in read)) return { problem: read.problem };
		iban = read.iban;
	}
	return done(
		await write(async (tx): Promise<PlacedByHand & { id?: number }> => {
			const known = await db.paymentEvents.one({ object: form.key, kind: 'received' }, tx);
			if (known) return { says: 'This is recorded already; it was not recorded twice.', id: known.paymentId };
			const method = await db.offlineMethods.one({ id: form.method, removedAt: null }, tx);
			if (!method) return { problem: 'There is no such offline method any more.' };
			const payment = await receiveByHand(
				{
					method,
					currency: form.currency,
					minor,
					at: Math.min(Date.parse(`${day}T12:00:00Z`), timeNow()),
					reference: '',
					creditorReference: referenceIn(form.text),
					payerName: form.from,
					payerMail: '',
					how: 'credit transfer',
					note: form.text,
					key: form.key,
					by,
					details: { text: form.text, payerName: form.from, iban }
				},
				tx
			);
			const say = (sum: number) => formatAmount({ minor: sum, currency: form.currency }, locale);
			await audit(
				{
					by,
					kind: 'payment',
					id: String(payment.id),
					name: form.from || form.text || 'money',
					act: `recorded ${say(minor)} that came`
				},
				tx
			);
			return {
				id: payment.id,
				says:
					payment.placed === 0
						? `${say(minor)} recorded. It waits to be placed.`
						: payment.unplaced
							? `${say(payment.placed)} is placed by its reference, ${say(payment.unplaced)} waits.`
							: `${say(minor)} recorded, and placed by its reference.`
			};
		})
	);
}

/** Gives money to a payer as their credit, without an invoice. */
export async function giveAsCredit(paymentId: number, payerId: string | null, by: string): Promise<PlacedByHand> {
	return done(
		await write(async (tx): Promise<PlacedByHand> => {
			const payment = await db.payments.one({ id: paymentId }, tx);
			const payer = payerId ? await db.payers.one({ id: payerId, removedAt: null }, tx) : undefined;
			if (!payment || (payerId && !payer)) return { problem: 'Choose the payer.' };
			await db.payments.update({ id: paymentId }, { payerId }, tx);
			await audit(
				{
					by,
					kind: 'payment',
					id: String(paymentId),
					name: payment.reference || String(paymentId),
					act: payer ? `kept as credit of ${payer.name}` : 'not a payer’s credit any more'
				},
				tx
			);
			return { says: payer ? `It is ${payer.company || payer.name}’s credit now.` : 'It is nobody’s credit any more.' };
		})
	);
}

/** Places a suggestion, as it was shown. */
export const placeSuggested = (
	paymentId: number,
	parts: readonly { invoiceId: number; minor: number }[],
	by: string,
	locale: string
): Promise<PlacedByHand> => placeByHand(paymentId, parts, by, locale);
