import { createHash } from 'node:crypto';
import type { z } from 'zod';
import { formatDay } from '../../core/calendar';
import { localDecimal, plainAmount } from '../../core/money';
import { inFours } from '../../core/references';
import type { Method } from '../../core/lineup';
import type { Stage } from '../../core/stages';
import { mayUseTill } from '../access';
import { snapshot } from '../accept/snapshot';
import { allTills } from '../accept/tills';
import { today } from '../connect/business';
import { db, paymentsPage, type PaymentRow, type TokenRow } from '../db';
import { endAuthorisation } from '../payments/capture';
import { recordReceipt } from '../payments/receipts';
import { leftToRefund, refundPayment } from '../payments/refund';
import { readCard } from '../payments/record';
import { actsOfPayment } from '../takings/acts';
import { notFound, Problem } from './problem';
import type * as schemas from './schemas';

const LOCALE = 'en-GB';
const momentOf = (at: number | null): string | null => (at === null ? null : new Date(at).toISOString());

async function show(row: PaymentRow): Promise<z.output<typeof schemas.PaymentDetail>> {
	const held = await snapshot();
	const till = row.tillId === null ? undefined : [...held.tills.values()].find((one) => one.row.id === row.tillId)?.row;
	const connection = row.connectionId ? held.connections.get(row.connectionId) : undefined;
	const method = row.offlineId ? held.offline.get(row.offlineId) : undefined;
	const card = readCard(row);
	return {
		payment: row.id,
		checkout: row.orderId,
		till: till?.slug ?? null,
		reference: row.reference,
		mode: row.mode,
		stage: row.stage as Stage,
		method: row.method as Method,
		through: connection?.name ?? method?.name ?? row.processor,
		processorId: row.processorId,
		currency: row.currency,
		amountMinor: row.minor,
		capturedMinor: row.taken,
		refundedMinor: row.refunded,
		disputedMinor: row.disputed,
		refundableMinor: connection ? await leftToRefund(row) : 0,
		feeCurrency: row.feeCurrency,
		expectedFeeMinor: row.expectedFee,
		chargedFeeMinor: row.chargedFee,
		failure: row.failure,
		card: card
			? {
					scheme: card.scheme,
					funding: card.funding,
					issuerCountry: card.issuerCountry,
					...(card.last4 ? { last4: card.last4 } : {})
				}
			: null,
		creditorReference: row.creditorReference,
		transfer:
			method?.kind === 'credit-transfer' && method.iban
				? {
						holder: method.holder,
						iban: inFours(method.iban),
						bic: method.bic,
						reference: row.creditorReference || row.reference,
						leftMinor: Math.max(0, row.minor - row.taken)
					}
				: null,
		acts: await actsOfPayment(row, LOCALE),
		createdAt: momentOf(row.createdAt)!,
		capturedAt: momentOf(row.capturedAt)
	};
}

/** The payment of a path that a token may see. Payments of no till are for tokens of all tills. */
async function paymentFor(token: TokenRow, text: string | undefined): Promise<PaymentRow> {
	const row = /^\d{1,15}$/.test(text ?? '') ? await db.payments.one({ id: Number(text) }) : undefined;
	if (!row || !maySee(token, row)) throw notFound('There is no such payment.');
	return row;
}
const maySee = (token: TokenRow, row: PaymentRow): boolean =>
	mayUseTill(token, { id: row.tillId ?? '', mode: row.mode });

export const readPayment = async (
	token: TokenRow,
	id: string | undefined
): Promise<z.output<typeof schemas.PaymentDetail>> => show(await paymentFor(token, id));

/** Payments that a token may see, the newest first. */
export async function listPayments(
	token: TokenRow,
	asked: { reference?: string; till?: string; stage?: string; checkout?: number; cursor?: number; limit: number }
): Promise<z.output<typeof schemas.Payments>> {
	const all = await allTills();
	const tills = all.filter((till) => mayUseTill(token, till) && (!asked.till || till.slug === asked.till));
	const isLimited = tills.length < all.length;
	if (isLimited && !tills.length) return { payments: [], next: null };
	const rows = await paymentsPage({
		...asked,
		...(isLimited ? { tillIds: tills.map((till) => till.id) } : {}),
		...(token.mode ? { mode: token.mode } : {}),
		limit: asked.limit + 1
	});
	const shown = rows.slice(0, asked.limit);
	return {
		payments: await Promise.all(shown.map(show)),
		next: rows.length > asked.limit ? String(shown.at(-1)!.id) : null
	};
}

/** The key under which a processor is asked: the same request under the same key does it once. */
function actKey(token: TokenRow, header: string | null): string {
	if (!header)
		throw new Problem(
			400,
			'Idempotency key',
			'What moves money needs an Idempotency-Key, so that it is never done twice.'
		);
	return `api-${createHash('sha256').update(`${token.id} ${header}`).digest('hex').slice(0, 40)}`;
}

const sumText = (minor: number, currency: string) => localDecimal(plainAmount({ minor, currency }), LOCALE);

type Result = { readonly done: string } | { readonly asking: string } | { readonly problem: string };
async function told(token: TokenRow, id: number, result: Result): Promise<z.output<typeof schemas.Acted>> {
	if ('problem' in result) throw new Problem(409, 'Not done', result.problem);
	const payment = await readPayment(token, String(id));
	return 'done' in result
		? { outcome: 'done', says: result.done, payment }
		: { outcome: 'asking', says: result.asking, payment };
}

/** Captures what is held, whole or in part, or voids it. */
export async function endHeld(
	token: TokenRow,
	id: string | undefined,
	act: 'capture' | 'cancel',
	amountMinor: number | undefined,
	key: string | null
): Promise<z.output<typeof schemas.Acted>> {
	const row = await paymentFor(token, id);
	const typed = amountMinor === undefined ? '' : sumText(amountMinor, row.currency);
	return told(
		token,
		row.id,
		await endAuthorisation(row.id, act, typed, actKey(token, key), `token ${token.name}`, LOCALE)
	);
}

export async function refund(
	token: TokenRow,
	id: string | undefined,
	{ amountMinor, reason }: z.output<typeof schemas.RefundPost>,
	key: string | null
): Promise<z.output<typeof schemas.Acted>> {
	const row = await paymentFor(token, id);
	const once = actKey(token, key);
	// asked again under its key, what is left is not what was left then
	const known = await db.actions.one({ key: once });
	const minor = amountMinor ?? known?.minor ?? (await leftToRefund(row));
	if (minor <= 0) throw new Problem(409, 'Not done', 'Nothing is left to refund.');
	return told(
		token,
		row.id,
		await refundPayment(row.id, sumText(minor, row.currency), once, `token ${token.name}`, LOCALE, reason)
	);
}

export async function receive(
	token: TokenRow,
	id: string | undefined,
	{ amountMinor, how, day, note }: z.output<typeof schemas.ReceiptPost>,
	key: string | null
): Promise<z.output<typeof schemas.Acted>> {
	const row = await paymentFor(token, id);
	const now = await today();
	const result = await recordReceipt(
		row.id,
		{
			amount: sumText(amountMinor, row.currency),
			how,
			day: formatDay(day ?? now, LOCALE),
			note,
			key: actKey(token, key)
		},
		now,
		`token ${token.name}`,
		LOCALE
	);
	return told(token, row.id, 'problem' in result ? result : { done: result.says });
}
