import { Problem } from '$lib/server/api/problem';
import type { RequestHandler } from './$types';

/** What is not there is told as every other problem. */
const nothing: RequestHandler = ({ url }) =>
	new Problem(404, 'Not found', 'There is nothing at this address of the API.').respond(url.pathname);
export { nothing as DELETE, nothing as GET, nothing as PATCH, nothing as POST, nothing as PUT };
