import { methodName } from '$lib/core/lineup';
import { formatAmount } from '$lib/core/money';
import { stillToReceive } from '$lib/server/takings/receive';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:takings');
	const text = (url.searchParams.get('q') ?? '').trim().slice(0, 100);
	const rows = await stillToReceive(text);
	return {
		text,
		lines: rows.map((row) => ({
			id: row.id,
			reference: row.reference,
			payer: row.payerName || row.payerMail,
			method: methodName(row.method),
			at: row.createdAt,
			missing: formatAmount({ minor: row.minor - row.taken, currency: row.currency }, locals.locale),
			isPart: row.taken > 0
		}))
	};
};
