import {
	addGroup,
	allGroups,
	importPayers,
	payersPage,
	payersUnderWay,
	previewPayers,
	removeGroup,
	sizesOfGroups
} from '$lib/server/bill/payers';
import { endingView } from '$lib/server/bill/storedView';
import { owedOf } from '$lib/server/bill/payerView';
import { PAYER_COLUMNS } from '$lib/core/payers';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:tills');
	depends('live:bill');
	const q = url.searchParams.get('q') ?? '';
	const [afterName, afterId] = [url.searchParams.get('after'), url.searchParams.get('id')];
	const [{ payers, more }, groups, sizes] = await Promise.all([
		payersPage(q, afterName !== null && afterId ? { name: afterName, id: afterId } : undefined),
		allGroups(),
		sizesOfGroups()
	]);
	const name = new Map(groups.map((one) => [one.id, one.name]));
	const owed = await owedOf(
		payers.map((one) => one.row.id),
		locals.locale
	);
	return {
		q,
		more,
		underWay: payersUnderWay(),
		ending: q || afterId ? { count: 0, cards: [] } : await endingView(locals.locale),
		payers: payers.map(({ row, groups: mine }) => ({
			id: row.id,
			name: row.name,
			company: row.company,
			number: row.number,
			mail: row.mail,
			country: row.country,
			online: row.onlineMethod,
			prefers: row.prefers,
			open: owed.get(row.id) ?? '',
			groups: mine
				.map((id) => name.get(id) ?? '')
				.filter(Boolean)
				.sort((a, b) => a.localeCompare(b))
		})),
		groups: groups.map((one) => ({ id: one.id, name: one.name, size: sizes.get(one.id) ?? 0 })),
		columns: PAYER_COLUMNS.join(', ')
	};
};

async function textOf(form: FormData): Promise<{ text: string; name: string } | { faults: string[] }> {
	const file = form.get('file');
	if (!(file instanceof File) || !file.size) return { faults: ['Choose a CSV file.'] };
	try {
		return { text: new TextDecoder('utf-8', { fatal: true }).decode(await file.arrayBuffer()), name: file.name };
	} catch {
		return { faults: ['The file is not in UTF-8. Save it in that encoding and try again.'] };
	}
}

export const actions: Actions = {
	group: async ({ request, locals }) => {
		const name = String((await request.formData()).get('group') ?? '');
		const trouble = await addGroup(name, locals.user!.name);
		return trouble ? fail(400, { groupWrong: trouble, group: name }) : { says: `The group ${name.trim()} is added.` };
	},
	ungroup: async ({ request, locals }) => {
		const trouble = await removeGroup(String((await request.formData()).get('id') ?? ''), locals.user!.name);
		return trouble ? fail(409, { groupWrong: trouble }) : { says: 'The group is removed.' };
	},
	/** What a file would do: nothing is changed yet. */
	preview: async ({ request }) => {
		const read = await textOf(await request.formData());
		if ('faults' in read) return fail(400, read);
		const preview = await previewPayers(read.text);
		return 'faults' in preview
			? fail(400, { faults: [...preview.faults] })
			: { preview: { ...preview, file: read.name } };
	},
	import: async ({ request, locals }) => {
		const read = await textOf(await request.formData());
		if ('faults' in read) return fail(400, read);
		const result = await importPayers(read.text, locals.user!.name);
		if ('faults' in result) return fail(400, { faults: result.faults });
		if (result.trouble) return fail(500, { trouble: result.trouble });
		if (result.done < result.of)
			return {
				says: `The file is in order. Its ${result.of} payers are being imported, ${result.done} so far; the list grows as they come.`
			};
		return {
			says: `Imported: ${result.added} new, ${result.changed} known payers${result.groups.length ? `; new groups ${result.groups.join(', ')}` : ''}.`
		};
	}
};
