import { z } from 'zod';
import { EEA, fundingOf, UNKNOWN, type ReportedCard } from '../../../core/cards';
import { RateCard } from '../../../core/fees';
import { exponentOf, isCurrency } from '../../../core/money';
import type { Notice } from '../../../core/notices';
import { ConnectorError, type Report } from '../contract';
import { factsOf } from '../described';
import { minorIn, ppmOf } from '../speaker';

/** The shapes of Fernhall's answers, and their translation into ours. */
export const NAME = 'Fernhall';

const Sum = z.object({ currency: z.string().refine(isCurrency), thousandths: z.number().int() });

/** Fernhall counts every currency in thousandths of its major unit. */
export const toThousandths = (minor: number, currency: string): number => minor * 10 ** (3 - exponentOf(currency));
export function fromThousandths(thousandths: number, currency: string): number {
	const minor = thousandths / 10 ** (3 - exponentOf(currency));
	if (!Number.isInteger(minor))
		throw new ConnectorError('nonsense', `${NAME} told a sum that ${currency} cannot hold.`);
	return minor;
}

export const FaultAnswer = z.object({ fault: z.string(), text: z.string().default('') });

export const AccountAnswer = z.object({
	id: z.string().min(1),
	name: z.string(),
	country: z.string().regex(/^[A-Z]{2}$/),
	settles: z.string().refine(isCurrency),
	zone: z.string(),
	mode: z.enum(['test', 'live']),
	keyMade: z.iso.datetime()
});

export const KeyAnswer = z.object({
	kind: z.enum(['public', 'secret']),
	mode: z.enum(['test', 'live']),
	sameAccount: z.boolean(),
	revoked: z.string().nullable()
});

export const AbilitiesAnswer = z.object({
	cards: z.object({
		on: z.boolean(),
		currencies: z.array(z.string().refine(isCurrency)),
		entry: z.array(z.enum(['present', 'online', 'keyed', 'recurring'])),
		schemes: z.array(z.object({ id: z.string(), name: z.string() })),
		fundings: z.array(z.enum(['debit', 'credit', 'prepaid', 'commercial'])),
		issued: z.array(z.enum(['home', 'neighbours', 'elsewhere'])),
		sums: z.array(z.object({ currency: z.string(), from: z.number().int(), to: z.number().int() })),
		refunds: z.object({ partial: z.boolean(), withinDays: z.number().int() })
	}),
	tapfold: z.object({
		on: z.boolean(),
		currencies: z.array(z.string().refine(isCurrency)),
		wantsDomain: z.boolean()
	}),
	statement: z.object({ shortest: z.number().int(), longest: z.number().int(), refused: z.string() }),
	notTogetherWith: z.array(z.string()),
	paysOut: z.object({ afterBusinessDays: z.number().int(), cutOff: z.string().regex(/^\d{2}:\d{2}$/) })
});

const share = z.string().regex(/^\d{1,2}(\.\d{1,4})?$/);
const plus = z.string().regex(/^\d{1,6}(\.\d{1,4})?$/);
export const PricesAnswer = z.object({
	money: z.string().refine(isCurrency),
	since: z.iso.date(),
	rounded: z.literal('once, halves up'),
	neighbours: z.array(z.string()),
	bands: z
		.array(
			z.object({
				band: z.string(),
				cards: z.enum(['private', 'company']),
				issued: z.enum(['home', 'neighbours', 'elsewhere']),
				share,
				plus
			})
		)
		.min(1),
	exchange: share,
	refunds: z.object({ share: z.enum(['given back', 'kept']), plus: z.enum(['given back', 'kept']), charge: plus }),
	disputes: z.object({ charge: plus, givenBackWhenWon: z.boolean() })
});

const REGION = { home: 'domestic', neighbours: 'regional', elsewhere: 'international' } as const;

/** Fernhall's price list as a rate card. What no band covers (an unknown card) has the price of the dearest private band. */
export function readPrices(prices: z.infer<typeof PricesAnswer>): RateCard {
	const dearest = prices.bands
		.filter((band) => band.cards === 'private')
		.reduce((a, b) => (ppmOf(b.share) > ppmOf(a.share) ? b : a));
	return RateCard.parse({
		settlement: prices.money,
		rounding: 'total',
		mode: 'half-up',
		areas: [prices.neighbours.length ? prices.neighbours : [...EEA]],
		lines: [
			{ when: {}, percentage: ppmOf(dearest.share), fixed: minorIn(dearest.plus, prices.money) },
			...prices.bands.map((band) => ({
				when: {
					region: REGION[band.issued],
					...(band.cards === 'company' ? { funding: 'commercial' as const } : {})
				},
				percentage: ppmOf(band.share),
				fixed: minorIn(band.plus, prices.money)
			}))
		],
		conversion: ppmOf(prices.exchange),
		refund: {
			keeps: prices.refunds.share === 'kept' ? 'all' : prices.refunds.plus === 'kept' ? 'fixed' : 'nothing',
			fee: minorIn(prices.refunds.charge, prices.money)
		},
		dispute: { fee: minorIn(prices.disputes.charge, prices.money), returnedWhenWon: prices.disputes.givenBackWhenWon }
	} satisfies z.input<typeof RateCard>);
}

export const CardAnswer = z.object({
	scheme: z.string(),
	funding: z.string(),
	issuedIn: z.string(),
	lastFour: z.string().regex(/^\d{4}$/),
	expires: z.string().regex(/^\d{4}-\d{2}$/)
});

export const readCard = (card: z.infer<typeof CardAnswer>): ReportedCard => ({
	scheme: card.scheme || UNKNOWN,
	funding: fundingOf([card.funding]),
	issuerCountry: /^[A-Z]{2}$/.test(card.issuedIn) ? card.issuedIn : UNKNOWN,
	last4: card.lastFour,
	expiry: card.expires
});

export const PaymentAnswer = z.object({
	id: z.string(),
	ours: z.string(),
	sum: Sum,
	card: CardAnswer,
	kept: z.string().min(1).optional(),
	state: z.enum(['taken', 'declined']),
	why: z.string().optional(),
	at: z.iso.datetime(),
	fee: z
		.object({
			currency: z.string().refine(isCurrency),
			thousandths: z.number().int(),
			base: z.number().int(),
			rate: z.object({ day: z.string(), value: z.string() }).optional(),
			band: z.string()
		})
		.optional(),
	refunds: z.array(z.object({ id: z.string(), sum: Sum, at: z.iso.datetime(), feeReturned: z.number().int() })),
	disputed: z
		.object({
			at: z.iso.datetime(),
			thousandths: z.number().int(),
			because: z.string().max(200).optional(),
			answerBy: z.iso.datetime().optional(),
			answeredAt: z.iso.datetime().optional(),
			ended: z.object({ at: z.iso.datetime(), won: z.boolean() }).optional()
		})
		.optional(),
	settledAt: z.iso.datetime().optional(),
	payout: z.string().optional(),
	paidOutAt: z.iso.datetime().optional()
});

/** Everything that a payment's own record tells, as facts: the same from an answer, a notification or a fetch. */
export function readPayment(payment: z.infer<typeof PaymentAnswer>): Report {
	const { currency } = payment.sum;
	const minor = (thousandths: number) => fromThousandths(thousandths, currency);
	const time = (text: string | undefined) => (text === undefined ? undefined : Date.parse(text));
	const facts = factsOf(payment.id, {
		captured: payment.state === 'taken' && { at: time(payment.at), minor: minor(payment.sum.thousandths) },
		failed: payment.state === 'declined' && { at: time(payment.at), says: payment.why },
		refunded: payment.refunds.map(({ id, sum, at }) => ({
			at: time(at),
			minor: minor(sum.thousandths),
			object: id
		})),
		disputed: payment.disputed && { at: time(payment.disputed.at), minor: minor(payment.disputed.thousandths) },
		...(payment.disputed?.ended
			? {
					[payment.disputed.ended.won ? 'dispute won' : 'dispute lost']: {
						at: time(payment.disputed.ended.at),
						minor: minor(payment.disputed.thousandths)
					}
				}
			: {}),
		settled: { at: time(payment.settledAt) },
		'paid out': { at: time(payment.paidOutAt), object: payment.payout }
	});
	const { fee } = payment;
	return {
		processorId: payment.id,
		ours: payment.ours,
		facts,
		card: readCard(payment.card),
		paid: { amount: { minor: minor(payment.sum.thousandths), currency }, method: 'card' },
		failure: payment.why,
		stored: payment.kept,
		dispute: payment.disputed && {
			reason: payment.disputed.because ?? '',
			answerBy: time(payment.disputed.answerBy),
			answeredAt: time(payment.disputed.answeredAt)
		},
		fee: fee && {
			currency: fee.currency,
			fee: fromThousandths(fee.thousandths, fee.currency),
			returned: payment.refunds.reduce((sum, one) => sum + fromThousandths(one.feeReturned, fee.currency), 0),
			base: fromThousandths(fee.base, fee.currency),
			rate: fee.rate,
			label: fee.band
		}
	};
}

export const TOPICS: Partial<Record<Notice, string>> = {
	captured: 'payment.taken',
	failed: 'payment.declined',
	refunded: 'refund.made',
	disputed: 'dispute.changed',
	settled: 'money.settled',
	'paid-out': 'payout.sent'
};
export const DomainAnswer = z.object({
	path: z.string().startsWith('/.well-known/'),
	content: z.string().max(2000),
	state: z.string(),
	says: z.string().default('')
});

export const EventBody = z.object({
	id: z.string().min(1),
	topic: z.string().min(1),
	at: z.iso.datetime(),
	payment: PaymentAnswer.optional(),
	payout: z
		.object({ id: z.string(), at: z.iso.datetime(), payments: z.array(z.object({ id: z.string(), ours: z.string() })) })
		.optional()
});
