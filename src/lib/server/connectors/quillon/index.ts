import { z } from 'zod';
import { RateCard } from '../../../core/fees';
import type { Ability } from '../../../core/lineup';
import { isCurrency } from '../../../core/money';
import { consentAt, scopesMissing } from '../consent';
import { ConnectorError, type Connector, type CredentialProblem, type Report, type Unable } from '../contract';
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
import { addressOf, noticeNames, speaker } from '../speaker';

const NAME = 'Quillon Direct';
const base = addressOf('quillon', 5243);
const NAMES = {
	pending: 'mandate_signed',
	captured: 'money_collected',
	failed: 'mandate_refused',
	voided: 'request_lapsed',
	refunded: 'money_returned_to_payer',
	settled: 'money_certain',
	returned: 'debit_bounced',
	'paid-out': 'transfer_to_you'
} as const;
const { sends, noticeOf, noticesOf } = noticeNames(NAMES);
const consent = consentAt(NAME, base, {
	read: 'the account, its prices and its settings could not be read.',
	collect: 'no payer could pay, and nothing could be sent back.'
});

const Time = z.iso.datetime().transform((text) => Date.parse(text));
const Cents = z.number().int().min(0);
const Wrong = z.object({ error: z.string(), note: z.string().default('') });
const Request = z.object({
	request: z.string(),
	your_id: z.string(),
	kind: z.enum(['debit', 'transfer']),
	stage: z.enum(['waiting', 'held', 'pending', 'taken', 'refused', 'ended', 'back']),
	cents: Cents,
	currency: z.string().refine(isCurrency),
	cause: z.string().optional(),
	on: z.object({
		asked: Time,
		signed: Time.optional(),
		collected: Time.optional(),
		over: Time.optional(),
		certain: Time.optional(),
		bounced: Time.optional(),
		to_you: Time.optional()
	}),
	transfer_to_you: z.string().optional(),
	fee: z
		.object({
			cents: Cents,
			currency: z.string().refine(isCurrency),
			from_cents: Cents,
			rate: z.object({ day: z.string(), value: z.string() }).optional(),
			line: z.string()
		})
		.optional(),
	came: z.object({ words: z.string().max(500), from: z.string().max(200), iban: z.string().max(60) }).optional(),
	mandate: z
		.object({
			ref: z.string().min(1),
			use: z.enum(['once', 'again']),
			collects: z.string(),
			bank: z.string(),
			ends_in: z.string().regex(/^[A-Z0-9]{0,4}$/),
			signed: Time
		})
		.optional(),
	returned: z.array(z.object({ id: z.string(), cents: Cents, on: Time })),
	sign_at: z.url().optional(),
	pay_into: z.object({ holder: z.string(), iban: z.string(), message: z.string().default('') }).optional()
});

function readRequest(one: z.infer<typeof Request>): Report {
	const { request: object, on, fee, mandate, came } = one;
	const over = on.over ?? on.asked;
	const facts = factsOf(object, {
		pending: { at: on.signed },
		captured: { at: on.collected, minor: one.cents },
		failed: one.stage === 'refused' && { at: over, says: one.cause },
		expired: one.stage === 'ended' && { at: over },
		refunded: one.returned.map((back) => ({ at: back.on, minor: back.cents, object: back.id })),
		settled: { at: on.certain },
		returned: { at: on.bounced, says: one.cause },
		'paid out': { at: on.to_you, object: one.transfer_to_you }
	});
	return {
		processorId: object,
		ours: one.your_id,
		paid: {
			amount: { minor: one.cents, currency: one.currency },
			method: one.kind === 'debit' ? 'bank-debit' : 'credit-transfer'
		},
		facts,
		failure: one.cause,
		transfer: came && { text: came.words, from: came.from, iban: came.iban },
		mandate: mandate && {
			reference: mandate.ref,
			creditor: mandate.collects,
			bank: mandate.bank,
			last4: mandate.ends_in,
			signedAt: mandate.signed,
			use: mandate.use === 'again' ? 'recurring' : 'one time'
		},
		stored: mandate?.use === 'again' ? mandate.ref : undefined,
		fee: fee && {
			currency: fee.currency,
			fee: fee.cents,
			returned: 0,
			base: fee.from_cents,
			rate: fee.rate,
			label: fee.line
		},
		next: one.sign_at
			? { kind: 'page', address: one.sign_at }
			: one.pay_into
				? { kind: 'transfer', holder: one.pay_into.holder, iban: one.pay_into.iban, reference: one.pay_into.message }
				: undefined
	};
}

const { ask, wished, act, settle, fetch } = speaker({
	name: NAME,
	base: () => `${base()}/direct`,
	proof: ({ access = '', noticeToken }) => ({
		authorization: `Bearer ${access}`,
		...(noticeToken ? { 'quillon-notice-token': noticeToken } : {})
	}),
	keyHeader: 'quillon-once',
	payment: Request,
	read: readRequest,
	refusal: (json, acts) => readAs(NAME, Wrong, json, acts).note,
	storedEnded: (json) => Wrong.safeParse(json).data?.error === 'mandate_over',
	settled: settledAs('once', { done: 'done', working: 'working', never: 'never came' })
});

const Me = z.object({
	account: z.string(),
	name: z.string(),
	country: z.string().regex(/^[A-Z]{2}$/),
	currency: z.string().refine(isCurrency),
	zone: z.string(),
	trial: z.boolean(),
	scopes: z.array(z.string()),
	kinds: z.array(
		z.object({
			kind: z.enum(['debit', 'transfer']),
			status: z.enum(['on', 'off', 'in_approval']),
			bounds: z.array(z.object({ currency: z.string().refine(isCurrency), least: Cents, most: Cents })),
			repeated: z.boolean()
		})
	),
	message: z.object({ least: z.number().int(), most: z.number().int(), not: z.string() }),
	to_you: z.object({ bank_days: z.number().int(), before: z.string().regex(/^\d{2}:\d{2}$/) }),
	return_days: z.number().int()
});
const Settings = z.object({
	notifications: z.boolean(),
	payer_return: z.boolean(),
	tells: z.object({ address: z.string(), events: z.array(z.string()) }).nullable(),
	notice_token: z.enum(['right', 'unknown', 'ended', 'of the other kind', 'not sent'])
});
const Price = z.object({ permille: z.string().regex(/^\d{1,3}\.\d$/), never_less: Cents, never_more: Cents });
const Prices = z.object({
	since: z.iso.date(),
	debit: Price,
	transfer: Price,
	exchange_permille: z.string().regex(/^\d{1,3}\.\d$/)
});
/** Tenths of a thousandth, as `7.0`, in parts per million. */
const permille = (text: string) => Number(text.replace('.', '')) * 100;
const METHOD = { debit: 'bank-debit', transfer: 'credit-transfer' } as const;

const TOKEN: Partial<Record<z.infer<typeof Settings>['notice_token'], CredentialProblem>> = {
	unknown: {
		code: 'unknown',
		field: 'noticeToken',
		says: 'Quillon does not know this notice token. Copy it again from its settings page.'
	},
	ended: {
		code: 'revoked',
		field: 'noticeToken',
		says: 'This notice token has been replaced. Copy the current one from Quillon’s settings page.'
	},
	'of the other kind': {
		code: 'mode',
		field: 'noticeToken',
		says: 'Quillon says this notice token is of the other mode. Real and trial payments have one each.'
	},
	'not sent': { code: 'empty', field: 'noticeToken', says: 'Paste the notice token.' }
};
const FORMS: readonly CredentialForm[] = [
	{
		field: 'noticeToken',
		called: 'notice token',
		empty: 'Paste the notice token.',
		form: /^qn(?<mode>[rt])-(?<body>[a-z0-9]*)$/,
		unlike: 'This does not look like a notice token. It begins with qnr- or qnt-.',
		length: { signs: 26, where: 'signs after the dash' },
		modeOf: (told) => (told === 't' ? 'test' : 'live')
	}
];
const PROBLEMS: ProblemTable = {
	consent_gone: ['revoked', '', 'The consent at Quillon has ended. Give it once more on its page.'],
	access_over: ['expired', '', 'The consent at Quillon has expired. Give it once more on its page.'],
	scope: ['scope', '', 'The consent at Quillon is not wide enough. Give it once more, with every box ticked.']
};

const Note = z.object({
	note_id: z.string().min(1),
	what: z.string().min(1),
	request: Request.optional(),
	transfer: z
		.object({ id: z.string(), on: Time, requests: z.array(z.object({ request: z.string(), your_id: z.string() })) })
		.optional()
});

/** Quillon Direct: consent, and a notice token copied from its settings, where notifications are switched on by hand. */
export const quillon: Connector = {
	processor: 'quillon',
	name: NAME,
	way: 'consent and token',
	get console() {
		return `${base()}/console`;
	},
	about: {
		carries: 'Bank debits, and credit transfers that it matches to the payment.',
		methods: ['bank-debit', 'credit-transfer'],
		currencies: ['EUR', 'GBP'],
		countries: ['BE', 'NL', 'DE', 'FR', 'LU', 'AT', 'IE'],
		paysOut: 'Five bank days after the payment; a debit can come back for weeks.',
		charges: 'Under one percent, with a floor and a cap.',
		support: 'people@quillon.example, +32 9 555 03 11, answered on bank days.',
		get apply() {
			return `${base()}/console`;
		},
		asks: ['legalName', 'taxNumber', 'address', 'representative', 'bankAccount', 'delivery']
	},
	fields: [
		{
			name: 'noticeToken',
			label: 'Notice token',
			secret: true,
			where:
				'In Quillon’s console under Settings, below “Notice token”. Notifications are sealed with it. Switch notifications on there, too.',
			looks: 'qnr- for live or qnt- for test, then 26 small letters and digits.'
		}
	],
	consent,
	dialect: { kind: 'hex-hmac', header: 'quillon-seal' },
	sends,
	byHand: {
		where: 'In Quillon’s console under Settings: the address, a tick for each event, and the switch “notifications”.',
		names: NAMES,
		secretField: 'noticeToken'
	},

	inspect: (given, mode) => [
		...(given.access ? [] : [{ code: 'empty' as const, field: '', says: 'Give consent on Quillon’s page first.' }]),
		...inspectBy(FORMS, given, mode)
	],
	async verify(credentials, mode) {
		const [me, settings] = await Promise.all([ask(credentials, '/me'), ask(credentials, '/settings')]);
		if (me.status >= 400) {
			const { error: code, note: text } = readAs(NAME, Wrong, me.json);
			return [problemOf('Quillon', PROBLEMS, '', { code, text })];
		}
		const told = readAs(NAME, Me, me.json);
		if (told.trial !== (mode === 'test'))
			return [
				{ code: 'mode', field: '', says: `Quillon says this consent is for ${told.trial ? 'trial' : 'real'} payments.` }
			];
		const missing = scopesMissing(NAME, consent, told.scopes.join(' '));
		if (missing.length) return missing;
		const set = readAs(NAME, Settings, settings.json);
		const problems: CredentialProblem[] = [];
		const wrong = TOKEN[set.notice_token];
		if (wrong) problems.push(wrong);
		if (!set.notifications)
			problems.push({
				code: 'switch',
				field: 'notifications',
				says: 'Notifications are switched off at Quillon. Switch them on in its console, under Settings.'
			});
		if (!set.payer_return)
			problems.push({
				code: 'switch',
				field: 'payer return',
				says: 'The payer’s return is switched off at Quillon: payers would not come back to the shop. Switch it on in its console, under Settings.'
			});
		if (problems.length) return problems;
		const abilities: Ability[] = [];
		const unable: Unable[] = [];
		for (const one of told.kinds) {
			const method = METHOD[one.kind];
			if (one.status === 'on')
				abilities.push({
					method,
					currencies: one.bounds.map((bound) => bound.currency),
					entries: one.repeated ? ['online', 'recurring'] : ['online'],
					limits: one.bounds.map(({ currency, least, most }) => ({ currency, minimum: least, maximum: most }))
				});
			else
				unable.push(
					one.status === 'off'
						? { method, why: 'not enabled', says: 'It is switched off in Quillon’s console, under Settings.' }
						: { method, why: 'approval', says: 'Quillon’s approval is still awaited.' }
				);
		}
		return {
			id: told.account,
			name: told.name,
			country: told.country,
			settlement: told.currency,
			timeZone: told.zone,
			abilities,
			unable,
			schemes: [],
			descriptor: { min: told.message.least, max: told.message.most, forbidden: told.message.not },
			excludes: [],
			payout: { bankDays: told.to_you.bank_days, cutOff: told.to_you.before },
			refundDays: told.return_days,
			returns: { bankDays: 5, weeks: Math.round(told.return_days / 7) }
		};
	},
	async rateCard(credentials) {
		const told = await wished(credentials, '/prices', Prices);
		return {
			validFrom: told.since,
			card: RateCard.parse({
				settlement: 'EUR',
				rounding: 'total',
				mode: 'half-up',
				lines: (['debit', 'transfer'] as const).map((kind) => ({
					when: { method: METHOD[kind] },
					percentage: permille(told[kind].permille),
					fixed: 0,
					minimum: told[kind].never_less,
					maximum: told[kind].never_more
				})),
				conversion: permille(told.exchange_permille),
				refund: { keeps: 'all' }
			} satisfies z.input<typeof RateCard>)
		};
	},
	async rates(credentials, day) {
		const told = await wished(
			credentials,
			`/rates/${day}`,
			z.object({
				base: z.literal('EUR'),
				day: z.iso.date(),
				quotes: z.array(z.object({ currency: z.string(), euros: z.string() }))
			})
		);
		return told.quotes.map(({ currency, euros }) => ({
			day: told.day,
			from: currency,
			to: 'EUR',
			rate: euros,
			source: NAME
		}));
	},

	async subscribed(credentials, _hookId, address) {
		const told = await wished(credentials, '/settings', Settings);
		if (!told.tells || !told.notifications || told.tells.address !== address) return undefined;
		return noticesOf(told.tells.events);
	},
	async sendTestNotification(credentials) {
		const { status, json } = await ask(credentials, '/settings/try', { method: 'POST' });
		if (status >= 400) throw new ConnectorError('refused', `${NAME}: ${readAs(NAME, Wrong, json).note}`);
	},
	readNotification(body) {
		const { note_id, what, request, transfer } = readAs(NAME, Note, parseBody(NAME, body));
		return {
			eventId: note_id,
			topic: what,
			notice: what === 'hello_there' ? 'hello' : noticeOf(what),
			reports: reportsOf(
				request && readRequest(request),
				transfer && {
					id: transfer.id,
					at: transfer.on,
					payments: transfer.requests.map((one) => [one.request, one.your_id])
				}
			)
		};
	},

	charge: (credentials, asked) =>
		act(credentials, '/requests', asked.key, {
			body: {
				kind: asked.method === 'bank-debit' ? 'debit' : 'transfer',
				cents: asked.amount.minor,
				currency: asked.amount.currency,
				your_id: asked.ours,
				message: asked.descriptor,
				return_to: asked.returnTo,
				payer: asked.payer,
				...(asked.keep ? { again: true } : {}),
				...(asked.stored ? { mandate: asked.stored } : {})
			}
		}),
	stores: ['bank-debit'],
	async forget(credentials, token) {
		const { status, json } = await ask(credentials, `/mandates/${encodeURIComponent(token)}/end`, { method: 'POST' });
		if (status >= 400 && status !== 404)
			throw new ConnectorError('refused', `${NAME} refused: ${readAs(NAME, Wrong, json).note}`);
	},
	cancel: (credentials, { key, processorId }) =>
		act(credentials, `/requests/${encodeURIComponent(processorId)}/withdraw`, key, { body: {} }),
	refund: (credentials, { key, processorId, amount }) =>
		act(credentials, `/requests/${encodeURIComponent(processorId)}/return`, key, { body: { cents: amount.minor } }),
	settle: (credentials, key) => settle(credentials, `/once/${encodeURIComponent(key)}/settle`),
	fetch: (credentials, processorId) => fetch(credentials, `/requests/${encodeURIComponent(processorId)}`),

	async retire(credentials) {
		await wished(credentials, '/consent/end', z.object({ ended: z.boolean() }), { method: 'POST' });
	}
};
