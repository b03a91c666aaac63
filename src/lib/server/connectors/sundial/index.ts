import { createHmac } from 'node:crypto';
import { z } from 'zod';
import { RateCard } from '../../../core/fees';
import { isCurrency } from '../../../core/money';
import type { Connector, CredentialProblem, Credentials, Mode, Report } from '../contract';
import {
	factsOf,
	inspectBy,
	problemOf,
	reportsOf,
	settledAs,
	type CredentialForm,
	type ProblemTable
} from '../described';
import { call, parseBody, readAs } from '../http';
import { addressOf, minorIn, noticeNames, ppmOf, speaker } from '../speaker';
import { timeNow } from '../../signals/clock';

const NAME = 'Sundial Split';
const base = addressOf('sundial', 5244);
const { sends, topicsOf, noticeOf, noticesOf } = noticeNames(
	{
		authorised: 'PLAN.AGREED',
		captured: 'PLAN.STARTED',
		failed: 'PLAN.REFUSED',
		voided: 'PLAN.DROPPED',
		refunded: 'PLAN.REDUCED',
		disputed: 'PLAN.COMPLAINT',
		settled: 'PLAN.SETTLED',
		'paid-out': 'PAYOUT.SENT'
	},
	'SHOP.CHANGED'
);

const Cents = z
	.string()
	.regex(/^\d{1,12}$/)
	.transform(Number);
const Time = z.iso.datetime().transform((text) => Date.parse(text));
const Fault = z.object({ error: z.object({ code: z.string(), text: z.string().default('') }) });
const Plan = z.object({
	plan: z.string(),
	shop_ref: z.string(),
	tier: z.string().optional(),
	status: z.enum(['ASKED', 'AGREED', 'STARTED', 'REFUSED', 'DROPPED']),
	basket: z.object({ cents: Cents, currency: z.string().refine(isCurrency) }),
	because: z.string().optional(),
	dates: z.object({
		asked: Time,
		agreed: Time.optional(),
		started: Time.optional(),
		closed: Time.optional(),
		settled: Time.optional(),
		paid: Time.optional()
	}),
	payout: z.string().optional(),
	fee: z.object({ cents: Cents, currency: z.string().refine(isCurrency), basket: Cents, tier: z.string() }).optional(),
	reductions: z.array(z.object({ id: z.string(), cents: Cents, date: Time, fee_returned: Cents })),
	complaint: z.object({ cents: Cents, date: Time }).optional(),
	agree_at: z.url().optional()
});

function readPlan(one: z.infer<typeof Plan>): Report {
	const { plan: object, dates, fee } = one;
	const minor = one.basket.cents;
	const over = dates.closed ?? dates.asked;
	const facts = factsOf(object, {
		authorised: { at: dates.agreed, minor },
		captured: { at: dates.started, minor },
		failed: one.status === 'REFUSED' && { at: over, says: one.because },
		voided: one.status === 'DROPPED' && { at: over },
		refunded: one.reductions.map((back) => ({ at: back.date, minor: back.cents, object: back.id })),
		disputed: one.complaint && { at: one.complaint.date, minor: one.complaint.cents },
		settled: { at: dates.settled },
		'paid out': { at: dates.paid, object: one.payout }
	});
	return {
		processorId: object,
		ours: one.shop_ref,
		paid: { amount: { minor, currency: 'EUR' }, method: 'pay-later' },
		facts,
		failure: one.because,
		fee: fee && {
			currency: fee.currency,
			fee: fee.cents,
			returned: one.reductions.reduce((sum, back) => sum + back.fee_returned, 0),
			base: fee.basket,
			label: fee.tier
		},
		next: one.agree_at ? { kind: 'page', address: one.agree_at } : undefined
	};
}

const { ask, wished, act, settle, fetch, maybe } = speaker({
	name: NAME,
	base: () => `${base()}/sun/v4`,
	proof({ number = '', token = '' }, { method, path, text }) {
		const time = String(Math.floor(timeNow() / 1000));
		return {
			'sundial-shop': number,
			'sundial-time': time,
			'sundial-signature': createHmac('sha256', token)
				.update(`${method}\n/sun/v4${path}\n${time}\n${text}`)
				.digest('hex')
		};
	},
	keyHeader: 'sundial-once',
	payment: Plan,
	read: readPlan,
	refusal: (json, acts) => readAs(NAME, Fault, json, acts).error.text,
	settled: settledAs('once', { done: 'DONE', working: 'WORKING', never: 'NEVER' })
});

const Shop = z.object({
	shop: z.string(),
	name: z.string(),
	country: z.string().regex(/^[A-Z]{2}$/),
	settles: z.string().refine(isCurrency),
	zone: z.string(),
	mode: z.enum(['TRIAL', 'REAL']),
	token_date: z.iso.datetime(),
	approved: z.boolean(),
	active: z.boolean(),
	data_transfer: z.boolean(),
	tiers: z
		.array(z.object({ id: z.string(), title: z.string(), lowest: z.number().int(), highest: z.number().int() }))
		.min(1),
	tier: z.string(),
	agreed_days: z.number().int(),
	statement: z.object({ least: z.number().int(), most: z.number().int(), refused: z.string() }),
	payout: z.object({ days: z.number().int(), cut: z.string().regex(/^\d{2}:\d{2}$/) }),
	reduce_days: z.number().int(),
	page_code: z.string().max(2000)
});
const Pricing = z.object({
	valid_from: z.iso.date(),
	percent: z.string().regex(/^\d{1,2}\.\d{2}$/),
	fixed: z.string().regex(/^\d{1,4}\.\d{2}$/)
});

const tokenCheck = (body: string) =>
	'ABCDEFGHJKLMNPQRSTUVWXYZ23456789'[[...body].reduce((sum, sign) => (sum * 7 + sign.charCodeAt(0)) % 32, 5)];
const FORMS: readonly CredentialForm[] = [
	{
		field: 'number',
		called: 'shop number',
		empty: 'Type the shop number.',
		form: /^SUN-(?<body>\d*)(?<mode>-T)?$/,
		unlike: 'A shop number is SUN- and six digits, with -T at its end for test.',
		swapped: { looks: /^SDT/, called: 'token' },
		length: { signs: 6, where: 'digits' },
		modeOf: (told) => (told ? 'test' : 'live')
	},
	{
		field: 'token',
		called: 'token',
		empty: 'Paste the token.',
		form: /^SDT(?<body>[A-Z2-9]*)$/,
		unlike: 'This does not look like a token. It begins with SDT.',
		swapped: { looks: /^SUN-/, called: 'shop number' },
		length: { signs: 28, where: 'signs after SDT' },
		check: {
			fits: (body) => tokenCheck(body.slice(0, 27)) === body[27],
			says: 'A sign of the token is wrong: its last sign does not fit. Copy it instead of typing it.'
		}
	}
];
const PROBLEMS: ProblemTable = {
	SHOP: ['unknown', 'number', 'Sundial has no shop with this number. Is it from another place?'],
	SIGNATURE: ['unknown', 'token', 'Sundial knows no such token of this shop. Is it an old copy, or of another shop?'],
	MODE: ['mode', 'token', 'The token is of the other mode than the shop number. Numbers that end in -T are for test.'],
	TOKEN_ENDED: ['revoked', 'token', 'Sundial has ended this token. Make a new one in its console and paste that.'],
	TIME: ['unknown', '', 'Sundial says that the time of the request is off. Check the clock of this machine.']
};

async function shopOf(credentials: Credentials, mode: Mode): Promise<z.infer<typeof Shop> | CredentialProblem[]> {
	const { status, json } = await ask(credentials, '/shop');
	if (status >= 400) {
		return [problemOf('Sundial', PROBLEMS, 'token', readAs(NAME, Fault, json).error)];
	}
	const told = readAs(NAME, Shop, json);
	if ((told.mode === 'TRIAL') !== (mode === 'test'))
		return [{ code: 'mode', field: 'number', says: `Sundial says this is for ${told.mode} payments.` }];
	return told;
}
const Bell = z.object({ bell: z.string(), types: z.array(z.string()) });
const Event = z.object({
	type: z.string().min(1),
	id: z.string().min(1),
	plan: Plan.optional(),
	payout: z
		.object({ id: z.string(), date: Time, plans: z.array(z.object({ plan: z.string(), shop_ref: z.string() })) })
		.optional()
});
const STATES = {
	received: 'applied',
	'in review': 'in review',
	'papers wanted': 'more papers wanted',
	open: 'open',
	refused: 'refused'
} as const;
const planAct = (credentials: Credentials, id: string, what: string, key: string, minor?: number) =>
	act(credentials, `/plans/${encodeURIComponent(id)}/${what}`, key, {
		body: minor === undefined ? {} : { cents: String(minor) }
	});

/** Sundial Split: number and token after an application, signed requests, pay later in four monthly parts, two tiers. */
export const sundial: Connector = {
	processor: 'sundial',
	name: NAME,
	way: 'number and token',
	get console() {
		return `${base()}/console`;
	},
	about: {
		carries: 'Pay later, in four monthly parts.',
		methods: ['pay-later'],
		currencies: ['EUR'],
		countries: ['BE', 'NL', 'DE', 'FR', 'AT'],
		paysOut: 'Two business days after the parts have begun; the whole basket at once.',
		charges: 'A high percentage and a fixed part, by product tier.',
		support: 'shops@sundial.example, +31 20 555 09 08, answered on weekdays.',
		get apply() {
			return `${base()}/console`;
		},
		asks: [
			'legalName',
			'legalForm',
			'taxNumber',
			'address',
			'representative',
			'industry',
			'delivery',
			'domains',
			'bankAccount'
		]
	},
	fields: [
		{
			name: 'number',
			label: 'Shop number',
			secret: false,
			where: 'In Sundial’s console under Shop number & tokens, and in the letter that opened the shop.',
			looks: 'SUN- and six digits; with -T at its end for test.'
		},
		{
			name: 'token',
			label: 'Token',
			secret: true,
			where:
				'In Sundial’s console under Shop number & tokens, beside the number. Every request is signed with it: it is sealed here at once and never shown again.',
			looks: 'SDT, then 28 capitals and digits.'
		}
	],
	chooser: {
		name: 'tier',
		what: 'tier',
		help: 'The tier decides up to which basket payers may pay in parts, and what it costs.',
		async list(credentials, mode) {
			const told = await shopOf(credentials, mode);
			if (Array.isArray(told)) return told;
			return told.tiers.map(({ id, title, lowest, highest }) => ({
				id,
				name: title,
				says: `Baskets from ${(lowest / 100).toFixed(2)} to ${(highest / 100).toFixed(2)} ${told.settles}${id === told.tier ? '; Sundial’s proposal' : ''}`
			}));
		}
	},
	dialect: { kind: 'standard-webhooks' },
	sends,

	inspect: (given, mode) => inspectBy(FORMS, given, mode),
	async verify(credentials, mode) {
		const told = await shopOf(credentials, mode);
		if (Array.isArray(told)) return told;
		if (!told.data_transfer)
			return [
				{
					code: 'switch',
					field: 'data transfer',
					says: 'Data transfer is switched off at Sundial: it would not take a payer’s name and mail. Switch it on in its console.'
				}
			];
		const tier = told.tiers.find((one) => one.id === credentials.tier);
		if (!tier)
			return [{ code: 'other account', field: 'tier', says: 'This tier is not offered any more. Choose one.' }];
		const able = told.approved && told.active;
		return {
			id: told.shop,
			name: told.name,
			country: told.country,
			settlement: told.settles,
			timeZone: told.zone,
			keyMadeAt: Date.parse(told.token_date),
			abilities: able
				? [
						{
							method: 'pay-later',
							currencies: [told.settles],
							entries: ['online'],
							limits: [{ currency: told.settles, minimum: tier.lowest, maximum: tier.highest }],
							wantsPageCode: true
						}
					]
				: [],
			unable: able
				? []
				: [
						told.approved
							? { method: 'pay-later', why: 'not enabled', says: 'It is switched off in Sundial’s console.' }
							: { method: 'pay-later', why: 'approval', says: 'Sundial still reviews the application for this shop.' }
					],
			schemes: [],
			descriptor: { min: told.statement.least, max: told.statement.most, forbidden: told.statement.refused },
			excludes: [],
			payout: { bankDays: told.payout.days, cutOff: told.payout.cut },
			refundDays: told.reduce_days,
			authorisationDays: told.agreed_days
		};
	},
	async rateCard(credentials) {
		const told = await wished(credentials, `/pricing/${encodeURIComponent(credentials.tier ?? '')}`, Pricing);
		return {
			validFrom: told.valid_from,
			card: RateCard.parse({
				settlement: 'EUR',
				rounding: 'total',
				mode: 'half-up',
				lines: [{ when: { method: 'pay-later' }, percentage: ppmOf(told.percent), fixed: minorIn(told.fixed, 'EUR') }],
				refund: { keeps: 'fixed' }
			} satisfies z.input<typeof RateCard>)
		};
	},
	rates: async () => [],

	async listen(credentials, address, notices) {
		const told = await wished(credentials, '/bell', Bell.extend({ secret: z.string().startsWith('whsec_') }), {
			method: 'PUT',
			body: { url: address, types: topicsOf(notices) }
		});
		return { id: told.bell, secret: told.secret, notices: noticesOf(told.types) };
	},
	async unlisten(credentials, hookId) {
		await wished(credentials, `/bell/${encodeURIComponent(hookId)}`, z.object({ bell: z.null() }), {
			method: 'DELETE'
		});
	},
	async subscribed(credentials, hookId) {
		const told = await maybe(credentials, `/bell/${encodeURIComponent(hookId)}`, Bell);
		return told && noticesOf(told.types);
	},
	async sendTestNotification(credentials, hookId) {
		await wished(credentials, `/bell/${encodeURIComponent(hookId)}/ring`, z.object({ rung: z.boolean() }), {
			method: 'POST'
		});
	},
	readNotification(body) {
		const { type, id, plan, payout } = readAs(NAME, Event, parseBody(NAME, body));
		return {
			eventId: id,
			topic: type,
			notice: type === 'TEST.BELL' ? 'hello' : type === 'SHOP.CHANGED' ? 'account' : noticeOf(type),
			reports: reportsOf(
				plan && readPlan(plan),
				payout && { id: payout.id, at: payout.date, payments: payout.plans.map((one) => [one.plan, one.shop_ref]) }
			)
		};
	},

	charge: (credentials, asked) =>
		act(credentials, '/plans', asked.key, {
			body: {
				basket: { cents: String(asked.amount.minor), currency: asked.amount.currency },
				shop_ref: asked.ours,
				tier: credentials.tier,
				back_to: asked.returnTo,
				start: asked.capture === 'later' ? 'LATER' : 'AT_ONCE',
				statement: asked.descriptor,
				payer: asked.payer
			}
		}),
	capture: (credentials, { key, processorId, amount }) => planAct(credentials, processorId, 'start', key, amount.minor),
	cancel: (credentials, { key, processorId }) => planAct(credentials, processorId, 'drop', key),
	refund: (credentials, { key, processorId, amount }) => planAct(credentials, processorId, 'reduce', key, amount.minor),
	settle: (credentials, key) => settle(credentials, `/once/${encodeURIComponent(key)}/settle`),
	fetch: (credentials, processorId) => fetch(credentials, `/plans/${encodeURIComponent(processorId)}`),

	async retire(credentials) {
		await wished(credentials, '/token/end', z.object({ ended: z.boolean() }), { method: 'POST' });
	},
	pageCode: {
		method: 'pay-later',
		async code(credentials) {
			const told = await wished(credentials, '/shop', Shop);
			return { html: told.page_code, mark: `data-shop="${told.shop}"` };
		}
	},
	application: {
		numberLooks: 'SA- and six capitals and digits, from Sundial’s answer to the application.',
		async state(number, mail) {
			const { status, json } = await call(
				NAME,
				`${base()}/sun/v4/applications/${encodeURIComponent(number)}?${new URLSearchParams({ mail })}`
			);
			if (status === 404) return undefined;
			const told = readAs(
				NAME,
				z.object({
					state: z.enum(['received', 'in review', 'papers wanted', 'open', 'refused']),
					papers: z.array(z.string())
				}),
				json
			);
			return { state: STATES[told.state], papers: told.papers };
		}
	}
};
