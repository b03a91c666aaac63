import { z } from 'zod';
import type { Ability } from '../../../core/lineup';
import type { Rate } from '../../../core/money';
import type { Connector, CredentialProblem, Mode, Notification, Unable } from '../contract';
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
	settled: z
		.object({
			request: z.enum(['never came', 'under way', 'done']),
			status: z.number().int().optional(),
			answer: z.unknown().optional()
		})
		.transform(({ request, status, answer }) => ({ became: request, status, answer }))
});

function inspectOne(field: 'publicKey' | 'secretKey', value: string, mode: Mode): CredentialProblem | undefined {
	const kind = field === 'publicKey' ? 'public' : 'secret';
	const other = kind === 'public' ? 'secret' : 'public';
	if (!value) return { code: 'empty', field, says: `Paste the ${kind} key.` };
	const match = /^FH([PS])-([LT])-([A-Z2-9]*)$/.exec(value);
	if (!match)
		return {
			code: 'unknown',
			field,
			says: `This does not look like a Fernhall key. A ${kind} key begins with FH${kind === 'public' ? 'P' : 'S'}-L- or FH${kind === 'public' ? 'P' : 'S'}-T-.`
		};
	const [, letter, modeLetter, body = ''] = match;
	if ((letter === 'P') !== (kind === 'public'))
		return {
			code: 'swapped',
			field,
			says: `This is a ${other} key, in the box for the ${kind} key. The two are swapped.`
		};
	if (body.length < 28)
		return {
			code: 'truncated',
			field,
			says: `The key is cut short: ${body.length} of 28 signs after FH${letter}-${modeLetter}-. Copy the whole of it.`
		};
	if (body.length > 28)
		return {
			code: 'truncated',
			field,
			says: `The key is too long: ${body.length} signs where there are 28. Was something else copied with it?`
		};
	if (checkSign(body.slice(0, 27)) !== body[27])
		return {
			code: 'truncated',
			field,
			says: 'A sign of the key is wrong: its check sign does not fit. Copy it instead of typing it.'
		};
	const keyMode = modeLetter === 'L' ? 'live' : 'test';
	if (keyMode !== mode)
		return {
			code: 'mode',
			field,
			says: `This is a ${keyMode} key, and you are connecting for ${mode}. ${keyMode === 'test' ? 'No real money would ever come.' : 'Real cards would be charged.'}`
		};
	return undefined;
}

const problemOf = (fault: string, field: CredentialProblem['field']): CredentialProblem => {
	const kind = field === 'publicKey' ? 'public' : 'secret';
	if (fault === 'key_revoked')
		return {
			code: 'revoked',
			field,
			says: `Fernhall has revoked this ${kind} key. Make a new one in its console and paste that.`
		};
	return {
		code: 'unknown',
		field,
		says: `Fernhall knows no such ${kind} key. Is it from another place, or an old copy?`
	};
};

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

	inspect(credentials, mode) {
		return (['publicKey', 'secretKey'] as const)
			.map((field) => inspectOne(field, credentials[field] ?? '', mode))
			.filter((problem): problem is CredentialProblem => !!problem);
	},

	async verify(credentials, mode) {
		const [account, key, able] = await Promise.all([
			ask(credentials, '/account'),
			ask(credentials, `/keys/${encodeURIComponent(credentials.publicKey ?? '')}`),
			ask(credentials, '/abilities')
		]);
		if (account.status === 401 || account.status === 403)
			return [problemOf(readAs(NAME, FaultAnswer, account.json).fault, 'secretKey')];
		const told = readAs(NAME, AccountAnswer, account.json);
		if (key.status === 404) return [problemOf('key_unknown', 'publicKey')];
		const found = readAs(NAME, KeyAnswer, key.json);
		if (found.revoked) return [problemOf('key_revoked', 'publicKey')];
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

	async listen(credentials, address, notices) {
		const told = await wished(
			credentials,
			'/listener',
			z.object({ id: z.string(), secret: z.string().startsWith('whsec_'), topics: z.array(z.string()) }),
			{ method: 'PUT', body: { address, topics: topicsOf(notices) } }
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

	charge: (credentials, { key, token, amount, ours, descriptor }) =>
		act(credentials, '/payments', key, {
			body: {
				sum: { currency: amount.currency, thousandths: toThousandths(amount.minor, amount.currency) },
				token,
				ours,
				descriptor
			}
		}),
	refund: (credentials, { key, processorId, amount }) =>
		act(credentials, `/payments/${encodeURIComponent(processorId)}/refunds`, key, {
			body: { thousandths: toThousandths(amount.minor, amount.currency) }
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
		const reports = payment
			? [readPayment(payment)]
			: (payout?.payments ?? []).map((one) => ({
					processorId: one.id,
					ours: one.ours,
					facts: [{ kind: 'paid out' as const, at: Date.parse(payout!.at), object: payout!.id }]
				}));
		const notice = topic === 'listener.hello' ? 'hello' : topic === 'account.changed' ? 'account' : noticeOf(topic);
		return { eventId, topic, notice, reports };
	}
};
