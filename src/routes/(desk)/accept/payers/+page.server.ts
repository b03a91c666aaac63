import { redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** Payers moved to Bill; addresses of the old place lead there. */
export const load: PageServerLoad = ({ url }) => redirect(301, `/bill/payers${url.search}`);
