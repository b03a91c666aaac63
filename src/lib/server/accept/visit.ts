import type { ReportedCard } from '../../core/cards';
import { offeredOnly, type Offered } from '../../core/lineup';
import { readAddress, readOrderQuery, type AddressProblem, type Ask } from '../../core/references';
import { addUnmet, db, orderAt, write, type PaymentRow } from '../db';
import { hasEnded, isSameOrder, readTold, standingPayment, type ToldByShop } from '../payments/orders';
import { askOfOrder } from './addresses';
import { contextOf, payerFacts, type Asking } from './ask';
import { lineUpsOf } from './lineups';
import { snapshot, type OpenTill, type Snapshot } from './snapshot';
import { openTrial } from './trials';
import { timeNow } from '../signals/clock';

/** What a payer's page needs: what is asked, and what is offered. */
export interface Visit {
	readonly till: OpenTill;
	readonly ask: Ask;
	readonly asking: Asking;
	readonly sign: string;
	readonly offered: Offered[];
	readonly held: Snapshot;
	readonly mode: 'test' | 'live';
	/** the trial payment that this is, if it is one */
	readonly trial?: string;
	/** the order, once anything was begun for it */
	readonly orderId?: number;
	/** what the shop told of the order beside what it asks */
	readonly told: ToldByShop;
}

export type Arrival =
	| { readonly visit: Visit }
	| { readonly unknownTill: true }
	| { readonly till: OpenTill; readonly problems: AddressProblem[] };

/** What an administrator sees at a payer's page beside what is published. */
export type Preview =
	| { readonly trial: string }
	| { readonly draft: boolean; readonly groups?: readonly string[]; readonly hasOnlineMethod?: boolean };

/** What an address asks: told by itself, or by the order whose number it carries. */
async function readQuery(
	till: OpenTill,
	query: string
): Promise<{ ask: Ask; sign: string } | { problems: AddressProblem[] }> {
	const number = readOrderQuery(till.row.slug, query, [till.key]);
	if (number === undefined) return readAddress(till.row.slug, query, [till.key]);
	const order = await db.orders.one({ id: number, tillId: till.row.id });
	return order
		? { ask: askOfOrder(till.row, order), sign: order.sign }
		: { problems: [{ field: 'address', says: 'There is no such order any more.' }] };
}

/** Reads the address a payer came by, and works out what they are offered. Keeps nothing. */
export async function visit(slug: string, query: string, preview?: Preview): Promise<Arrival> {
	const held = await snapshot();
	const till = held.tills.get(slug);
	if (!till) return { unknownTill: true };
	const read = await readQuery(till, query);
	if ('problems' in read) return { till, problems: read.problems };
	const { ask, sign } = read;
	if (!till.currencies.includes(ask.amount.currency))
		return { till, problems: [{ field: 'currency', says: `${till.row.name} does not take ${ask.amount.currency}.` }] };
	let asking = await askingOf(ask);
	if (preview && 'draft' in preview) {
		const { groups, hasOnlineMethod } = preview;
		asking = {
			...asking,
			...(groups ? { groups } : {}),
			...(hasOnlineMethod === undefined ? {} : { hasOnlineMethod })
		};
	}
	let lineUp = till.published?.lineUp;
	let { mode } = till.row;
	let trial: string | undefined;
	if (preview && 'trial' in preview) {
		const open = await openTrial(preview.trial, till.row.id);
		if (!open || !query.startsWith(open.row.query))
			return {
				till,
				problems: [{ field: 'address', says: 'This trial payment is over. Begin a new one at the till.' }]
			};
		lineUp = open.lineUp;
		mode = 'test';
		trial = open.row.id;
	} else if (preview?.draft) lineUp = (await lineUpsOf(till.row.id)).draft?.offers ?? lineUp;
	const order = await orderAt(till.row.id, ask.reference, sign);
	if (order?.replaced)
		return {
			till,
			problems: [
				{ field: 'address', says: 'This order was replaced by a later one. Ask the shop for its new address.' }
			]
		};
	if (order && hasEnded(order))
		return {
			till,
			problems: [
				{
					field: 'address',
					says:
						order.cancelledAt === null
							? 'The time to pay this order is over. Ask the shop for a new address.'
							: 'This order was cancelled: there is nothing to pay.'
				}
			]
		};
	if (order && !isSameOrder(order, ask))
		return {
			till,
			problems: [
				{
					field: 'reference',
					says: `The order ${ask.reference} stands already, with another sum, currency or payer. Ask the shop for a new address.`
				}
			]
		};
	const context = { ...contextOf(till, asking, held, new Date(timeNow())), mode };
	const told = readTold(order?.more);
	const offered = (lineUp ? offeredOnly(lineUp, context, held.states) : []).filter(
		// a pay link may take a part of what its till offers
		({ offer }) => !told.ways?.length || told.ways.includes(offer.id)
	);
	return { visit: { till, ask, asking, sign, offered, held, mode, trial, orderId: order?.id, told } };
}

/** What an order tells of its payer, with what is known of them by their mail address. What the order says counts first. */
export async function askingOf(ask: Ask): Promise<Asking> {
	const facts = await payerFacts(ask.mail);
	return {
		...facts,
		currency: ask.amount.currency,
		minor: ask.amount.minor,
		country: ask.country || facts.country,
		goods: ask.goods,
		delivery: ask.delivery,
		domain: ask.domain,
		...(ask.recurring ? { recurring: true } : {}),
		orderedBy: ask.ordered ?? 'page'
	};
}

/** Counts what was lost: a payer who met nothing, or whose card was not taken. The same visit counts once. */
export async function noteUnmet(
	{ till, ask, asking }: Visit,
	kind: 'nothing offered' | 'card type',
	card?: ReportedCard
): Promise<void> {
	const { currency: _, minor: __, ...known } = asking;
	const context = JSON.stringify({
		...known,
		...(card ? { scheme: card.scheme, funding: card.funding, issuerCountry: card.issuerCountry } : {})
	});
	await write((tx) =>
		addUnmet(
			{
				tillId: till.row.id,
				at: timeNow(),
				kind,
				currency: ask.amount.currency,
				minor: ask.amount.minor,
				reference: ask.reference,
				context
			},
			tx
		)
	);
}

/** The payment that a payer who comes back is led to, if there is one. */
export const paidAlready = async (seen: Visit): Promise<PaymentRow | undefined> =>
	seen.orderId === undefined ? undefined : standingPayment(seen.orderId);
