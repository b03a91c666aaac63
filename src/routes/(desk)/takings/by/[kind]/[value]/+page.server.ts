import { foundTill } from '$lib/server/accept/found';
import type { PaymentFilter } from '$lib/server/db';
import { readFilter } from '$lib/server/takings/filter';
import { paymentLines } from '$lib/server/takings/list';
import { error } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** The payments of one stage, or of one till. */
export const load: PageServerLoad = async ({ url, params, locals, depends }) => {
	depends('live:takings');
	const filter: PaymentFilter = readFilter(url);
	let title: string;
	let more: PaymentFilter;
	if (params.kind === 'stage') [title, more] = [`Payments: ${params.value}`, { stage: params.value }];
	else if (params.kind === 'till') {
		const { row } = await foundTill(params.value);
		[title, more] = [`Payments: ${row.name}`, { tillId: row.id }];
	} else error(404, 'There is no such list.');
	return {
		...(await paymentLines({ ...filter, ...more }, locals.locale)),
		text: filter.text ?? '',
		title,
		path: url.pathname
	};
};
