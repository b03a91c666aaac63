import { lineUpsOf } from '$lib/server/accept/lineups';
import { allTills, tillCurrencies } from '$lib/server/accept/tills';
import { snapshot } from '$lib/server/accept/snapshot';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
	depends('live:tills');
	const { connections, offline } = await snapshot();
	const tills = await Promise.all(
		(await allTills()).map(async (till) => {
			const { draft, published } = await lineUpsOf(till.id);
			const shown = published ?? draft;
			const currencies = tillCurrencies(till);
			return {
				slug: till.slug,
				name: till.name,
				mode: till.mode,
				state: published
					? `version ${published.row.number}${draft ? ', a draft beside it' : ''}`
					: draft
						? 'draft, never published'
						: 'no offers yet',
				currencies,
				offers: (shown?.offers ?? []).map((offer) => ({
					name: offer.name,
					on: offer.on,
					by: currencies.map((code) => {
						const carrier = offer.routes[code]?.first;
						return carrier
							? ((carrier.kind === 'connection' ? connections.get(carrier.id) : offline.get(carrier.id))?.name ??
									'removed')
							: '';
					})
				}))
			};
		})
	);
	return { tills };
};
