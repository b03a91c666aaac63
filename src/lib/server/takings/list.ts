import { formatNumber } from '../../core/money';
import { allTills } from '../accept/tills';
import { snapshot } from '../accept/snapshot';
import { pageOfPayments, type PaymentFilter, type PaymentRow } from '../db';

/** One line of the list of payments, as it is shown. */
export async function paymentLines(filter: PaymentFilter, locale: string) {
	const [{ rows, more }, held, tills] = await Promise.all([pageOfPayments(filter), snapshot(), allTills()]);
	const tillNames = new Map(tills.map((till) => [till.id, till.name]));
	const fee = (row: PaymentRow, value: number | null) =>
		value === null || !row.feeCurrency ? '' : formatNumber({ minor: value, currency: row.feeCurrency }, locale);
	return {
		more,
		last: rows.at(-1)?.id,
		lines: rows.map((row) => ({
			id: row.id,
			reference: row.reference,
			payer: row.payerName || row.payerMail,
			at: row.createdAt,
			till: tillNames.get(row.tillId) ?? '',
			mode: row.mode,
			method: row.offerName,
			route:
				(row.connectionId
					? held.connections.get(row.connectionId)?.name
					: held.offline.get(row.offlineId ?? '') && 'own account') ?? '',
			stage: row.stage,
			notches: row.notches,
			broken: row.broken,
			amount: formatNumber({ minor: row.minor, currency: row.currency }, locale),
			currency: row.currency,
			expected: fee(row, row.expectedFee),
			charged: fee(row, row.chargedFee),
			differs: row.expectedFee !== null && row.chargedFee !== null && row.expectedFee !== row.chargedFee,
			net: fee(row, row.net),
			feeCurrency: row.feeCurrency ?? ''
		}))
	};
}
