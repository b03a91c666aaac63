import { inZone } from '../../core/calendar';
import { lifeOf, partGratuity, placeOldestFirst, standOfDues } from '../../core/billing';
import { isCreditorReference } from '../../core/references';
import { db, duesOfInvoices, freshMoneyOf, writePlaced, type FreshMoney, type PlacedAtOnce, type Tx } from '../db';
import { timeNow } from '../signals/clock';
import { wake } from '../signals/wake';

interface Standing {
	readonly of: FreshMoney;
	readonly dues: { readonly n: number; readonly day: string; readonly minor: number; open: number }[];
	placed: number;
}

/**
 * Places the money of many new payments in a few statements: by the same rules, in the order of the payments, as one after
 * the other. Left out is whatever is not plain: an invoice with a credit note or with money on its way, a transfer whose
 * reference proves nothing.
 * @returns payments that are done
 */
export async function placeAtOnce(paymentIds: readonly number[], tx: Tx): Promise<Set<number>> {
	const business = (await db.business.one({ id: 1 }, tx))!;
	const { placesSure } = db.business.json.billing(business.billing);
	const money = (await freshMoneyOf(paymentIds, tx)).filter(
		(one) => one.tillId !== null || (placesSure && isCreditorReference(one.creditorReference))
	);
	if (!money.length) return new Set();
	const standing = new Map<number, Standing>();
	for (const one of money) standing.set(one.invoiceId, { of: one, dues: [], placed: one.placed });
	for (const due of await duesOfInvoices([...standing.keys()], tx)) standing.get(due.invoiceId)!.dues.push({ ...due });

	const told = { places: [], payments: [], dues: [], invoices: [], events: [] } as {
		-readonly [K in keyof PlacedAtOnce]: PlacedAtOnce[K][number][];
	};
	const touched = new Set<number>();
	for (const one of money) {
		const invoice = standing.get(one.invoiceId)!;
		const { goods } = partGratuity(one);
		const { parts } = placeOldestFirst(
			goods,
			invoice.dues.map((due) => ({ invoice: String(due.n), number: one.number, day: due.day, open: due.open }))
		);
		let placed = 0;
		for (const part of parts) {
			invoice.dues.find((due) => String(due.n) === part.invoice)!.open -= part.minor;
			placed += part.minor;
		}
		told.payments.push([one.id, placed, goods - placed, goods, one.payerId]);
		if (!placed) continue;
		invoice.placed += placed;
		touched.add(one.invoiceId);
		told.places.push([one.id, one.invoiceId, placed]);
		const payload = { invoice: one.invoiceId, minor: placed, currency: one.currency, why: 'paid for it' };
		told.events.push(['payment.placed', 'payment', String(one.id), JSON.stringify(payload)]);
	}
	const today = inZone(new Date(timeNow()), business.timeZone).day;
	for (const id of touched) {
		const { of, dues, placed } = standing.get(id)!;
		const stands = standOfDues(dues, placed, 0);
		const facts = { isApproved: true, isSent: of.sentAt !== null, isVoid: false, isWrittenOff: false };
		const life = lifeOf({ ...facts, placed, promised: 0 }, stands, today);
		// the dues come by their days, and so they stand
		stands.dues.forEach((due, at) => told.dues.push([id, dues[at]!.n, due.paid, due.open]));
		told.invoices.push([id, placed, stands.open, life.next?.day ?? '', life.state]);
		const payload = { number: of.number, currency: of.currency, total: of.total, open: stands.open };
		if (life.state === 'paid' && of.state !== 'paid')
			told.events.push(['invoice.paid', 'invoice', String(id), JSON.stringify(payload)]);
	}
	await writePlaced(told, 'paid for it', 'itself', timeNow(), tx);
	tx.afterCommit(() => wake());
	return new Set(money.map((one) => one.id));
}
