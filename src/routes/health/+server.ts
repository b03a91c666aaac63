import { isHealthy } from '$lib/server/health';
import type { RequestHandler } from './$types';

/** Whether it is up, its database can be written, and its work goes on: for whatever watches over the machine. */
export const GET: RequestHandler = async () => {
	const told = await isHealthy();
	return Response.json(told, { status: told.ok ? 200 : 503, headers: { 'cache-control': 'no-store' } });
};
