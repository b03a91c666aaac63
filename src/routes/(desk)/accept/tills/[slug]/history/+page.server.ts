import { foundTill } from '$lib/server/accept/found';
import { historyOf, sayDifferences, takeBack } from '$lib/server/accept/lineups';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
	depends('live:tills');
	const { row } = await foundTill(params.slug);
	const versions = await historyOf(row.id);
	const numberAt = (name: string) => Number(url.searchParams.get(name) ?? NaN);
	const at = (number: number) => versions.find((one) => one.row.number === number);
	const [from, to] = [at(numberAt('from')), at(numberAt('to'))];
	return {
		pair: {
			from: from?.row.number ?? versions[1]?.row.number ?? 1,
			to: to?.row.number ?? versions[0]?.row.number ?? 1
		},
		between: from && to ? await sayDifferences(from.offers, to.offers, locals.locale, row) : undefined,
		till: { slug: row.slug, name: row.name, mode: row.mode },
		versions: await Promise.all(
			versions.map(async ({ row: version, offers }, i) => ({
				number: version.number!,
				state: version.state,
				at: version.at,
				by: version.byUser,
				reason: version.reason,
				says: await sayDifferences(versions[i + 1]?.offers ?? [], offers, locals.locale, row)
			}))
		)
	};
};

export const actions: Actions = {
	default: async ({ params, request, locals }) => {
		const { row } = await foundTill(params.slug);
		const result = await takeBack(row, Number((await request.formData()).get('number')), locals.user!.name);
		if ('problems' in result) return fail(400, { problems: result.problems });
		return { says: `Version ${result.number} is in force. A draft, if there is one, stays as it is.` };
	}
};
