import { z } from 'zod';
import { EEA, fundingOf, UNKNOWN, type Region, type ReportedCard } from '../../../core/cards';
import { RateCard } from '../../../core/fees';
import type { Ability } from '../../../core/lineup';
import { isCurrency, plainAmount } from '../../../core/money';
import { ConnectorError, type Account, type Connector, type Credentials, type Report, type Unable } from '../contract';
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

const NAME = 'Brackwater Acquiring';
const base = addressOf('brackwater', 5241);
const { sends, topicsOf, noticeOf, noticesOf } = noticeNames(
	{
		authorised: 'AUTH',
		captured: 'SALE',
		failed: 'DECLINE',
		voided: 'VOID',
		refunded: 'REFUND',
		disputed: 'CHARGEBACK',
		settled: 'SETTLED',
		'paid-out': 'PAYOUT'
	},
	'PROFILE'
);

const FUNDING = { DR: 'debit', CR: 'credit', PP: 'prepaid', CO: 'commercial' } as const;
const ENTRY = { CP: 'present', ECOM: 'online', MOTO: 'keyed' } as const;
const Decimal = z.string().regex(/^\d{1,9}\.\d{2}$/);
/** Times are seconds since 1970, to the millisecond, as a text. */
const Time = z
	.string()
	.regex(/^\d{1,12}\.\d{3}$/)
	.transform((text) => Math.round(Number(text) * 1000));
const Fault = z.object({ RESULT: z.literal('ERROR'), CODE: z.string(), TEXT: z.string().default('') });

const Card = z.object({
	SCHEME: z.string(),
	FUNDING: z.string(),
	ISSUER: z.string(),
	LAST4: z.string().regex(/^\d{4}$/),
	EXPIRY: z.string().regex(/^\d{4}$/)
});
const readCard = (card: z.infer<typeof Card>): ReportedCard => ({
	scheme: card.SCHEME.toLowerCase() || UNKNOWN,
	funding: fundingOf([FUNDING[card.FUNDING as 'DR'] ?? '']),
	issuerCountry: /^[A-Z]{2}$/.test(card.ISSUER) ? card.ISSUER : UNKNOWN,
	last4: card.LAST4,
	expiry: `20${card.EXPIRY.slice(2)}-${card.EXPIRY.slice(0, 2)}`
});

const Sale = z.object({
	REF: z.string(),
	YOURS: z.string(),
	KIND: z.enum(['CARD', 'BANK']),
	STATE: z.enum(['OPEN', 'AUTH', 'SOLD', 'DECLINED', 'VOID']),
	AMOUNT: Decimal,
	CCY: z.string().refine(isCurrency),
	CARD: Card.optional(),
	CARDREF: z.string().min(1).optional(),
	WHY: z.string().optional(),
	ASKED: Time,
	AUTHED: Time.optional(),
	SOLD: Time.optional(),
	CLOSED: Time.optional(),
	SETTLED: Time.optional(),
	PAID: Time.optional(),
	PAYOUT: z.string().optional(),
	FEE: z
		.object({
			CCY: z.string().refine(isCurrency),
			TOTAL: Decimal,
			FROM: Decimal,
			CLASS: z.string(),
			RATE: z.string().optional()
		})
		.optional(),
	REFUNDS: z.array(z.object({ REF: z.string(), AMOUNT: Decimal, AT: Time })),
	CHARGEBACK: z.object({ AMOUNT: Decimal, AT: Time }).optional(),
	GOTO: z.url().optional()
});

function readSale(sale: z.infer<typeof Sale>): Report {
	const minor = (text: string) => minorIn(text, sale.CCY);
	const over = sale.CLOSED ?? sale.ASKED;
	const facts = factsOf(sale.REF, {
		authorised: { at: sale.AUTHED, minor: minor(sale.AMOUNT) },
		captured: { at: sale.SOLD, minor: minor(sale.AMOUNT) },
		failed: sale.STATE === 'DECLINED' && { at: over, says: sale.WHY },
		voided: sale.STATE === 'VOID' && { at: over },
		refunded: sale.REFUNDS.map((one) => ({ at: one.AT, minor: minor(one.AMOUNT), object: one.REF })),
		disputed: sale.CHARGEBACK && { at: sale.CHARGEBACK.AT, minor: minor(sale.CHARGEBACK.AMOUNT) },
		settled: { at: sale.SETTLED },
		'paid out': { at: sale.PAID, object: sale.PAYOUT }
	});
	const { FEE: fee } = sale;
	const [value, day] = fee?.RATE?.split(' ') ?? [];
	return {
		processorId: sale.REF,
		ours: sale.YOURS,
		paid: { amount: { minor: minor(sale.AMOUNT), currency: sale.CCY }, method: METHOD[sale.KIND] },
		facts,
		card: sale.CARD && readCard(sale.CARD),
		failure: sale.WHY,
		stored: sale.CARDREF,
		fee: fee && {
			currency: fee.CCY,
			fee: minorIn(fee.TOTAL, fee.CCY),
			returned: 0,
			base: minorIn(fee.FROM, fee.CCY),
			rate: value && day ? { day, value } : undefined,
			label: fee.CLASS
		},
		next: sale.GOTO ? { kind: 'page', address: sale.GOTO } : undefined
	};
}

const { ask, wished, act, settle, fetch, maybe } = speaker({
	name: NAME,
	base: () => `${base()}/acq`,
	proof: ({ number = '', token = '' }) => ({
		authorization: `Basic ${Buffer.from(`${number}:${token}`).toString('base64')}`
	}),
	keyHeader: 'brackwater-order',
	payment: Sale,
	read: readSale,
	refusal: (json, acts) => readAs(NAME, Fault, json, acts).TEXT,
	storedEnded: (json) => Fault.safeParse(json).data?.CODE === 'E45',
	settled: settledAs(
		'ORDER',
		{ done: 'DONE', working: 'WORKING', never: 'NEVER' },
		{ status: 'STATUS', answer: 'ANSWER' }
	)
});

const Service = z.object({
	SERVICE: z.enum(['CARD', 'BANK']),
	ON: z.boolean(),
	APPROVED: z.boolean(),
	CCY: z.array(z.string().refine(isCurrency)),
	ENTRY: z.array(z.enum(['CP', 'ECOM', 'MOTO'])),
	SCHEMES: z.array(z.string()).optional(),
	FUNDING: z.array(z.enum(['DR', 'CR', 'PP', 'CO'])).optional(),
	LIMITS: z.array(z.tuple([z.string().refine(isCurrency), Decimal, Decimal])),
	AUTHDAYS: z.number().int().optional()
});
const Length = z.tuple([z.number().int(), z.number().int()]);
const Profile = z.object({
	NUMBER: z.string(),
	NAME: z.string(),
	COUNTRY: z.string().regex(/^[A-Z]{2}$/),
	SETTLES: z.string().refine(isCurrency),
	ZONE: z.string(),
	MODE: z.enum(['TRIAL', 'REAL']),
	TOKENDATE: z.iso.datetime(),
	SERVICES: z.array(Service),
	STATEMENT: z.object({ LONG: Length, SHORT: Length, NOT: z.string() }),
	PAYOUT: z.object({
		DAYS: z.number().int(),
		BEFORE: z.string().regex(/^\d{2}:\d{2}$/),
		RHYTHMS: z.array(z.string()),
		RHYTHM: z.string()
	}),
	REFUNDDAYS: z.number().int()
});

const METHOD = { CARD: 'card', BANK: 'bank-redirect' } as const;
function readProfile(told: z.infer<typeof Profile>): Account {
	const abilities: Ability[] = [];
	const unable: Unable[] = [];
	for (const one of told.SERVICES) {
		const method = METHOD[one.SERVICE];
		if (!one.ON || !one.APPROVED)
			unable.push(
				one.ON
					? { method, why: 'approval', says: 'Brackwater’s approval is still awaited.' }
					: { method, why: 'not enabled', says: 'The service is switched off in Brackwater’s console, under Services.' }
			);
		else
			abilities.push({
				method,
				currencies: one.CCY,
				entries: one.ENTRY.map((entry) => ENTRY[entry]),
				cardTypes: one.SCHEMES && {
					schemes: one.SCHEMES.map((scheme) => scheme.toLowerCase()),
					fundings: (one.FUNDING ?? []).map((funding) => FUNDING[funding]),
					regions: 'any'
				},
				limits: one.LIMITS.map(([currency, from, to]) => ({
					currency,
					minimum: minorIn(from, currency),
					maximum: minorIn(to, currency)
				}))
			});
	}
	const schemes = told.SERVICES.flatMap((one) => one.SCHEMES ?? []);
	const [min, max] = told.STATEMENT.LONG;
	const [shortMin, shortMax] = told.STATEMENT.SHORT;
	return {
		id: told.NUMBER,
		name: told.NAME,
		country: told.COUNTRY,
		settlement: told.SETTLES,
		timeZone: told.ZONE,
		keyMadeAt: Date.parse(told.TOKENDATE),
		abilities,
		unable,
		schemes: schemes.map((one) => ({ id: one.toLowerCase(), name: one[0]! + one.slice(1).toLowerCase() })),
		descriptor: { min, max, forbidden: told.STATEMENT.NOT },
		shortDescriptor: { min: shortMin, max: shortMax, forbidden: told.STATEMENT.NOT },
		excludes: [],
		payout: {
			bankDays: told.PAYOUT.DAYS,
			cutOff: told.PAYOUT.BEFORE,
			rhythms: told.PAYOUT.RHYTHMS.map((one) => one.toLowerCase()),
			rhythm: told.PAYOUT.RHYTHM.toLowerCase()
		},
		refundDays: told.REFUNDDAYS,
		authorisationDays: told.SERVICES.find((one) => one.SERVICE === 'CARD')?.AUTHDAYS
	};
}

const Share = z.string().regex(/^\d{1,2}\.\d{2}$/);
const Tariff = z.object({
	FROM: z.iso.date(),
	CCY: z.string().refine(isCurrency),
	ROUNDING: z.literal('EACH PART, HALF UP'),
	COSTS: z.array(
		z.tuple([
			z.string(),
			z.enum(['debit', 'credit', 'prepaid', 'commercial']),
			z.enum(['home', 'near', 'far']),
			Share,
			Share
		])
	),
	MARKUP: z.array(z.object({ UPTO: Decimal.nullable(), PCT: Share, EACH: Decimal })).min(1),
	BANK: z.object({ PCT: Share, EACH: Decimal }),
	EXCHANGE: Share,
	MONTH: Decimal,
	MONTHMIN: Decimal,
	REFUND: z.object({ KEEPS: z.enum(['ALL', 'FIXED', 'NOTHING']), EACH: Decimal }),
	DISPUTE: z.object({ EACH: Decimal, BACKIFWON: z.boolean() }),
	/** for an attempt that the issuer declines */
	DECLINED: z.object({ EACH: Decimal }).optional()
});
const REGION: Record<'home' | 'near' | 'far', Region> = {
	home: 'domestic',
	near: 'regional',
	far: 'international'
};

/** The tariff as a rate card: interchange plus, every part rounded, a markup by the month's volume. */
function readTariff(told: z.infer<typeof Tariff>): RateCard {
	const minor = (text: string) => minorIn(text, told.CCY);
	const markup = (step: z.infer<typeof Tariff>['MARKUP'][number]) => [
		{ when: { method: 'card' }, percentage: ppmOf(step.PCT), fixed: minor(step.EACH) },
		{ when: { method: 'bank-redirect' }, percentage: ppmOf(told.BANK.PCT), fixed: minor(told.BANK.EACH) }
	];
	return RateCard.parse({
		settlement: told.CCY,
		rounding: 'each',
		mode: 'half-up',
		areas: [[...EEA]],
		lines: markup(told.MARKUP[0]!),
		...(told.MARKUP.length > 1
			? {
					tiers: {
						way: 'whole' as const,
						steps: told.MARKUP.slice(1).map((step, at) => ({
							from: minor(told.MARKUP[at]!.UPTO!),
							lines: markup(step)
						}))
					}
				}
			: {}),
		costs: told.COSTS.map(([scheme, funding, place, interchange, schemeFee]) => ({
			scheme,
			funding,
			region: REGION[place],
			interchange: ppmOf(interchange),
			schemeFee: ppmOf(schemeFee)
		})),
		conversion: ppmOf(told.EXCHANGE),
		monthly: { fee: minor(told.MONTH), minimum: minor(told.MONTHMIN) },
		refund: {
			keeps: ({ ALL: 'all', FIXED: 'fixed', NOTHING: 'nothing' } as const)[told.REFUND.KEEPS],
			fee: minor(told.REFUND.EACH)
		},
		dispute: { fee: minor(told.DISPUTE.EACH), returnedWhenWon: told.DISPUTE.BACKIFWON },
		declined: told.DECLINED ? minor(told.DECLINED.EACH) : 0
	} satisfies z.input<typeof RateCard>);
}

const checkDigit = (nine: string) =>
	String(([...nine].reduce((sum, digit, at) => sum + Number(digit) * (at + 2), 0) % 11) % 10);

const FORMS: readonly CredentialForm[] = [
	{
		field: 'number',
		called: 'merchant number',
		empty: 'Type the merchant number.',
		form: /^(?<body>(?<mode>\d{0,2})\d*)$/,
		unlike: 'A merchant number has ten digits and nothing else; it begins with 73 for live or 99 for test.',
		swapped: { looks: /^[0-9a-f]{8}-/, called: 'token' },
		length: { signs: 10, where: 'digits' },
		check: {
			fits: (body) => checkDigit(body.slice(0, 9)) === body[9],
			says: 'A digit of the number is wrong: its check digit does not fit.'
		},
		modeOf: (told) => (({ 73: 'live', 99: 'test' }) as const)[told]
	},
	{
		field: 'token',
		called: 'token',
		empty: 'Paste the token.',
		form: /^(?<body>[0-9a-f-]+)$/,
		unlike: 'A token has digits, letters from a to f, and dashes.',
		swapped: { looks: /^\d{10}$/, called: 'merchant number' },
		check: {
			fits: (body) => /^([0-9a-f]{8}-){3}[0-9a-f]{8}$/.test(body),
			says: 'A token has four groups of eight signs with dashes between; this has not. Copy the whole of it.'
		}
	}
];
const PROBLEMS: ProblemTable = {
	E01: ['unknown', 'number', 'Brackwater has no such merchant number on file. Is it from another place?'],
	E02: ['unknown', 'token', 'Brackwater has no such token on file. Is it an old copy?'],
	E03: ['revoked', 'token', 'Brackwater has ended this token. Make a new one in its console and paste that.'],
	E04: [
		'other account',
		'token',
		'This token belongs to another merchant number. The two must be of one account and one mode.'
	]
};

const Callback = z.object({ CALLBACK: z.string(), TYPES: z.string(), SECRET: z.string().min(8) });
const done = z.object({ RESULT: z.literal('OK') });
const Event = z.object({
	EVENT: z.string().min(1),
	TYPE: z.string().min(1),
	TRANSACTION: Sale.optional(),
	PAYOUT: z
		.object({ REF: z.string(), AT: Time, TRANSACTIONS: z.array(z.object({ REF: z.string(), YOURS: z.string() })) })
		.optional()
});
const saleAct = (credentials: Credentials, processorId: string, what: string, key: string, amount?: string) =>
	act(credentials, `/sale/${encodeURIComponent(processorId)}/${what}`, key, { form: { AMOUNT: amount } });

/** Brackwater Acquiring: merchant number and token, forms in and capitals out, interchange plus. */
export const brackwater: Connector = {
	processor: 'brackwater',
	name: NAME,
	way: 'number and token',
	get console() {
		return `${base()}/console`;
	},
	about: {
		carries: 'Cards, at the counter and online, and payment from the payer’s own bank page.',
		methods: ['card', 'bank-redirect'],
		currencies: ['EUR', 'GBP'],
		countries: ['BE', 'NL', 'DE', 'FR', 'LU', 'IE', 'GB'],
		paysOut: 'One business day after the payment, daily or weekly.',
		charges: 'Interchange plus a markup that falls with the volume, and a fee by the month.',
		support: 'merchants@brackwater.example, +32 3 555 07 70, answered day and night.',
		get apply() {
			return `${base()}/console`;
		},
		asks: ['legalName', 'legalForm', 'taxNumber', 'address', 'representative', 'industry', 'bankAccount', 'phone']
	},
	fields: [
		{
			name: 'number',
			label: 'Merchant number',
			secret: false,
			where: 'In Brackwater’s console under CREDENTIALS, in the line MERCHANT NUMBER. It also stands on its letters.',
			looks: 'Ten digits: 73… for live, 99… for test.'
		},
		{
			name: 'token',
			label: 'Token',
			secret: true,
			where:
				'In Brackwater’s console under CREDENTIALS, in the line TOKEN beside the same number. It moves money: it is sealed here at once and never shown again.',
			looks: 'Four groups of eight digits and letters from a to f, with dashes.'
		}
	],
	dialect: { kind: 'hex-hmac', header: 'brackwater-digest' },
	sends,

	inspect: (given, mode) => inspectBy(FORMS, given, mode),
	async verify(credentials, mode) {
		const { status, json } = await ask(credentials, '/profile');
		if (status >= 400) {
			const { CODE: code, TEXT: text } = readAs(NAME, Fault, json);
			return [problemOf('Brackwater', PROBLEMS, 'token', { code, text })];
		}
		const told = readAs(NAME, Profile, json);
		const its = told.MODE === 'TRIAL' ? 'test' : 'live';
		if (its !== mode) return [{ code: 'mode', field: 'number', says: `Brackwater says this number is for ${its}.` }];
		return readProfile(told);
	},
	async rateCard(credentials) {
		const told = await wished(credentials, '/tariff', Tariff);
		return { validFrom: told.FROM, card: readTariff(told) };
	},
	async rates(credentials, day) {
		const told = await wished(
			credentials,
			`/rates/${day}`,
			z.object({ DAY: z.iso.date(), RATES: z.array(z.tuple([z.string(), z.string(), z.string()])) })
		);
		return told.RATES.map(([from, to, rate]) => ({ day: told.DAY, from, to, rate, source: NAME }));
	},

	async listen(credentials, address, notices) {
		const told = await wished(credentials, '/callback', Callback, {
			method: 'POST',
			form: { URL: address, TYPES: topicsOf(notices).join(',') }
		});
		return { id: told.CALLBACK, secret: told.SECRET, notices: noticesOf(told.TYPES.split(',')) };
	},
	async unlisten(credentials, hookId) {
		await wished(credentials, `/callback/${encodeURIComponent(hookId)}`, done, { method: 'DELETE' });
	},
	async subscribed(credentials, hookId) {
		const told = await maybe(credentials, `/callback/${encodeURIComponent(hookId)}`, z.object({ TYPES: z.string() }));
		return told && noticesOf(told.TYPES.split(','));
	},
	async sendTestNotification(credentials, hookId) {
		await wished(credentials, `/callback/${encodeURIComponent(hookId)}/echo`, done, { method: 'POST' });
	},
	readNotification(body) {
		const { EVENT, TYPE, TRANSACTION, PAYOUT } = readAs(NAME, Event, parseBody(NAME, body));
		const reports = reportsOf(
			TRANSACTION && readSale(TRANSACTION),
			PAYOUT && {
				id: PAYOUT.REF,
				at: PAYOUT.AT,
				payments: PAYOUT.TRANSACTIONS.map((one) => [one.REF, one.YOURS])
			}
		);
		return {
			eventId: EVENT,
			topic: TYPE,
			notice: TYPE === 'ECHO' ? 'hello' : TYPE === 'PROFILE' ? 'account' : noticeOf(TYPE),
			reports
		};
	},

	frame(credentials, method, _mode, shopOrigin) {
		if (method !== 'card') return undefined;
		const asked = new URLSearchParams({ key: credentials.number ?? '', shop: shopOrigin });
		return { origin: new URL(base()).origin, address: `${base()}/fields?${asked}` };
	},
	async readToken(credentials, token) {
		const told = await maybe(credentials, `/card/${encodeURIComponent(token)}`, z.object({ CARD: Card }));
		return told && readCard(told.CARD);
	},
	charge: (credentials, asked) =>
		act(credentials, '/sale', asked.key, {
			form: {
				AMOUNT: plainAmount(asked.amount),
				CCY: asked.amount.currency,
				KIND: asked.method === 'bank-redirect' ? 'BANK' : 'CARD',
				CARDTOKEN: asked.stored ? undefined : asked.token,
				CARDREF: asked.stored,
				KEEP: asked.keep ? 'YES' : undefined,
				YOURS: asked.ours,
				STATEMENT: asked.descriptor,
				CAPTURE: asked.capture === 'later' && asked.method === 'card' ? 'LATER' : undefined,
				RETURN: asked.returnTo
			}
		}),
	stores: ['card'],
	async forget(credentials, token) {
		const { status, json } = await ask(credentials, `/cardref/${encodeURIComponent(token)}/end`, { method: 'POST' });
		if (status >= 400 && status !== 404)
			throw new ConnectorError('refused', `${NAME} refused: ${readAs(NAME, Fault, json).TEXT}`);
	},
	capture: (credentials, { key, processorId, amount }) =>
		saleAct(credentials, processorId, 'capture', key, plainAmount(amount)),
	cancel: (credentials, { key, processorId }) => saleAct(credentials, processorId, 'void', key),
	refund: (credentials, { key, processorId, amount }) =>
		saleAct(credentials, processorId, 'refund', key, plainAmount(amount)),
	settle: (credentials, key) => settle(credentials, `/order/${encodeURIComponent(key)}/settle`),
	fetch: (credentials, processorId) => fetch(credentials, `/sale/${encodeURIComponent(processorId)}`),

	async retire(credentials) {
		await wished(credentials, '/token/end', done, { method: 'POST' });
	},
	async setRhythm(credentials, rhythm) {
		await wished(credentials, '/payout', done, { method: 'POST', form: { RHYTHM: rhythm.toUpperCase() } });
	}
};
