import { z, type ZodType } from 'zod';
import { STAGES } from '../../core/stages';
import { ORDER_STATES } from '../payments/orders';
import * as schemas from './schemas';

const NAMED = {
	Asked: schemas.Asked,
	Answered: schemas.Answered,
	Tills: schemas.Tills,
	TillDetail: schemas.TillDetail,
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
	Problem: schemas.ProblemDetails
} as const satisfies Record<string, ZodType>;
/** What is sent: what has a default may be left out of it. */
const SENT: readonly string[] = [
	'Asked',
	'DraftPut',
	'Publish',
	'CheckoutPost',
	'OutsidePut',
	'CapturePost',
	'VoidPost',
	'RefundPost',
	'ReceiptPost'
];
type Name = keyof typeof NAMED;

const ref = (name: Name) => ({ $ref: `#/components/schemas/${name}` });
const json = (name: Name) => ({ 'application/json': { schema: ref(name) } });
const problem = (description: string) => ({
	description,
	content: { 'application/problem+json': { schema: ref('Problem') } }
});
const body = (name: Name) => ({ required: true, content: json(name) });
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
	return {
		operationId,
		summary,
		tags: [tag],
		...(isAct || parameters.length
			? { parameters: [...parameters, ...(isAct ? [{ ...key, required: mustKey }] : [])] }
			: {}),
		...(sends ? { requestBody: body(sends) } : {}),
		responses: {
			...Object.fromEntries(
				Object.entries(answers).map(([status, { description, name }]) => [status, { description, content: json(name) }])
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
			description:
				'What tills offer, and checkouts for orders. Amounts are whole minor units beside their currency. Problems are told as RFC 9457 says.'
		},
		servers: [{ url: `${origin}/api/v1` }],
		security: [{ token: [] }],
		tags: [
			{ name: 'Tills', description: 'What payers are offered, and the line-ups behind it' },
			{ name: 'Checkouts', description: 'Orders, and the addresses at which they are paid' },
			{ name: 'Payments', description: 'What came for them, what it cost, and what goes back' }
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
		components: {
			securitySchemes: { token: { type: 'http', scheme: 'bearer', description: 'made under Accept, API tokens' } },
			schemas: Object.fromEntries(
				Object.entries(NAMED).map(([name, schema]) => {
					const takes = SENT.includes(name);
					const { $schema: _, ...made } = z.toJSONSchema(schema, {
						io: takes ? 'input' : 'output',
						unrepresentable: 'any'
					}) as { $schema?: string };
					return [name, made];
				})
			)
		}
	};
}
