import { packAt } from '$lib/server/bill/packs';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, locals }) => {
	const found = await packAt(params.key);
	return {
		key: params.key,
		pending: found && !found.ended ? { done: found.done, of: found.of } : undefined,
		failed: !!found?.failed,
		result: found?.result && {
			documents: found.result.documents,
			size: (found.result.size / 1e6).toLocaleString(locals.locale, { maximumFractionDigits: 1 }),
			missing: found.result.failed
		}
	};
};
