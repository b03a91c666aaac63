import { addEndpoint } from '$lib/server/hooks/endpoints';
import { readEndpoint } from '$lib/server/hooks/form';
import { fail } from '@sveltejs/kit';
import type { Actions } from './$types';

export const actions: Actions = {
	default: async ({ request, locals }) => {
		const read = readEndpoint(await request.formData());
		if ('errors' in read) return fail(400, read);
		const made = await addEndpoint(read.form, locals.user!.name);
		if ('problem' in made) return fail(409, { errors: { address: made.problem }, typed: read.form });
		return made;
	}
};
