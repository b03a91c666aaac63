import { feeStates, worthOfFees } from '$lib/server/fees/view';
import { allEndpoints } from '$lib/server/hooks/endpoints';
import { countArrivals } from '$lib/server/watch/lists';
import type { IndexGroup } from '$lib/ui';
import { worthOfWatch } from '$lib/server/worth';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ depends, locals, route }) => {
	depends('live:arrivals');
	depends('live:fees');
	depends('live:hooks');
	const [counts, fees, endpoints] = await Promise.all([countArrivals(), feeStates(locals.locale), allEndpoints()]);
	const of = (...states: string[]) => states.reduce((sum, state) => sum + (counts.get(state) ?? 0), 0);
	const stuck = of('stuck');
	const failing = endpoints.filter((one) => one.failingSince !== null || one.state === 'off');
	const index: IndexGroup[] = [
		{
			name: 'Fees',
			items: [
				{ name: 'Fees over time', href: '/watch/fees', state: 'per 100, and why it changes' },
				{ name: 'Fee check', href: '/watch/discrepancies', state: fees.says, bad: fees.open > 0 },
				{ name: 'Cheapest routing', href: '/watch/routing', state: 'what each move would save' },
				{ name: 'Use of methods', href: '/watch/methods', state: 'share, cost, work by hand' }
			]
		},
		{
			name: 'Notification hooks',
			items: [
				{ name: 'Pulse', href: '/watch/pulse', state: 'what is missing or late' },
				{
					name: 'Arrivals',
					href: '/watch',
					state: `${of('done', 'stored', 'retry', 'stuck').toLocaleString(locals.locale)} arrived`
				},
				{
					name: 'Waiting',
					href: '/watch?state=retry',
					state: `${of('retry').toLocaleString(locals.locale)} do not fit yet`
				},
				{ name: 'Stuck', href: '/watch?state=stuck', state: stuck ? `${stuck} need you` : 'none' }
			]
		},
		{
			name: 'Your programs',
			items: [
				{
					name: 'Endpoints',
					href: '/watch/endpoints',
					state: failing.length
						? `nothing reaches ${failing.length}`
						: endpoints.length
							? `${endpoints.length} ${endpoints.length === 1 ? 'is' : 'are'} told of events`
							: 'none is told of events',
					bad: failing.length > 0
				}
			]
		},
		{
			name: 'Changes',
			items: [
				{ name: 'Alerts', href: '/watch/alerts', state: 'who is told, what was settled' },
				{ name: 'Audit trail', href: '/watch/trail', state: 'every change, by whom and when' }
			]
		}
	];
	const isOfFees = /\/watch\/(fees|discrepancies|routing|methods)/.test(route.id ?? '');
	return { index, worth: await (isOfFees ? worthOfFees : worthOfWatch)(locals.locale) };
};
