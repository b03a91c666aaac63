import { error, redirect } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** What an earlier address of a list is called in the filter now. */
const NAMES: Readonly<Record<string, string>> = {
	stage: 'stage',
	till: 'till',
	trouble: 'trouble',
	connection: 'via',
	offline: 'via',
	trials: 'trials'
};

/** Lists of one stage, till, connection or trouble had an address of their own; it leads on to the filter. */
export const GET: RequestHandler = ({ params, url }) => {
	const name = NAMES[params.kind];
	if (!name) error(404, 'There is no such list.');
	const query = new URLSearchParams(url.searchParams);
	query.delete('before');
	query.set(name, params.value);
	redirect(301, `/takings?${query}`);
};
