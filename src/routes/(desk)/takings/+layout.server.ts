import { allTills } from '$lib/server/accept/tills';
import { stageCounts } from '$lib/server/db';
import type { IndexGroup } from '$lib/ui';
import type { LayoutServerLoad } from './$types';

/** Stages in which money needs an eye, in the order in which it moves. */
const STAGES = [
	'requested',
	'captured',
	'settled',
	'paid out',
	'part received',
	'received',
	'part refunded',
	'refunded',
	'disputed',
	'failed'
];

export const load: LayoutServerLoad = async ({ depends }) => {
	depends('live:takings');
	const counts = await stageCounts();
	const tills = await allTills();
	const all = [...counts.values()].reduce((sum, one) => sum + one, 0);
	const index: IndexGroup[] = [
		{
			name: 'Takings',
			items: [{ name: 'All payments', href: '/takings', state: `${all} payment${all === 1 ? '' : 's'}` }]
		},
		{
			name: 'By stage',
			items: STAGES.filter((stage) => counts.get(stage)).map((stage) => ({
				name: stage[0]!.toUpperCase() + stage.slice(1),
				href: `/takings/by/stage/${encodeURIComponent(stage)}`,
				state: `${counts.get(stage)} payment${counts.get(stage) === 1 ? '' : 's'}`
			}))
		},
		{
			name: 'By till',
			items: tills.map((till) => ({
				name: till.name,
				href: `/takings/by/till/${till.slug}`,
				tag: till.mode === 'test' ? 'test' : undefined
			}))
		}
	];
	return { index: index.filter((group) => group.items.length) };
};
