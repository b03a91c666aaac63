import { z } from 'zod';
import { RateCard } from '../../../core/fees';
import { ConnectorError, type Connector, type Notification, type Report } from '../contract';
import {
	factsOf,
	inspectBy,
	problemOf,
	reportsOf,
	settledAs,
	type CredentialForm,
	type ProblemTable
} from '../described';
import { parseBody, readAs } from '../http';
import { addressOf, minorIn, noticeNames, ppmOf, speaker } from '../speaker';

const NAME = 'Ostrel';
const base = addressOf('ostrel', 5245);
const NAMES = {
	captured: 'paid',
	failed: 'declined',
	voided: 'expired',
	refunded: 'repaid',
	settled: 'booked',
	'paid-out': 'forwarded'
} as const;
const { sends, noticeOf } = noticeNames(NAMES);

const Eurocents = z.number().int().min(0);
const Time = z.iso.datetime().transform((text) => Date.parse(text));
const Oops = z.object({ oops: z.string(), text: z.string().default('') });
const Demand = z.object({
	demand: z.string(),
	yours: z.string(),
	is: z.enum(['waiting', 'paid', 'declined', 'expired']),
	eurocents: Eurocents,
	because: z.string().optional(),
	asked_at: Time,
	paid_at: Time.optional(),
	over_at: Time.optional(),
	booked_at: Time.optional(),
	forwarded_at: Time.optional(),
	forwarded_with: z.string().optional(),
	price: z.object({ eurocents: Eurocents, on: Eurocents }).optional(),
	repaid: z.array(z.object({ id: z.string(), eurocents: Eurocents, at: Time })),
	code: z.string().optional(),
	app: z.url().optional(),
	until: Time.optional()
});

function readDemand(one: z.infer<typeof Demand>): Report {
	const { demand: object, price } = one;
	const over = one.over_at ?? one.asked_at;
	const facts = factsOf(object, {
		captured: { at: one.paid_at, minor: one.eurocents },
		failed: one.is === 'declined' && { at: over, says: one.because },
		expired: one.is === 'expired' && { at: over },
		refunded: one.repaid.map((back) => ({ at: back.at, minor: back.eurocents, object: back.id })),
		settled: { at: one.booked_at },
		'paid out': { at: one.forwarded_at, object: one.forwarded_with }
	});
	return {
		processorId: object,
		ours: one.yours,
		paid: { amount: { minor: one.eurocents, currency: 'EUR' }, method: 'bank-app' },
		facts,
		failure: one.because,
		fee: price && { currency: 'EUR', fee: price.eurocents, returned: 0, base: price.on, label: 'demand' },
		next:
			one.code && one.app && one.until
				? { kind: 'code', code: one.code, address: one.app, until: one.until }
				: undefined
	};
}

const { ask, wished, act, settle, fetch, maybe } = speaker({
	name: NAME,
	base: () => `${base()}/o/v1`,
	proof: ({ open = '', seal = '' }) => ({ authorization: `Ostrel ${open} ${seal}` }),
	keyHeader: 'ostrel-once',
	payment: Demand,
	read: readDemand,
	refusal: (json, acts) => readAs(NAME, Oops, json, acts).text,
	settled: settledAs('once', { done: 'done', working: 'working', never: 'never' })
});

const House = z.object({
	id: z.string(),
	name: z.string(),
	country: z.string().regex(/^[A-Z]{2}$/),
	zone: z.string(),
	mode: z.enum(['trial', 'real']),
	key_made: z.iso.datetime(),
	service: z.enum(['on', 'off', 'approval']),
	payer_return: z.boolean(),
	eurocents: z.object({ least: Eurocents, most: Eurocents }),
	where: z.array(z.enum(['online', 'present'])),
	statement: z.object({ least: z.number().int(), most: z.number().int(), not: z.string() }),
	forwarded: z.object({ bank_days: z.number().int(), closes: z.string().regex(/^\d{2}:\d{2}$/) }),
	repay_days: z.number().int()
});
const PROBLEMS: ProblemTable = {
	'seal?': ['unknown', 'seal', 'Ostrel knows no such sealed key. Is it an old copy?'],
	'seal-ended': ['revoked', 'seal', 'Ostrel has ended this sealed key. Make a new one in its console and paste that.'],
	'open?': ['unknown', 'open', 'Ostrel knows no such open key. Is it from another place?'],
	'open-ended': ['revoked', 'open', 'Ostrel has ended this open key. Copy the current one.'],
	pair: ['other account', 'open', 'The two keys are not of one pair. Copy both from the same line of the console.']
};
const keyForm = (field: 'open' | 'seal', called: string, other: string): CredentialForm => ({
	field,
	called: `${called} key`,
	empty: `Paste the ${called} key.`,
	form: new RegExp(`^ostrel\\.${field}\\.(?<mode>try\\.)?(?<body>[a-z]*)$`),
	unlike: `This does not look like an Ostrel key. It begins with ostrel.${field}.`,
	swapped: { looks: field === 'open' ? /^ostrel\.seal\./ : /^ostrel\.open\./, called: `${other} key` },
	length: { signs: 32, where: 'letters at its end' },
	modeOf: (told) => (told ? 'test' : 'live')
});
const FORMS = [keyForm('open', 'open', 'sealed'), keyForm('seal', 'sealed', 'open')];

const Ring = z.object({ ring: z.string().min(1) });
const Told = Ring.extend({
	about: z.string(),
	demand: Demand.optional(),
	forwarded: z
		.object({ id: z.string(), at: Time, demands: z.array(z.object({ demand: z.string(), yours: z.string() })) })
		.optional()
});
const readTold = ({ ring, about, demand, forwarded }: z.infer<typeof Told>): Notification => ({
	eventId: ring,
	topic: about,
	notice: about === 'ring' ? 'hello' : noticeOf(about),
	reports: reportsOf(
		demand && readDemand(demand),
		forwarded && {
			id: forwarded.id,
			at: forwarded.at,
			payments: forwarded.demands.map((one) => [one.demand, one.yours])
		}
	)
});

/** Ostrel: two keys, payment in the payer's bank app by a code or an app switch; what it rings about must be asked. */
export const ostrel: Connector = {
	processor: 'ostrel',
	name: NAME,
	way: 'two keys',
	get console() {
		return `${base()}/console`;
	},
	about: {
		carries: 'Payment in the payer’s bank app: a code on a screen, a switch to the app on a phone.',
		methods: ['bank-app'],
		currencies: ['EUR'],
		countries: ['BE', 'NL', 'LU'],
		paysOut: 'One bank day after the payment.',
		charges: 'A low percentage and a small fixed part. Nothing is repaid after 30 days.',
		support: 'ask@ostrel.example, answered on bank days.',
		get apply() {
			return `${base()}/console`;
		},
		asks: ['legalName', 'taxNumber', 'representative', 'bankAccount', 'phone']
	},
	fields: [
		{
			name: 'open',
			label: 'Open key',
			secret: false,
			where: 'In Ostrel’s console under Keys, the one marked “open”.',
			looks: 'ostrel.open. (with try. for test), then 32 small letters.'
		},
		{
			name: 'seal',
			label: 'Sealed key',
			secret: true,
			where:
				'In Ostrel’s console under Keys, the one marked “seal”, of the same line. It moves money: it is sealed here at once and never shown again.',
			looks: 'ostrel.seal. (with try. for test), then 32 small letters.'
		}
	],
	dialect: { kind: 'call-back' },
	sends,
	byHand: {
		where: 'In Ostrel’s console under Rings: the address, and a tick for each event.',
		names: NAMES
	},

	inspect: (given, mode) => inspectBy(FORMS, given, mode),
	async verify(credentials, mode) {
		const { status, json } = await ask(credentials, '/house');
		if (status >= 400) {
			const { oops: code, text } = readAs(NAME, Oops, json);
			return [problemOf(NAME, PROBLEMS, 'seal', { code, text })];
		}
		const told = readAs(NAME, House, json);
		if ((told.mode === 'trial') !== (mode === 'test'))
			return [{ code: 'mode', field: 'seal', says: `Ostrel says these keys are for ${told.mode} payments.` }];
		if (!told.payer_return)
			return [
				{
					code: 'switch',
					field: 'payer return',
					says: 'The payer’s return is switched off at Ostrel: payers would not come back from their bank app. Switch it on in its console.'
				}
			];
		const on = told.service === 'on';
		return {
			id: told.id,
			name: told.name,
			country: told.country,
			settlement: 'EUR',
			timeZone: told.zone,
			keyMadeAt: Date.parse(told.key_made),
			abilities: on
				? [
						{
							method: 'bank-app',
							currencies: ['EUR'],
							entries: told.where,
							limits: [{ currency: 'EUR', minimum: told.eurocents.least, maximum: told.eurocents.most }]
						}
					]
				: [],
			unable: on
				? []
				: [
						told.service === 'off'
							? { method: 'bank-app', why: 'not enabled', says: 'The service is switched off in Ostrel’s console.' }
							: { method: 'bank-app', why: 'approval', says: 'Ostrel’s approval is still awaited.' }
					],
			schemes: [],
			descriptor: { min: told.statement.least, max: told.statement.most, forbidden: told.statement.not },
			excludes: [],
			payout: { bankDays: told.forwarded.bank_days, cutOff: told.forwarded.closes },
			refundDays: told.repay_days
		};
	},
	async rateCard(credentials) {
		const told = await wished(
			credentials,
			'/price',
			z.object({
				percent: z.string().regex(/^\d{1,2}\.\d{2}$/),
				each: z.string().regex(/^\d{1,3}\.\d{2}$/),
				since: z.iso.date()
			})
		);
		return {
			validFrom: told.since,
			card: RateCard.parse({
				settlement: 'EUR',
				rounding: 'total',
				mode: 'half-up',
				lines: [{ when: { method: 'bank-app' }, percentage: ppmOf(told.percent), fixed: minorIn(told.each, 'EUR') }],
				refund: { keeps: 'all' }
			} satisfies z.input<typeof RateCard>)
		};
	},
	rates: async () => [],

	async sendTestNotification(credentials) {
		const { status, json } = await ask(credentials, '/rings/try', { method: 'POST' });
		if (status >= 400) throw new ConnectorError('refused', `${NAME}: ${readAs(NAME, Oops, json).text}`);
	},
	async confirm(credentials, eventId) {
		const told = await maybe(credentials, `/rings/${encodeURIComponent(eventId)}`, Told);
		return told && readTold(told);
	},
	readNotification: (body) => ({
		eventId: readAs(NAME, Ring, parseBody(NAME, body)).ring,
		topic: 'ring',
		reports: []
	}),

	charge: (credentials, asked) =>
		act(credentials, '/demands', asked.key, {
			body: { eurocents: asked.amount.minor, yours: asked.ours, text: asked.descriptor, back: asked.returnTo }
		}),
	cancel: (credentials, { key, processorId }) =>
		act(credentials, `/demands/${encodeURIComponent(processorId)}/withdraw`, key, { body: {} }),
	refund: (credentials, { key, processorId, amount }) =>
		act(credentials, `/demands/${encodeURIComponent(processorId)}/repay`, key, { body: { eurocents: amount.minor } }),
	settle: (credentials, key) => settle(credentials, `/once/${encodeURIComponent(key)}/settle`),
	fetch: (credentials, processorId) => fetch(credentials, `/demands/${encodeURIComponent(processorId)}`),

	async retire(credentials) {
		await wished(credentials, '/keys/end', z.object({ ended: z.boolean() }), { method: 'POST' });
	}
};
