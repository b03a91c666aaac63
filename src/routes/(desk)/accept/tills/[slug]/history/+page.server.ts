import { foundTill } from '$lib/server/accept/found';
import { historyOf, sayDifferences, takeBack } from '$lib/server/accept/lineups';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, locals, depends }) => {
	depends('live:tills');
	const { row } = await foundTill(params.slug);
	const versions = await historyOf(row.id);
	return {
		till: { slug: row.slug, name: row.name, mode: row.mode },
		versions: await Promise.all(
			versions.map(async ({ row: version, offers }, i) => ({
				number: version.number!,
				state: version.state,
				at: version.at,
				by: version.byUser,
				reason: version.reason,
				says: await sayDifferences(versions[i + 1]?.offers ?? [], offers, locals.locale)
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
