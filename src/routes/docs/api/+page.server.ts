import { openApi } from '$lib/server/api/document';
import { CHANGE_LOG } from '$lib/server/api/examples';
import { ownAddress } from '$lib/server/connect/connections';
import type { PageServerLoad } from './$types';

interface Schema {
	readonly $ref?: string;
	readonly type?: string;
	readonly description?: string;
	readonly enum?: readonly unknown[];
	readonly const?: unknown;
	readonly properties?: Readonly<Record<string, Schema>>;
	readonly required?: readonly string[];
	readonly items?: Schema;
	readonly anyOf?: readonly Schema[];
	readonly additionalProperties?: Schema | boolean;
}
interface Media {
	readonly schema: Schema;
	readonly example?: object;
}
interface Operation {
	readonly operationId: string;
	readonly summary: string;
	readonly description: string;
	readonly tags: readonly string[];
	readonly parameters?: readonly {
		readonly name: string;
		readonly in: string;
		readonly required: boolean;
		readonly description: string;
		readonly schema: Schema;
	}[];
	readonly requestBody?: { readonly content: Readonly<Record<string, Media>> };
	readonly responses: Readonly<
		Record<string, { readonly description: string; readonly content?: Readonly<Record<string, Media>> }>
	>;
}
interface OpenApi {
	readonly tags: readonly { readonly name: string; readonly description: string }[];
	readonly paths: Readonly<
		Record<string, Readonly<Record<string, Operation>> & { parameters?: Operation['parameters'] }>
	>;
	readonly components: { readonly schemas: Readonly<Record<string, Schema>> };
}

const METHODS = ['get', 'post', 'put', 'delete'] as const;
const nameOf = (ref: string) => ref.split('/').at(-1)!;

/** What a value may be, in a few words, and the schema that it leads on to. */
function sayType(schema: Schema): { text: string; leads?: string } {
	if (schema.$ref) return { text: nameOf(schema.$ref), leads: nameOf(schema.$ref) };
	if (schema.const !== undefined) return { text: JSON.stringify(schema.const) };
	if (schema.enum) return { text: schema.enum.map((one) => JSON.stringify(one)).join(' | ') };
	if (schema.anyOf) {
		const parts = schema.anyOf.map(sayType);
		return { text: parts.map((one) => one.text).join(' | '), leads: parts.find((one) => one.leads)?.leads };
	}
	if (schema.type === 'array') {
		const one = sayType(schema.items ?? {});
		return { text: `list of ${one.text}`, leads: one.leads };
	}
	if (schema.type === 'object' && typeof schema.additionalProperties === 'object' && !schema.properties)
		return { text: `object of ${sayType(schema.additionalProperties).text} by name` };
	return { text: schema.type ?? 'anything' };
}

/** The fields of a schema, those within others indented. */
function fieldsOf(
	schema: Schema,
	depth = 0
): { name: string; depth: number; type: string; leads?: string; must: boolean; says: string }[] {
	if (depth > 3) return [];
	return Object.entries(schema.properties ?? {}).flatMap(([name, one]) => {
		const { text, leads } = sayType(one);
		const within = one.type === 'array' ? (one.items ?? {}) : (one.anyOf?.find((each) => each.properties) ?? one);
		return [
			{ name, depth, type: text, leads, must: !!schema.required?.includes(name), says: one.description ?? '' },
			...(within.$ref ? [] : fieldsOf(within, depth + 1))
		];
	});
}

/** The document of the interface as it is read by people: nothing in it is secret. */
export const load: PageServerLoad = () => {
	const origin = ownAddress();
	const { tags, paths, components } = openApi(origin) as OpenApi;
	const operations = Object.entries(paths).flatMap(([path, item]) =>
		METHODS.flatMap((method) => {
			const one = item[method];
			if (!one) return [];
			const sent = one.requestBody?.content['application/json'];
			const told = Object.entries(one.responses).map(([status, answer]) => ({
				status,
				says: answer.description,
				schema: answer.content?.['application/json']
			}));
			const good = told.find((answer) => answer.schema);
			const sends = sent?.example
				? ` \\\n  -H 'content-type: application/json' \\\n  -d '${JSON.stringify(sent.example)}'`
				: '';
			return [
				{
					id: one.operationId,
					method: method.toUpperCase(),
					path,
					summary: one.summary,
					description: one.description,
					tag: one.tags[0]!,
					parameters: [...(item.parameters ?? []), ...(one.parameters ?? [])].map((each) => ({
						name: each.name,
						where: each.in,
						must: each.required,
						says: each.description,
						type: sayType(each.schema).text
					})),
					sends: sent?.schema.$ref ? nameOf(sent.schema.$ref) : '',
					answers: told.map(({ status, says }) => ({ status, says })),
					gives: good?.schema?.schema.$ref ? nameOf(good.schema.schema.$ref) : '',
					curl: `curl${method === 'get' ? '' : ` -X ${method.toUpperCase()}`} ${origin}/api/v1${path} \\\n  -H "authorization: Bearer $TOKEN"${sends}`,
					example: good?.schema?.example ? JSON.stringify(good.schema.example, null, 2) : ''
				}
			];
		})
	);
	return {
		origin,
		changes: CHANGE_LOG,
		tags: tags.map((tag) => ({ ...tag, operations: operations.filter((one) => one.tag === tag.name) })),
		schemas: Object.entries(components.schemas).map(([name, schema]) => ({ name, fields: fieldsOf(schema) }))
	};
};
