import { foundTill } from '$lib/server/accept/found';
import { foundConnection, foundOffline } from '$lib/server/connect/found';
import type { PaymentFilter } from '$lib/server/takings/filter';
import { readFilter } from '$lib/server/takings/filter';
import { paymentLines } from '$lib/server/takings/list';
import { error } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

const TROUBLES = {
	fee: 'Payments with another fee than expected',
	contradiction: 'Payments that contradict themselves'
};

/** The payments of one stage, till, connection or offline method, or of one trouble. */
export const load: PageServerLoad = async ({ url, params, locals, depends }) => {
	depends('live:takings');
	const filter: PaymentFilter = readFilter(url);
	let title: string;
	let more: PaymentFilter;
	if (params.kind === 'stage') [title, more] = [`Payments: ${params.value}`, { stage: params.value }];
	else if (params.kind === 'till') {
		const { row } = await foundTill(params.value);
		[title, more] = [`Payments: ${row.name}`, { tillId: row.id }];
	} else if (params.kind === 'trouble' && (params.value === 'fee' || params.value === 'contradiction'))
		[title, more] = [TROUBLES[params.value], { trouble: params.value }];
	else if (params.kind === 'connection') {
		const row = await foundConnection(params.value);
		[title, more] = [`Payments: ${row.name}`, { connectionId: row.id }];
	} else if (params.kind === 'offline') {
		const row = await foundOffline(params.value);
		[title, more] = [`Payments: ${row.name}`, { offlineId: row.id }];
	} else if (params.kind === 'trials') [title, more] = ['Trial payments', { trials: true }];
	else error(404, 'There is no such list.');
	return {
		...(await paymentLines({ ...filter, ...more }, locals.locale)),
		text: filter.text ?? '',
		title,
		path: url.pathname
	};
};
