import { EVENT_FILL_INS, FILL_INS, MESSAGE_EVENTS, type FillIn } from '$lib/core/billing';
import { allBrands } from '$lib/server/bill/brands';
import { sampleValues } from '$lib/server/bill/sample';
import {
	allTemplates,
	chooseTemplate,
	dropTemplate,
	isChannel,
	isEvent,
	MESSAGE_LANGUAGES,
	saveTemplate,
	templateOf,
	variants
} from '$lib/server/messages';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

function keyOf(read: (name: string) => string) {
	const [event, channel, language] = [read('event'), read('channel'), read('language')];
	return {
		event: isEvent(event) ? event : 'invoice',
		channel: isChannel(channel) ? channel : 'mail',
		language: language in MESSAGE_LANGUAGES ? language : 'en',
		brandId: read('brand'),
		variant: read('variant').trim().slice(0, 40)
	} as const;
}

export const load: PageServerLoad = async ({ url, depends }) => {
	depends('live:bill');
	const key = keyOf((name) => url.searchParams.get(name) ?? '');
	const [words, own, all, brands, names, values] = await Promise.all([
		chooseTemplate(key),
		templateOf(key),
		allTemplates(),
		allBrands(),
		variants(),
		sampleValues(key.event, key.language)
	]);
	return {
		key,
		subject: words.subject,
		body: words.body,
		isOwn: !!own,
		own: all.map((row) => ({
			event: row.event,
			channel: row.channel,
			language: row.language,
			brandId: row.brandId,
			variant: row.variant
		})),
		events: MESSAGE_EVENTS,
		languages: Object.entries(MESSAGE_LANGUAGES).map(([value, name]) => ({ value, name })),
		brands,
		variants: names,
		fillIns: EVENT_FILL_INS[key.event].can.map((name) => ({ name, example: values[name] ?? FILL_INS[name] })),
		needs: EVENT_FILL_INS[key.event].needs.map((one) => one.join(' or ')),
		values: Object.fromEntries(
			EVENT_FILL_INS[key.event].can.map((name: FillIn) => [name, values[name] ?? FILL_INS[name]])
		)
	};
};

export const actions: Actions = {
	save: async ({ request, locals }) => {
		const form = await request.formData();
		const of = (name: string) => String(form.get(name) ?? '');
		const saved = await saveTemplate(keyOf(of), of('subject'), of('body'), locals.user!.name);
		if ('problems' in saved)
			return fail(400, {
				problems: saved.problems.map(
					(one) => `${one.at ? `Line ${one.at.line}, sign ${one.at.column}: ` : ''}${one.says}`
				),
				subject: of('subject'),
				body: of('body')
			});
		return { says: 'Stored. Messages from now on are written by it.' };
	},
	drop: async ({ request, locals }) => {
		const form = await request.formData();
		await dropTemplate(
			keyOf((name) => String(form.get(name) ?? '')),
			locals.user!.name
		);
		return { says: 'Back to the first words.' };
	}
};
