import {
	allTemplates,
	copyTo,
	keepTemplate,
	readFile,
	removeTemplate,
	templateOffers
} from '$lib/server/accept/exchange';
import { foundTill } from '$lib/server/accept/found';
import { DraftMoved, lineUpsOf, replaceDraft, sayDifferences } from '$lib/server/accept/lineups';
import { allTills } from '$lib/server/accept/tills';
import { fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

const LARGEST = 1_000_000;

export const load: PageServerLoad = async ({ params, depends }) => {
	depends('live:tills');
	const { row } = await foundTill(params.slug);
	const [{ draft, published }, tills, templates] = await Promise.all([lineUpsOf(row.id), allTills(), allTemplates()]);
	return {
		till: { slug: row.slug, name: row.name, mode: row.mode },
		hasDraft: !!draft,
		hasPublished: !!published,
		revision: draft?.row.revision ?? 0,
		others: tills
			.filter((one) => one.id !== row.id)
			.map(({ slug, name, mode }) => ({ slug, name, fits: mode === row.mode, mode })),
		templates: templates.map(({ id, name, byUser, at }) => ({ id, name, by: byUser, at }))
	};
};

export const actions: Actions = {
	look: async ({ params, request, locals }) => {
		const { row } = await foundTill(params.slug);
		const form = await request.formData();
		const file = form.get('file');
		const text = file instanceof File && file.size ? await file.text() : String(form.get('text') ?? '');
		if (!text.trim())
			return fail(400, { faults: [{ path: '(whole file)', says: 'Choose a file, or paste its text.' }] });
		if (text.length > LARGEST)
			return fail(400, { faults: [{ path: '(whole file)', says: 'It is larger than 1 MB.' }] });
		const read = await readFile(row, text);
		if ('faults' in read) return fail(400, { faults: read.faults.slice(0, 40), text });
		const { draft, published } = await lineUpsOf(row.id);
		const before = (draft ?? published)?.offers ?? [];
		return { looked: { text, says: await sayDifferences(before, read.lineUp, locals.locale, row) } };
	},
	take: async ({ params, request, locals }) => {
		const { row } = await foundTill(params.slug);
		const form = await request.formData();
		const text = String(form.get('text') ?? '');
		const read = await readFile(row, text);
		if ('faults' in read) return fail(400, { faults: read.faults.slice(0, 40), text });
		try {
			await replaceDraft(
				row,
				Number(form.get('revision')),
				read.lineUp,
				locals.user!.name,
				'imported a line-up from a file'
			);
		} catch (error) {
			if (error instanceof DraftMoved) return fail(409, { trouble: error.message, text });
			throw error;
		}
		redirect(303, `/accept/tills/${row.slug}`);
	},
	copy: async ({ params, request, locals }) => {
		const { row } = await foundTill(params.slug);
		const slugs = (await request.formData()).getAll('to').map(String);
		if (!slugs.length) return fail(400, { trouble: 'Choose at least one till.' });
		const { copied, left } = await copyTo(row, slugs, locals.user!.name);
		if (!copied.length) return fail(409, { trouble: `Nothing was copied: ${left.join('; ')}.` });
		return {
			says: `A draft is made at ${copied.join(', ')}; nothing is published there yet.${left.length ? ` Left out: ${left.join('; ')}.` : ''}`
		};
	},
	keep: async ({ params, request, locals }) => {
		const { row } = await foundTill(params.slug);
		const name = String((await request.formData()).get('name') ?? '');
		const trouble = await keepTemplate(row, name, locals.user!.name);
		return trouble ? fail(400, { trouble }) : { says: `The template ${name.trim()} is kept.` };
	},
	begin: async ({ params, request, locals }) => {
		const { row } = await foundTill(params.slug);
		const form = await request.formData();
		const offers = await templateOffers(String(form.get('id') ?? ''));
		if (!offers) return fail(404, { trouble: 'There is no such template any more.' });
		try {
			await replaceDraft(row, Number(form.get('revision')), offers, locals.user!.name, 'began a draft from a template');
		} catch (error) {
			if (error instanceof DraftMoved) return fail(409, { trouble: error.message });
			throw error;
		}
		redirect(303, `/accept/tills/${row.slug}`);
	},
	drop: async ({ request, locals }) => {
		await removeTemplate(String((await request.formData()).get('id') ?? ''), locals.user!.name);
		return { says: 'The template is removed. Line-ups that were begun from it stay.' };
	}
};
