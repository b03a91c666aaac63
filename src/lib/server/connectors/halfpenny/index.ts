import { z } from 'zod';
import { EEA, fundingOf, UNKNOWN, type ReportedCard } from '../../../core/cards';
import { RateCard } from '../../../core/fees';
import { isCurrency } from '../../../core/money';
import { ConnectorError, type Connector, type Report } from '../contract';
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
import { addressOf, minorIn, noticeNames, ppmOf, schemesNamed, speaker } from '../speaker';

const NAME = 'Halfpenny';
const base = addressOf('halfpenny', 5246);
const { sends, topicsOf, noticeOf, noticesOf } = noticeNames({
	captured: 'coin.in',
	failed: 'coin.refused',
	refunded: 'coin.out',
	disputed: 'coin.quarrel',
	settled: 'coin.counted',
	'paid-out': 'purse.sent'
});

/** Halfpenny counts in half minor units: an odd sum is none that a currency can hold. */
const Halfpennies = z.number().int().min(0);
function minorOf(halfpennies: number): number {
	if (halfpennies % 2) throw new ConnectorError('nonsense', `${NAME} told half a minor unit.`);
	return halfpennies / 2;
}
const Time = z.iso.datetime().transform((text) => Date.parse(text));
const Bad = z.object({ bad: z.string(), text: z.string().default('') });
const SCHEMES: Record<string, string> = { cor: 'corvid', mai: 'mainsail', tes: 'tessel', gil: 'gildern' };
const Card = z.object({
	scheme: z.string(),
	funding: z.string(),
	issuedIn: z.string(),
	lastFour: z.string().regex(/^\d{4}$/),
	expires: z.string().regex(/^\d{4}-\d{2}$/)
});
const readCard = (card: z.infer<typeof Card>): ReportedCard => ({
	scheme: SCHEMES[card.scheme] ?? UNKNOWN,
	funding: fundingOf([card.funding]),
	issuerCountry: /^[A-Z]{2}$/.test(card.issuedIn) ? card.issuedIn : UNKNOWN,
	last4: card.lastFour,
	expiry: card.expires
});
const Coin = z.object({
	coin: z.string(),
	tag: z.string(),
	state: z.enum(['new', 'in', 'refused']),
	halfpennies: Halfpennies,
	money: z.string().refine(isCurrency),
	card: Card.optional(),
	why: z.string().optional(),
	asked: Time,
	in: Time.optional(),
	refused: Time.optional(),
	counted: Time.optional(),
	purse: z.object({ id: z.string(), sent: Time.optional() }).optional(),
	keep: z
		.object({
			halfpennies: Halfpennies,
			of: Halfpennies,
			at: z.object({ day: z.string(), value: z.string() }).optional(),
			line: z.string()
		})
		.optional(),
	out: z.array(z.object({ id: z.string(), halfpennies: Halfpennies, at: Time })),
	quarrel: z.object({ halfpennies: Halfpennies, at: Time }).optional()
});

function readCoin(one: z.infer<typeof Coin>): Report {
	const { coin: object, keep } = one;
	const facts = factsOf(object, {
		captured: { at: one.in, minor: minorOf(one.halfpennies) },
		failed: one.state === 'refused' && { at: one.refused ?? one.asked, says: one.why },
		refunded: one.out.map((back) => ({ at: back.at, minor: minorOf(back.halfpennies), object: back.id })),
		disputed: one.quarrel && { at: one.quarrel.at, minor: minorOf(one.quarrel.halfpennies) },
		settled: { at: one.counted },
		'paid out': one.purse && { at: one.purse.sent, object: one.purse.id }
	});
	return {
		processorId: object,
		ours: one.tag,
		paid: { amount: { minor: minorOf(one.halfpennies), currency: one.money }, method: 'card' },
		facts,
		card: one.card && readCard(one.card),
		failure: one.why,
		fee: keep && {
			currency: 'EUR',
			fee: minorOf(keep.halfpennies),
			returned: 0,
			base: minorOf(keep.of),
			rate: keep.at,
			label: keep.line
		}
	};
}

const { ask, wished, act, settle, fetch, maybe } = speaker({
	name: NAME,
	base: () => `${base()}/hp`,
	proof: (given) => ({
		'halfpenny-public': given.publicKey ?? '',
		'halfpenny-secret': given.secretKey ?? ''
	}),
	keyHeader: 'halfpenny-stub',
	payment: Coin,
	read: readCoin,
	refusal: (json, acts) => readAs(NAME, Bad, json, acts).text,
	settled: settledAs('stub', { done: 'done', working: 'working', never: 'never' })
});

const Self = z.object({
	account: z.string(),
	name: z.string(),
	country: z.string().regex(/^[A-Z]{2}$/),
	settles: z.string().refine(isCurrency),
	zone: z.string(),
	trial: z.boolean(),
	key_of: z.iso.datetime(),
	cards: z.object({
		on: z.boolean(),
		allowed: z.boolean(),
		schemes: z.array(z.string()),
		funding: z.array(z.enum(['debit', 'credit', 'prepaid', 'commercial'])),
		issued: z.array(z.enum(['home', 'near', 'far'])),
		money: z.record(z.string().refine(isCurrency), z.tuple([Halfpennies, Halfpennies]))
	}),
	line: z.object({ least: z.number().int(), most: z.number().int(), never: z.string() }),
	beside: z.object({ never: z.array(z.string()) }),
	purse: z.object({
		after_days: z.number().int(),
		on: z.string(),
		before: z.string().regex(/^\d{2}:\d{2}$/),
		first_held_until: z.iso.date().nullable()
	}),
	out_days: z.number().int()
});
const REGION = { home: 'domestic', near: 'regional', far: 'international' } as const;
const Percent = z.string().regex(/^\d{1,2}\.\d{2}%$/);
const Prices = z.object({
	since: z.iso.date(),
	lines: z.array(z.string().regex(/^\d{1,2}\.\d{2}% \+ \d{1,3}\.\d{2} [A-Z]{3}$/)).length(1),
	abroad: Percent,
	out: z.literal('fee kept'),
	quarrel: z.string().regex(/^\d{1,4}\.\d{2} [A-Z]{3}, kept$/)
});

const PROBLEMS: ProblemTable = {
	secret: ['unknown', 'secretKey', 'Halfpenny knows no such secret key. Is it an old copy?'],
	'secret-revoked': [
		'revoked',
		'secretKey',
		'Halfpenny has revoked this secret key. Make a new one in its console and paste that.'
	],
	public: ['unknown', 'publicKey', 'Halfpenny knows no such public key. Is it from another place?'],
	'public-revoked': ['revoked', 'publicKey', 'Halfpenny has revoked this public key. Copy the current one.'],
	pair: ['other account', 'publicKey', 'The two keys are not a pair of one account and one mode.']
};
const keyForm = (field: string, kind: 'public' | 'secret', letters: 'HA' | 'HZ'): CredentialForm => ({
	field,
	called: `${kind} key`,
	empty: `Paste the ${kind} key.`,
	form: new RegExp(`^${letters}(?<mode>[01])(?<body>[A-Za-z0-9]*)$`),
	unlike: `This does not look like a Halfpenny key. A ${kind} key begins with ${letters}1 or ${letters}0.`,
	swapped: kind === 'public' ? { looks: /^HZ[01]/, called: 'secret key' } : { looks: /^HA[01]/, called: 'public key' },
	length: { signs: 22, where: `signs after ${letters}1 or ${letters}0` },
	modeOf: (told) => (told === '1' ? 'live' : 'test')
});
const FORMS = [keyForm('publicKey', 'public', 'HA'), keyForm('secretKey', 'secret', 'HZ')];
const Doorbell = z.object({ doorbell: z.string(), what: z.array(z.string()) });
const Event = z.object({
	no: z.string().min(1),
	what: z.string().min(1),
	coin: Coin.optional(),
	purse: z
		.object({ id: z.string(), at: Time, coins: z.array(z.object({ coin: z.string(), tag: z.string() })) })
		.optional()
});

/** Halfpenny: two keys, cheap cards of few schemes, slow payouts, and never beside Fernhall. */
export const halfpenny: Connector = {
	processor: 'halfpenny',
	name: NAME,
	way: 'two keys',
	get console() {
		return `${base()}/console`;
	},
	about: {
		carries: 'Debit and credit cards of two schemes, from home and neighbouring countries.',
		methods: ['card'],
		currencies: ['EUR', 'GBP'],
		countries: ['BE', 'NL', 'LU', 'FR'],
		paysOut: 'On Fridays, after seven days; the first payouts are held for a while.',
		charges: 'Cheap: one percentage and a small fixed part. Every fee is kept when money goes back.',
		support: 'till@halfpenny.example, answered within a week.',
		get apply() {
			return `${base()}/console`;
		},
		asks: ['legalName', 'address', 'representative', 'mail', 'bankAccount']
	},
	fields: [
		{
			name: 'publicKey',
			label: 'Public key',
			secret: false,
			where: 'In Halfpenny’s console, on the page of keys, the one that begins with HA.',
			looks: 'HA1 for live or HA0 for test, then 22 letters and digits.'
		},
		{
			name: 'secretKey',
			label: 'Secret key',
			secret: true,
			where:
				'In Halfpenny’s console, on the page of keys, the one that begins with HZ. It moves money: it is sealed here at once and never shown again.',
			looks: 'HZ1 for live or HZ0 for test, then 22 letters and digits.'
		}
	],
	dialect: { kind: 'hex-hmac', header: 'halfpenny-mac' },
	sends,

	inspect: (given, mode) => inspectBy(FORMS, given, mode),
	async verify(credentials, mode) {
		const { status, json } = await ask(credentials, '/self');
		if (status >= 400) {
			const { bad: code, text } = readAs(NAME, Bad, json);
			return [problemOf(NAME, PROBLEMS, 'secretKey', { code, text })];
		}
		const told = readAs(NAME, Self, json);
		if (told.trial !== (mode === 'test'))
			return [
				{ code: 'mode', field: 'secretKey', says: `Halfpenny says these are ${told.trial ? 'test' : 'live'} keys.` }
			];
		const { cards, purse } = told;
		const able = cards.on && cards.allowed;
		const schemes = cards.schemes.map((one) => SCHEMES[one]).filter((one): one is string => !!one);
		return {
			id: told.account,
			name: told.name,
			country: told.country,
			settlement: told.settles,
			timeZone: told.zone,
			keyMadeAt: Date.parse(told.key_of),
			abilities: able
				? [
						{
							method: 'card',
							currencies: Object.keys(cards.money),
							entries: ['online'],
							cardTypes: {
								schemes,
								fundings: cards.funding,
								regions: cards.issued.map((one) => REGION[one])
							},
							limits: Object.entries(cards.money).map(([currency, [from, to]]) => ({
								currency,
								minimum: minorOf(from),
								maximum: minorOf(to)
							}))
						}
					]
				: [],
			unable: able
				? []
				: [
						cards.allowed
							? { method: 'card', why: 'not enabled', says: 'Cards are switched off in Halfpenny’s console.' }
							: { method: 'card', why: 'approval', says: 'Halfpenny’s approval is still awaited.' }
					],
			schemes: schemesNamed(schemes),
			descriptor: { min: told.line.least, max: told.line.most, forbidden: told.line.never },
			excludes: told.beside.never,
			payout: {
				bankDays: purse.after_days,
				cutOff: purse.before,
				heldUntil: purse.first_held_until ?? undefined
			},
			refundDays: told.out_days
		};
	},
	async rateCard(credentials) {
		const told = await wished(credentials, '/prices', Prices);
		const [share = '', , fixed = '', currency = ''] = told.lines[0]!.split(' ');
		const [quarrel = ''] = told.quarrel.split(' ');
		return {
			validFrom: told.since,
			card: RateCard.parse({
				settlement: currency,
				rounding: 'total',
				mode: 'half-up',
				areas: [[...EEA]],
				lines: [
					{ when: { method: 'card' }, percentage: ppmOf(share.replace('%', '')), fixed: minorIn(fixed, currency) }
				],
				conversion: ppmOf(told.abroad.replace('%', '')),
				refund: { keeps: 'all' },
				dispute: { fee: minorIn(quarrel, currency), returnedWhenWon: false }
			} satisfies z.input<typeof RateCard>)
		};
	},
	async rates(credentials, day) {
		const told = await wished(
			credentials,
			`/exchange?day=${day}`,
			z.object({ day: z.iso.date(), lines: z.array(z.string().regex(/^[A-Z]{3} [A-Z]{3} [\d.]+$/)) })
		);
		return told.lines.map((line) => {
			const [from = '', to = '', rate = ''] = line.split(' ');
			return { day: told.day, from, to, rate, source: NAME };
		});
	},

	async listen(credentials, address, notices) {
		const told = await wished(credentials, '/doorbell', Doorbell.extend({ secret: z.string().min(8) }), {
			method: 'PUT',
			body: { at: address, what: topicsOf(notices) }
		});
		return { id: told.doorbell, secret: told.secret, notices: noticesOf(told.what) };
	},
	async unlisten(credentials, hookId) {
		await wished(credentials, `/doorbell/${encodeURIComponent(hookId)}`, z.object({ doorbell: z.null() }), {
			method: 'DELETE'
		});
	},
	async subscribed(credentials, hookId) {
		const told = await maybe(credentials, `/doorbell/${encodeURIComponent(hookId)}`, Doorbell);
		return told && noticesOf(told.what);
	},
	async sendTestNotification(credentials, hookId) {
		await wished(credentials, `/doorbell/${encodeURIComponent(hookId)}/knock`, z.object({ knocked: z.boolean() }), {
			method: 'POST'
		});
	},
	readNotification(body) {
		const { no, what, coin, purse } = readAs(NAME, Event, parseBody(NAME, body));
		return {
			eventId: no,
			topic: what,
			notice: what === 'knock' ? 'hello' : noticeOf(what),
			reports: reportsOf(
				coin && readCoin(coin),
				purse && { id: purse.id, at: purse.at, payments: purse.coins.map((one) => [one.coin, one.tag]) }
			)
		};
	},

	frame(credentials, _method, _mode, shopOrigin) {
		const asked = new URLSearchParams({ key: credentials.publicKey ?? '', shop: shopOrigin });
		return { origin: new URL(base()).origin, address: `${base()}/fields?${asked}` };
	},
	async readToken(credentials, token) {
		const told = await maybe(credentials, `/slip/${encodeURIComponent(token)}`, Card);
		return told && readCard(told);
	},
	charge: (credentials, asked) =>
		act(credentials, '/coins', asked.key, {
			body: {
				halfpennies: asked.amount.minor * 2,
				money: asked.amount.currency,
				slip: asked.token,
				tag: asked.ours,
				line: asked.descriptor
			}
		}),
	refund: (credentials, { key, processorId, amount }) =>
		act(credentials, `/coins/${encodeURIComponent(processorId)}/out`, key, { body: { halfpennies: amount.minor * 2 } }),
	settle: (credentials, key) => settle(credentials, `/stubs/${encodeURIComponent(key)}/settle`),
	fetch: (credentials, processorId) => fetch(credentials, `/coins/${encodeURIComponent(processorId)}`),

	async retire(credentials) {
		await wished(credentials, '/keys/revoke', z.object({ revoked: z.boolean() }), { method: 'POST' });
	}
};
