import { RateCard } from '$lib/core/fees';
import { checkFor, readCardText, saveVersion, sayTroubles, todayOf, versionsOf } from '$lib/server/choose/cards';
import { foundConnection } from '$lib/server/connect/found';
import { readJson } from '$lib/server/json';
import { error, fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, depends }) => {
	depends('live:connections');
	const row = await foundConnection(params.id);
	const versions = await versionsOf(row.id);
	const shown = versions.find((one) => one.validFrom === url.searchParams.get('version')) ?? versions[0];
	if (!shown) error(404, 'There is no rate card yet.');
	const card = readJson(RateCard, shown.card);
	return {
		versions: versions.map(({ validFrom, source, createdAt }) => ({ validFrom, source, createdAt })),
		shown: shown.validFrom,
		card,
		troubles: sayTroubles(checkFor(row, card)).slice(0, 12),
		today: todayOf(row)
	};
};

export const actions: Actions = {
	default: async ({ params, request, locals }) => {
		const row = await foundConnection(params.id);
		const form = await request.formData();
		const validFrom = String(form.get('validFrom') ?? '');
		if (!/^\d{4}-\d{2}-\d{2}$/.test(validFrom) || Number.isNaN(Date.parse(validFrom)))
			return fail(400, { wrong: ['Give the day from which it is valid.'] });
		const read = readCardText(String(form.get('card') ?? ''));
		if ('says' in read) return fail(400, { wrong: read.says });
		const wrong = await saveVersion(row, read.card, validFrom, locals.user!.name);
		return wrong.length
			? fail(400, { wrong })
			: { says: `The card is kept, valid from ${validFrom}. Payments captured since are expected by it.` };
	}
};
