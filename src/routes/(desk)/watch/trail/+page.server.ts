import { addDays, dayPattern, instantIn, readDay } from '$lib/core/calendar';
import { AUDITED } from '$lib/server/access';
import { theBusiness } from '$lib/server/connect/business';
import { trailPage, trailPeople } from '$lib/server/watch/lists';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals }) => {
	const { searchParams: q } = url;
	const before = Number(q.get('before')) || undefined;
	const kind = AUDITED.find((one) => one === q.get('kind'));
	const who = q.get('who')?.trim().slice(0, 120) || undefined;
	const typed = q.get('until')?.trim() ?? '';
	const day = readDay(typed, locals.locale);
	const { timeZone } = await theBusiness();
	const [{ rows, more }, people] = await Promise.all([
		trailPage({
			objectKind: kind,
			userName: who,
			before,
			until: day ? instantIn(`${addDays(day, 1)}T00:00`, timeZone) : undefined
		}),
		trailPeople()
	]);
	const read = (text: string | null) => (text ? (JSON.parse(text) as Record<string, unknown>) : undefined);
	return {
		kind,
		who,
		until: day ?? typed,
		wrong: typed && !day ? `“${typed}” is no day. Write it as ${dayPattern(locals.locale)}.` : '',
		kinds: [...AUDITED].sort(),
		people: who && !people.includes(who) ? [...people, who] : people,
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
