import { allTills } from '$lib/server/accept/tills';
import { STAGES } from '$lib/core/stages';
import { countByStage } from '$lib/server/takings/counts';
import { openDisputes } from '$lib/server/takings/disputes';
import { savedViews } from '$lib/server/takings/views';
import type { IndexGroup } from '$lib/ui';
import { worthOfTakings } from '$lib/server/worth';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ depends, locals }) => {
	const many = (count: number) => `${count.toLocaleString(locals.locale)} payment${count === 1 ? '' : 's'}`;
	depends('live:takings');
	const [counts, tills, views, disputes] = await Promise.all([
		countByStage(),
		allTills(),
		savedViews(),
		openDisputes()
	]);
	const all = [...counts.values()].reduce((sum, one) => sum + one, 0);
	const index: IndexGroup[] = [
		{
			name: 'Takings',
			items: [
				{ name: 'All payments', href: '/takings', state: many(all) },
				{ name: 'By day', href: '/takings/days' },
				{ name: 'Expected money', href: '/takings/awaited' },
				{ name: 'Unplaced money', href: '/takings/unplaced' },
				{
					name: 'Disputes',
					href: '/takings/disputes',
					state: disputes.length ? `${disputes.length} open` : 'none open',
					bad: disputes.some((one) => one.answeredAt === null && one.answerBy !== null)
				},
				{ name: 'Record a receipt', href: '/takings/receive' },
				{ name: 'Outside references', href: '/takings/references' }
			]
		},
		{
			name: 'Views',
			items: views.map((view) => ({ name: view.name, href: `/takings${view.query}`, removes: view.id }))
		},
		{
			name: 'By stage',
			items: STAGES.filter((stage) => counts.get(stage)).map((stage) => ({
				name: stage[0]!.toUpperCase() + stage.slice(1),
				href: `/takings?${new URLSearchParams({ stage })}`,
				state: many(counts.get(stage)!)
			}))
		},
		{
			name: 'By till',
			items: tills.map((till) => ({
				name: till.name,
				href: `/takings?${new URLSearchParams({ till: till.slug })}`,
				tag: till.mode === 'test' ? 'test' : undefined
			}))
		},
		{
			name: 'Apart from money',
			items: [{ name: 'Trial payments', href: '/takings?trials=all' }]
		}
	];
	return { index: index.filter((group) => group.items.length), worth: await worthOfTakings(locals.locale) };
};
