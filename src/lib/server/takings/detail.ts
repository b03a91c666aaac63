import { cardTypeOf } from '../../core/cards';
import { calendarNamed, expectedDay } from '../../core/calendar';
import { isPriced, priceSteps, sayLine, sayUnpriced } from '../../core/fees';
import { formatAmount, formatNumber, plainAmount } from '../../core/money';
import { stateOf } from '../../core/stages';
import { inFours } from '../../core/references';
import type { Working } from '../../core/workings';
import { readAccount } from '../connect/account';
import { snapshot } from '../accept/snapshot';
import { db, type ConnectionRow, type PaymentRow } from '../db';
import type { NextStep } from '../connectors';
import { randomId } from '../access';
import { deriveFee } from './fees';
import { asEvent, readCard, readCharged } from './record';
import { leftToRefund } from './refund';

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
			about: `Captured on ${fee.day}.`,
			steps: [],
			end: { tone: 'clay', text: `${connection.name} has no rate card that was valid then.` }
		};
	const about = `${connection.name}’s rate card of ${fee.card.validFrom}${fee.cardType ? `, for ${fee.cardType.scheme}, ${fee.cardType.funding}, ${fee.cardType.region}` : ''}, captured on ${fee.day} (${connection.timeZone})`;
	if (!isPriced(fee.priced)) return { title, about, steps: [], end: { tone: 'clay', text: sayUnpriced(fee.priced) } };
	const paid = { minor: payment.taken, currency: payment.currency };
	const steps = priceSteps(fee.priced, paid, locale);
	const currency = fee.card.body.settlement;
	if (payment.refunded)
		steps.push(
			{
				title: 'Given back for refunds',
				sub: `${formatAmount({ minor: payment.refunded, currency: payment.currency }, locale)} of ${formatAmount(paid, locale)} refunded; the ${fee.card.body.refund.keeps === 'all' ? 'whole fee is kept' : fee.card.body.refund.keeps === 'fixed' ? 'percentage part goes back in proportion, the fixed part is kept' : 'percentage part goes back in proportion, all of it at the end'}`,
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

function chargedWorking(payment: PaymentRow, connection: ConnectionRow, locale: string): Working | undefined {
	const charged = readCharged(payment);
	if (!charged) return undefined;
	const sum = (minor: number) => formatAmount({ minor, currency: charged.currency }, locale);
	const difference = payment.expectedFee === null ? 0 : charged.fee - charged.returned - payment.expectedFee;
	return {
		title: 'Charged fee',
		about: `As ${connection.name} reports it.`,
		steps: [
			{
				title: 'Taken from',
				sub: charged.rate ? `at ${charged.rate.value} of ${charged.rate.day}` : undefined,
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
			difference === 0
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
	received: 'Received'
};
const SOURCE_WORDS: Record<string, string> = {
	payer: 'at the payer’s page',
	answer: 'the processor’s answer',
	notification: 'a notification',
	asked: 'the processor, when asked'
};

/** All that the sheet of one payment shows. */
export async function paymentDetail(id: number, locale: string) {
	const payment = await db.payments.one({ id });
	if (!payment) return undefined;
	const [held, events, actions, arrivals, checkout, till] = await Promise.all([
		snapshot(),
		db.paymentEvents.find({ paymentId: id }),
		db.actions.find({ paymentId: id }, { order: [['createdAt', 'ASC']] }),
		db.arrivals.find({ paymentId: id }, { limit: 20 }),
		db.checkouts.one({ id: payment.checkoutId }),
		db.tills.one({ id: payment.tillId })
	]);
	const connection = payment.connectionId ? held.connections.get(payment.connectionId) : undefined;
	const method = payment.offlineId ? held.offline.get(payment.offlineId) : undefined;
	const state = stateOf(events.map(asEvent), payment.minor, !!method);
	const shown = (minor: number, currency = payment.currency) => formatAmount({ minor, currency }, locale);
	const account = connection && readAccount(connection.account);
	const card = readCard(payment);
	const left = connection ? await leftToRefund(payment) : 0;
	const cardType = card && connection ? cardTypeOf(card, connection.accountCountry, []) : undefined;
	return {
		id: payment.id,
		reference: payment.reference,
		mode: payment.mode,
		stage: payment.stage,
		notches: payment.notches,
		broken: payment.broken,
		amount: shown(payment.minor),
		currency: payment.currency,
		taken: payment.taken ? shown(payment.taken) : '',
		refunded: payment.refunded ? shown(payment.refunded) : '',
		over: method && payment.taken ? state.over : 0,
		overText: method && state.over !== 0 ? shown(Math.abs(state.over)) : '',
		missing: method
			? plainAmount({ minor: Math.max(0, payment.minor - payment.taken), currency: payment.currency })
			: '',
		payer: { name: payment.payerName, mail: payment.payerMail, country: checkout?.country ?? '' },
		told: Object.entries(JSON.parse(payment.details) as Record<string, string>).filter(([, text]) => text),
		trial: payment.trialId,
		purpose: checkout?.purpose ?? '',
		till: till && { name: till.name, slug: till.slug },
		version: payment.version,
		method: payment.offerName,
		standby: payment.standby === 1,
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
		creditorReference: payment.creditorReference && inFours(payment.creditorReference),
		failure: payment.failure,
		receipt: `/paid/${payment.token}`,
		expectedDay:
			connection && account && payment.capturedAt && payment.notches < 4 && !payment.broken
				? expectedDay(new Date(payment.capturedAt), {
						timeZone: connection.timeZone,
						cutOff: connection.cutOff || account.payout.cutOff,
						bankDays: connection.expectedDays ?? account.payout.bankDays,
						calendar: calendarNamed(connection.bankCalendar)
					})
				: undefined,
		calendar: connection ? calendarNamed(connection.bankCalendar).name : '',
		held:
			connection && !connection.removedAt && payment.stage === 'authorised' && payment.processorId
				? {
						left: plainAmount({ minor: payment.minor, currency: payment.currency }),
						leftText: shown(payment.minor),
						key: `jp-${randomId()}`,
						until: account?.authorisationDays
							? (events.find((one) => one.kind === 'authorised')?.at ?? payment.createdAt) +
								account.authorisationDays * 86_400_000
							: undefined
					}
				: undefined,
		next: payment.next ? (JSON.parse(payment.next) as NextStep) : undefined,
		expectedFee:
			payment.expectedFee !== null && payment.feeCurrency ? shown(payment.expectedFee, payment.feeCurrency) : '',
		chargedFee:
			payment.chargedFee !== null && payment.feeCurrency ? shown(payment.chargedFee, payment.feeCurrency) : '',
		differs: payment.expectedFee !== null && payment.chargedFee !== null && payment.expectedFee !== payment.chargedFee,
		net: payment.net !== null && payment.feeCurrency ? shown(payment.net, payment.feeCurrency) : '',
		workings: {
			fee: connection && (await feeWorking(payment, connection, locale)),
			charged: connection && chargedWorking(payment, connection, locale),
			net: netWorking(payment, locale)
		},
		refund:
			connection && payment.processorId && left > 0
				? {
						left: plainAmount({ minor: left, currency: payment.currency }),
						leftText: shown(left),
						key: `jp-${randomId()}`
					}
				: undefined,
		offline: !!method,
		receiptKey: randomId(),
		unknown: actions
			.filter((one) => one.state === 'unknown')
			.map((one) => ({ act: one.act, sum: shown(one.minor), says: one.says })),
		events: [...events]
			.sort((a, b) => a.at - b.at || a.id - b.id)
			.map((event) => {
				const detail = JSON.parse(event.detail) as { says?: string; how?: string; note?: string };
				return {
					id: event.id,
					kind: event.kind,
					what: EVENT_WORDS[event.kind] ?? event.kind,
					at: event.at,
					sum: event.minor ? shown(event.minor) : '',
					source: SOURCE_WORDS[event.source] ?? `recorded by ${event.source}`,
					says: [detail.how, detail.says, detail.note].filter(Boolean).join(', '),
					impossible: state.impossible.includes(String(event.id))
				};
			}),
		arrivals: arrivals.map((one) => ({ id: one.id, topic: one.topic, at: one.receivedAt }))
	};
}
