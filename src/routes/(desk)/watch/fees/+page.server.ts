import { FEE_BY, feesOverTime, readFeesAsked } from '$lib/server/fees/overTime';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:fees');
	const read = await readFeesAsked(url);
	if (!read) return { none: true as const };
	return {
		asked: read.asked,
		wrong: read.wrong,
		...(await feesOverTime(read.asked, locals.locale)),
		by: Object.entries(FEE_BY).map(([value, name]) => ({ value, name }))
	};
};
