import { lineUpsOf } from '$lib/server/accept/lineups';
import { openPauses } from '$lib/server/accept/pauses';
import { countPayers } from '$lib/server/bill/payers';
import { countTokens } from '$lib/server/access/tokens';
import { allTills, tillCurrencies } from '$lib/server/accept/tills';
import type { IndexGroup } from '$lib/ui';
import { worthOfAccept } from '$lib/server/worth';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ depends, locals }) => {
	depends('live:tills');
	const tills = await allTills();
	const [pauses, payers, tokens] = await Promise.all([openPauses(), countPayers(), countTokens()]);
	const items = await Promise.all(
		tills.map(async (till) => {
			const { draft, published } = await lineUpsOf(till.id);
			const offers = (draft ?? published)?.offers.length ?? 0;
			return {
				name: till.name,
				href: `/accept/tills/${till.slug}`,
				state: `${published ? `version ${published.row.number}` : 'not published'} · ${offers} offer${offers === 1 ? '' : 's'} · ${tillCurrencies(till).join(' ')}`,
				tag: till.mode === 'test' ? 'test' : draft ? 'draft' : undefined
			};
		})
	);
	const index: IndexGroup[] = [
		{
			name: 'Across tills',
			items: [
				{ name: 'All tills', href: '/accept', state: `${tills.length} till${tills.length === 1 ? '' : 's'}` },
				{
					name: 'Pause everywhere',
					href: '/accept/pauses',
					state: pauses.length ? `${pauses.length} paused now` : 'nothing is paused'
				},
				{ name: 'Payers and groups', href: '/accept/payers', state: `${payers} payer${payers === 1 ? '' : 's'}` },
				{ name: 'API tokens', href: '/accept/tokens', state: `${tokens} in use` }
			]
		},
		{ name: 'Tills', items: [...items, { name: 'Set up a till', href: '/accept/tills/new', add: true }] }
	];
	return { index, worth: await worthOfAccept(locals.locale) };
};
