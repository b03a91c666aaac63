import { readReferences, takeReferences } from '$lib/server/payments/orderStates';
import { fail } from '@sveltejs/kit';
import type { Actions } from './$types';

/** The text of a form: typed, or that of a file. */
async function textOf(request: Request): Promise<string> {
	const form = await request.formData();
	const file = form.get('file');
	if (file instanceof File && file.size) return (await file.text()).slice(0, 2_000_000);
	return String(form.get('text') ?? '');
}

export const actions: Actions = {
	preview: async ({ request }) => {
		const text = await textOf(request);
		const read = await readReferences(text);
		return 'problem' in read
			? fail(400, { wrong: read.problem, text })
			: {
					preview: read.lines.slice(0, 200),
					all: read.lines.length,
					faults: read.lines.filter((one) => one.problem).length,
					text
				};
	},
	take: async ({ request, locals }) => {
		const text = await textOf(request);
		const result = await takeReferences(text, locals.user!.name);
		return 'problem' in result
			? fail(400, { wrong: result.problem, text, preview: result.lines?.filter((one) => one.problem).slice(0, 200) })
			: { says: result.says };
	}
};
