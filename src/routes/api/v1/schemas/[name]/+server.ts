import { schemaNamed } from '$lib/server/api/document';
import { Problem } from '$lib/server/api/problem';
import { ownAddress } from '$lib/server/connect/connections';
import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** A schema of the interface, or of a file, by its own address; nothing in it is secret. */
export const GET: RequestHandler = ({ params, url }) => {
	const schema = schemaNamed(params.name.replace(/\.json$/, ''), ownAddress());
	return schema
		? json(schema, { headers: { 'content-type': 'application/schema+json', 'access-control-allow-origin': '*' } })
		: new Problem(404, 'Not found', 'There is no such schema.').respond(url.pathname);
};
