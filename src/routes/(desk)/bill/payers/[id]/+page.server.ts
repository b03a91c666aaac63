import { PayerForm } from '$lib/core/payers';
import { allGroups, formOf, payerById, removePayer, savePayer } from '$lib/server/bill/payers';
import { payerView } from '$lib/server/bill/payerView';
import { MESSAGE_LANGUAGES, variants } from '$lib/server/messages';
import { countriesIn } from '$lib/core/places';
import { changeStored } from '$lib/server/payments/stored';
import { error, fail, redirect } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

const isNew = (id: string) => id === 'new';

export const load: PageServerLoad = async ({ params, locals, depends }) => {
	depends('live:bill');
	depends('live:takings');
	const payer = isNew(params.id) ? undefined : await payerById(params.id);
	if (!isNew(params.id) && !payer)
		error(404, { message: 'There is no such payer.', help: 'They may have been removed.' });
	return {
		id: payer?.row.id ?? '',
		name: payer ? payer.row.company || payer.row.name : '',
		isRemoved: payer?.row.removedAt != null,
		payer: payer ? formOf(payer) : PayerForm.parse({ name: '?' }),
		groups: (await allGroups()).map((one) => ({ id: one.id, name: one.name })),
		countries: countriesIn(locals.locale),
		languages: Object.entries(MESSAGE_LANGUAGES).map(([value, name]) => ({ value, name })),
		variants: await variants(),
		view: payer && (await payerView(payer.row, locals.locale))
	};
};

export const actions: Actions = {
	save: async ({ request, params, locals }) => {
		const form = await request.formData();
		const typed = Object.fromEntries(
			[...form].filter((pair): pair is [string, string] => typeof pair[1] === 'string' && pair[0] !== 'groups')
		);
		const read = PayerForm.safeParse({ ...typed, groups: form.getAll('groups').map(String) });
		const kept = { ...typed, groups: form.getAll('groups').map(String) };
		if (!read.success) {
			const errors: Record<string, string> = {};
			for (const issue of read.error.issues) errors[String(issue.path[0])] ??= issue.message;
			return fail(400, { errors, typed: kept });
		}
		const saved = await savePayer(read.data, isNew(params.id) ? undefined : params.id, locals.user!.name);
		if ('wrong' in saved) return fail(409, { errors: saved.wrong, typed: kept });
		if (isNew(params.id)) redirect(303, `/bill/payers/${saved.id}?added`);
		return { says: `${read.data.name} is changed.` };
	},
	stored: async ({ request, params, locals }) => {
		const form = await request.formData();
		const read = z
			.object({ id: z.coerce.number().int(), act: z.enum(['end', 'suspend', 'resume', 'default']) })
			.safeParse(Object.fromEntries(form));
		if (!read.success) return fail(400, { trouble: 'That is nothing that can be done to a stored method.' });
		const { id, act } = read.data;
		const why = String(form.get('why') ?? '')
			.trim()
			.slice(0, 120);
		const name = String(form.get('name') ?? 'It');
		const problem = await changeStored(id, params.id, act, {
			by: locals.user!.name,
			why: act === 'end' ? why || 'ended at the desk' : ''
		});
		if (problem)
			return fail(409, {
				trouble: problem === 'gone' ? 'It is not stored any more.' : 'It cannot be paid by any more: its time is over.'
			});
		const says = {
			end: `${name} is ended: the payer cannot pay by it any more, and its processor is told to forget it.`,
			suspend: `${name} is suspended: the payer is not offered it until it is resumed.`,
			resume: `${name} can be paid by again.`,
			default: `${name} stands first when the payer pays.`
		};
		return { says: says[act] };
	},
	remove: async ({ params, locals }) => {
		const problem = await removePayer(params.id, locals.user!.name);
		if (problem) return fail(409, { trouble: problem });
		redirect(303, '/bill/payers?removed');
	}
};
