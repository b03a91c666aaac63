import { AmountError, formatAmount, isCurrency, plainAmount, readTypedAmount } from '../../core/money';
import { addressQuery, checkAsk, orderQuery, type AddressProblem, type Ask } from '../../core/references';
import { unseal } from '../access';
import { ownAddress } from '../connect/connections';
import { write, type OrderRow, type TillRow, type Tx } from '../db';
import { openOrder, type Opened, type ToldOrder } from '../payments/orders';
import { tillCurrencies, type AddressForm } from './tills';

const keyOf = (row: TillRow): Uint8Array => unseal(row.signingKeySealed, `till ${row.id}`);
const addressOf = (row: TillRow, query: string): string => `${ownAddress()}/pay/${row.slug}?${query}`;

/** What an order asked for, as its address tells it. */
export const askOfOrder = (row: Pick<TillRow, 'slug'>, order: OrderRow): Ask => ({
	till: row.slug,
	amount: { minor: order.minor, currency: order.currency },
	reference: order.reference,
	name: order.name,
	mail: order.mail,
	country: order.country,
	purpose: order.purpose,
	...(JSON.parse(order.more) as object)
});

/** The address at which an order is paid. */
export const addressOfOrder = (row: TillRow, order: OrderRow): string =>
	addressOf(row, addressQuery(askOfOrder(row, order), keyOf(row)));

/** The same without anything of the payer in it: the order is named by its number here, signed. */
export const privateAddressOf = (row: TillRow, order: Pick<OrderRow, 'id'>): string =>
	addressOf(row, orderQuery(row.slug, order.id, keyOf(row)));

/**
 * Makes the order of an ask, or finds it, as part of a transaction.
 * @param told what else is known of it: lines, language, the reference of a transfer
 */
export const orderWithin = (row: TillRow, ask: Ask, replace: boolean, tx: Tx, more: ToldOrder = {}): Promise<Opened> =>
	openOrder(row.id, ask, new URLSearchParams(addressQuery(ask, keyOf(row))).get('sign')!, replace, tx, more);

/** Why a reference cannot stand for another order, and what to do. */
export function sayConflict(order: OrderRow, isBusy: boolean, locale: string): string {
	const { minor, currency, reference } = order;
	const known = `${reference} is an order of ${formatAmount({ minor, currency }, locale)}${order.name ? ` for ${order.name}` : ''} at this till already`;
	return isBusy
		? `${known}, and it is paid or its money is on its way. Give the new order another reference.`
		: `${known}. Give the new order another reference, or say that it replaces the earlier one.`;
}

/** A signed address that makes no order: for looking at the page as a payer would. */
export function signAddressOf(
	row: TillRow,
	form: AddressForm
): { readonly address: string } | { readonly problems: readonly AddressProblem[] } {
	const { ask, problems } = checkAsk(row.slug, form);
	return ask ? { address: addressOf(row, addressQuery(ask, keyOf(row))) } : { problems };
}

export type Built =
	| { readonly address: string }
	| { readonly problems: readonly AddressProblem[] }
	/** the reference stands for another order, which this one may replace unless money moved */
	| { readonly conflict: string; readonly isBusy: boolean };

/**
 * Makes an order and the signed address at which it is paid. The same order again gives the same address.
 * @param replace whether an earlier order under the same reference, with another sum or payer, gives way
 */
export async function buildAddress(row: TillRow, form: AddressForm, replace: boolean, locale: string): Promise<Built> {
	// typed as the business writes sums; an address carries them with a point
	let amount = form.amount;
	if (isCurrency(form.currency))
		try {
			amount = plainAmount(readTypedAmount(form.amount, form.currency, { locale }).amount);
		} catch (error) {
			if (!(error instanceof AmountError)) throw error;
			return { problems: [{ field: 'amount', says: error.message }] };
		}
	const { ask, problems } = checkAsk(row.slug, { ...form, amount });
	if (!ask) return { problems };
	const currencies = tillCurrencies(row);
	if (!currencies.includes(ask.amount.currency))
		return {
			problems: [{ field: 'currency', says: `${row.name} takes ${currencies.join(', ')}, not ${ask.amount.currency}.` }]
		};
	const query = addressQuery(ask, keyOf(row));
	const sign = new URLSearchParams(query).get('sign')!;
	const opened = await write((tx) => openOrder(row.id, ask, sign, replace, tx));
	if ('ended' in opened)
		return {
			problems: [
				{ field: 'reference', says: 'This order was cancelled or its time is over. Give it another reference.' }
			]
		};
	if ('replaced' in opened)
		return { problems: [{ field: 'reference', says: 'This order was replaced by a later one.' }] };
	if ('conflict' in opened)
		return { conflict: sayConflict(opened.conflict, opened.isBusy, locale), isBusy: opened.isBusy };
	return { address: opened.order.sign === sign ? addressOf(row, query) : addressOfOrder(row, opened.order) };
}
