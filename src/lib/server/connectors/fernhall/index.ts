import { z } from 'zod';
import type { Ability } from '../../../core/lineup';
import type { Rate } from '../../../core/money';
import { ConnectorError, type Connector, type Notification, type Unable } from '../contract';
import { inspectBy, problemOf, reportsOf, settledAs, type CredentialForm, type ProblemTable } from '../described';
import { parseBody, readAs } from '../http';
import { addressOf, noticeNames, speaker } from '../speaker';
import {
	AbilitiesAnswer,
	AccountAnswer,
	CardAnswer,
	DomainAnswer,
	EventBody,
	FaultAnswer,
	fromThousandths,
	KeyAnswer,
	NAME,
	PaymentAnswer,
	PricesAnswer,
	readCard,
	readPayment,
	readPrices,
	TOPICS,
	toThousandths
} from './form';

const base = addressOf('fernhall', 5240);
const { sends, topicsOf, noticeOf, noticesOf } = noticeNames(TOPICS, 'account.changed');

const LETTERS = 'ABCDEFGHJKLMNPQRSTUVWXYZ23456789';
/** The last sign of a key checks the others, so that a cut or mistyped key is told without asking. */
const checkSign = (body: string) =>
	LETTERS[[...body].reduce((sum, sign, at) => (sum + LETTERS.indexOf(sign) * (2 * at + 1)) % 32, 0)];

const {
	ask,
	wished,
	act,
	settle,
	fetch: fetchOne,
	maybe
} = speaker({
	name: NAME,
	base: () => `${base()}/v1`,
	proof: (credentials) => ({ authorization: `Bearer ${credentials.secretKey}` }),
	keyHeader: 'idempotency-key',
	payment: PaymentAnswer,
	read: readPayment,
	refusal: (json, acts) => readAs(NAME, FaultAnswer, json, acts).text,
	storedEnded: (json) => FaultAnswer.safeParse(json).data?.fault === 'kept_ended',
	settled: settledAs('request', { done: 'done', working: 'under way', never: 'never came' })
});

const keyForm = (field: string, kind: 'public' | 'secret', letter: 'P' | 'S'): CredentialForm => ({
	field,
	called: `${kind} key`,
	empty: `Paste the ${kind} key.`,
	form: new RegExp(`^FH${letter}-(?<mode>[LT])-(?<body>[A-Z2-9]*)$`),
	unlike: `This does not look like a Fernhall key. A ${kind} key begins with FH${letter}-L- or FH${letter}-T-.`,
	swapped:
		kind === 'public' ? { looks: /^FHS-[LT]-/, called: 'secret key' } : { looks: /^FHP-[LT]-/, called: 'public key' },
	length: { signs: 28, where: `signs after FH${letter}-L- or FH${letter}-T-` },
	check: {
		fits: (body) => checkSign(body.slice(0, 27)) === body[27],
		says: 'A sign of the key is wrong: its check sign does not fit. Copy it instead of typing it.'
	},
	modeOf: (told) => (told === 'L' ? 'live' : 'test')
});
const FORMS = [keyForm('publicKey', 'public', 'P'), keyForm('secretKey', 'secret', 'S')];

/** Fernhall’s codes, of the box that they are about. */
const problemsOf = (field: 'publicKey' | 'secretKey'): ProblemTable => {
	const kind = field === 'publicKey' ? 'public' : 'secret';
	return {
		key_revoked: [
			'revoked',
			field,
			`Fernhall has revoked this ${kind} key. Make a new one in its console and paste that.`
		],
		key_unknown: ['unknown', field, `Fernhall knows no such ${kind} key. Is it from another place, or an old copy?`],
		key_public: ['swapped', field, 'Fernhall says this is a public key. The secret one is wanted here.']
	};
};
const problem = (field: 'publicKey' | 'secretKey', code: string, text = '') =>
	problemOf(NAME, problemsOf(field), field, { code, text });

/** Fernhall: two keys, cards in fields of its own, notifications by Standard Webhooks. */
export const fernhall: Connector = {
	processor: 'fernhall',
	name: NAME,
	get console() {
		return `${base()}/console`;
	},
	way: 'two keys',
	about: {
		carries: 'Cards, and Tapfold, a wallet on the payer’s device.',
		methods: ['card', 'device-wallet'],
		currencies: ['EUR', 'GBP', 'USD', 'CHF', 'JPY'],
		countries: ['BE', 'NL', 'DE', 'FR', 'AT', 'IE', 'LU', 'GB'],
		paysOut: 'Two business days after the payment.',
		charges: 'A percentage and a fixed part; dearer by region and for commercial cards. Nothing by the month.',
		support: 'support@fernhall.example, +32 2 555 01 40, answered on business days.',
		get apply() {
			return `${base()}/console`;
		},
		asks: ['legalName', 'legalForm', 'taxNumber', 'address', 'representative', 'domains', 'bankAccount']
	},
	dialect: { kind: 'standard-webhooks' },
	sends,
	fields: [
		{
			name: 'publicKey',
			label: 'Public key',
			secret: false,
			where:
				'In Fernhall’s console under Keys, in the row “public”. It may be seen by payers: it only opens the card fields.',
			looks: 'FHP-L- for live or FHP-T- for test, then 28 capitals and digits.'
		},
		{
			name: 'secretKey',
			label: 'Secret key',
			secret: true,
			where:
				'In Fernhall’s console under Keys, in the row “secret”. It moves money: it is sealed here at once and never shown again.',
			looks: 'FHS-L- for live or FHS-T- for test, then 28 capitals and digits.'
		}
	],

	inspect: (given, mode) => inspectBy(FORMS, given, mode),

	async verify(credentials, mode) {
		const [account, key, able] = await Promise.all([
			ask(credentials, '/account'),
			ask(credentials, `/keys/${encodeURIComponent(credentials.publicKey ?? '')}`),
			ask(credentials, '/abilities')
		]);
		if (account.status === 401 || account.status === 403) {
			const { fault, text } = readAs(NAME, FaultAnswer, account.json);
			return [problem('secretKey', fault, text)];
		}
		const told = readAs(NAME, AccountAnswer, account.json);
		if (key.status === 404) return [problem('publicKey', 'key_unknown')];
		const found = readAs(NAME, KeyAnswer, key.json);
		if (found.revoked) return [problem('publicKey', 'key_revoked')];
		if (!found.sameAccount)
			return [{ code: 'other account', field: 'publicKey', says: 'The two keys belong to different accounts.' }];
		if (told.mode !== mode || found.mode !== mode)
			return [{ code: 'mode', field: 'secretKey', says: `Fernhall says these are ${told.mode} keys.` }];
		const abilities = readAs(NAME, AbilitiesAnswer, able.json);
		const { cards, tapfold } = abilities;
		const regions = { home: 'domestic', neighbours: 'regional', elsewhere: 'international' } as const;
		const cardTypes = {
			schemes: cards.schemes.map((one) => one.id),
			fundings: cards.fundings,
			regions: cards.issued.map((one) => regions[one])
		};
		const limits = cards.sums.map(({ currency, from, to }) => ({
			currency,
			minimum: fromThousandths(from, currency),
			maximum: fromThousandths(to, currency)
		}));
		const carried: Ability[] = [];
		const unable: Unable[] = [];
		if (cards.on)
			carried.push({ method: 'card', currencies: cards.currencies, entries: cards.entry, cardTypes, limits });
		else
			unable.push({
				method: 'card',
				why: 'not enabled',
				says: 'Cards are switched off in Fernhall’s console, under Account.'
			});
		if (tapfold.on)
			carried.push({
				method: 'device-wallet',
				currencies: tapfold.currencies,
				entries: ['online'],
				cardTypes,
				limits: limits.filter((one) => tapfold.currencies.includes(one.currency)),
				wantsDomainProof: tapfold.wantsDomain
			});
		else
			unable.push({
				method: 'device-wallet',
				why: 'not enabled',
				says: 'Tapfold is switched off in Fernhall’s console, under Account.'
			});
		return {
			id: told.id,
			name: told.name,
			country: told.country,
			settlement: told.settles,
			timeZone: told.zone,
			keyMadeAt: Date.parse(told.keyMade),
			schemes: cards.schemes,
			abilities: carried,
			unable,
			descriptor: {
				min: abilities.statement.shortest,
				max: abilities.statement.longest,
				forbidden: abilities.statement.refused
			},
			excludes: abilities.notTogetherWith,
			payout: { bankDays: abilities.paysOut.afterBusinessDays, cutOff: abilities.paysOut.cutOff },
			refundDays: cards.refunds.withinDays
		};
	},

	async rateCard(credentials) {
		const prices = await wished(credentials, '/prices', PricesAnswer);
		return { validFrom: prices.since, card: readPrices(prices) };
	},

	async rates(credentials, day) {
		const told = await wished(
			credentials,
			`/rates?day=${day}`,
			z.object({ day: z.string(), to: z.string(), rates: z.record(z.string(), z.string()) })
		);
		return Object.entries(told.rates).map(([from, rate]): Rate => ({
			day: told.day,
			from,
			to: told.to,
			rate,
			source: NAME
		}));
	},

	mailsTrouble: true,
	async listen(credentials, address, notices, troubleMail = '') {
		const told = await wished(
			credentials,
			'/listener',
			z.object({ id: z.string(), secret: z.string().startsWith('whsec_'), topics: z.array(z.string()) }),
			{ method: 'PUT', body: { address, topics: topicsOf(notices), trouble_mail: troubleMail } }
		);
		return { id: told.id, secret: told.secret, notices: noticesOf(told.topics) };
	},
	async unlisten(credentials, hookId) {
		await wished(credentials, `/listener/${encodeURIComponent(hookId)}`, z.object({ removed: z.string() }), {
			method: 'DELETE'
		});
	},
	async subscribed(credentials, hookId) {
		const told = await maybe(
			credentials,
			`/listener/${encodeURIComponent(hookId)}`,
			z.object({ topics: z.array(z.string()) })
		);
		return told && noticesOf(told.topics);
	},
	async sendTestNotification(credentials, hookId) {
		await wished(credentials, `/listener/${encodeURIComponent(hookId)}/hello`, z.object({ sent: z.boolean() }), {
			method: 'POST'
		});
	},

	frame(credentials, method, _mode, shopOrigin) {
		const page = method === 'device-wallet' ? '/fields/wallet' : '/fields';
		const asked = new URLSearchParams({ key: credentials.publicKey ?? '', shop: shopOrigin });
		return { origin: new URL(base()).origin, address: `${base()}${page}?${asked}` };
	},
	async readToken(credentials, token) {
		const told = await maybe(credentials, `/tokens/${encodeURIComponent(token)}`, z.object({ card: CardAnswer }));
		return told && readCard(told.card);
	},

	charge: (credentials, { key, token, stored, keep, amount, ours, descriptor }) =>
		act(credentials, '/payments', key, {
			body: {
				sum: { currency: amount.currency, thousandths: toThousandths(amount.minor, amount.currency) },
				...(stored ? { kept: stored } : { token }),
				...(keep ? { keep: true } : {}),
				ours,
				descriptor
			}
		}),
	stores: ['card'],
	async forget(credentials, token) {
		const { status, json } = await ask(credentials, `/kept/${encodeURIComponent(token)}`, { method: 'DELETE' });
		if (status >= 400 && status !== 404)
			throw new ConnectorError('refused', `${NAME} refused: ${readAs(NAME, FaultAnswer, json).text}`);
	},
	refund: (credentials, { key, processorId, amount }) =>
		act(credentials, `/payments/${encodeURIComponent(processorId)}/refunds`, key, {
			body: { thousandths: toThousandths(amount.minor, amount.currency) }
		}),
	answerDispute: (credentials, { key, processorId, text, files }) =>
		act(credentials, `/payments/${encodeURIComponent(processorId)}/dispute`, key, {
			body: { text, files: files.map(({ name, content }) => ({ name, content })) }
		}),
	settle: (credentials, key) => settle(credentials, `/requests/${encodeURIComponent(key)}/settle`),
	fetch: (credentials, processorId) => fetchOne(credentials, `/payments/${encodeURIComponent(processorId)}`),

	async retire(credentials) {
		await wished(credentials, '/keys/revoke', z.object({ revoked: z.boolean() }), { method: 'POST' });
	},
	proof: {
		method: 'device-wallet',
		file: (credentials, domain) =>
			wished(credentials, `/domains/${encodeURIComponent(domain)}`, DomainAnswer, { method: 'PUT' }),
		async look(credentials, domain) {
			const told = await wished(credentials, `/domains/${encodeURIComponent(domain)}/look`, DomainAnswer, {
				method: 'POST'
			});
			return told.state === 'proven' ? '' : told.says || 'Fernhall did not say why.';
		}
	},

	readNotification(body): Notification {
		const { payment, payout, topic, id: eventId } = readAs(NAME, EventBody, parseBody(NAME, body));
		const reports = reportsOf(
			payment && readPayment(payment),
			payout && {
				id: payout.id,
				at: Date.parse(payout.at),
				payments: payout.payments.map((one) => [one.id, one.ours])
			}
		);
		const notice = topic === 'listener.hello' ? 'hello' : topic === 'account.changed' ? 'account' : noticeOf(topic);
		return { eventId, topic, notice, reports };
	}
};
