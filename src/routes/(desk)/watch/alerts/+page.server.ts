import { closedAlerts, setWatchRules, watchRules } from '$lib/server/watch/alerts';
import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

const Before = z.coerce.number().int().positive().optional().catch(undefined);

export const load: PageServerLoad = async ({ url, depends }) => {
	depends('live:alerts');
	const [{ rows, more }, rules] = await Promise.all([
		closedAlerts({ before: Before.parse(url.searchParams.get('before') ?? undefined) }),
		watchRules()
	]);
	return {
		rules,
		more,
		last: rows.at(-1)?.closedAt ?? null,
		closed: rows.map(({ id, says, figure, openedAt, closedAt, closedBy, times }) => ({
			id,
			says,
			figure,
			openedAt,
			closedAt: closedAt!,
			closedBy,
			times
		}))
	};
};

const addresses = (text: FormDataEntryValue | null): string[] =>
	String(text ?? '')
		.split(/[\s,;]+/)
		.filter(Boolean);

export const actions: Actions = {
	default: async ({ request, locals }) => {
		const form = await request.formData();
		const hour = (name: string) => Number(form.get(name));
		const typed = {
			urgentTo: addresses(form.get('urgentTo')),
			digest: String(form.get('digest') ?? 'never'),
			digestTo: addresses(form.get('digestTo')),
			digestHour: hour('digestHour'),
			quietFrom: hour('quietFrom'),
			quietTo: hour('quietTo')
		};
		const wrong = await setWatchRules(typed, locals.user!.name);
		return wrong ? fail(400, { trouble: wrong, typed }) : { says: 'Saved.' };
	}
};
