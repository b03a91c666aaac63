import type { z } from 'zod';
import { addressQuery, checkAsk, valuesOf } from '../../core/references';
import { mayUseTill, unseal } from '../access';
import { privateAddressOf, sayConflict } from '../accept/addresses';
import { askTill } from '../accept/ask';
import { lineUpsOf } from '../accept/lineups';
import { allTills, tillCurrencies } from '../accept/tills';
import { askingOf } from '../accept/visit';
import { db, ordersPage, write, type OrderRow, type TillRow, type TokenRow } from '../db';
import { cancelOrder, openOrder, orderState, type OrderState } from '../payments/orders';
import { setOutsideReference } from '../payments/orderStates';
import { timeNow } from '../signals/clock';
import { notFound, Problem } from './problem';
import { tillAt } from './tills';
import type * as schemas from './schemas';

const LOCALE = 'en-GB';

/** Where the body of a request tells a field of an order's address. */
const POINTERS: Readonly<Record<string, string>> = { amount: 'amountMinor' };

/** Makes a checkout for an order; the same order again gives the same one. */
export async function makeCheckout(
	order: z.output<typeof schemas.CheckoutPost>,
	token: TokenRow
): Promise<{ answer: z.output<typeof schemas.Checkout>; isNew: boolean }> {
	const row = await tillAt(order.till);
	if (!mayUseTill(token, row)) throw notFound(`There is no till “${order.till}”.`);
	const currencies = tillCurrencies(row);
	if (!currencies.includes(order.currency))
		throw new Problem(422, 'Not as described', `${row.name} takes ${currencies.join(', ')}, not ${order.currency}.`, [
			{ pointer: '/currency', detail: `one of ${currencies.join(', ')}` }
		]);
	const lines = order.lines.reduce((sum, line) => sum + line.amountMinor, 0);
	if (order.lines.length && lines !== order.amountMinor)
		throw new Problem(422, 'Not as described', 'The lines do not add up to the sum.', [
			{ pointer: '/lines', detail: `they add up to ${lines}, and amountMinor is ${order.amountMinor}` }
		]);
	const expiresAt = order.expiresAt ? Date.parse(order.expiresAt) : null;
	if (expiresAt !== null && expiresAt <= timeNow())
		throw new Problem(422, 'Not as described', 'It would have expired already.', [
			{ pointer: '/expiresAt', detail: 'is not in the future' }
		]);
	const ask = {
		till: row.slug,
		amount: { minor: order.amountMinor, currency: order.currency },
		reference: order.reference,
		name: order.name,
		mail: order.mail,
		country: order.country,
		purpose: order.purpose,
		...(order.goods ? { goods: order.goods } : {}),
		...(order.delivery ? { delivery: order.delivery } : {}),
		...(order.domain ? { domain: order.domain } : {}),
		...(order.recurring ? { recurring: true } : {}),
		ordered: 'interface' as const
	};
	// what is accepted here is accepted by the address, too
	const { problems } = checkAsk(row.slug, valuesOf(ask));
	if (problems.length)
		throw new Problem(
			422,
			'Not as described',
			problems.map((one) => one.says).join(' '),
			problems.map(({ field, says }) => ({ pointer: `/${POINTERS[field] ?? field}`, detail: says }))
		);
	const { address, phone, language, returnTo, cancelTo, metadata } = order;
	const told = { tokenId: token.id, lines: order.lines, address, phone, language, returnTo, cancelTo, metadata };
	const query = addressQuery(ask, unseal(row.signingKeySealed, `till ${row.id}`));
	const sign = new URLSearchParams(query).get('sign')!;
	// all that may fail comes before the write: an answer that says that nothing was changed is true
	const { published } = await lineUpsOf(row.id);
	const { answer } = await askTill({ row, currencies }, published?.offers ?? [], await askingOf(ask));
	const opened = await write((tx) => openOrder(row.id, ask, sign, order.replace, tx, { told, expiresAt }));
	if ('ended' in opened)
		throw new Problem(
			409,
			'Order ended',
			`The order ${ask.reference} was cancelled or its time is over. Send \`replace\` for a new one.`
		);
	if ('replaced' in opened)
		throw new Problem(409, 'Order replaced', `The order ${ask.reference} was replaced by a later one.`);
	if ('conflict' in opened)
		throw new Problem(409, 'Another order', sayConflict(opened.conflict, opened.isBusy, LOCALE), [
			{ pointer: '/reference', detail: 'is another order at this till already' }
		]);
	const { order: made, isNew } = opened;
	return {
		answer: {
			checkout: made.id,
			address: privateAddressOf(row, made),
			offered: answer.offered.length
		},
		isNew
	};
}

const momentOf = (at: number | null): string | null => (at === null ? null : new Date(at).toISOString());

async function show(order: OrderRow, till: TillRow): Promise<z.output<typeof schemas.CheckoutDetail>> {
	const payments = await db.payments.find({ orderId: order.id }, { order: [['id', 'DESC']] });
	const came = payments.reduce((sum, one) => sum + (one.stage === 'returned' ? 0 : one.taken), 0);
	const state = orderState(order, came);
	const { metadata = {} } = JSON.parse(order.more) as { metadata?: Record<string, string> };
	return {
		checkout: order.id,
		till: till.slug,
		reference: order.reference,
		state,
		currency: order.currency,
		amountMinor: order.minor,
		paidMinor: order.paid,
		name: order.name,
		mail: order.mail,
		country: order.country,
		purpose: order.purpose,
		outsideReference: order.outsideReference,
		released: order.releasedAt !== null,
		completed: order.completedAt !== null,
		metadata,
		expiresAt: momentOf(order.expiresAt),
		createdAt: momentOf(order.createdAt)!,
		address: state === 'open' || state === 'part paid' ? privateAddressOf(till, order) : null,
		payments: payments.map((one) => one.id)
	};
}

/** The order of a path that a token may see, with its till. */
async function orderFor(token: TokenRow, text: string | undefined): Promise<{ order: OrderRow; till: TillRow }> {
	const order = /^\d{1,15}$/.test(text ?? '') ? await db.orders.one({ id: Number(text) }) : undefined;
	const till = order && (await db.tills.one({ id: order.tillId }));
	if (!order || !till || !mayUseTill(token, till)) throw notFound('There is no such checkout.');
	return { order, till };
}

export async function readCheckout(
	token: TokenRow,
	id: string | undefined
): Promise<z.output<typeof schemas.CheckoutDetail>> {
	const { order, till } = await orderFor(token, id);
	return show(order, till);
}

/** How many things one page of a list tells. */
export const PAGE_MAX = 100;
/** Reads what a list is asked for. @throws Problem 400 where it cannot be read */
export function readPaging(url: URL): { cursor?: number; limit: number } {
	const cursor = url.searchParams.get('cursor');
	const limit = Number(url.searchParams.get('limit') ?? 20);
	if (cursor !== null && !/^\d{1,15}$/.test(cursor))
		throw new Problem(400, 'Broken request', 'The cursor is not one that was given here.');
	if (!Number.isInteger(limit) || limit < 1 || limit > PAGE_MAX)
		throw new Problem(400, 'Broken request', `The limit is 1 to ${PAGE_MAX}.`);
	return { ...(cursor === null ? {} : { cursor: Number(cursor) }), limit };
}

/** Checkouts that a token may see, the newest first. */
export async function listCheckouts(
	token: TokenRow,
	asked: { reference?: string; till?: string; state?: OrderState; cursor?: number; limit: number }
): Promise<z.output<typeof schemas.Checkouts>> {
	const tills = (await allTills()).filter(
		(till) => mayUseTill(token, till) && (!asked.till || till.slug === asked.till)
	);
	if (!tills.length) return { checkouts: [], next: null };
	const rows = await ordersPage({
		...asked,
		tillIds: tills.map((till) => till.id),
		now: timeNow(),
		limit: asked.limit + 1
	});
	const shown = rows.slice(0, asked.limit);
	return {
		checkouts: await Promise.all(
			shown.map((order) =>
				show(
					order,
					tills.find((till) => till.id === order.tillId)!
				)
			)
		),
		next: rows.length > asked.limit ? String(shown.at(-1)!.id) : null
	};
}

export async function cancelCheckout(
	token: TokenRow,
	id: string | undefined
): Promise<z.output<typeof schemas.CheckoutDetail>> {
	const { order } = await orderFor(token, id);
	const problem = await cancelOrder(order.id, `token ${token.name}`);
	if (problem) throw new Problem(409, 'Not to be cancelled', problem);
	return readCheckout(token, id);
}

export async function setCheckoutReference(
	token: TokenRow,
	id: string | undefined,
	outside: string
): Promise<z.output<typeof schemas.CheckoutDetail>> {
	const { order } = await orderFor(token, id);
	const changed = await setOutsideReference(order.id, outside, `token ${token.name}`);
	if ('problem' in changed) throw new Problem(422, 'Not as described', changed.problem);
	return readCheckout(token, id);
}
