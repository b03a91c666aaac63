import type { Mandate } from '../../core/billing';
import { cardTypeOf } from '../../core/cards';
import { nameOfStored } from '../accept/storedWays';
import { methodName } from '../../core/lineup';
import { formatDay, inZone } from '../../core/calendar';
import { isPriced, priceSteps, sayLine, sayUnpriced } from '../../core/fees';
import { formatAmount, formatNumber, localDecimal, plainAmount } from '../../core/money';
import { stateOf, type FulfilPolicy } from '../../core/stages';
import { inFours, isCreditorReference } from '../../core/references';
import type { Working } from '../../core/workings';
import { readAccount } from '../connectors/account';
import { snapshot } from '../accept/snapshot';
import { settingsOf } from '../accept/tills';
import { db, type ConnectionRow, type OrderRow, type PaymentRow } from '../db';
import type { ChargedFee, NextStep } from '../connectors';
import { randomId } from '../access';
import { deriveFee } from '../payments/fees';
import { asEvent, feesOf, readCard, standingFee } from '../payments/record';
import { leftToRefund } from '../payments/refund';
import { actsOfPayment } from './acts';
import { certaintyOfPayment } from '../payments/certain';

/** How the expected fee came about, for the margin. */
async function feeWorking(
	payment: PaymentRow,
	connection: ConnectionRow,
	locale: string
): Promise<Working | undefined> {
	const card = readCard(payment);
	const fee = await deriveFee(payment, card, connection);
	if (!fee) return undefined;
	const title = 'Expected fee';
	if (!fee.card || !fee.priced)
		return {
			title,
			about: `Captured on ${formatDay(fee.day, locale)}.`,
			steps: [],
			end: {
				tone: 'clay',
				text: `No contract with ${connection.name} was confirmed for that day, so nothing is expected. Confirm its rate card, and this payment is priced by it.`
			}
		};
	const about = `${connection.name}’s rate card of ${formatDay(fee.card.validFrom, locale)}${fee.cardType ? `, for ${fee.cardType.scheme}, ${fee.cardType.funding}, ${fee.cardType.region}` : ''}, captured on ${formatDay(fee.day, locale)} (${connection.timeZone})`;
	if (!isPriced(fee.priced)) return { title, about, steps: [], end: { tone: 'clay', text: sayUnpriced(fee.priced) } };
	const paid = { minor: payment.taken, currency: payment.currency };
	const steps = priceSteps(fee.priced, paid, locale);
	const currency = fee.card.body.settlement;
	if (payment.refunded)
		steps.push(
			{
				title: 'Given back for refunds',
				sub: `${formatAmount({ minor: payment.refunded, currency: payment.currency }, locale)} of ${formatAmount(paid, locale)} refunded; the ${fee.card.body.refund.keeps === 'all' ? 'whole fee is kept' : fee.card.body.refund.keeps === 'fixed' ? 'percentage part goes back in proportion, the fixed part is kept' : 'fee goes back in proportion'}`,
				sum: `−${formatNumber({ minor: fee.givenBack, currency }, locale)}`
			},
			{
				title: 'Expected after refunds',
				sum: formatAmount({ minor: fee.priced.fee.minor - fee.givenBack, currency }, locale),
				total: true
			}
		);
	const last = steps.at(-1)!;
	steps[steps.length - 1] = {
		...last,
		link: { href: `/connect/connections/${connection.id}`, label: `The rate card, line “${sayLine(fee.priced.line)}”` }
	};
	return { title, about, steps };
}

function chargedWorking(
	payment: PaymentRow,
	charged: ChargedFee | undefined,
	connection: ConnectionRow,
	locale: string
): Working | undefined {
	if (!charged) return undefined;
	const sum = (minor: number) => formatAmount({ minor, currency: charged.currency }, locale);
	const difference = payment.expectedFee === null ? 0 : charged.fee - charged.returned - payment.expectedFee;
	return {
		title: 'Charged fee',
		about: `As ${connection.name} reports it.`,
		steps: [
			{
				title: 'Taken from',
				sub: charged.rate
					? `at ${localDecimal(charged.rate.value, locale)} of ${formatDay(charged.rate.day, locale)}`
					: undefined,
				sum: sum(charged.base)
			},
			{ title: 'Fee', sub: `its band “${charged.label}”`, sum: sum(charged.fee) },
			...(charged.returned
				? [
						{
							title: 'Given back for refunds',
							sum: `−${formatNumber({ minor: charged.returned, currency: charged.currency }, locale)}`
						}
					]
				: []),
			{ title: 'Charged', sum: sum(charged.fee - charged.returned), total: true },
			...(payment.expectedFee === null ? [] : [{ title: 'Expected', sum: sum(payment.expectedFee) }])
		],
		end:
			payment.expectedFee === null
				? undefined
				: difference === 0
					? { tone: 'moss', text: 'As expected, to the cent.' }
					: {
							tone: 'clay',
							text: `${sum(Math.abs(difference))} ${difference > 0 ? 'more' : 'less'} than the rate card says.`
						}
	};
}

function netWorking(payment: PaymentRow, locale: string): Working | undefined {
	if (payment.net === null || payment.baseMinor === null || !payment.feeCurrency) return undefined;
	const currency = payment.feeCurrency;
	const sum = (minor: number) => formatAmount({ minor, currency }, locale);
	if (payment.offlineId)
		return {
			title: 'Net',
			about: 'An offline way has no fee of a processor.',
			steps: [
				{ title: 'Received', sum: sum(payment.taken) },
				...(payment.refunded ? [{ title: 'Refunded', sum: `−${sum(payment.refunded)}` }] : []),
				{ title: 'Net', sum: sum(payment.net), total: true }
			]
		};
	const fee = payment.chargedFee ?? payment.expectedFee ?? 0;
	const refunded = payment.baseMinor - payment.net - fee;
	return {
		title: 'Net',
		about: 'What is left in the currency that is paid out.',
		steps: [
			{
				title: 'Captured',
				sub:
					currency === payment.currency
						? undefined
						: `${formatAmount({ minor: payment.taken, currency: payment.currency }, locale)}, converted`,
				sum: sum(payment.baseMinor)
			},
			...(payment.refunded
				? [
						{
							title: 'Refunded',
							sub:
								currency === payment.currency
									? undefined
									: 'at the rate of the capture; the processor’s own may differ',
							sum: `−${formatNumber({ minor: refunded, currency }, locale)}`
						}
					]
				: []),
			{
				title: payment.chargedFee === null ? 'Expected fee' : 'Charged fee',
				sum: `−${formatNumber({ minor: fee, currency }, locale)}`
			},
			{ title: 'Net', sum: sum(payment.net), total: true }
		]
	};
}

const EVENT_WORDS: Record<string, string> = {
	requested: 'Requested by the payer',
	captured: 'Captured',
	authorised: 'Authorised',
	failed: 'Failed',
	voided: 'Given up',
	expired: 'Expired',
	refunded: 'Refunded',
	disputed: 'Disputed',
	settled: 'Settled',
	'paid out': 'Paid out',
	received: 'Received',
	'receipt reversed': 'Receipt reversed',
	'refunded so far': 'Refunded so far, in all',
	'disputed so far': 'Disputed so far, in all'
};
const SOURCE_WORDS: Record<string, string> = {
	payer: 'at the payer’s page',
	answer: 'the processor’s answer',
	notification: 'a notification',
	asked: 'the processor, when asked'
};

/** The other payments of the same order, the newest first. */
const orderPayments = async ({ id, orderId }: PaymentRow): Promise<PaymentRow[]> =>
	orderId === null
		? []
		: (await db.payments.find({ orderId }, { order: [['id', 'DESC']] })).filter((one) => one.id !== id);

/** What was paid for an order beyond what it asked, and how it goes back in one press. */
function overpaidOf(
	order: OrderRow,
	payment: PaymentRow,
	others: readonly PaymentRow[],
	left: number,
	shown: (minor: number) => string
) {
	const over = order.paid - order.minor;
	const refund = Math.min(over, left);
	return {
		overText: shown(over),
		times: [payment, ...others].filter((one) => one.taken > one.refunded).length,
		refund:
			refund > 0
				? {
						amount: plainAmount({ minor: refund, currency: payment.currency }),
						text: shown(refund),
						key: `jp-${randomId()}`
					}
				: undefined
	};
}

/** All that the sheet of one payment shows. */
export async function paymentDetail(id: number, locale: string) {
	const payment = await db.payments.one({ id });
	if (!payment) return undefined;
	const [held, events, actions, arrivals, order, till, request, fees, others, clashes, seen] = await Promise.all([
		snapshot(),
		db.paymentEvents.find({ paymentId: id }),
		db.actions.find({ paymentId: id }, { order: [['createdAt', 'ASC']] }),
		db.arrivals.find({ paymentId: id }, { limit: 20 }),
		payment.orderId === null ? undefined : db.orders.one({ id: payment.orderId }),
		payment.tillId === null ? undefined : db.tills.one({ id: payment.tillId }),
		db.paymentRequests.one({ paymentId: id }),
		feesOf(id),
		orderPayments(payment),
		db.factClashes.find({ paymentId: id }),
		db.seenContradictions.one({ paymentId: id })
	]);
	const charged = standingFee(fees);
	const connection = payment.connectionId ? held.connections.get(payment.connectionId) : undefined;
	const method = payment.offlineId ? held.offline.get(payment.offlineId) : undefined;
	const state = stateOf(events.map(asEvent), payment.minor, !!method);
	const shown = (minor: number, currency = payment.currency) => formatAmount({ minor, currency }, locale);
	/** a sum as it stands in a box: as the business writes it, without marks between thousands */
	const typedSum = (minor: number) => localDecimal(plainAmount({ minor, currency: payment.currency }), locale);
	const account = connection && readAccount(connection.account);
	const card = readCard(payment);
	const stored = request?.storedId ? await db.storedMethods.one({ id: request.storedId }) : undefined;
	const left = connection ? await leftToRefund(payment) : 0;
	const acts = await actsOfPayment(payment, locale);
	const cardType = card && connection ? cardTypeOf(card, connection.accountCountry, []) : undefined;
	return {
		id: payment.id,
		reference: payment.reference,
		mode: payment.mode,
		stage: payment.stage,
		reachedStep: payment.reachedStep,
		brokenStep: payment.brokenStep,
		origin: payment.origin,
		amount: shown(payment.minor),
		currency: payment.currency,
		taken: payment.taken ? shown(payment.taken) : '',
		refunded: payment.refunded ? shown(payment.refunded) : '',
		over: method && payment.taken ? state.over : 0,
		overText: method && state.over !== 0 ? shown(Math.abs(state.over)) : '',
		missing: method ? typedSum(Math.max(0, payment.minor - payment.taken)) : '',
		payer: { name: payment.payerName, mail: payment.payerMail, country: order?.country ?? '' },
		told: Object.entries(JSON.parse(request?.details ?? '{}') as Record<string, string>).filter(([, text]) => text),
		trial: payment.trialId,
		purpose: order?.purpose ?? '',
		source: till ? '' : payment.source,
		till: till && { name: till.name, slug: till.slug },
		version: request?.version,
		method: request?.offerName ?? methodName(payment.method),
		standby: request?.standby === 1,
		route: connection
			? { name: connection.name, href: `/connect/connections/${connection.id}` }
			: method
				? {
						name: method.iban ? `own account, ${method.iban.slice(0, 2)}.. ${method.iban.slice(-4)}` : method.name,
						href: `/connect/offline/${method.id}`
					}
				: undefined,
		processorName: connection?.name,
		processorId: payment.processorId,
		card: card && {
			scheme: held.schemeNames[card.scheme] ?? card.scheme,
			funding: card.funding,
			issuerCountry: card.issuerCountry,
			last4: card.last4,
			domestic: cardType?.region === 'domestic'
		},
		mandate: request?.mandate
			? mandateSaid(db.paymentRequests.json.mandate(request.mandate)!, held.business.timeZone, locale)
			: '',
		stored: stored && { name: nameOfStored(stored, held.schemeNames), payer: stored.payerId },
		creditorReference: isCreditorReference(payment.creditorReference)
			? inFours(payment.creditorReference)
			: payment.creditorReference,
		failure: payment.failure,
		receipt: request && `/paid/${request.token}`,
		acts,
		certainty:
			connection && !payment.trialId && !['requested', 'failed', 'voided', 'expired'].includes(payment.stage)
				? certaintyOfPayment(
						payment,
						connection,
						(till?.fulfil ?? 'when settled') as FulfilPolicy,
						locale,
						events.find((one) => one.kind === 'settled')?.at
					)
				: undefined,
		order: order && {
			id: order.id,
			isPaid: order.paid >= order.minor,
			paid: shown(order.paid),
			released: order.releasedAt === null ? undefined : { at: order.releasedAt, by: order.releasedBy },
			completed: order.completedAt === null ? undefined : { at: order.completedAt, by: order.completedBy },
			outside: order.outsideReference,
			tells: till ? settingsOf(till).tellsOutside : 'never'
		},
		held:
			connection && !connection.removedAt && payment.stage === 'authorised' && payment.processorId
				? {
						left: typedSum(payment.minor),
						leftText: shown(payment.minor),
						key: `jp-${randomId()}`,
						until: account?.authorisationDays
							? (events.find((one) => one.kind === 'authorised')?.at ?? payment.createdAt) +
								account.authorisationDays * 86_400_000
							: undefined
					}
				: undefined,
		next: request?.next ? (JSON.parse(request.next) as NextStep) : undefined,
		expectedFee:
			payment.expectedFee !== null && payment.feeCurrency ? shown(payment.expectedFee, payment.feeCurrency) : '',
		chargedFee:
			payment.chargedFee !== null && payment.feeCurrency ? shown(payment.chargedFee, payment.feeCurrency) : '',
		differs: payment.expectedFee !== null && payment.chargedFee !== null && payment.expectedFee !== payment.chargedFee,
		net: payment.net !== null && payment.feeCurrency ? shown(payment.net, payment.feeCurrency) : '',
		workings: {
			fee: connection && (await feeWorking(payment, connection, locale)),
			charged: connection && chargedWorking(payment, charged, connection, locale),
			net: netWorking(payment, locale)
		},
		refund:
			connection && payment.processorId && left > 0
				? {
						left: typedSum(left),
						leftText: shown(left),
						key: `jp-${randomId()}`
					}
				: undefined,
		offline: !!method,
		receiptKey: randomId(),
		unknown: actions
			.filter((one) => one.state === 'unknown' || one.state === 'stuck')
			.map((one) => ({
				key: one.key,
				act: one.act,
				sum: shown(one.minor),
				says: one.says,
				isStuck: one.state === 'stuck'
			})),
		clashes: clashes.map((one) => ({
			id: one.id,
			says: `“${EVENT_WORDS[one.kind] ?? one.kind}” was told with ${shown(one.toldMinor ?? 0)}, and is known with ${shown(one.knownMinor ?? 0)}.`
		})),
		isSeen: payment.contradiction === (seen?.contradiction ?? '') && clashes.every((one) => one.seenAt !== null),
		contradictions: payment.contradiction ? payment.contradiction.split('; ') : [],
		overpaid: order && order.paid > order.minor ? overpaidOf(order, payment, others, left, shown) : undefined,
		others: others.map((one) => ({
			id: one.id,
			method: methodName(one.method),
			stage: one.stage,
			amount: shown(one.taken || one.minor)
		})),
		events: [...events]
			.sort((a, b) => a.at - b.at || a.id - b.id)
			.map((event) => {
				const detail = JSON.parse(event.detail || '{}') as { says?: string; how?: string; note?: string };
				return {
					id: event.id,
					kind: event.kind,
					what: EVENT_WORDS[event.kind] ?? event.kind,
					at: event.at,
					sum: event.minor ? shown(event.minor) : '',
					source:
						SOURCE_WORDS[event.source] ??
						(event.source.startsWith('file') ? 'a settlement file' : `recorded by ${event.source}`),
					isReversed: events.some((one) => one.kind === 'receipt reversed' && one.object === event.object),
					says: [detail.how, detail.says, detail.note].filter(Boolean).join(', '),
					impossible: state.impossible.includes(String(event.id))
				};
			}),
		arrivals: arrivals.map((one) => ({ id: one.id, topic: one.topic, at: one.receivedAt }))
	};
}

/** The mandate of a bank debit, in words. */
const mandateSaid = (one: Mandate, zone: string, locale: string): string =>
	`${one.reference}, ${one.use}, for ${one.creditor}, ${[one.bank, one.last4 && `account ending in ${one.last4}`].filter(Boolean).join(', ')}, signed ${formatDay(inZone(new Date(one.signedAt), zone).day, locale)}`;
