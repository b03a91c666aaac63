import { proveOwed } from '$lib/server/bill/list';
import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ locals }) => json(await proveOwed(locals.locale));
