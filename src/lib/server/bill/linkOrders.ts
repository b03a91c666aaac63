import {
	checkCode,
	fieldProblems,
	priceOrder,
	type ChoiceProblem,
	type CodeProblem,
	type DocumentDiscount,
	type LinkChoice,
	type LinkSettings
} from '../../core/billing';
import { maskCardNumbers } from '../../core/cards';
import { AmountError, exponentOf } from '../../core/money';
import { orderWithin, privateAddressOf } from '../accept/addresses';
import { ownAddress } from '../connect/connections';
import { today } from '../connect/business';
import { countAtLink, countCodeUses, countLinkOrders, db, write, type PayLinkRow, type Tx } from '../db';
import { recordEvent } from '../events';
import { timeNow } from '../signals/clock';
import { randomBytes } from 'node:crypto';
import { tell } from '../signals/live';
import { claim } from './collect';
import { itemsById, type PriceItem } from './prices';
import { linkSettings } from './links';

/** Why a link takes nothing any more. */
export type LinkEnd = 'closed' | 'over' | 'full';
export async function linkEnd(row: PayLinkRow, day: string, tx?: Tx): Promise<LinkEnd | undefined> {
	const settings = linkSettings(row);
	if (row.closedAt !== null) return 'closed';
	if (settings.until && settings.until < day) return 'over';
	if (settings.cap !== null && (await countLinkOrders(row.id, timeNow(), tx)) >= settings.cap) return 'full';
	return undefined;
}

/** What a payer gave at a link's page. */
export interface LinkGiven {
	readonly choice: LinkChoice;
	readonly name: string;
	readonly mail: string;
	readonly phone: string;
	readonly taxNumber: string;
	readonly address: { name: string; street: string; postcode: string; city: string; country: string };
	readonly code: string;
	readonly language: string;
	/** of a prefilled address: the reference of an outside program */
	readonly reference: string;
}
export type Ordered =
	| { readonly address: string; readonly reference: string }
	| { readonly end: LinkEnd }
	| { readonly problem: ChoiceProblem; readonly bound?: number }
	| { readonly code: CodeProblem }
	| {
			readonly errors: Readonly<
				Record<string, 'missing' | 'no number' | 'no date' | 'no choice' | 'bad mail' | 'bad phone'>
			>;
	  };

/** What is wrong with what a payer filled in beside goods and sums, by the box. */
function wrongBoxes(settings: LinkSettings, given: LinkGiven) {
	const errors: Record<string, 'missing' | 'no number' | 'no date' | 'no choice' | 'bad mail' | 'bad phone'> = {};
	for (const [id, wrong] of Object.entries(fieldProblems(settings.fields, given.choice.fields)))
		errors[`field-${id}`] = wrong;
	const boxes = [
		['name', settings.asksName, given.name],
		['mail', settings.asksMail, given.mail],
		['phone', settings.asksPhone, given.phone],
		['taxNumber', settings.asksTaxNumber, given.taxNumber]
	] as const;
	for (const [name, asks, value] of boxes) if (asks === 'must' && !value.trim()) errors[name] = 'missing';
	if (given.mail && settings.asksMail !== 'no' && !/^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(given.mail))
		errors.mail = 'bad mail';
	if (given.phone && settings.asksPhone !== 'no' && !/^\+?[\d ()/.-]{6,30}$/.test(given.phone))
		errors.phone = 'bad phone';
	const { street, postcode, city } = given.address;
	if (settings.asksAddress === 'must' || (settings.asksAddress === 'may' && (street || postcode || city)))
		for (const [name, value] of [
			['street', street],
			['postcode', postcode],
			['city', city]
		] as const)
			if (!value.trim()) errors[name] = 'missing';
	return errors;
}

/** The things of a link that can be had, with what is left of those that are counted. */
export async function linkItems(row: PayLinkRow, tx?: Tx): Promise<Map<string, PriceItem>> {
	const items = await itemsById(tx);
	const used = await heldStock(tx);
	for (const [id, item] of items)
		if (item.stock !== null) items.set(id, { ...item, stock: Math.max(0, item.stock - (used.get(id) ?? 0)) });
	void row;
	return items;
}
/** How many of each thing orders of pay links hold: paid, or not yet over. */
async function heldStock(tx?: Tx): Promise<Map<string, number>> {
	const held = new Map<string, number>();
	const counted = (await db.priceItems.find({}, {}, tx)).filter((one) => one.stock !== null);
	if (!counted.length) return held;
	const claims = await db.orderClaims.find({ kind: 'link' }, {}, tx);
	const orders = claims.length
		? await db.orders.find({ id: claims.map((one) => one.orderId), replacedBy: null, cancelledAt: null }, {}, tx)
		: [];
	const now = timeNow();
	for (const order of orders) {
		if (order.paid <= 0 && order.expiresAt !== null && order.expiresAt <= now) continue;
		const { lines = [] } = JSON.parse(order.more) as { lines?: { item?: string; quantity: number }[] };
		for (const line of lines) if (line.item) held.set(line.item, (held.get(line.item) ?? 0) + line.quantity);
	}
	return held;
}

/**
 * Makes the order of what a payer chose. Of two who take the last place at once, one gets it and the other is told before
 * paying: both are counted in the transaction that makes the order.
 */
export async function orderByLink(row: PayLinkRow, given: LinkGiven): Promise<Ordered> {
	const settings = linkSettings(row);
	const day = await today();
	const errors = wrongBoxes(settings, given);
	if (Object.keys(errors).length) return { errors };
	const answer = await write(async (tx): Promise<Ordered> => {
		const now = (await db.payLinks.one({ id: row.id }, tx))!;
		const end = await linkEnd(now, day, tx);
		if (end) return { end };
		const till = (await db.tills.one({ id: now.tillId }, tx))!;
		const items = await linkItems(now, tx);
		for (const [id, count] of Object.entries(given.choice.quantities)) {
			const stock = items.get(id)?.stock;
			if (stock !== null && stock !== undefined && count > stock) return { problem: 'too many' };
		}
		let priced;
		try {
			priced = priceOrder(settings, given.choice, items);
		} catch (error) {
			if (!(error instanceof AmountError)) throw error;
			return { problem: 'sum too large', bound: settings.free.most };
		}
		if ('problem' in priced)
			return {
				problem: priced.problem,
				bound: priced.problem === 'sum too small' ? settings.free.least : settings.free.most
			};
		let discount: DocumentDiscount | undefined;
		const mail = given.mail.trim().toLowerCase();
		const code = settings.takesCodes ? given.code.trim().toUpperCase() : '';
		if (code) {
			const kept = await db.discountCodes.one({ code }, tx);
			if (!kept || kept.endedAt !== null) return { code: 'unknown' };
			const checked = checkCode(db.discountCodes.json.form(kept.form), {
				currency: settings.currency,
				total: priced.sums.total,
				items: priced.lines.flatMap((line) => line.item ?? []),
				today: day,
				...(await countCodeUses(code, mail, timeNow(), tx))
			});
			if ('problem' in checked) return { code: checked.problem };
			discount = checked.discount;
			const again = priceOrder(settings, given.choice, items, discount);
			if (!('problem' in again)) priced = again;
		}
		const { total } = priced.sums;
		// a code that takes all of it leaves nothing that a processor could charge
		if (total <= 0) return { problem: 'no sum' };
		const reference = await linkReference(now, given.reference, tx);
		const payer = mail ? await db.payers.one({ mail, removedAt: null }, tx) : undefined;
		const clean = (text: string, most: number) =>
			maskCardNumbers([...text.replace(/\p{Cc}+/gu, ' ').trim()].slice(0, most).join(''));
		const opened = await orderWithin(
			till,
			{
				till: till.slug,
				amount: { minor: total, currency: settings.currency },
				reference,
				name: clean(given.name, 100),
				mail,
				country: given.address.country || payer?.country || '',
				purpose: clean(settings.title, 120),
				...(settings.goodsKind ? { goods: settings.goodsKind } : {}),
				...(settings.delivery ? { delivery: settings.delivery } : {})
			},
			false,
			tx,
			{
				expiresAt: timeNow() + settings.holdMinutes * 60_000,
				told: {
					lines: [
						...priced.lines.map((line, at) => ({
							name: line.text,
							quantity: Number(line.quantity),
							amountMinor: priced.sums.lines[at]!.sum,
							...(line.item ? { item: line.item } : {})
						})),
						...priced.sums.discounts
							.filter((one) => one.minor)
							.map((one) => ({ name: one.name, quantity: 1, amountMinor: -one.minor }))
					],
					...(given.address.street ? { address: { ...given.address, name: given.address.name || given.name } } : {}),
					...(given.phone ? { phone: clean(given.phone, 40) } : {}),
					...(given.taxNumber ? { taxNumber: clean(given.taxNumber, 40) } : {}),
					...(given.language ? { language: given.language } : {}),
					...(settings.ways.length ? { ways: settings.ways } : {}),
					fields: settings.fields
						.filter((field) => given.choice.fields[field.id])
						.map((field) => ({ label: field.label, value: clean(given.choice.fields[field.id]!, 300) })),
					cancelTo: `${ownAddress()}/link/${now.slug}`,
					...(settings.landing === 'address' ? { returnTo: settings.landingAddress } : {})
				}
			}
		);
		if (!('order' in opened)) return { problem: 'nothing chosen' };
		await claim(
			opened.order.id,
			{ kind: 'link', linkId: row.id, code, payerId: payer?.id ?? null, payerMail: mail },
			tx
		);
		await countAtLink(row.id, day, 'starts', tx);
		await recordEvent(
			{
				kind: 'link.ordered',
				object: 'link',
				id: row.id,
				payload: { order: opened.order.id, reference, minor: total, currency: settings.currency }
			},
			tx
		);
		return { address: privateAddressOf(till, opened.order), reference };
	});
	tell('bill');
	return answer;
}

/** A reference for an order of a link: that of an outside program where it told one, else one of our own. */
async function linkReference(row: PayLinkRow, told: string, tx: Tx): Promise<string> {
	const given = told.trim().slice(0, 34);
	for (;;) {
		const reference = given
			? `${given}${(await db.orders.one({ tillId: row.tillId, reference: given, replacedBy: null }, tx)) ? `-${randomBytes(2).toString('hex')}` : ''}`
			: `${row.slug.slice(0, 20).toUpperCase()}-${randomBytes(4).toString('hex').toUpperCase()}`;
		if (!(await db.orders.one({ tillId: row.tillId, reference, replacedBy: null }, tx))) return reference;
	}
}
export const minorDigits = exponentOf;

/** Counts a visit; whoever looks from the desk is none. */
export const noteVisit = async (row: PayLinkRow): Promise<void> => {
	const day = await today();
	await write((tx) => countAtLink(row.id, day, 'visits', tx), { isPatient: true });
};
