import { cardDifferences, RateCard } from '$lib/core/fees';
import {
	checkFor,
	confirmVersion,
	readCardText,
	saveVersion,
	sayTroubles,
	todayOf,
	versionsOf
} from '$lib/server/choose/cards';
import { foundConnection } from '$lib/server/connect/found';
import { readJson } from '$lib/server/json';
import { error, fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
	depends('live:connections');
	const row = await foundConnection(params.id);
	const versions = await versionsOf(row.id);
	const shown = versions.find((one) => one.validFrom === url.searchParams.get('version')) ?? versions[0];
	if (!shown) error(404, 'There is no rate card yet.');
	const card = readJson(RateCard, shown.card);
	const before = versions[versions.indexOf(shown) + 1];
	return {
		versions: versions.map(({ validFrom, source, confirmedAt }) => ({
			validFrom,
			source,
			confirmed: confirmedAt !== null
		})),
		confirmed: shown.confirmedAt ? { at: shown.confirmedAt, by: shown.confirmedBy } : undefined,
		source: shown.source,
		differs: before ? cardDifferences(readJson(RateCard, before.card), card, locals.locale) : [],
		before: before?.validFrom,
		shown: shown.validFrom,
		card,
		troubles: sayTroubles(checkFor(row, card)).slice(0, 12),
		today: todayOf(row)
	};
};

export const actions: Actions = {
	confirm: async ({ params, request, locals }) => {
		const row = await foundConnection(params.id);
		const validFrom = String((await request.formData()).get('version') ?? '');
		await confirmVersion(row, validFrom, locals.user!.name);
		return { says: `The card of ${validFrom} is confirmed as agreed with ${row.name}.` };
	},
	keep: async ({ params, request, locals }) => {
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
