import { z, type ZodType } from 'zod';
import { bodyOf, EVENTS, exampleOf, HOOK_EVENTS } from '../../core/hooks';
import { DISCREPANCY_STATES, RateCard } from '../../core/fees';
import { LineUpFile, NamedOffer } from '../../core/lineup';
import { INVOICE_STATES } from '../../core/billing';
import { STAGES } from '../../core/stages';
import { CHANGE_LOG, TOLD } from './examples';
import { ORDER_STATES } from '../payments/orders';
import * as schemas from './schemas';

const NAMED = {
	Asked: schemas.Asked,
	Answered: schemas.Answered,
	Tills: schemas.Tills,
	TillSummary: schemas.TillSummary,
	TillDetail: schemas.TillDetail,
	LineUp: LineUpFile,
	NamedOffer,
	DraftPut: schemas.DraftPut,
	DraftPutAnswer: schemas.DraftPutAnswer,
	Publish: schemas.Publish,
	Published: schemas.Published,
	CheckoutPost: schemas.CheckoutPost,
	Checkout: schemas.Checkout,
	CheckoutDetail: schemas.CheckoutDetail,
	Checkouts: schemas.Checkouts,
	OutsidePut: schemas.OutsidePut,
	PaymentDetail: schemas.PaymentDetail,
	Payments: schemas.Payments,
	CapturePost: schemas.CapturePost,
	VoidPost: schemas.VoidPost,
	RefundPost: schemas.RefundPost,
	ReceiptPost: schemas.ReceiptPost,
	Acted: schemas.Acted,
	RateCard,
	RateCards: schemas.RateCards,
	RateCardOfConnection: schemas.RateCards.shape.rateCards.element,
	SettlementFiles: schemas.SettlementFiles,
	Payer: schemas.Payer,
	Payers: schemas.Payers,
	StoredMethods: schemas.StoredMethods,
	PayerPut: schemas.PayerPut,
	Groups: schemas.Groups,
	Invoice: schemas.Invoice,
	Invoices: schemas.Invoices,
	InvoicePost: schemas.InvoicePost,
	PriceList: schemas.PriceList,
	Fees: schemas.Fees,
	Discrepancy: schemas.Discrepancy,
	Discrepancies: schemas.Discrepancies,
	Routing: schemas.Routing,
	PayLink: schemas.PayLink,
	PayLinks: schemas.PayLinks,
	PayLinkPut: schemas.PayLinkPut,
	PrefilledPost: schemas.PrefilledPost,
	PrefilledAddress: schemas.PrefilledAddress,
	Problem: schemas.ProblemDetails
} as const satisfies Record<string, ZodType>;
/** What is sent, and what is read and sent back: what has a default may be left out of it. */
const SENT: readonly string[] = [
	'Asked',
	'LineUp',
	'NamedOffer',
	'DraftPut',
	'Publish',
	'CheckoutPost',
	'OutsidePut',
	'CapturePost',
	'VoidPost',
	'RefundPost',
	'ReceiptPost',
	'PayerPut',
	'InvoicePost',
	'PayLinkPut',
	'PrefilledPost'
];
type Name = keyof typeof NAMED;

/**
 * The schemas by name, each of which the others refer to by its name. A default is told in words: as a keyword, generators
 * of clients would make it required.
 * @param uri where a schema is referred to
 */
function namedSchemas(uri: (name: string) => string): Record<string, object> {
	const made = (io: 'input' | 'output') => {
		const registry = z.registry<{ id?: string }>();
		for (const [name, schema] of Object.entries(NAMED)) registry.add(schema, { id: name });
		return z.toJSONSchema(registry, { io, unrepresentable: 'any', uri }).schemas as Record<string, object>;
	};
	const [sent, told] = [made('input'), made('output')];
	return Object.fromEntries(
		Object.keys(NAMED).map((name) => {
			const {
				$schema: _,
				$id: __,
				...schema
			} = (SENT.includes(name) ? sent[name] : told[name]) as {
				$schema?: string;
				$id?: string;
			};
			return [name, withoutDefaults(schema)];
		})
	);
}
function withoutDefaults<T>(value: T): T {
	if (Array.isArray(value)) return value.map(withoutDefaults) as T;
	if (!value || typeof value !== 'object') return value;
	const { default: fallback, ...rest } = value as Record<string, unknown>;
	const own: Record<string, unknown> = Object.fromEntries(
		Object.entries(rest).map(([name, one]) => [
			name,
			// a property may well be called default
			name === 'properties'
				? Object.fromEntries(
						Object.entries(one as Record<string, unknown>).map(([key, each]) => [key, withoutDefaults(each)])
					)
				: withoutDefaults(one)
		])
	);
	if (fallback !== undefined && ['string', 'number', 'boolean'].includes(typeof fallback) && fallback !== '') {
		const says = `${String(fallback)} where it is left out`;
		own.description = typeof own.description === 'string' ? `${own.description}; ${says}` : says;
	}
	return own as T;
}

/** One schema by its name, as JSON Schema 2020-12 with an address of its own. */
export function schemaNamed(name: string, origin: string): object | undefined {
	const at = (one: string) => `${origin}/api/v1/schemas/${one}.json`;
	const schemas = namedSchemas(at);
	return Object.hasOwn(schemas, name)
		? { $schema: 'https://json-schema.org/draft/2020-12/schema', $id: at(name), title: name, ...schemas[name] }
		: undefined;
}

const ref = (name: Name) => ({ $ref: `#/components/schemas/${name}` });
const json = (name: Name, example?: object) => ({
	'application/json': { schema: ref(name), ...(example ? { example } : {}) }
});
const problem = (description: string) => ({
	description,
	content: { 'application/problem+json': { schema: ref('Problem') } }
});
const body = (name: Name, example?: object) => ({ required: true, content: json(name, example) });
const till = {
	name: 'till',
	in: 'path',
	required: true,
	description: 'the till, as its addresses name it',
	schema: { type: 'string' }
};

const inPath = (name: string, description: string) => ({
	name,
	in: 'path',
	required: true,
	description,
	schema: { type: 'string' }
});
const inQuery = (name: string, description: string, values?: readonly string[]) => ({
	name,
	in: 'query',
	required: false,
	description,
	schema: { type: 'string', ...(values ? { enum: values } : {}) }
});
const PAGED = [
	inQuery('cursor', '`next` of the page before'),
	{
		name: 'limit',
		in: 'query',
		required: false,
		description: 'how many, 1 to 100',
		schema: { type: 'integer', minimum: 1, maximum: 100, default: 20 }
	}
];
const match = {
	name: 'If-Match',
	in: 'header',
	required: false,
	description: 'the ETag of the till that was read; instead of `revision`',
	schema: { type: 'string' }
};

const key = {
	name: 'Idempotency-Key',
	in: 'header',
	required: false,
	description:
		'A request under a key is done once: sent again with the same body it gets the answer of the first one, marked idempotent-replayed.',
	schema: { type: 'string', pattern: '^[\\x21-\\x7e]{8,120}$' }
};

function operation(
	operationId: string,
	summary: string,
	answers: Record<string, { description: string; name: Name }>,
	{
		tag = 'Tills',
		sends,
		parameters = [],
		isAct = !!sends,
		mustKey = false,
		problems = [],
		conflict = 'The first request under this Idempotency-Key is still being worked on'
	}: {
		tag?: string;
		sends?: Name;
		parameters?: readonly object[];
		isAct?: boolean;
		mustKey?: boolean;
		problems?: readonly number[];
		conflict?: string;
	} = {}
) {
	const said: Record<number, string> = {
		400: 'A parameter, or the body, cannot be read',
		404: 'There is no such thing, or not for this token',
		412: 'The draft is at another revision than If-Match tells',
		428: 'Neither If-Match nor a revision was sent',
		409: conflict,
		422: 'The body is not as described, or the Idempotency-Key was used for another request'
	};
	const { description, sends: sent, answers: answered } = TOLD[operationId]!;
	return {
		operationId,
		summary,
		description,
		tags: [tag],
		...(isAct || parameters.length
			? { parameters: [...parameters, ...(isAct ? [{ ...key, required: mustKey }] : [])] }
			: {}),
		...(sends ? { requestBody: body(sends, sent) } : {}),
		responses: {
			...Object.fromEntries(
				Object.entries(answers).map(([status, { description, name }]) => [
					status,
					{ description, content: json(name, answered) }
				])
			),
			'401': problem('No token, or one that is unknown, expired or revoked'),
			'403': problem('The token may not be used for this'),
			'429': problem('Too many requests; Retry-After says when to come again'),
			...(sends
				? {
						'400': problem('The body is not JSON'),
						'413': problem('The body is too large'),
						'415': problem('The body is of another media type')
					}
				: {}),
			...(isAct ? { '409': problem(said[409]!), '422': problem(said[422]!) } : {}),
			...Object.fromEntries(problems.map((status) => [String(status), problem(said[status]!)]))
		}
	};
}

/** The interface as OpenAPI 3.1, made of the schemas that check it. */
export function openApi(origin: string): object {
	return {
		openapi: '3.1.0',
		info: {
			title: 'Just Purse',
			version: '1',
			summary: 'Orders, payments and what payers are offered',
			description: [
				'Amounts are whole minor units beside their currency. Moments are ISO 8601 in UTC, days those of the business.',
				'Problems are told as RFC 9457 says, each with a stable `code`. Requests that change something may carry an Idempotency-Key: sent again, they are done once.',
				'Changes:',
				...CHANGE_LOG.map(({ day, says }) => `- ${day}: ${says.join(' ')}`)
			].join('\n\n'),
			license: { name: 'For the business that runs this installation', identifier: 'LicenseRef-own-use' },
			contact: { name: 'Just Purse', url: `${origin}/docs/api` }
		},
		servers: [{ url: `${origin}/api/v1` }],
		security: [{ token: [] }],
		tags: [
			{ name: 'Tills', description: 'What payers are offered, and the line-ups behind it' },
			{ name: 'Checkouts', description: 'Orders, and the addresses at which they are paid' },
			{ name: 'Payments', description: 'What came for them, what it cost, and what goes back' },
			{ name: 'Fees', description: 'Rate cards, and files of past payments' },
			{ name: 'Events', description: 'What your endpoints are told as it happens' },
			{ name: 'Payers', description: 'Who pays, and the groups that offers can ask for' },
			{ name: 'Bill', description: 'Invoices, the price list they are made of, and pay links' }
		],
		paths: {
			'/tills': { get: operation('listTills', 'All tills', { '200': { description: 'the tills', name: 'Tills' } }) },
			'/tills/{till}': {
				parameters: [till],
				get: operation(
					'readTill',
					'A till with its line-ups',
					{ '200': { description: 'the till', name: 'TillDetail' } },
					{ problems: [404] }
				)
			},
			'/tills/{till}/draft': {
				parameters: [till],
				put: operation(
					'writeDraft',
					'Replaces the draft line-up',
					{ '200': { description: 'the draft as it is now', name: 'DraftPutAnswer' } },
					{
						sends: 'DraftPut',
						parameters: [match],
						problems: [404, 412, 428],
						conflict: 'It was changed since it was read'
					}
				),
				delete: {
					...operation(
						'discardDraft',
						'Throws the draft away; what is published stays',
						{},
						{ parameters: [match], problems: [404, 412, 428] }
					),
					responses: {
						'204': { description: 'there is no draft now' },
						...operation('discardDraft', '', {}, { problems: [404, 412, 428] }).responses
					}
				}
			},
			'/tills/{till}/publish': {
				parameters: [till],
				post: operation(
					'publish',
					'Puts the draft in force',
					{ '200': { description: 'the version in force', name: 'Published' } },
					{
						sends: 'Publish',
						problems: [404],
						conflict: 'It was changed since it was read, or cannot be published as it is'
					}
				)
			},
			'/tills/{till}/answer': {
				parameters: [till],
				post: operation(
					'answer',
					'What one payer is offered and what is withheld, with every reason',
					{ '200': { description: 'the answer', name: 'Answered' } },
					{ sends: 'Asked', problems: [404] }
				)
			},
			'/tills/{till}/versions/{version}/restore': {
				parameters: [till, inPath('version', 'number of an earlier version')],
				post: operation(
					'restoreVersion',
					'Puts an earlier version in force again, as a new one',
					{ '200': { description: 'the version in force', name: 'Published' } },
					{ isAct: true, problems: [404], conflict: 'It cannot be published as it is' }
				)
			},
			'/checkouts': {
				get: operation(
					'listCheckouts',
					'Checkouts, the newest first',
					{ '200': { description: 'a page of checkouts', name: 'Checkouts' } },
					{
						tag: 'Checkouts',
						parameters: [
							inQuery('reference', 'the shop’s own reference, whole'),
							inQuery('till', 'the till, as addresses name it'),
							inQuery('state', 'where they stand', ORDER_STATES),
							...PAGED
						],
						problems: [400]
					}
				),
				post: operation(
					'makeCheckout',
					'Makes a checkout for an order; the same order again gives the same checkout',
					{
						'200': { description: 'the checkout that was there', name: 'Checkout' },
						'201': { description: 'the checkout; Location is its own address', name: 'Checkout' }
					},
					{
						tag: 'Checkouts',
						sends: 'CheckoutPost',
						problems: [404],
						conflict:
							'The reference is another order at this till, which is not replaced: `replace` was not asked for, or it is paid or on its way'
					}
				)
			},
			'/checkouts/{checkout}': {
				parameters: [inPath('checkout', 'number of the checkout')],
				get: operation(
					'readCheckout',
					'A checkout: whether it is paid, and by which payments',
					{ '200': { description: 'the checkout', name: 'CheckoutDetail' } },
					{ tag: 'Checkouts', problems: [404] }
				)
			},
			'/checkouts/{checkout}/cancel': {
				parameters: [inPath('checkout', 'number of the checkout')],
				post: operation(
					'cancelCheckout',
					'Cancels a checkout that nothing was paid for',
					{ '200': { description: 'the checkout as it is now', name: 'CheckoutDetail' } },
					{ tag: 'Checkouts', isAct: true, problems: [404], conflict: 'It is paid, or its money is on its way' }
				)
			},
			'/checkouts/{checkout}/reference': {
				parameters: [inPath('checkout', 'number of the checkout')],
				put: operation(
					'setReference',
					'Sets what an outside program calls the order; an empty text takes it away',
					{ '200': { description: 'the checkout as it is now', name: 'CheckoutDetail' } },
					{ tag: 'Checkouts', sends: 'OutsidePut', problems: [404] }
				)
			},
			'/fees': {
				get: operation(
					'readFees',
					'Fees by month and kind of payment',
					{ '200': { description: 'the fees', name: 'Fees' } },
					{
						tag: 'Fees',
						parameters: [
							inQuery('from', 'the first month, such as 2026-01; the last whole one where it is left out'),
							inQuery('to', 'the last month'),
							inQuery('currency', 'the accounts’ currency; the business’s own where it is left out')
						],
						problems: [400]
					}
				)
			},
			'/discrepancies': {
				get: operation(
					'listDiscrepancies',
					'What was charged otherwise than agreed',
					{ '200': { description: 'the discrepancies', name: 'Discrepancies' } },
					{ tag: 'Fees', parameters: [inQuery('state', 'where they stand', DISCREPANCY_STATES)], problems: [400] }
				)
			},
			'/discrepancies/{discrepancy}': {
				parameters: [inPath('discrepancy', 'number of the discrepancy')],
				get: operation(
					'readDiscrepancy',
					'A discrepancy',
					{ '200': { description: 'the discrepancy', name: 'Discrepancy' } },
					{ tag: 'Fees', problems: [404] }
				)
			},
			'/routing': {
				get: operation(
					'readRouting',
					'The cheapest routing',
					{ '200': { description: 'the cheapest routing of past payments', name: 'Routing' } },
					{
						tag: 'Fees',
						parameters: [
							inQuery('from', 'the first day; a year before the last one where it is left out'),
							inQuery('to', 'the last day; that of the last payment where it is left out'),
							inQuery('most', 'so many connections are kept at most')
						],
						problems: [400]
					}
				)
			},
			'/rate-cards': {
				get: operation(
					'listRateCards',
					'Rate cards of every connection',
					{ '200': { description: 'the rate cards', name: 'RateCards' } },
					{ tag: 'Fees' }
				)
			},
			'/rate-cards/{connection}': {
				parameters: [inPath('connection', 'id of the connection')],
				get: operation(
					'readRateCard',
					'The rate card of a connection',
					{ '200': { description: 'the rate card', name: 'RateCardOfConnection' } },
					{ tag: 'Fees', problems: [404] }
				)
			},
			'/settlement-files': {
				get: operation(
					'listSettlementFiles',
					'Settlement files, the newest first',
					{ '200': { description: 'a page of files', name: 'SettlementFiles' } },
					{ tag: 'Fees', parameters: [inQuery('cursor', '`next` of the page before')], problems: [400] }
				)
			},
			'/payers': {
				get: operation(
					'listPayers',
					'Payers by name',
					{ '200': { description: 'a page of payers', name: 'Payers' } },
					{
						tag: 'Payers',
						parameters: [
							inQuery('text', 'a part of a name or a mail address'),
							inQuery('cursor', '`next` of the page before')
						],
						problems: [400]
					}
				),
				post: operation(
					'putPayer',
					'Adds a payer, or changes the one of this mail address',
					{
						'200': { description: 'the payer as changed', name: 'Payer' },
						'201': { description: 'the payer that was added; Location is its own address', name: 'Payer' }
					},
					{ tag: 'Payers', sends: 'PayerPut' }
				)
			},
			'/payers/{payer}': {
				parameters: [inPath('payer', 'id of the payer')],
				get: operation(
					'readPayer',
					'A payer',
					{ '200': { description: 'the payer', name: 'Payer' } },
					{ tag: 'Payers', problems: [404] }
				)
			},
			'/payers/{payer}/stored-methods': {
				parameters: [inPath('payer', 'id of the payer')],
				get: operation(
					'listStoredMethods',
					'What a payer lets processors keep',
					{
						'200': {
							description: 'the stored methods, the default one first, what has ended last',
							name: 'StoredMethods'
						}
					},
					{ tag: 'Payers', problems: [404] }
				)
			},
			'/groups': {
				get: operation(
					'listGroups',
					'Groups of payers',
					{ '200': { description: 'the groups', name: 'Groups' } },
					{ tag: 'Payers' }
				)
			},
			'/invoices': {
				get: operation(
					'listInvoices',
					'Invoices, the newest first',
					{ '200': { description: 'a page of invoices', name: 'Invoices' } },
					{
						tag: 'Bill',
						parameters: [
							inQuery('state', 'where they are', INVOICE_STATES),
							inQuery('payer', 'id of a payer'),
							inQuery('text', 'how a number, an outside reference or a payer’s name begins'),
							inQuery('cursor', '`next` of the page before')
						],
						problems: [400]
					}
				),
				post: operation(
					'writeInvoice',
					'Writes an invoice, and approves or sends it where that is asked',
					{ '201': { description: 'the invoice; Location is its own address', name: 'Invoice' } },
					{ tag: 'Bill', sends: 'InvoicePost', isAct: true, conflict: 'It stays a draft: the detail says why' }
				)
			},
			'/invoices/{invoice}': {
				parameters: [inPath('invoice', 'id of the invoice')],
				get: operation(
					'readInvoice',
					'An invoice',
					{ '200': { description: 'the invoice', name: 'Invoice' } },
					{ tag: 'Bill', problems: [404] }
				)
			},
			'/price-list': {
				get: operation(
					'listPrices',
					'The price list',
					{ '200': { description: 'things and charges', name: 'PriceList' } },
					{ tag: 'Bill' }
				)
			},
			'/pay-links': {
				get: operation(
					'listPayLinks',
					'Pay links, the one changed last first',
					{ '200': { description: 'the links with what they have brought', name: 'PayLinks' } },
					{ tag: 'Bill' }
				),
				post: operation(
					'makePayLink',
					'Makes a pay link',
					{ '201': { description: 'the link; Location is its own address', name: 'PayLink' } },
					{ tag: 'Bill', sends: 'PayLinkPut', isAct: true }
				)
			},
			'/pay-links/{link}': {
				parameters: [inPath('link', 'id of the link')],
				get: operation(
					'readPayLink',
					'A pay link',
					{ '200': { description: 'the link with what it has brought', name: 'PayLink' } },
					{ tag: 'Bill', problems: [404] }
				),
				put: operation(
					'putPayLink',
					'Changes what the same address shows',
					{ '200': { description: 'the link as changed', name: 'PayLink' } },
					{
						tag: 'Bill',
						sends: 'PayLinkPut',
						problems: [404],
						conflict: 'The link was changed since it was read'
					}
				)
			},
			'/pay-links/{link}/close': {
				parameters: [inPath('link', 'id of the link')],
				post: operation(
					'closePayLink',
					'Closes a pay link; its address then says so',
					{ '200': { description: 'the link', name: 'PayLink' } },
					{ tag: 'Bill', problems: [404] }
				)
			},
			'/pay-links/{link}/open': {
				parameters: [inPath('link', 'id of the link')],
				post: operation(
					'openPayLink',
					'Opens a closed pay link again',
					{ '200': { description: 'the link', name: 'PayLink' } },
					{ tag: 'Bill', problems: [404] }
				)
			},
			'/pay-links/{link}/prefilled': {
				parameters: [inPath('link', 'id of the link')],
				post: operation(
					'makePrefilledAddress',
					'Makes an address that fills in what one payer is asked, signed',
					{ '200': { description: 'the address', name: 'PrefilledAddress' } },
					{ tag: 'Bill', sends: 'PrefilledPost', problems: [404] }
				)
			},
			'/payments': {
				get: operation(
					'listPayments',
					'Payments, the newest first',
					{ '200': { description: 'a page of payments', name: 'Payments' } },
					{
						tag: 'Payments',
						parameters: [
							inQuery('reference', 'the shop’s own reference, whole'),
							inQuery('till', 'the till, as addresses name it'),
							inQuery('stage', 'how far they have come', STAGES),
							inQuery('checkout', 'number of a checkout'),
							...PAGED
						],
						problems: [400]
					}
				)
			},
			'/payments/{payment}': {
				parameters: [inPath('payment', 'number of the payment')],
				get: operation(
					'readPayment',
					'A payment: how far it has come, what it cost, what can be done with it',
					{ '200': { description: 'the payment', name: 'PaymentDetail' } },
					{ tag: 'Payments', problems: [404] }
				)
			},
			...Object.fromEntries(
				(
					[
						['capture', 'capturePayment', 'Captures what is held, whole or in part', 'CapturePost'],
						['void', 'voidPayment', 'Voids what is held', 'VoidPost'],
						['refunds', 'refundPayment', 'Refunds a payment, whole or in part', 'RefundPost'],
						['receipts', 'recordReceipt', 'Records what was received for an offline payment', 'ReceiptPost']
					] as const
				).map(([path, id, summary, sends]) => [
					`/payments/{payment}/${path}`,
					{
						parameters: [inPath('payment', 'number of the payment')],
						post: operation(
							id,
							summary,
							{ '200': { description: 'what came of it, and the payment as it is now', name: 'Acted' } },
							{
								tag: 'Payments',
								sends,
								mustKey: true,
								problems: [404],
								conflict: 'It cannot be done; the detail says why'
							}
						)
					}
				])
			)
		},
		// what endpoints are told: each is sent to them, not asked for
		webhooks: Object.fromEntries(
			HOOK_EVENTS.map((kind) => [
				kind,
				{
					post: {
						operationId: `told_${kind.replace('.', '_')}`,
						summary: EVENTS[kind].says.replace(/\.$/, ''),
						description: `${EVENTS[kind].says} Signed by Standard Webhooks; any 2xx within 15 seconds is success.`,
						tags: ['Events'],
						security: [],
						requestBody: {
							required: true,
							content: {
								'application/json': {
									schema: z.toJSONSchema(bodyOf(kind), { io: 'input', target: 'draft-2020-12' }),
									example: exampleOf(kind)
								}
							}
						},
						responses: {
							'204': { description: 'heard' },
							'410': { description: 'nobody listens there any more: the endpoint is switched off' }
						}
					}
				}
			])
		),
		components: {
			securitySchemes: { token: { type: 'http', scheme: 'bearer', description: 'made under Accept, API tokens' } },
			schemas: namedSchemas((name) => `#/components/schemas/${name}`)
		}
	};
}
