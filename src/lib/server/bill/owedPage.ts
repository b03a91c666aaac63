import { isUsable, lastDayOfMonth, openLanguage, purposeOf } from '../../core/billing';
import { inZone } from '../../core/calendar';
import { methodNameIn } from '../../core/lineup';
import { formatAmount } from '../../core/money';
import { snapshot } from '../accept/snapshot';
import { nameOfStored } from '../accept/storedWays';
import { connectorOf } from '../connectors';
import { factsOfStored, inOrder, mandateOf } from '../payments/stored';
import { theBusiness, today } from '../connect/business';
import {
	creditOf,
	db,
	openInvoicesOf,
	owedSums,
	paymentsOfPayer,
	requestsOf,
	write,
	type InvoiceRow,
	type PayerRow
} from '../db';
import { audit } from '../access';
import { tell } from '../signals/live';
import { contentOf } from './drafts';
import { longDay } from './payerDoc';
import { stateOfQuote } from './quotes';

/** So many documents are listed, the latest first; of what is open, whatever its age, so many. */
const LATEST = 100;
const OPEN = 2_000;

/** All that a payer owes, has paid, and what was said to them, as they see it. */
export async function owedPage(payer: PayerRow, locale: string) {
	const [business, day, sums, invoices, open, quotes, payments, credit, messages, stored, { schemeNames }] =
		await Promise.all([
			theBusiness(),
			today(),
			owedSums(payer.id),
			db.invoices.find({ payerId: payer.id }, { order: [['id', 'DESC']], limit: LATEST }),
			openInvoicesOf(payer.id, OPEN),
			db.invoices.find({ payerId: payer.id, kind: 'quote' }, { order: [['id', 'DESC']], limit: LATEST }),
			paymentsOfPayer(payer.id, payer.mail, 40),
			creditOf(payer.id),
			db.outbox.find({ payerId: payer.id, channel: 'page' }, { order: [['id', 'DESC']], limit: 10 }),
			db.storedMethods.find(
				{ payerId: payer.id, mode: 'live', state: ['active', 'suspended'] },
				{ order: [['id', 'DESC']], limit: 50 }
			),
			snapshot()
		]);
	const say = (minor: number, currency: string) => formatAmount({ minor, currency }, locale);
	const dayOf = (at: number) => longDay(inZone(new Date(at), business.timeZone).day, locale);
	const debits = new Map(
		(await db.announcedDebits.find({ payerId: payer.id, state: 'announced' }, { limit: OPEN })).map((one) => {
			const method = stored.find((row) => row.id === one.storedId);
			return [
				one.invoiceId,
				{
					sum: say(one.minor, one.currency),
					day: longDay(one.day, locale),
					account: method ? nameOfStored(method, schemeNames) : ''
				}
			];
		})
	);
	const tokens = await requestsOf(payments.map((one) => one.id));
	return {
		name: payer.company || payer.name,
		owed: sums
			.filter((one) => one.open > 0)
			.map((one) => ({
				currency: one.currency,
				sum: say(one.open, one.currency),
				rest: one.open - one.promised > 0 ? say(one.open - one.promised, one.currency) : '',
				coming: one.promised ? say(one.promised, one.currency) : '',
				invoices: open
					.filter((invoice) => invoice.currency === one.currency)
					.map((invoice) => ({
						id: invoice.id,
						token: invoice.token,
						number: invoice.number,
						purpose: purposeOf(contentOf(invoice).lines, openLanguage(locale) ?? 'en'),
						open: say(invoice.open, invoice.currency),
						due: longDay(invoice.nextDue, locale),
						isLate: invoice.nextDue < day,
						coming: invoice.promised ? say(invoice.promised, invoice.currency) : '',
						debit: debits.get(invoice.id)
					}))
			})),
		quotes: quotes
			.filter((one) => ['sent', 'opened'].includes(stateOfQuote(one, day)))
			.map((one) => ({
				token: one.token,
				number: one.number,
				total: say(one.total, one.currency),
				until: longDay(one.until, locale)
			})),
		paid: payments
			.filter((one) => one.taken > 0)
			.map((one) => ({
				sum: say(one.taken, one.currency),
				reference: one.reference,
				day: dayOf(one.capturedAt ?? one.createdAt),
				method: methodNameIn(one.method, openLanguage(locale) ?? 'en'),
				token: tokens.get(one.id)?.token ?? '',
				refunded: one.refunded ? say(one.refunded, one.currency) : ''
			})),
		documents: invoices
			.filter((one) => one.approvedAt !== null && one.kind !== 'quote')
			.map((one) => ({
				token: one.token,
				number: one.number,
				kind: one.kind,
				total: say(one.total, one.currency),
				day: longDay(one.day, locale)
			})),
		stored: inOrder(stored).map((row) => {
			const facts = factsOfStored(row, business.timeZone);
			return {
				id: row.id,
				name: nameOfStored(row, schemeNames),
				isDefault: row.isDefault === 1,
				processor: connectorOf(row.processor).name,
				until: row.expires ? longDay(lastDayOfMonth(row.expires), locale) : '',
				mandate: mandateOf(row)?.reference ?? '',
				isAsleep: !isUsable(facts, day)
			};
		}),
		canSwitch: await canSwitch([...open, ...invoices]),
		credit: credit.map((one) => say(one.minor, one.currency)),
		messages: messages.map((one) => ({ subject: one.subject, body: one.body, day: dayOf(one.createdAt) })),
		details: {
			name: payer.name,
			company: payer.company,
			phone: payer.phone,
			language: payer.language,
			prefers: payer.prefers
		}
	};
}

/** Whether the tills at which a payer is billed let them pay online as well as offline: only then is there a choice. */
async function canSwitch(invoices: readonly InvoiceRow[]): Promise<boolean> {
	const { tills } = await snapshot();
	const theirs = new Set(invoices.slice(0, 20).map((one) => one.tillId));
	const kinds = new Set<string>();
	for (const { row, published } of tills.values())
		if (theirs.has(row.id))
			for (const offer of published?.lineUp ?? [])
				if (offer.on)
					for (const { first } of Object.values(offer.routes)) kinds.add(wayOfRoute(offer.method, first.kind));
	return kinds.size > 1;
}
/** A transfer is made by the payer, whoever watches the account. */
const wayOfRoute = (method: string, carrier: 'connection' | 'offline'): 'online' | 'offline' =>
	carrier === 'offline' || method === 'credit-transfer' ? 'offline' : 'online';

/** A payer says how they like to pay. */
export async function changePreference(payer: PayerRow, told: string): Promise<void> {
	const prefers = (told === 'online' || told === 'offline' ? told : '') as PayerRow['prefers'];
	if (prefers === payer.prefers) return;
	await write(async (tx) => {
		await db.payers.update({ id: payer.id }, { prefers }, tx);
		await audit(
			{
				by: `${payer.name} (payer)`,
				kind: 'payer',
				id: payer.id,
				name: payer.name,
				act: 'changed how they like to pay',
				before: payer,
				after: { ...payer, prefers }
			},
			tx
		);
	});
	tell('bill');
}

/** What a payer changes of themselves. Mail and number stay the business's to change: by them a payer is known. */
export async function changeOwnDetails(
	payer: PayerRow,
	given: { readonly name: string; readonly phone: string; readonly language: string }
): Promise<boolean> {
	const name = given.name.trim().slice(0, 100);
	const phone = given.phone.trim();
	if (!name || !/^(\+?[\d ()/.-]{5,30})?$/.test(phone)) return false;
	await write(async (tx) => {
		const changes = {
			name,
			phone,
			language: ['en', 'nl', 'fr', 'de'].includes(given.language) ? given.language : ''
		};
		await db.payers.update({ id: payer.id }, changes, tx);
		await audit(
			{
				by: `${payer.name} (payer)`,
				kind: 'payer',
				id: payer.id,
				name,
				act: 'changed own details',
				before: payer,
				after: { ...payer, ...changes }
			},
			tx
		);
	});
	tell('bill');
	return true;
}
