import { countArrivals } from '$lib/server/watch/lists';
import type { IndexGroup } from '$lib/ui';
import { worthOfWatch } from '$lib/server/worth';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ depends, locals }) => {
	depends('live:arrivals');
	const counts = await countArrivals();
	const of = (...states: string[]) => states.reduce((sum, state) => sum + (counts.get(state) ?? 0), 0);
	const stuck = of('stuck');
	const index: IndexGroup[] = [
		{
			name: 'Notification hooks',
			items: [
				{ name: 'Arrivals', href: '/watch', state: `${of('done', 'stored', 'retry', 'stuck')} arrived` },
				{ name: 'Waiting', href: '/watch?state=retry', state: `${of('retry')} do not fit yet` },
				{ name: 'Stuck', href: '/watch?state=stuck', state: stuck ? `${stuck} need you` : 'none' }
			]
		},
		{
			name: 'Changes',
			items: [{ name: 'Audit trail', href: '/watch/trail', state: 'connections, methods, tills, line-ups' }]
		}
	];
	return { index, worth: await worthOfWatch(locals.locale) };
};
