import { z } from 'zod';
import { DISCREPANCY_STATES, FEE_CAUSES, RateCard } from '../../core/fees';
import { CHECK_RULES, FACT_CODES, LineUpFile, METHODS, PLACES } from '../../core/lineup';
import { FIELD_KINDS, INVOICE_STATES, PREFILLED, TAX_CATEGORIES } from '../../core/billing';
import { PayerForm } from '../../core/payers';
import { PAYMENT_ACTS, STAGES } from '../../core/stages';
import { ORDER_STATES } from '../payments/orders';
import { PROBLEM_CODES } from './codes';
import { WAYS_RECEIVED } from '../payments/receipts';

/** What the interface takes and gives. The document at `openapi.json` is made of these, and so are the checks. */

const currency = z.string().regex(/^[A-Z]{3}$/, 'A currency code of three capital letters.');
const minor = z.number().int().min(1).max(1_000_000_000_000);
const country = z.string().regex(/^[A-Z]{2}$/, 'A country code of two capital letters.');

export const Asked = z
	.object({
		currency: currency.describe('ISO 4217'),
		amountMinor: minor.describe('whole minor units of the currency'),
		country: country.optional().describe('payer’s country, ISO 3166-1 alpha-2; left out where not known'),
		mail: z.email().optional().describe('a payer known here by mail: groups and online method are theirs'),
		payerMail: z.email().optional().describe('the former name of `mail`; still read'),
		groups: z.array(z.string()).optional().describe('names of groups; an empty list is a payer in none'),
		goods: z.string().max(120).optional(),
		delivery: z.string().max(120).optional(),
		domain: z.string().max(120).optional(),
		recurring: z.boolean().optional(),
		orderedBy: z.enum(['page', 'interface']).default('interface'),
		hasOnlineMethod: z.boolean().optional(),
		lineUp: z.enum(['published', 'draft']).default('published')
	})
	.strict();

const CardTypes = z.object({
	schemes: z.array(z.string()).or(z.literal('any')),
	fundings: z.array(z.string()).or(z.literal('any')),
	regions: z.array(z.string()).or(z.literal('any'))
});
export const OfferedWay = z.object({
	offer: z.string(),
	name: z.string(),
	note: z.string(),
	method: z.enum(METHODS),
	place: z.enum(PLACES),
	storing: z.boolean(),
	through: z.string().describe('name of the connection or offline method that carries it'),
	standby: z.boolean().describe('whether that is the standby'),
	cardTypes: CardTypes.optional()
});
export const WithheldWay = z.object({
	offer: z.string(),
	name: z.string(),
	reasons: z
		.array(
			z.object({
				check: z.enum(CHECK_RULES).describe('which of the nine checks failed'),
				code: z.enum(FACT_CODES).describe('why, as a stable code'),
				says: z.string().describe('the same as a sentence, for people')
			})
		)
		.min(1)
});
export const Answered = z.object({
	till: z.string(),
	version: z.number().int().nullable().describe('of the line-up; null for a draft'),
	offered: z.array(OfferedWay),
	withheld: z.array(WithheldWay)
});

export const TillSummary = z.object({
	till: z.string().describe('as addresses name it'),
	name: z.string(),
	kind: z.string(),
	mode: z.enum(['test', 'live']),
	currencies: z.array(z.string()),
	published: z.object({ version: z.number().int(), at: z.string(), by: z.string() }).nullable(),
	draft: z.object({ revision: z.number().int(), basedOn: z.number().int().nullable() }).nullable()
});
export const Tills = z.object({ tills: z.array(TillSummary) });
export const TillDetail = TillSummary.extend({
	lineUp: LineUpFile.nullable().describe('what is published'),
	draftLineUp: LineUpFile.nullable()
});

export const DraftPut = z
	.object({
		revision: z
			.number()
			.int()
			.min(0)
			.optional()
			.describe('the revision of the draft that was read, 0 where there was none; left out where If-Match tells it'),
		lineUp: LineUpFile
	})
	.strict();
export const DraftPutAnswer = z.object({ revision: z.number().int(), changes: z.array(z.string()) });
export const Publish = z
	.object({ revision: z.number().int().min(1), reason: z.string().max(300).default('') })
	.strict();
export const Published = z.object({ version: z.number().int() });

const webAddress = z.url({ protocol: /^https?$/ }).max(300);
const Address = z.strictObject({
	name: z.string().max(100).default(''),
	street: z.string().min(1).max(120),
	postcode: z.string().max(20).default(''),
	city: z.string().min(1).max(80),
	country
});

export const CheckoutPost = z
	.object({
		till: z.string().min(1).max(60),
		currency,
		amountMinor: minor,
		reference: z.string().trim().min(1).max(40),
		name: z.string().max(100).default(''),
		mail: z.email().or(z.literal('')).default(''),
		country: country.or(z.literal('')).default(''),
		purpose: z.string().max(120).default(''),
		goods: z.string().max(120).optional(),
		delivery: z.string().max(120).optional(),
		domain: z.string().max(120).optional(),
		recurring: z.boolean().optional(),
		lines: z
			.array(
				z.strictObject({
					name: z.string().trim().min(1).max(120),
					quantity: z.number().int().min(1).max(1_000_000).default(1),
					amountMinor: z.number().int().min(0).max(1_000_000_000_000).describe('of the whole line')
				})
			)
			.max(100)
			.default([])
			.describe('what the order is made of; where there is any, the lines add up to the sum'),
		address: Address.optional().describe('where it is delivered to; the payer is not asked for it again'),
		phone: z.string().max(40).default(''),
		language: z.enum(['en', 'nl', 'fr', 'de']).optional().describe('of the payer’s page'),
		returnTo: webAddress
			.optional()
			.describe(
				'where the payer goes on to after paying; `checkout`, `reference`, `state` and `sign` are added: the base64url HMAC-SHA-256 of the three, a line each, under the hex SHA-256 of your token'
			),
		cancelTo: webAddress.optional().describe('where a payer who gives up goes back to'),
		metadata: z
			.record(z.string().max(40), z.string().max(200))
			.default({})
			.describe('kept and told again, read by nobody here'),
		expiresAt: z.iso.datetime({ offset: true }).optional().describe('from when on it cannot be paid any more'),
		replace: z
			.boolean()
			.default(false)
			.describe(
				'whether an earlier order under this reference, with another sum or payer, is replaced; never one that is paid'
			)
	})
	.strict();
export const Checkout = z.object({
	checkout: z.number().int(),
	address: z.url().describe('where the payer pays; signed, and with nothing of the payer in it'),
	offered: z.number().int().describe('how many ways to pay the payer would meet there now')
});

export const CheckoutDetail = z.object({
	checkout: z.number().int(),
	till: z.string(),
	reference: z.string(),
	state: z.enum(ORDER_STATES),
	currency,
	amountMinor: z.number().int(),
	paidMinor: z.number().int().describe('what came and was not refunded'),
	name: z.string(),
	mail: z.string(),
	country: z.string(),
	purpose: z.string(),
	outsideReference: z.string().describe('what an outside program calls it'),
	released: z.boolean().describe('given out before it was paid, on account'),
	completed: z.boolean(),
	metadata: z.record(z.string(), z.string()),
	expiresAt: z.string().nullable(),
	createdAt: z.string(),
	address: z.url().nullable().describe('where it is paid; null once it cannot be'),
	payments: z.array(z.number().int()).describe('its payments, the newest first')
});
const next = z.string().nullable().describe('send it as `cursor` for the next page; null at the end');
export const Checkouts = z.object({ checkouts: z.array(CheckoutDetail), next });

export const PaymentDetail = z.object({
	payment: z.number().int(),
	checkout: z.number().int().nullable(),
	till: z.string().nullable(),
	reference: z.string(),
	mode: z.enum(['test', 'live']),
	stage: z.enum(STAGES),
	method: z.enum(METHODS),
	through: z.string().describe('name of the connection or offline method'),
	processorId: z.string().nullable(),
	currency,
	amountMinor: z.number().int().describe('what was asked'),
	capturedMinor: z.number().int(),
	refundedMinor: z.number().int(),
	disputedMinor: z.number().int(),
	refundableMinor: z.number().int(),
	feeCurrency: z.string().nullable(),
	expectedFeeMinor: z.number().int().nullable().describe('by the confirmed contract of the day'),
	chargedFeeMinor: z.number().int().nullable().describe('as the processor reports it'),
	failure: z.string(),
	card: z
		.object({ scheme: z.string(), funding: z.string(), issuerCountry: z.string(), last4: z.string().optional() })
		.nullable(),
	creditorReference: z.string(),
	transfer: z
		.object({
			holder: z.string(),
			iban: z.string(),
			bic: z.string(),
			reference: z.string(),
			leftMinor: z.number().int()
		})
		.nullable()
		.describe('where the payer transfers to, for the shop’s own mail'),
	acts: z
		.array(z.object({ act: z.enum(PAYMENT_ACTS), can: z.boolean(), why: z.string() }))
		.describe('what can be done with it now, each with its reason where it cannot'),
	createdAt: z.string(),
	capturedAt: z.string().nullable()
});
export const Payments = z.object({ payments: z.array(PaymentDetail), next });

const part = minor.optional().describe('a part of it; all where it is left out');
export const CapturePost = z.object({ amountMinor: part }).strict();
export const RefundPost = z.object({ amountMinor: part, reason: z.string().max(200).default('') }).strict();
export const VoidPost = z.object({}).strict();
export const ReceiptPost = z
	.object({
		amountMinor: minor,
		how: z.enum(WAYS_RECEIVED).default('credit transfer'),
		day: z.iso.date().optional().describe('in the business’s time zone; today where it is left out'),
		note: z.string().max(300).default('')
	})
	.strict();
export const OutsidePut = z.object({ outsideReference: z.string().max(80) }).strict();
export const Acted = z.object({
	outcome: z.enum(['done', 'asking']).describe('`asking`: the processor has not answered; read the payment again'),
	says: z.string(),
	payment: PaymentDetail
});

const rateCard = z.object({
	validFrom: z.string().describe('day in the account’s time zone'),
	card: RateCard
});
export const RateCards = z.object({
	rateCards: z.array(
		z.object({
			connection: z.string().describe('id of the connection'),
			name: z.string(),
			processor: z.string(),
			mode: z.enum(['test', 'live']),
			contract: rateCard.nullable().describe('what was confirmed: fees are held against it'),
			proposal: rateCard.nullable().describe('what the processor says, and nobody has confirmed')
		})
	)
});
export const SettlementFiles = z.object({
	settlementFiles: z.array(
		z.object({
			file: z.number().int(),
			name: z.string(),
			processor: z.string(),
			payments: z.number().int().describe('lines with a payment'),
			fresh: z.number().int().describe('of them not known before'),
			changed: z.number().int().describe('of them known, with something new of it'),
			declined: z.number().int().describe('declined attempts'),
			importedAt: z.string(),
			importedBy: z.string()
		})
	),
	next
});
export const Payer = z.object({
	payer: z.string(),
	name: z.string(),
	mail: z.string(),
	country: z.string().describe('ISO 3166-1 alpha-2; empty where not known'),
	online: z.enum(['', 'yes', 'no']).describe('whether they have an online method; empty where not known'),
	groups: z.array(z.string()).describe('names of their groups')
});
export const Payers = z.object({ payers: z.array(Payer), next });
export const StoredMethods = z.object({
	storedMethods: z
		.array(
			z.object({
				storedMethod: z.number().int(),
				method: z.string(),
				connection: z.string().describe('id of the connection whose processor keeps it'),
				mode: z.enum(['live', 'test']),
				state: z.enum(['active', 'suspended', 'ended']),
				isDefault: z.boolean().describe('it stands first when the payer pays'),
				scheme: z.string().describe('of a card; empty where there is none'),
				last4: z.string().describe('the last signs of the card or the account'),
				expires: z.string().describe('the last month of a card, YYYY-MM; empty where there is none'),
				mandate: z.string().describe('reference of a bank debit’s mandate; empty where there is none'),
				storedAt: z.string(),
				endedAt: z.string().nullable(),
				endedWhy: z.string()
			})
		)
		.describe('never a token, and never a number')
});
export const PayerPut = z
	.object({
		name: PayerForm.shape.name,
		mail: z.email().max(200),
		country: country.or(z.literal('')).optional().describe('stays as it is where it is left out'),
		online: z.enum(['', 'yes', 'no']).optional().describe('stays as it is where it is left out'),
		groups: z
			.array(z.string().trim().min(1).max(40))
			.max(50)
			.optional()
			.describe('names of groups that there are; they stay as they are where it is left out')
	})
	.strict();
export const Groups = z.object({ groups: z.array(z.object({ name: z.string(), payers: z.number().int() })) });

const decimal = z.string().regex(/^\d{1,12}(\.\d{1,8})?$/);
export const Invoice = z.object({
	invoice: z.string(),
	number: z.string().describe('given when it is approved; empty before'),
	state: z.enum(INVOICE_STATES),
	payer: z.string().nullable(),
	payerName: z.string(),
	till: z.string().nullable(),
	currency,
	day: z.string().nullable().describe('the day it was approved'),
	pricing: z.enum(['without tax', 'with tax']).describe('whether prices hold the tax'),
	lines: z.array(
		z.object({
			text: z.string(),
			quantity: z.string(),
			unit: z.string(),
			price: z.string(),
			tax: z.enum(TAX_CATEGORIES),
			ratePpm: z.number().int().describe('parts per million')
		})
	),
	netMinor: z.number().int(),
	taxMinor: z.number().int(),
	totalMinor: z.number().int(),
	placedMinor: z.number().int().describe('money that was placed on it'),
	creditedMinor: z.number().int(),
	promisedMinor: z.number().int().describe('money on its way'),
	openMinor: z.number().int().describe('total less placed and credited'),
	dues: z.array(z.object({ day: z.string(), minor: z.number().int(), openMinor: z.number().int() })),
	creditorReference: z.string().describe('ISO 11649; empty for a draft'),
	outsideReference: z.string(),
	address: z.string().nullable().describe('where its payer sees and pays it')
});
export const Invoices = z.object({ invoices: z.array(Invoice), next });
export const InvoicePost = z
	.object({
		payer: z.string().min(1).max(60).describe('id of the payer'),
		till: z.string().min(1).max(60).describe('the till at which it is paid'),
		currency,
		pricing: z.enum(['without tax', 'with tax']).optional().describe('the business’s own way where it is left out'),
		lines: z
			.array(
				z
					.object({
						code: z.string().max(40).optional().describe('a thing of the price list, which fills in what is left out'),
						text: z.string().min(1).max(300).optional(),
						quantity: decimal.optional().describe('1 where it is left out'),
						unit: z.string().max(20).optional(),
						price: decimal.optional(),
						tax: z.enum(TAX_CATEGORIES).optional(),
						ratePpm: z.number().int().min(0).max(1_000_000).optional()
					})
					.strict()
			)
			.min(1)
			.max(500),
		days: z.number().int().min(0).max(3650).optional().describe('days to pay'),
		reason: z.string().max(200).optional().describe('why something is exempt'),
		outsideReference: z.string().max(80).optional(),
		approve: z.boolean().optional().describe('it gets its number at once'),
		send: z
			.array(z.enum(['mail', 'text', 'page']))
			.max(3)
			.optional()
			.describe('approves it as well')
	})
	.strict();
export const PriceList = z.object({
	things: z.array(
		z.object({
			code: z.string(),
			name: z.string(),
			unit: z.string(),
			tax: z.enum(TAX_CATEGORIES),
			ratePpm: z.number().int(),
			pricing: z.enum(['without tax', 'with tax']),
			prices: z.array(z.object({ currency: z.string(), price: z.string() })),
			stock: z.number().int().nullable()
		})
	)
});

const asks = z.enum(['no', 'may', 'must']).optional().describe('whether the payer is asked, and has to answer');
const LinkGoods = z
	.object({
		code: z.string().min(1).max(40).describe('a thing of the price list'),
		most: z.number().int().min(1).max(999).describe('so many in one order'),
		isFixed: z.boolean().optional().describe('always part of the order')
	})
	.strict();
const LinkFieldOf = z
	.object({
		id: z.string().regex(/^[a-z0-9-]{1,20}$/),
		label: z.string().min(1).max(80),
		kind: z.enum(FIELD_KINDS),
		choices: z.array(z.string().min(1).max(80)).max(30).optional(),
		must: z.boolean().optional()
	})
	.strict();
export const PayLinkPut = z
	.object({
		revision: z
			.number()
			.int()
			.min(1)
			.optional()
			.describe('of the link as it was read; refused where it was changed since'),
		title: z.string().min(1).max(120).describe('what is paid for'),
		about: z.string().max(2_000).optional(),
		till: z.string().min(1).max(60).describe('the till whose line-up it uses'),
		currency,
		asksFor: z.enum(['goods', 'fixed sum', 'free sum']),
		fixedMinor: minor.optional().describe('of a fixed sum'),
		free: z
			.object({
				leastMinor: z.number().int().min(0).optional(),
				mostMinor: z.number().int().min(0).optional().describe('none where it is 0'),
				suggestedMinor: z.array(minor).max(6).optional()
			})
			.strict()
			.optional()
			.describe('of a free sum'),
		goods: z.array(LinkGoods).max(60).optional(),
		several: z.boolean().optional().describe('whether several kinds of goods may be chosen'),
		ways: z
			.array(z.string().max(60))
			.max(50)
			.optional()
			.describe('ids of offers it is narrowed to; all where it is empty'),
		fields: z.array(LinkFieldOf).max(12).optional(),
		asksName: asks,
		asksMail: asks,
		asksPhone: asks,
		asksAddress: asks,
		asksTaxNumber: asks,
		takesCodes: z.boolean().optional(),
		button: z.enum(['pay', 'book', 'donate', 'own']).optional(),
		ownButton: z.string().max(40).optional(),
		until: z.iso.date().nullable().optional().describe('the last day'),
		cap: z.number().int().min(1).max(1_000_000).nullable().optional().describe('so many orders in all'),
		holdMinutes: z.number().int().min(5).max(43_200).optional().describe('a place is held for an order not yet paid'),
		landing: z.enum(['receipt', 'own words', 'address']).optional(),
		landingText: z.string().max(1_000).optional(),
		landingAddress: z.string().max(300).optional(),
		sendsReceipt: z.boolean().optional(),
		tellsBusiness: z.boolean().optional()
	})
	.strict();
export const PayLink = PayLinkPut.required().extend({
	link: z.string(),
	address: z.string().describe('never changes'),
	fixedMinor: z.number().int(),
	free: z.object({
		leastMinor: z.number().int(),
		mostMinor: z.number().int(),
		suggestedMinor: z.array(z.number().int())
	}),
	goods: z.array(LinkGoods.required()),
	fields: z.array(LinkFieldOf.required()),
	until: z.iso.date().nullable(),
	cap: z.number().int().nullable(),
	isClosed: z.boolean(),
	visits: z.number().int(),
	starts: z.number().int().describe('orders that were begun'),
	orders: z.number().int(),
	paid: z.number().int().describe('orders that were paid'),
	left: z.number().int().nullable().describe('places left; null without a cap'),
	takenMinor: z.record(z.string(), z.number().int()).describe('by currency')
});
export const PayLinks = z.object({ links: z.array(PayLink) });
export const PrefilledPost = z
	.object({
		values: z
			.partialRecord(z.enum(PREFILLED), z.string().max(200))
			.optional()
			.describe('a sum is written with a point: 84.50'),
		fields: z
			.record(z.string().regex(/^[a-z0-9-]{1,20}$/), z.string().max(200))
			.optional()
			.describe('the link’s own fields')
	})
	.strict();
export const PrefilledAddress = z.object({
	address: z.string().describe('signed: what it fills in cannot be altered')
});

const month = z.string().regex(/^\d{4}-\d{2}$/);
export const Fees = z.object({
	currency,
	from: month,
	to: month,
	fees: z.array(
		z.object({
			month,
			connection: z.string().describe('id of the connection'),
			till: z.string().nullable().describe('the till, as addresses name it'),
			method: z.string(),
			currency: z.string().describe('in which payers paid'),
			scheme: z.string(),
			funding: z.string(),
			issuer: z.string(),
			entry: z.string(),
			payments: z.number().int(),
			grossMinor: z.number().int().describe('captured, in the account’s currency'),
			feeMinor: z.number().int().describe('charged, or expected where the processor has not told yet'),
			expectedMinor: z.number().int().describe('of those that the contract prices'),
			priced: z.number().int().describe('payments that the contract prices'),
			differenceMinor: z.number().int().describe('charged less expected, where both are known')
		})
	),
	accountMinor: z.number().int().describe('charges that belong to no payment')
});
export const Discrepancy = z.object({
	discrepancy: z.number().int(),
	connection: z.string(),
	cause: z.enum(FEE_CAUSES),
	parameter: z.string().describe('what was done instead: `region international`, `doubled`, parts per million'),
	says: z.string().describe('the same as a sentence, for people'),
	state: z.enum(DISCREPANCY_STATES),
	currency,
	firstDay: z.iso.date(),
	lastDay: z.iso.date(),
	payments: z.number().int(),
	charges: z.number().int().describe('charges of the account, where it is about those and not about payments'),
	overMinor: z.number().int(),
	underMinor: z.number().int(),
	correctedMinor: z.number().int(),
	leftMinor: z.number().int().describe('over less under less corrected')
});
export const Discrepancies = z.object({ discrepancies: z.array(Discrepancy) });

export const Routing = z.object({
	currency,
	from: z.iso.date(),
	to: z.iso.date(),
	payments: z.number().int(),
	todayMinor: z.number().int().describe('what the published line-ups cost'),
	cheapestMinor: z.number().int().nullable().describe('null where no arrangement keeps to the limits'),
	boundMinor: z.number().int().nullable().describe('no arrangement costs less'),
	isExact: z.boolean().describe('it is the cheapest there is, not only the cheapest found'),
	moves: z.array(
		z.object({
			till: z.string().describe('the till, as addresses name it'),
			method: z.string(),
			currency,
			from: z.string().describe('id of the connection'),
			to: z.string().describe('id of the connection'),
			payments: z.number().int(),
			savesMinor: z.number().int().describe('by itself, with all else as it is today')
		})
	)
});

export const ProblemDetails = z.object({
	type: z.string(),
	title: z.string(),
	status: z.number().int(),
	detail: z.string(),
	instance: z.string(),
	code: z.enum(PROBLEM_CODES).describe('a stable name of the problem'),
	faults: z.array(z.object({ pointer: z.string(), detail: z.string() })).optional()
});
