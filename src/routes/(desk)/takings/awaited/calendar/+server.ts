import { awaitedCalendar } from '$lib/server/takings/certain';
import type { RequestHandler } from './$types';

/** The days on which money is expected, as an iCalendar file. */
export const GET: RequestHandler = async ({ locals, url }) =>
	new Response(await awaitedCalendar(locals.locale, url.hostname), {
		headers: {
			'content-type': 'text/calendar; charset=utf-8',
			'content-disposition': 'attachment; filename="just-purse-expected-money-1.ics"'
		}
	});
