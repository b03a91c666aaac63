import { trailPage } from '$lib/server/watch/lists';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url }) => {
	const before = Number(url.searchParams.get('before')) || undefined;
	const kind = url.searchParams.get('kind') || undefined;
	const { rows, more } = await trailPage({ objectKind: kind, before });
	const read = (text: string | null) => (text ? (JSON.parse(text) as Record<string, unknown>) : undefined);
	return {
		kind,
		more,
		last: rows.at(-1)?.id,
		changes: rows.map((row) => ({
			id: row.id,
			at: row.at,
			by: row.userName,
			kind: row.objectKind,
			name: row.objectName,
			act: row.act,
			before: read(row.before),
			after: read(row.after)
		}))
	};
};
