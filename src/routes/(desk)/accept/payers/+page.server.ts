import {
	addGroup,
	allGroups,
	sizesOfGroups,
	importPayers,
	PAYER_HEADER,
	payerById,
	PayerForm,
	payersPage,
	payersUnderWay,
	removeGroup,
	removePayer,
	savePayer
} from '$lib/server/accept/payers';
import { countriesIn } from '$lib/core/places';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:tills');
	const q = url.searchParams.get('q') ?? '';
	const [afterName, afterId] = [url.searchParams.get('after'), url.searchParams.get('id')];
	const [{ payers, more }, groups, sizes, edited] = await Promise.all([
		payersPage(q, afterName !== null && afterId ? { name: afterName, id: afterId } : undefined),
		allGroups(),
		sizesOfGroups(),
		payerById(url.searchParams.get('payer') ?? '')
	]);
	const name = new Map(groups.map((one) => [one.id, one.name]));
	return {
		q,
		more,
		underWay: payersUnderWay(),
		payers: payers.map(({ row, groups: mine }) => ({
			id: row.id,
			name: row.name,
			mail: row.mail,
			country: row.country,
			online: row.onlineMethod,
			groups: mine
				.map((id) => name.get(id) ?? '')
				.filter(Boolean)
				.sort((a, b) => a.localeCompare(b))
		})),
		groups: groups.map((one) => ({ id: one.id, name: one.name, size: sizes.get(one.id) ?? 0 })),
		countries: countriesIn(locals.locale),
		header: PAYER_HEADER,
		edited: edited && {
			id: edited.row.id,
			name: edited.row.name,
			mail: edited.row.mail,
			country: edited.row.country,
			online: edited.row.onlineMethod === null ? '' : edited.row.onlineMethod ? 'yes' : 'no',
			groups: edited.groups
		}
	};
};

export const actions: Actions = {
	save: async ({ request, locals }) => {
		const form = await request.formData();
		const typed = {
			name: String(form.get('name') ?? ''),
			mail: String(form.get('mail') ?? ''),
			country: String(form.get('country') ?? ''),
			online: String(form.get('online') ?? ''),
			groups: form.getAll('groups').map(String)
		};
		const read = PayerForm.safeParse(typed);
		const errors: Record<string, string> = {};
		if (!read.success) {
			for (const issue of read.error.issues) errors[String(issue.path[0])] ??= issue.message;
			return fail(400, { errors, typed });
		}
		const id = String(form.get('id') ?? '') || undefined;
		const wrong = await savePayer(read.data, id, locals.user!.name);
		if (wrong) return fail(409, { errors: wrong as Record<string, string>, typed });
		return { says: `${read.data.name} is ${id ? 'changed' : 'added'}.` };
	},
	remove: async ({ request, locals }) => {
		await removePayer(String((await request.formData()).get('id') ?? ''), locals.user!.name);
		return { says: 'The payer is removed. Their payments stay as they are.' };
	},
	group: async ({ request, locals }) => {
		const name = String((await request.formData()).get('group') ?? '');
		const trouble = await addGroup(name, locals.user!.name);
		return trouble ? fail(400, { groupWrong: trouble, group: name }) : { says: `The group ${name.trim()} is added.` };
	},
	ungroup: async ({ request, locals }) => {
		const trouble = await removeGroup(String((await request.formData()).get('id') ?? ''), locals.user!.name);
		return trouble ? fail(409, { groupWrong: trouble }) : { says: 'The group is removed.' };
	},
	import: async ({ request, locals }) => {
		const file = (await request.formData()).get('file');
		if (!(file instanceof File) || !file.size) return fail(400, { faults: ['Choose a CSV file.'] });
		let text;
		try {
			text = new TextDecoder('utf-8', { fatal: true }).decode(await file.arrayBuffer());
		} catch {
			return fail(400, { faults: ['The file is not in UTF-8. Save it in that encoding and try again.'] });
		}
		const result = await importPayers(text, locals.user!.name);
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
