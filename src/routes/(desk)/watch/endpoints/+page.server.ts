import { allEndpoints, countsOfDeliveries, readKinds } from '$lib/server/hooks/endpoints';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
	depends('live:hooks');
	const [rows, counts] = await Promise.all([allEndpoints(), countsOfDeliveries()]);
	return {
		endpoints: rows.map(({ id, address, description, kinds, state, says, deliveredAt, failingSince }) => {
			const mine = counts.find((one) => one.endpointId === id);
			return {
				id,
				address,
				description,
				kinds: readKinds({ kinds }),
				state,
				says,
				deliveredAt,
				failingSince,
				waiting: mine?.waiting ?? 0,
				failed: mine?.failed ?? 0,
				oldest: mine?.oldest ?? null
			};
		})
	};
};
