import { readDay } from '$lib/core/calendar';
import { beginCheck, readDaysAsked, showCheck } from '$lib/server/fees/period';
import { resultWithin } from '$lib/server/jobs';
import type { PageServerLoad } from './$types';

/** Longer than this nobody waits for a page: it shows how far the check has come instead. */
const PATIENCE_MS = 900;

export const load: PageServerLoad = async ({ url, locals }) => {
	const query = url.searchParams;
	const asked = await readDaysAsked(query, locals.locale);
	const typed = { from: query.get('from') ?? '', to: query.get('to') ?? '' };
	const wrong = [typed.from, typed.to].find((text) => text && !readDay(text, locals.locale));
	const common = { ...asked, typed, ...(wrong ? { wrong: `“${wrong}” is no day.` } : {}) };
	// nothing is begun before somebody asks for it
	if (wrong || (!typed.from && !typed.to)) return common;
	const job = await beginCheck(asked);
	const result = await resultWithin(job, PATIENCE_MS);
	if (!result)
		return { ...common, pending: { at: `/watch/discrepancies/check/progress?key=${job.key}`, ...job.progress } };
	return { ...common, checked: showCheck(result, locals.locale) };
};
