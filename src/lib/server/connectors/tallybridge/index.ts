import { z } from 'zod';
import { fundingOf, UNKNOWN, type ReportedCard } from '../../../core/cards';
import { RateCard } from '../../../core/fees';
import type { Ability } from '../../../core/lineup';
import { isCurrency, plainAmount, type Amount } from '../../../core/money';
import { consentAt, scopesMissing } from '../consent';
import type { Connector, CredentialProblem, Credentials, Mode, Report, Unable } from '../contract';
import { factsOf, problemOf, reportsOf, settledAs, type ProblemTable } from '../described';
import { parseBody, readAs } from '../http';
import { addressOf, minorIn, noticeNames, schemesNamed, speaker } from '../speaker';

const NAME = 'Tallybridge';
const base = addressOf('tallybridge', 5242);
const { sends, topicsOf, noticeOf, noticesOf } = noticeNames(
	{
		authorised: 'collection/reserved',
		captured: 'collection/received',
		failed: 'collection/refused',
		voided: 'collection/released',
		refunded: 'collection/sent-back',
		disputed: 'collection/contested',
		settled: 'collection/credited',
		'paid-out': 'withdrawal/made'
	},
	'account/changed'
);
const consent = consentAt(NAME, base, {
	account: 'accounts, abilities and prices could not be read.',
	collect: 'no payer could pay, and nothing could be refunded.',
	notices: 'notifications could not be set up.'
});

const Unit = z.string().refine(isCurrency);
const Worth = z.object({ value: z.string().regex(/^\d{1,12}(\.\d{1,3})?$/), unit: Unit });
const minorOf = ({ value, unit }: z.infer<typeof Worth>) => minorIn(value, unit);
const worthOf = (amount: Amount) => ({ value: plainAmount(amount), unit: amount.currency });
const Moment = z.iso.datetime().transform((text) => Date.parse(text));
const Sorry = z.object({ sorry: z.string(), because: z.string().default('') });
const Card = z.object({
	network: z.string(),
	class: z.string(),
	land: z.string(),
	ending: z.string().regex(/^\d{4}$/),
	until: z.string().regex(/^\d{4}-\d{2}$/)
});
const readCard = (card: z.infer<typeof Card>): ReportedCard => ({
	scheme: card.network || UNKNOWN,
	funding: fundingOf([card.class]),
	issuerCountry: /^[A-Z]{2}$/.test(card.land) ? card.land : UNKNOWN,
	last4: card.ending,
	expiry: card.until
});
const Collection = z.object({
	collection: z.string(),
	yourMark: z.string(),
	from: z.enum(['card', 'balance']),
	status: z.enum(['open', 'reserved', 'received', 'refused', 'released']),
	worth: Worth,
	card: Card.optional(),
	reason: z.string().optional(),
	moments: z.object({
		opened: Moment,
		reserved: Moment.optional(),
		received: Moment.optional(),
		closed: Moment.optional(),
		credited: Moment.optional(),
		withdrawn: Moment.optional()
	}),
	withdrawal: z.string().optional(),
	cost: z
		.object({
			worth: Worth,
			of: Worth,
			at: z.object({ day: z.string(), value: z.string() }).optional(),
			line: z.string()
		})
		.optional(),
	sentBack: z.array(z.object({ id: z.string(), worth: Worth, moment: Moment, costBack: Worth })),
	contested: z.object({ worth: Worth, moment: Moment }).optional(),
	continueAt: z.url().optional()
});

function readCollection(one: z.infer<typeof Collection>): Report {
	const { collection: object, moments, cost } = one;
	const minor = minorOf(one.worth);
	const over = moments.closed ?? moments.opened;
	const facts = factsOf(object, {
		authorised: { at: moments.reserved, minor },
		captured: { at: moments.received, minor },
		failed: one.status === 'refused' && { at: over, says: one.reason },
		voided: one.status === 'released' && { at: over },
		refunded: one.sentBack.map((back) => ({ at: back.moment, minor: minorOf(back.worth), object: back.id })),
		disputed: one.contested && { at: one.contested.moment, minor: minorOf(one.contested.worth) },
		settled: { at: moments.credited },
		'paid out': { at: moments.withdrawn, object: one.withdrawal }
	});
	return {
		processorId: object,
		ours: one.yourMark,
		paid: {
			amount: { minor, currency: one.worth.unit },
			method: one.from === 'card' ? 'card' : 'account-wallet'
		},
		facts,
		card: one.card && readCard(one.card),
		failure: one.reason,
		fee: cost && {
			currency: cost.worth.unit,
			fee: minorOf(cost.worth),
			returned: one.sentBack.reduce((sum, back) => sum + minorOf(back.costBack), 0),
			base: minorOf(cost.of),
			rate: cost.at,
			label: cost.line
		},
		next: one.continueAt ? { kind: 'page', address: one.continueAt } : undefined
	};
}

const { ask, wished, act, settle, fetch, maybe } = speaker({
	name: NAME,
	base: () => `${base()}/api/2`,
	proof: ({ access = '', account }) => ({
		authorization: `Bearer ${access}`,
		...(account ? { 'tally-account': account } : {})
	}),
	keyHeader: '',
	payment: Collection,
	read: readCollection,
	refusal: (json, acts) => readAs(NAME, Sorry, json, acts).because,
	settled: settledAs('key', { done: 'done', working: 'working', never: 'never came' })
});

const Accounts = z.object({
	mode: z.enum(['trial', 'real']),
	consented: z.array(z.string()),
	accounts: z.array(z.object({ id: z.string(), name: z.string(), land: z.string().regex(/^[A-Z]{2}$/), unit: Unit }))
});
const Abilities = z.object({
	account: z.object({
		id: z.string(),
		name: z.string(),
		land: z.string().regex(/^[A-Z]{2}$/),
		unit: Unit,
		zone: z.string()
	}),
	ways: z.array(
		z.object({
			way: z.enum(['balance', 'card']),
			status: z.enum(['open', 'switched off', 'awaiting approval']),
			units: z.array(Unit),
			span: z.array(z.object({ unit: Unit, lowest: z.string(), highest: z.string() })),
			entry: z.array(z.enum(['present', 'online', 'keyed', 'recurring'])),
			networks: z.array(z.string()).optional(),
			classes: z.array(z.enum(['debit', 'credit', 'prepaid', 'commercial'])).optional(),
			reservedDays: z.number().int().optional()
		})
	),
	statement: z.object({ from: z.number().int(), to: z.number().int(), without: z.string() }),
	withdrawals: z.object({
		days: z.number().int(),
		until: z.string().regex(/^\d{2}:\d{2}$/),
		rhythms: z.array(z.string()),
		rhythm: z.string()
	}),
	sendBackDays: z.number().int()
});
const Costs = z.object({
	since: z.iso.date(),
	unit: Unit,
	ways: z.array(z.object({ way: z.enum(['balance', 'card']), per10000: z.number().int(), flat: z.string() })).min(1),
	exchangePer10000: z.number().int(),
	contested: z.object({ flat: z.string() })
});
const METHOD = { balance: 'account-wallet', card: 'card' } as const;

const PROBLEMS: ProblemTable = {
	'no-consent': ['revoked', '', 'Tallybridge does not know this consent any more. Give it once more on its page.'],
	'consent-expired': ['expired', '', 'The consent at Tallybridge has expired. Give it once more on its page.'],
	'not-consented': [
		'scope',
		'',
		'The consent at Tallybridge is not wide enough. Give it once more, with every box ticked.'
	]
};
const problemsOf = (json: unknown): CredentialProblem[] => {
	const { sorry: code, because: text } = readAs(NAME, Sorry, json);
	return [problemOf(NAME, PROBLEMS, '', { code, text })];
};

async function accountsOf(credentials: Credentials, mode: Mode) {
	const { status, json } = await ask({ ...credentials, account: '' }, '/accounts');
	if (status >= 400) return problemsOf(json);
	const told = readAs(NAME, Accounts, json);
	if ((told.mode === 'trial') !== (mode === 'test'))
		return [{ code: 'mode' as const, field: '', says: `Tallybridge says this consent is for ${told.mode} payments.` }];
	const missing = scopesMissing(NAME, consent, told.consented.join(' '));
	return missing.length ? missing : told.accounts;
}

const Listener = z.object({ listener: z.string(), about: z.array(z.string()) });
const Event = z.object({
	greeting: z.string().min(1),
	about: z.string().min(1),
	collection: Collection.optional(),
	withdrawal: z
		.object({
			id: z.string(),
			moment: Moment,
			collections: z.array(z.object({ collection: z.string(), yourMark: z.string() }))
		})
		.optional()
});

/** Tallybridge: consent on its own page, several accounts behind one, an account wallet and cards. */
export const tallybridge: Connector = {
	processor: 'tallybridge',
	name: NAME,
	way: 'consent',
	get console() {
		return `${base()}/console`;
	},
	about: {
		carries: 'A wallet that payers hold at Tallybridge, and cards.',
		methods: ['account-wallet', 'card'],
		currencies: ['EUR', 'GBP', 'CHF', 'USD', 'JPY'],
		countries: ['BE', 'NL', 'DE', 'FR', 'AT', 'CH', 'GB', 'IE', 'LU'],
		paysOut: 'Three business days after the payment; daily, weekly or monthly.',
		charges: 'A dear percentage and a fixed part, and a high margin on other currencies.',
		support: 'help@tallybridge.example, answered within two days.',
		get apply() {
			return `${base()}/console`;
		},
		asks: ['legalName', 'address', 'representative', 'mail', 'industry', 'delivery']
	},
	fields: [],
	consent,
	chooser: {
		name: 'account',
		what: 'account',
		help: 'One consent opens several accounts. Each has a country, a currency of settlement and abilities of its own.',
		async list(credentials, mode) {
			const found = await accountsOf(credentials, mode);
			return found.map((one) =>
				'id' in one
					? { id: one.id, name: one.name, says: `${one.land}, settles in ${one.unit}`, country: one.land }
					: one
			) as never;
		}
	},
	dialect: { kind: 'shared-secret', header: 'tally-word' },
	sends,

	inspect: ({ access = '' }) =>
		access ? [] : [{ code: 'empty', field: '', says: 'Give consent on Tallybridge’s page first.' }],
	async verify(credentials, mode) {
		const [accounts, able] = await Promise.all([accountsOf(credentials, mode), ask(credentials, '/abilities')]);
		const wrong = accounts.filter((one): one is CredentialProblem => 'code' in one);
		if (wrong.length) return wrong;
		if (able.status === 404 || able.status === 400)
			return [
				{
					code: 'other account',
					field: 'account',
					says: 'This account is not behind the consent any more. Choose one.'
				}
			];
		if (able.status >= 400) return problemsOf(able.json);
		const told = readAs(NAME, Abilities, able.json);
		const abilities: Ability[] = [];
		const unable: Unable[] = [];
		for (const one of told.ways) {
			const method = METHOD[one.way];
			if (one.status === 'open')
				abilities.push({
					method,
					currencies: one.units,
					entries: one.entry,
					cardTypes: one.networks && { schemes: one.networks, fundings: one.classes ?? 'any', regions: 'any' },
					limits: one.span.map(({ unit, lowest, highest }) => ({
						currency: unit,
						minimum: minorIn(lowest, unit),
						maximum: minorIn(highest, unit)
					}))
				});
			else
				unable.push(
					one.status === 'switched off'
						? { method, why: 'not enabled', says: `It is switched off for ${told.account.name} at Tallybridge.` }
						: { method, why: 'approval', says: `Tallybridge still looks at it for ${told.account.name}.` }
				);
		}
		return {
			id: told.account.id,
			name: told.account.name,
			country: told.account.land,
			settlement: told.account.unit,
			timeZone: told.account.zone,
			abilities,
			unable,
			schemes: schemesNamed(told.ways.flatMap((one) => one.networks ?? [])),
			descriptor: { min: told.statement.from, max: told.statement.to, forbidden: told.statement.without },
			excludes: [],
			payout: {
				bankDays: told.withdrawals.days,
				cutOff: told.withdrawals.until,
				rhythms: told.withdrawals.rhythms,
				rhythm: told.withdrawals.rhythm
			},
			refundDays: told.sendBackDays,
			authorisationDays: told.ways.find((one) => one.way === 'card')?.reservedDays
		};
	},
	async rateCard(credentials) {
		const told = await wished(credentials, '/costs', Costs);
		return {
			validFrom: told.since,
			card: RateCard.parse({
				settlement: told.unit,
				rounding: 'total',
				mode: 'half-up',
				lines: told.ways.map((one) => ({
					when: { method: METHOD[one.way] },
					percentage: one.per10000 * 100,
					fixed: minorIn(one.flat, told.unit)
				})),
				conversion: told.exchangePer10000 * 100,
				refund: { keeps: 'fixed' },
				dispute: { fee: minorIn(told.contested.flat, told.unit), returnedWhenWon: false }
			} satisfies z.input<typeof RateCard>)
		};
	},
	async rates(credentials, day) {
		const told = await wished(
			credentials,
			`/rates?day=${day}`,
			z.object({ day: z.iso.date(), into: Unit, rates: z.record(z.string(), z.string()) })
		);
		return Object.entries(told.rates).map(([from, rate]) => ({
			day: told.day,
			from,
			to: told.into,
			rate,
			source: NAME
		}));
	},

	async listen(credentials, address, notices) {
		const told = await wished(credentials, '/listeners', Listener.extend({ word: z.string().min(8) }), {
			method: 'POST',
			body: { address, about: topicsOf(notices) }
		});
		return { id: told.listener, secret: told.word, notices: noticesOf(told.about) };
	},
	async unlisten(credentials, hookId) {
		await wished(credentials, `/listeners/${encodeURIComponent(hookId)}`, z.object({ listener: z.null() }), {
			method: 'DELETE'
		});
	},
	async subscribed(credentials, hookId) {
		const told = await maybe(credentials, `/listeners/${encodeURIComponent(hookId)}`, Listener);
		return told && noticesOf(told.about);
	},
	async sendTestNotification(credentials, hookId) {
		await wished(credentials, `/listeners/${encodeURIComponent(hookId)}/greet`, z.object({ greeted: z.boolean() }), {
			method: 'POST'
		});
	},
	readNotification(body) {
		const event = readAs(NAME, Event, parseBody(NAME, body));
		const { collection, withdrawal, about } = event;
		return {
			eventId: event.greeting,
			topic: about,
			notice: about === 'listener/greeting' ? 'hello' : about === 'account/changed' ? 'account' : noticeOf(about),
			reports: reportsOf(
				collection && readCollection(collection),
				withdrawal && {
					id: withdrawal.id,
					at: withdrawal.moment,
					payments: withdrawal.collections.map((one) => [one.collection, one.yourMark])
				}
			)
		};
	},

	frame(credentials, method, mode, shopOrigin) {
		if (method !== 'card') return undefined;
		const asked = new URLSearchParams({ key: `${credentials.account}~${mode}`, shop: shopOrigin });
		return { origin: new URL(base()).origin, address: `${base()}/fields?${asked}` };
	},
	async readToken(credentials, token) {
		const told = await maybe(credentials, `/cards/${encodeURIComponent(token)}`, Card);
		return told && readCard(told);
	},
	charge: (credentials, asked) =>
		act(credentials, `/collections/${encodeURIComponent(asked.key)}`, asked.key, {
			method: 'PUT',
			body: {
				from: asked.method === 'card' ? 'card' : 'balance',
				worth: worthOf(asked.amount),
				card: asked.token,
				yourMark: asked.ours,
				statement: asked.descriptor,
				reserve: asked.capture === 'later',
				backTo: asked.returnTo
			}
		}),
	capture: (credentials, { key, processorId, amount }) => later(credentials, processorId, 'receive', key, amount),
	cancel: (credentials, { key, processorId }) => later(credentials, processorId, 'release', key),
	refund: (credentials, { key, processorId, amount }) => later(credentials, processorId, 'send-back', key, amount),
	settle: (credentials, key) => settle(credentials, `/keys/${encodeURIComponent(key)}/settle`),
	fetch: (credentials, processorId) => fetch(credentials, `/collection/${encodeURIComponent(processorId)}`),

	async retire(credentials) {
		await wished(credentials, '/consent', z.object({ consent: z.null() }), { method: 'DELETE' });
	},
	async setRhythm(credentials, rhythm) {
		await wished(credentials, '/withdrawals', z.object({ rhythm: z.string() }), { method: 'PUT', body: { rhythm } });
	}
};

const later = (credentials: Credentials, id: string, what: string, key: string, amount?: Amount) =>
	act(credentials, `/collection/${encodeURIComponent(id)}/${what}/${encodeURIComponent(key)}`, key, {
		method: 'PUT',
		body: amount ? { worth: worthOf(amount) } : {}
	});
