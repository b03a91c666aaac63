import { methodName } from '../../core/lineup';
import { formatNumber } from '../../core/money';
import { allTills } from '../accept/tills';
import { snapshot } from '../accept/snapshot';
import { connectorOf } from '../connectors';
import { pageOfPayments, paymentsByReference, requestsOf, type PaymentFilter, type PaymentRow } from '../db';

/** Payments whose reference begins like a text. */
export const findPayments = paymentsByReference;

/** One line of the list of payments, as it is shown. */
export async function paymentLines(filter: PaymentFilter, locale: string) {
	const [{ rows, more }, held, tills] = await Promise.all([pageOfPayments(filter), snapshot(), allTills()]);
	const requests = await requestsOf(rows.map((row) => row.id));
	const tillNames = new Map(tills.map((till) => [till.id, till.name]));
	const fee = (row: PaymentRow, value: number | null) =>
		value === null || !row.feeCurrency ? '' : formatNumber({ minor: value, currency: row.feeCurrency }, locale);
	const routeOf = (row: PaymentRow): string => {
		if (row.connectionId) return held.connections.get(row.connectionId)?.name ?? '';
		if (row.offlineId) return 'own account';
		return row.processor ? `${connectorOf(row.processor).name}, not connected` : '';
	};
	const last = rows.at(-1);
	return {
		more,
		last: last && `${last.createdAt}-${last.id}`,
		lines: rows.map((row) => ({
			id: row.id,
			reference: row.reference || (row.processorId ?? ''),
			payer: row.payerName || row.payerMail,
			at: row.createdAt,
			till: tillNames.get(row.tillId ?? '') ?? row.source,
			mode: row.mode,
			method: requests.get(row.id)?.offerName ?? methodName(row.method),
			route: routeOf(row),
			stage: row.stage,
			reachedStep: row.reachedStep,
			brokenStep: row.brokenStep,
			amount: formatNumber({ minor: row.taken || row.minor, currency: row.currency }, locale),
			currency: row.currency,
			expected: fee(row, row.expectedFee),
			charged: fee(row, row.chargedFee),
			differs: row.feeDifference !== null && row.feeDifference !== 0,
			contradicts: row.contradiction !== '',
			net: fee(row, row.net),
			feeCurrency: row.feeCurrency ?? ''
		}))
	};
}
