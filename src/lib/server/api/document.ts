import { z, type ZodType } from 'zod';
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
	Problem: schemas.ProblemDetails
} as const satisfies Record<string, ZodType>;
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
		sends,
		problems = [],
		conflict = 'The first request under this Idempotency-Key is still being worked on'
	}: { sends?: Name; problems?: readonly number[]; conflict?: string } = {}
) {
	const said: Record<number, string> = {
		404: 'There is no such till',
		409: conflict,
		422: 'The body is not as described, or the Idempotency-Key was used for another request'
	};
	return {
		operationId,
		summary,
		...(sends ? { parameters: [key] } : {}),
		...(sends ? { requestBody: body(sends) } : {}),
		responses: {
			...Object.fromEntries(
				Object.entries(answers).map(([status, { description, name }]) => [status, { description, content: json(name) }])
			),
			'401': problem('No token, or one that is unknown or revoked'),
			...(sends
				? {
						'400': problem('The body is not JSON'),
						'413': problem('The body is too large'),
						'415': problem('The body is of another media type')
					}
				: {}),
			...(sends ? { '409': problem(said[409]!), '422': problem(said[422]!) } : {}),
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
					{ sends: 'DraftPut', problems: [404], conflict: 'It was changed since it was read' }
				)
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
			'/checkouts': {
				post: operation(
					'makeCheckout',
					'Makes a checkout for an order; the same order again gives the same checkout',
					{
						'200': { description: 'the checkout that was there', name: 'Checkout' },
						'201': { description: 'the checkout', name: 'Checkout' }
					},
					{
						sends: 'CheckoutPost',
						problems: [404],
						conflict:
							'The reference is another order at this till, which is not replaced: `replace` was not asked for, or it is paid or on its way'
					}
				)
			}
		},
		components: {
			securitySchemes: { token: { type: 'http', scheme: 'bearer', description: 'made under Accept, Tokens' } },
			schemas: Object.fromEntries(
				Object.entries(NAMED).map(([name, schema]) => {
					const takes = ['Asked', 'DraftPut', 'Publish', 'CheckoutPost'].includes(name);
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
