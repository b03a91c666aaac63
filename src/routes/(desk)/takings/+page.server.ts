import { filterChoices, readFilter } from '$lib/server/takings/filter';
import { paymentLines } from '$lib/server/takings/list';
import { areSumsAtHand, paymentSums } from '$lib/server/takings/sums';
import { FIRST_COLUMNS } from '$lib/takings';
import { removeView, savedViews, saveView } from '$lib/server/takings/views';
import { fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

/** The address of a filter without boxes that were left empty; undefined where it is that already. */
function plainAddress(url: URL): string | undefined {
	const given = [...url.searchParams];
	if (given.every(([name, value]) => value.trim() && name !== 'col')) return undefined;
	const kept = new URLSearchParams(given.filter(([name, value]) => value.trim() && name !== 'col' && name !== 'cols'));
	const columns = url.searchParams.getAll('col');
	if (columns.length && columns.join() !== FIRST_COLUMNS.join()) kept.set('cols', columns.join(','));
	return `${url.pathname}${kept.size ? `?${kept}` : ''}`;
}

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:takings');
	const plain = plainAddress(url);
	if (plain !== undefined) redirect(303, plain);
	const { filter, ...read } = await readFilter(url, locals.locale);
	const sums = paymentSums(filter, locals.locale);
	const [list, choices, views] = await Promise.all([
		paymentLines(filter, locals.locale),
		filterChoices(),
		savedViews()
	]);
	// what takes long comes after the list; whoever looks at the list does not wait for it
	sums.catch(() => {});
	return {
		...list,
		...read,
		choices,
		sums: areSumsAtHand(filter) ? await sums : sums,
		view: views.find((one) => one.query === read.query)?.name,
		title: filter.trials ? 'Trial payments' : 'All payments'
	};
};

export const actions: Actions = {
	save: async ({ request, locals }) => {
		const form = await request.formData();
		const [name, query] = ['name', 'query'].map((one) => String(form.get(one) ?? ''));
		const problem = await saveView(name!, query!, locals.user!.name);
		return problem ? fail(400, { viewWrong: problem, viewName: name }) : { says: `Kept as “${name!.trim()}”.` };
	},
	remove: async ({ request }) => {
		const gone = await removeView(String((await request.formData()).get('id') ?? ''));
		return gone ? { says: `The view “${gone.name}” is gone.`, undo: gone } : { says: 'That view was gone already.' };
	},
	restore: async ({ request, locals }) => {
		const form = await request.formData();
		const problem = await saveView(String(form.get('name') ?? ''), String(form.get('query') ?? ''), locals.user!.name);
		return problem ? fail(400, { viewWrong: problem, viewName: '' }) : { says: 'The view is back.' };
	}
};
