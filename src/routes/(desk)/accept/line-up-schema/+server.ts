import { redirect } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** Where the schema of line-up files was before; it is at the interface now, and needs no sign-in. */
export const GET: RequestHandler = () => redirect(301, '/api/v1/schemas/LineUp.json');
