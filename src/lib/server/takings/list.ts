import { inZone } from '../../core/calendar';
import { methodName } from '../../core/lineup';
import { formatNumber, plainAmount } from '../../core/money';
import { allTills } from '../accept/tills';
import { snapshot } from '../accept/snapshot';
import { connectorOf } from '../connectors';
import { theBusiness } from '../connect/business';
import {
	kindsByIds,
	ordersByIds,
	pageOfPayments,
	paymentsByReference,
	requestsOf,
	type PaymentFilter,
	type PaymentRow
} from '../db';
import { readCard } from '../payments/record';
import { writeKey } from './filter';

/** Payments whose reference begins like a text. */
export const findPayments = paymentsByReference;

/** Names of what payments point to. */
async function namesFor() {
	const [held, tills] = await Promise.all([snapshot(), allTills()]);
	const tillNames = new Map(tills.map((till) => [till.id, till.name]));
	return {
		tillOf: (row: PaymentRow) => tillNames.get(row.tillId ?? '') ?? row.source,
		schemeOf: (id: string) => held.schemeNames[id] ?? id,
		routeOf: (row: PaymentRow): string => {
			if (row.connectionId) return held.connections.get(row.connectionId)?.name ?? '';
			if (row.offlineId) return held.offline.get(row.offlineId)?.name ?? 'own account';
			return row.processor ? `${connectorOf(row.processor).name}, not connected` : '';
		}
	};
}

/** How many of the newest payments a search is cut to, where it finds more than can be looked through. */
export const newestOnlyOf = async (filter: PaymentFilter): Promise<number | undefined> =>
	(await pageOfPayments(filter, 1)).newestOnly;

/** One page of the list of payments, as it is shown. */
export async function paymentLines(filter: PaymentFilter, locale: string) {
	const [{ rows, more, next, looked, newestOnly }, names] = await Promise.all([pageOfPayments(filter), namesFor()]);
	const [requests, kinds] = await Promise.all([
		requestsOf(rows.map((row) => row.id)),
		kindsByIds([...new Set(rows.map((row) => row.kindId))])
	]);
	const fee = (row: PaymentRow, value: number | null) =>
		value === null || !row.feeCurrency ? '' : formatNumber({ minor: value, currency: row.feeCurrency }, locale);
	return {
		more,
		next: next && writeKey(next),
		looked,
		newestOnly,
		lookedTo: looked ? next?.at : undefined,
		lines: rows.map((row) => {
			const card = readCard(row);
			const kind = kinds.get(row.kindId);
			const scheme = kind?.scheme && kind.scheme !== 'unknown' ? names.schemeOf(kind.scheme) : '';
			return {
				id: row.id,
				reference: row.reference || (row.processorId ?? ''),
				payer: row.payerName || row.payerMail,
				at: row.createdAt,
				capturedAt: row.capturedAt ?? undefined,
				till: names.tillOf(row),
				mode: row.mode,
				method: requests.get(row.id)?.offerName ?? methodName(row.method),
				route: names.routeOf(row),
				card: [scheme, kind?.funding !== 'unknown' ? kind?.funding : '', card?.last4 ? `ending in ${card.last4}` : '']
					.filter(Boolean)
					.join(' '),
				processorId: row.processorId ?? '',
				stage: row.stage,
				reachedStep: row.reachedStep,
				brokenStep: row.brokenStep,
				amount: formatNumber({ minor: row.taken || row.minor, currency: row.currency }, locale),
				refunded: row.refunded ? formatNumber({ minor: row.refunded, currency: row.currency }, locale) : '',
				currency: row.currency,
				expected: fee(row, row.expectedFee),
				charged: fee(row, row.chargedFee),
				differs: row.feeDifference !== null && row.feeDifference !== 0,
				contradicts: row.contradiction !== '',
				net: fee(row, row.net),
				feeCurrency: row.feeCurrency ?? ''
			};
		})
	};
}
export type PaymentLine = Awaited<ReturnType<typeof paymentLines>>['lines'][number];

/** Columns of the file, in their order. */
const COLUMNS = [
	'reference',
	'outside_reference',
	'creditor_reference',
	'payer',
	'mail',
	'day',
	'requested_at',
	'captured_at',
	'mode',
	'till',
	'method',
	'route',
	'processor_id',
	'scheme',
	'funding',
	'issuer_country',
	'last_four',
	'stage',
	'currency',
	'asked',
	'captured',
	'refunded',
	'disputed',
	'fee_currency',
	'expected_fee',
	'charged_fee',
	'net'
] as const;
export type PaymentColumn = (typeof COLUMNS)[number];

/** few enough that what a batch leaves behind is gone before the next one: memory stays flat */
const BATCH = 250;
/**
 * Payments of a filter as rows of a file, a batch at a time: sums as plain decimals with a point, moments as ISO 8601.
 */
export async function* paymentRows(filter: PaymentFilter): AsyncGenerator<Record<PaymentColumn, string>[]> {
	const [names, { timeZone }] = await Promise.all([namesFor(), theBusiness()]);
	let before = filter.before;
	for (;;) {
		const { rows, more, next } = await pageOfPayments({ ...filter, before }, BATCH);
		const [kinds, orders] = await Promise.all([
			kindsByIds([...new Set(rows.map((row) => row.kindId))]),
			ordersByIds(rows.flatMap((row) => (row.orderId === null ? [] : [row.orderId])))
		]);
		yield rows.map((row) => {
			const kind = kinds.get(row.kindId);
			const sum = (minor: number | null, currency: string | null = row.currency) =>
				minor === null || !currency ? '' : plainAmount({ minor, currency });
			const moment = (at: number | null) => (at === null ? '' : new Date(at).toISOString());
			return {
				reference: row.reference,
				outside_reference: orders.get(row.orderId ?? -1)?.outsideReference ?? '',
				creditor_reference: row.creditorReference,
				payer: row.payerName,
				mail: row.payerMail,
				day: row.day || inZone(new Date(row.createdAt), timeZone).day,
				requested_at: moment(row.createdAt),
				captured_at: moment(row.capturedAt),
				mode: row.mode,
				till: names.tillOf(row),
				method: row.method,
				route: names.routeOf(row),
				processor_id: row.processorId ?? '',
				scheme: kind?.scheme ?? '',
				funding: kind?.funding ?? '',
				issuer_country: kind?.issuer ?? '',
				last_four: readCard(row)?.last4 ?? '',
				stage: row.stage,
				currency: row.currency,
				asked: sum(row.minor),
				captured: sum(row.taken),
				refunded: sum(row.refunded),
				disputed: sum(row.disputed),
				fee_currency: row.feeCurrency ?? '',
				expected_fee: sum(row.expectedFee, row.feeCurrency),
				charged_fee: sum(row.chargedFee, row.feeCurrency),
				net: sum(row.net, row.feeCurrency)
			};
		});
		if (!more || !next) return;
		before = next;
	}
}
export const PAYMENT_COLUMNS = COLUMNS;
