import { lineNets, standOfDues, sumsWorking, type StandingDue } from '../../core/billing';
import { formatDay, formatMoment, inZone } from '../../core/calendar';
import { failedChecks, methodName, sayFact } from '../../core/lineup';
import { formatAmount, formatNumber, localDecimal } from '../../core/money';
import type { Verdict, Working } from '../../core/workings';
import { askTill } from '../accept/ask';
import { snapshot } from '../accept/snapshot';
import { theBusiness, today } from '../connect/business';
import { creditOf, db, placesOfInvoice, type InvoiceRow, type PayerRow } from '../db';
import { invoiceAddress, owedAddress } from '../messages';
import { collectables, debitsOf } from './debits';
import { contentOf, sumsOf } from './drafts';
import { comingFor } from '../placing';
import { stateOfQuote } from './quotes';
import { payerAsking } from './asking';

export const invoiceById = (id: number): Promise<InvoiceRow | undefined> =>
	Number.isSafeInteger(id) ? db.invoices.one({ id }) : Promise.resolve(undefined);
export const invoiceByToken = (token: string): Promise<InvoiceRow | undefined> => db.invoices.one({ token });

/** A due as the ruler shows it. */
export interface ShownDue {
	readonly day: string;
	readonly says: string;
	readonly sum: string;
	/** parts of it that are paid, credited and on their way, from 0 to 1 */
	readonly paid: number;
	readonly coming: number;
	readonly isLate: boolean;
}

/** Dues as a ruler: what is on its way fills the first that are open. */
export function rulerOf(
	dues: readonly StandingDue[],
	promised: number,
	day: string,
	currency: string,
	locale: string
): ShownDue[] {
	let coming = promised;
	return dues.map((due) => {
		const here = Math.min(due.open, coming);
		coming -= here;
		return {
			day: due.day,
			says: formatDay(due.day, locale),
			sum: formatNumber({ minor: due.minor, currency }, locale),
			paid: due.minor ? (due.paid + due.credited) / due.minor : 1,
			coming: due.minor ? here / due.minor : 0,
			isLate: due.open - here > 0 && due.day < day
		};
	});
}

/** Lines and sums of a document as they are shown. */
export function shownSums(row: InvoiceRow, locale: string) {
	const content = contentOf(row);
	const told = sumsOf(row);
	const say = (minor: number) => formatNumber({ minor, currency: row.currency }, locale);
	if ('problem' in told) return { content, problem: told.problem, lines: [], discounts: [], taxes: [] };
	const { sums } = told;
	return {
		content,
		lines: content.lines.map((line, at) => ({
			text: line.text,
			quantity: localDecimal(line.quantity, locale),
			unit: line.unit,
			price: localDecimal(line.price, locale),
			rate: line.rate ? `${line.rate / 10_000} %` : line.category === 'standard' ? '0 %' : line.category,
			off: sums.lines[at]!.discount ? say(-sums.lines[at]!.discount) : '',
			sum: say(sums.lines[at]!.sum)
		})),
		discounts: sums.discounts.filter((one) => one.minor).map((one) => ({ name: one.name, sum: say(-one.minor) })),
		taxes: sums.groups.map((group) => ({
			name: `${group.category}${group.rate ? ` ${group.rate / 10_000} %` : ''}`,
			base: say(group.base),
			tax: say(group.tax)
		})),
		net: say(sums.net),
		tax: say(sums.tax),
		total: say(sums.total),
		working: sumsWorking(sums, content.pricing, locale)
	};
}
export const netsOf = (row: InvoiceRow): number[] => {
	const told = sumsOf(row);
	return 'sums' in told ? lineNets(told.sums, contentOf(row).pricing) : [];
};

/** Everything about an invoice, a quote or a credit note that was approved or sent. */
export async function invoiceView(row: InvoiceRow, locale: string) {
	const [business, day, held] = await Promise.all([theBusiness(), today(), snapshot()]);
	const say = (minor: number) => formatAmount({ minor, currency: row.currency }, locale);
	const number = (minor: number) => formatNumber({ minor, currency: row.currency }, locale);
	const dayOf = (at: number | null) =>
		at === null ? '' : formatDay(inZone(new Date(at), business.timeZone).day, locale);
	const moment = (at: number) => formatMoment(at, locale, business.timeZone);
	const [dues, places, coming, notes, messages, steps, payer, of, made, orders, debits, mandates] = await Promise.all([
		db.invoiceDues.find({ invoiceId: row.id }, { order: [['n', 'ASC']] }),
		placesOfInvoice(row.id),
		comingFor(row),
		db.invoices.find({ ofId: row.id, kind: 'credit note' }, { order: [['id', 'ASC']] }),
		db.outbox.find({ invoiceId: row.id }, { order: [['id', 'ASC']], limit: 100 }),
		db.audit.find({ objectKind: row.kind, objectId: String(row.id) }, { order: [['id', 'ASC']], limit: 100 }),
		row.payerId ? db.payers.one({ id: row.payerId }) : undefined,
		row.ofId === null ? undefined : db.invoices.one({ id: row.ofId }),
		row.madeId === null ? undefined : db.invoices.one({ id: row.madeId }),
		db.orderClaims.find({ invoiceId: row.id }),
		row.kind === 'invoice' ? debitsOf({ invoiceId: row.id }, locale, 5) : [],
		row.kind === 'invoice' ? collectables(row) : []
	]);
	const till = [...held.tills.values()].find((one) => one.row.id === row.tillId);
	const standing = standOfDues(dues, row.placed, row.credited);
	const byPayment = new Map<number, { minor: number; at: number; by: string; why: string }>();
	for (const place of places) {
		const before = byPayment.get(place.paymentId);
		byPayment.set(place.paymentId, {
			minor: (before?.minor ?? 0) + place.left,
			at: place.at,
			by: place.byUser,
			why: place.why
		});
	}
	const parts = new Map(coming.map((one) => [one.paymentId, one.minor]));
	const ids = [...new Set([...byPayment.keys(), ...parts.keys()])];
	// tries that came to nothing stand there as well
	const orderIds = orders.map((one) => one.orderId);
	const tried = orderIds.length ? await db.payments.find({ orderId: orderIds }) : [];
	const rows = ids.length ? await db.payments.find({ id: ids }) : [];
	for (const one of tried)
		if (!rows.some((other) => other.id === one.id) && (one.taken > 0 || one.stage === 'failed' || one.open))
			rows.push(one);
	const payments = rows
		.sort((a, b) => a.createdAt - b.createdAt || a.id - b.id)
		.map((one) => ({
			id: one.id,
			day: dayOf(one.capturedAt ?? one.createdAt),
			method: one.offlineId
				? (held.offline.get(one.offlineId)?.name ?? methodName(one.method))
				: methodName(one.method),
			route: one.connectionId ? (held.connections.get(one.connectionId)?.name ?? '') : '',
			stage: one.stage,
			reachedStep: one.reachedStep,
			brokenStep: one.brokenStep,
			placed: byPayment.has(one.id) ? number(byPayment.get(one.id)!.minor) : '',
			by: byPayment.get(one.id)?.by ?? '',
			coming: parts.has(one.id) ? number(parts.get(one.id)!) : '',
			amount: number(one.minor),
			gratuity: one.gratuity ? number(one.gratuity) : '',
			fee:
				one.feeCurrency && (one.chargedFee ?? one.expectedFee) !== null
					? formatNumber({ minor: (one.chargedFee ?? one.expectedFee)!, currency: one.feeCurrency }, locale)
					: ''
		}));
	const isApproved = row.approvedAt !== null;
	const late = standing.dues.filter((due) => due.open > 0 && due.day < day);
	const proof: Working = {
		title: `Open on ${row.number}`,
		steps: [
			{ title: 'Asked', sum: number(row.total) },
			{ title: 'Placed', sub: 'money on its dues, the oldest first', sum: number(-row.placed) },
			{ title: 'Credited', sub: 'by credit notes, from the last due first', sum: number(-row.credited) },
			...(row.writtenOffAt !== null
				? [{ title: 'Written off', sum: number(-(row.total - row.placed - row.credited)) }]
				: []),
			{
				title: 'Open',
				sub: row.promised ? `of it ${number(row.promised)} is on its way` : undefined,
				sum: number(row.open),
				total: true
			}
		]
	};
	return {
		id: row.id,
		kind: row.kind,
		number: row.number,
		state: row.kind === 'quote' ? stateOfQuote(row, day) : row.state,
		currency: row.currency,
		payer: payer && {
			id: payer.id,
			name: payer.company || payer.name,
			mail: payer.mail,
			phone: payer.phone,
			channel: payer.channel,
			isRemoved: payer.removedAt !== null
		},
		till: till && { name: till.row.name, slug: till.row.slug, test: till.row.mode === 'test' },
		day: row.day ? formatDay(row.day, locale) : '',
		until: row.until ? formatDay(row.until, locale) : '',
		approved: dayOf(row.approvedAt),
		approvedBy: row.approvedBy,
		sent: dayOf(row.sentAt),
		opened: row.opened,
		openedDay: dayOf(row.openedAt),
		isHeld: row.heldAt !== null,
		voidReason: row.voidAt !== null ? row.voidReason : '',
		isWrittenOff: row.writtenOffAt !== null,
		outside: row.outsideReference,
		creditorReference: row.creditorReference,
		answeredBy: row.answeredBy,
		answered: dayOf(row.answeredAt),
		of: of && { id: of.id, number: of.number, kind: of.kind },
		made: made && { id: made.id, number: made.number },
		openMinor: row.open,
		open: say(row.open),
		placedMinor: row.placed,
		creditable: row.kind === 'invoice' && isApproved && row.voidAt === null && row.credited < row.total,
		verdict: await verdictOf(row, payer, late, proof, say, day, locale),
		ruler:
			row.kind === 'invoice' && isApproved && row.voidAt === null
				? rulerOf(standing.dues, row.promised, day, row.currency, locale)
				: [],
		today: { day, says: formatDay(day, locale) },
		sums: shownSums(row, locale),
		payments,
		proof: {
			working: proof,
			text: `${number(row.total)} asked = ${number(row.placed)} paid${row.credited ? ` + ${number(row.credited)} credited` : ''}${row.writtenOffAt !== null ? ` + ${number(row.total - row.placed - row.credited)} written off` : ''} + ${number(row.open)} open`,
			adds:
				row.total ===
				row.placed + row.credited + (row.writtenOffAt !== null ? row.total - row.placed - row.credited : row.open)
		},
		notes: notes.map((one) => ({
			id: one.id,
			number: one.number || 'draft',
			total: number(one.total),
			day: one.day ? formatDay(one.day, locale) : '',
			isApproved: one.approvedAt !== null
		})),
		happened: [
			...steps.map((one) => ({ at: one.at, says: one.act, by: one.userName, href: '', bad: false })),
			...messages.map((one) => ({
				at: one.createdAt,
				says: `${one.event} by ${one.channel} to ${one.toName || one.toAddress}: ${one.state}${one.says && one.state !== 'sent' ? `, ${one.says}` : ''}`,
				by: one.byUser,
				href: `/bill/messages/${one.id}`,
				bad: ['refused', 'failed', 'unknown'].includes(one.state)
			}))
		]
			.sort((a, b) => a.at - b.at)
			.map((one) => ({ ...one, when: moment(one.at) })),
		ways: row.kind === 'invoice' && row.open > 0 && till ? await waysToPay(row, payer, locale) : undefined,
		debits: debits.map((one) => ({ ...one, hasBegun: one.hasBegun || one.state === 'made' })),
		collectables: mandates.map((one) => ({
			storedId: one.storedId,
			name: one.name,
			reference: one.mandate.reference,
			noticeDays: one.noticeDays,
			day: one.day,
			says: formatDay(one.day, locale),
			minor: one.minor,
			sum: say(one.minor),
			why: one.why
		})),
		link: invoiceAddress(row),
		owedLink: payer ? owedAddress(payer.id) : '',
		credit:
			payer && row.open > 0
				? ((await creditOf(payer.id)).filter((one) => one.currency === row.currency).map((one) => say(one.minor))[0] ??
					'')
				: ''
	};
}
export type InvoiceView = Awaited<ReturnType<typeof invoiceView>>;

async function verdictOf(
	row: InvoiceRow,
	payer: PayerRow | undefined,
	late: readonly StandingDue[],
	proof: Working,
	say: (minor: number) => string,
	day: string,
	locale: string
): Promise<Verdict> {
	if (row.kind === 'quote') {
		const state = stateOfQuote(row, day);
		const whole = say(row.total);
		if (state === 'accepted')
			return [{ text: `${whole}, accepted by ${row.answeredBy}. The invoice was made at once.`, tone: 'moss' }];
		if (state === 'declined') return [{ text: `${whole}, declined by ${row.answeredBy}.` }];
		if (state === 'expired')
			return [
				{
					text: `${whole}. It expired on ${formatDay(row.until, locale)}, and nobody answered. Duplicate it to send it again.`,
					tone: 'clay'
				}
			];
		return [
			{
				text: `${whole}, good until ${formatDay(row.until, locale)}. ${row.openedAt === null ? 'It was not opened yet.' : 'It was opened, and not answered yet.'}`
			}
		];
	}
	if (row.kind === 'credit note') return [{ text: `${say(row.total)} less is asked by it.` }];
	if (row.voidAt !== null) return [{ text: `Void: ${row.voidReason}. Its number stays.` }];
	if (row.writtenOffAt !== null)
		return [
			{ text: `${say(row.total - row.placed - row.credited)} of ${say(row.total)} is written off. `, working: proof }
		];
	if (row.open === 0)
		return [
			{
				text: `${say(row.total)} is ${row.credited >= row.total ? 'credited whole' : 'paid'}.`,
				working: proof,
				tone: 'moss'
			}
		];
	const parts: { text: string; working?: Working; tone?: 'clay' | 'moss' }[] = [];
	if (row.placed > 0) parts.push({ text: `${say(row.placed)} of ${say(row.total)} is paid. ` });
	if (row.promised > 0) parts.push({ text: `${say(row.promised)} is on its way. `, tone: 'moss' });
	const rest = row.open - row.promised;
	if (rest > 0) {
		const over = late.length ? Math.round((Date.parse(day) - Date.parse(late[0]!.day)) / 86_400_000) : 0;
		parts.push({ text: say(rest), working: proof, ...(over ? { tone: 'clay' as const } : {}) });
		parts.push({
			text: over
				? ` is open, and overdue for ${over} day${over === 1 ? '' : 's'}. Remind ${payer?.name ?? 'the payer'}, or record what came.`
				: ` is open, due ${formatDay(row.nextDue, locale)}.`
		});
	}
	return parts;
}

/** Which ways this very invoice is offered to this very payer, and why the others are not. */
export async function waysToPay(
	row: Pick<InvoiceRow, 'tillId' | 'currency' | 'open'>,
	payer: PayerRow | undefined,
	locale: string
) {
	const held = await snapshot();
	const till = [...held.tills.values()].find((one) => one.row.id === row.tillId);
	if (!till?.published)
		return { till: till?.row.name ?? '', slug: till?.row.slug ?? '', version: 0, offered: [], withheld: [] };
	const { answer } = await askTill(till, till.published.lineUp, await payerAsking(payer, row.currency, row.open));
	return {
		till: till.row.name,
		slug: till.row.slug,
		version: till.published.number,
		offered: answer.offered.map((one) => one.offer.name),
		withheld: answer.withheld.map((one) => ({
			name: one.offer.name,
			why: failedChecks(one.checks).map((check) => sayFact(check.fact, locale))[0] ?? ''
		}))
	};
}
