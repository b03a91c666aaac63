import { payersPage } from '$lib/server/bill/payers';
import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** Payers whose name, company, mail or number holds a text: the first few. */
export const GET: RequestHandler = async ({ url }) => {
	const { payers } = await payersPage(url.searchParams.get('q')?.trim().slice(0, 80) ?? '', undefined);
	return json(
		payers.slice(0, 12).map(({ row }) => ({
			id: row.id,
			name: row.company || row.name,
			person: row.name,
			company: row.company,
			mail: row.mail,
			phone: row.phone,
			channel: row.channel,
			street: row.street,
			postcode: row.postcode,
			city: row.city,
			country: row.country,
			taxNumber: row.taxNumber
		}))
	);
};
