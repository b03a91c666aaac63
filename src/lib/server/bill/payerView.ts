import { formatDay, inZone } from '../../core/calendar';
import { methodName } from '../../core/lineup';
import { formatAmount, formatNumber } from '../../core/money';
import type { Verdict, Working } from '../../core/workings';
import { theBusiness, today } from '../connect/business';
import {
	AGES,
	creditOf,
	openInvoicesOf,
	creditPaymentsOf,
	db,
	methodsOfPayer,
	openByAgeOf,
	owedByPayers,
	owedSums,
	paymentsOfPayer,
	type PayerRow
} from '../db';
import { owedAddress } from '../messages';
import { storedView } from './storedView';
import { rulerOf } from './view';
import { standOfDues } from '../../core/billing';

/** What payers owe, in words, by the payer: those who owe nothing are left out. */
export async function owedOf(ids: readonly string[], locale: string): Promise<Map<string, string>> {
	const found = new Map<string, string>();
	if (!ids.length) return found;
	for (const one of await owedByPayers(ids)) {
		const text = formatAmount({ minor: one.open, currency: one.currency }, locale);
		found.set(one.payerId, found.has(one.payerId) ? `${found.get(one.payerId)}, ${text}` : text);
	}
	return found;
}

/** So many documents and payments are listed, the latest first; the lists of all of them are one press away. */
const LATEST = 50;
const LATEST_PAYMENTS = 30;

/** What a payer owes, has paid, holds as credit; how they paid before; what was said to them. */
export async function payerView(row: PayerRow, locale: string) {
	const [business, day, sums, credit, held, ages, methods, invoices, dueFirst, payments, messages] = await Promise.all([
		theBusiness(),
		today(),
		owedSums(row.id),
		creditOf(row.id),
		creditPaymentsOf(row.id),
		openByAgeOf(row.id, await today()),
		methodsOfPayer(row.id),
		db.invoices.find({ payerId: row.id }, { order: [['id', 'DESC']], limit: LATEST }),
		openInvoicesOf(row.id, 6),
		paymentsOfPayer(row.id, row.mail, LATEST_PAYMENTS),
		db.outbox.find({ payerId: row.id }, { order: [['id', 'DESC']], limit: 30 })
	]);
	const dayOf = (at: number | null) =>
		at === null ? '' : formatDay(inZone(new Date(at), business.timeZone).day, locale);
	const say = (minor: number, currency: string) => formatAmount({ minor, currency }, locale);
	const open = sums.filter((one) => one.open > 0);
	const late = ages.filter((one) => one.age > 0);
	const working = (one: (typeof sums)[number]): Working => ({
		title: `${one.currency} owed by ${row.company || row.name}`,
		steps: [
			{
				title: 'Asked',
				sub: `${one.count} invoices`,
				sum: formatNumber({ minor: one.total, currency: one.currency }, locale)
			},
			{ title: 'Placed', sum: formatNumber({ minor: -one.placed, currency: one.currency }, locale) },
			{ title: 'Credited', sum: formatNumber({ minor: -one.credited, currency: one.currency }, locale) },
			...(one.writtenOff
				? [{ title: 'Written off', sum: formatNumber({ minor: -one.writtenOff, currency: one.currency }, locale) }]
				: []),
			{ title: 'Open', sum: formatNumber({ minor: one.open, currency: one.currency }, locale), total: true }
		]
	});
	const verdict: Verdict = open.length
		? [
				...open.flatMap((one, at) => [
					...(at ? [{ text: ', ' }] : []),
					{ text: say(one.open, one.currency), working: working(one) }
				]),
				{ text: ' is owed. ' },
				late.length
					? {
							text: `${late
								.map((one) => say(one.open, one.currency))
								.slice(0, 2)
								.join(', ')} is overdue.`,
							tone: 'clay' as const
						}
					: { text: 'None of it is overdue.' }
			]
		: [{ text: sums.length ? 'Nothing is owed: everything that was asked is paid.' : 'Nothing was billed yet.' }];
	const rulers = [];
	for (const invoice of dueFirst) {
		const dues = await db.invoiceDues.find({ invoiceId: invoice.id }, { order: [['n', 'ASC']] });
		rulers.push(
			...rulerOf(
				standOfDues(dues, invoice.placed, invoice.credited).dues,
				invoice.promised,
				day,
				invoice.currency,
				locale
			)
		);
	}
	return {
		verdict,
		ruler: rulers.sort((a, b) => (a.day < b.day ? -1 : 1)).slice(0, 12),
		today: { day, says: formatDay(day, locale) },
		sums: sums.map((one) => ({
			currency: one.currency,
			count: one.count,
			asked: formatNumber({ minor: one.total, currency: one.currency }, locale),
			placed: formatNumber({ minor: one.placed, currency: one.currency }, locale),
			credited: formatNumber({ minor: one.credited, currency: one.currency }, locale),
			open: formatNumber({ minor: one.open, currency: one.currency }, locale),
			working: working(one)
		})),
		ages: ages.map((one) => ({ name: AGES[one.age]!, sum: say(one.open, one.currency), count: one.count })),
		credit: credit.map((one) => say(one.minor, one.currency)),
		creditFrom: held.map((one) => ({
			id: one.id,
			reference: one.reference || `payment ${one.id}`,
			says: say(one.minor, one.currency),
			typed: formatNumber({ minor: one.minor, currency: one.currency }, locale)
		})),
		methods: methods.map((one) => ({ name: methodName(one.method as never), count: one.count, last: dayOf(one.last) })),
		invoices: invoices.map((one) => ({
			id: one.id,
			kind: one.kind,
			number: one.number || 'Draft',
			day: one.day ? formatDay(one.day, locale) : '',
			state: one.state,
			late: one.open > 0 && one.nextDue !== '' && one.nextDue < day,
			total: say(one.total, one.currency),
			open:
				one.kind === 'invoice' && one.approvedAt !== null
					? formatNumber({ minor: one.open, currency: one.currency }, locale)
					: ''
		})),
		moreInvoices: invoices.length === LATEST,
		morePayments: payments.length === LATEST_PAYMENTS,
		payments: payments.map((one) => ({
			id: one.id,
			day: dayOf(one.capturedAt ?? one.createdAt),
			reference: one.reference,
			method: methodName(one.method as never),
			stage: one.stage,
			reachedStep: one.reachedStep,
			brokenStep: one.brokenStep,
			sum: say(one.taken || one.minor, one.currency),
			unplaced: one.unplaced ? say(one.unplaced, one.currency) : ''
		})),
		messages: messages.map((one) => ({
			id: one.id,
			day: dayOf(one.createdAt),
			says: `${one.event} by ${one.channel}`,
			state: one.state,
			subject: one.subject
		})),
		stored: await storedView(row.id, locale),
		link: owedAddress(row.id)
	};
}
