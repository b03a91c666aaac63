import { allFiles, FURTHER, HEADER, takeFile } from '$lib/server/choose/files';
import { ownHistory } from '$lib/server/choose/history';
import { theBusiness } from '$lib/server/connect/business';
import { CONNECTORS } from '$lib/server/connectors';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
	depends('live:connections');
	const { timeZone } = await theBusiness();
	const [files, history] = await Promise.all([allFiles(), ownHistory(timeZone)]);
	return {
		files: files.map(({ id, name, processor, count, fresh, declined, takenAt, byUser }) => ({
			id,
			name,
			processor: CONNECTORS[processor]?.name ?? processor,
			count,
			fresh,
			declined,
			takenAt,
			byUser
		})),
		processors: Object.values(CONNECTORS).map(({ processor, name }) => ({ processor, name })),
		header: HEADER,
		further: FURTHER,
		known: {
			count: history.count,
			from: history.days[history.day[0] ?? 0] ?? '',
			to: history.days[history.day.at(-1) ?? 0] ?? ''
		}
	};
};

export const actions: Actions = {
	default: async ({ request, locals }) => {
		const form = await request.formData();
		const file = form.get('file');
		const processor = String(form.get('processor') ?? '');
		if (!Object.hasOwn(CONNECTORS, processor)) return fail(400, { trouble: 'Choose whose file it is.' });
		if (!(file instanceof File) || !file.size) return fail(400, { trouble: 'Choose a file.', processor });
		const result = await takeFile(
			file.name.slice(0, 120),
			processor,
			new Uint8Array(await file.arrayBuffer()),
			locals.user!.name
		);
		if ('troubles' in result)
			return fail(422, {
				trouble: `${file.name} was not taken: ${result.troubles.length}${result.troubles.length === 50 ? ' or more' : ''} thing${result.troubles.length === 1 ? '' : 's'} wrong. Nothing of it was kept.`,
				troubles: result.troubles.map((one) => ({ line: one.line, says: one.says })),
				processor
			});
		if ('before' in result)
			return { says: `${file.name} was taken before, as ${result.before.name}. Nothing was changed.` };
		const { count, fresh, declined } = result.taken;
		return {
			says: `${file.name} is taken: ${fresh} of its ${count} payments are new${declined ? `, and ${declined} declined attempt${declined === 1 ? '' : 's'}` : ''}.`
		};
	}
};
