import { mayReadMetrics, metrics } from '$lib/server/health';
import type { RequestHandler } from './$types';

/** Metrics in the OpenMetrics text form, under a token that the installation sets. */
export const GET: RequestHandler = async ({ request }) => {
	if (!mayReadMetrics(request.headers.get('authorization')))
		return new Response('A token is needed.', { status: 401, headers: { 'www-authenticate': 'Bearer' } });
	return new Response(await metrics(), {
		headers: {
			'content-type': 'application/openmetrics-text; version=1.0.0; charset=utf-8',
			'cache-control': 'no-store'
		}
	});
};
