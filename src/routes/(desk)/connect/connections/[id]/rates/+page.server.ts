import { readDay } from '$lib/core/calendar';
import { shownRateCards, decideProposal, readCardText, saveContract } from '$lib/server/ratecards/edit';
import { costOfChange } from '$lib/server/compare/change';
import { foundConnection } from '$lib/server/connect/found';
import { error, fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
	depends('live:connections');
	const row = await foundConnection(params.id);
	const shown = await shownRateCards(row, url.searchParams.get('version') ?? '', locals.locale);
	if (!shown) error(404, 'There is no rate card yet.');
	const { beforeCard, ...rest } = shown;
	return { ...rest, change: beforeCard && (await costOfChange(row, beforeCard, shown.card, locals.locale)) };
};

export const actions: Actions = {
	confirm: async ({ params, request, locals }) => {
		const row = await foundConnection(params.id);
		const validFrom = String((await request.formData()).get('version') ?? '');
		const done = await decideProposal(row, validFrom, 'confirm', locals.user!.name);
		return done
			? { says: `The card of ${validFrom} is your contract with ${row.name} now. Payments since are expected by it.` }
			: fail(404, { wrong: ['There is no such proposal any more.'] });
	},
	decline: async ({ params, request, locals }) => {
		const row = await foundConnection(params.id);
		const validFrom = String((await request.formData()).get('version') ?? '');
		const done = await decideProposal(row, validFrom, 'decline', locals.user!.name);
		return done
			? { says: `Your contract stays. What ${row.name} says of ${validFrom} is not told again.` }
			: fail(404, { wrong: ['There is no such proposal any more.'] });
	},
	keep: async ({ params, request, locals }) => {
		const row = await foundConnection(params.id);
		const form = await request.formData();
		const validFrom = readDay(String(form.get('validFrom') ?? ''), locals.locale);
		if (!validFrom) return fail(400, { wrong: ['Give the day from which it is valid.'] });
		const read = readCardText(String(form.get('card') ?? ''));
		if ('says' in read) return fail(400, { wrong: read.says });
		const wrong = await saveContract(row, read.card, validFrom, locals.user!.name);
		return wrong.length
			? fail(400, { wrong })
			: { says: `The contract is kept, valid from ${validFrom}. Payments captured since are expected by it.` };
	}
};
