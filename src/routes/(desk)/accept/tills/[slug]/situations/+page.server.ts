import { detailsNotAsked } from '$lib/core/lineup';
import { contextOf, groupNames } from '$lib/server/accept/ask';
import { foundTill } from '$lib/server/accept/found';
import { lineUpsOf } from '$lib/server/accept/lineups';
import { snapshot } from '$lib/server/accept/snapshot';
import { domainsOf, settingsOf } from '$lib/server/accept/tills';
import type { PageServerLoad } from './$types';
import { whoCame } from '$lib/server/accept/tills';
import { timeNow } from '$lib/server/signals/clock';

const DAYS_90 = 90 * 86_400_000;

export const load: PageServerLoad = async ({ params, url, depends }) => {
	depends('live:tills', 'live:connections');
	const till = await foundTill(params.slug);
	const [{ draft, published }, held, groups, past] = await Promise.all([
		lineUpsOf(till.row.id),
		snapshot(),
		groupNames(),
		whoCame(till.row.id, timeNow() - DAYS_90)
	]);
	const which = url.searchParams.get('which') === 'published' || !draft ? 'published' : 'draft';
	const shown = which === 'draft' ? draft : published;
	return {
		till: { slug: till.row.slug, name: till.row.name, mode: till.row.mode },
		which,
		both: !!draft && !!published,
		number: published?.row.number,
		empty: !shown?.offers.length,
		details: detailsNotAsked(shown?.offers ?? [], settingsOf(till.row)),
		input: {
			lineUp: shown?.offers ?? [],
			states: held.states,
			base: contextOf(till, { currency: till.currencies[0]!, minor: 1 }, held, new Date(timeNow())),
			domains: domainsOf(till.row)
		},
		past,
		names: {
			...groups,
			...Object.fromEntries([...held.connections, ...held.offline].map(([key, row]) => [key, row.name]))
		}
	};
};
