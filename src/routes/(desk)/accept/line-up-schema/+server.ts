import { lineUpSchema } from '$lib/server/accept/exchange';
import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** The schema of line-up files. */
export const GET: RequestHandler = () => json(lineUpSchema());
