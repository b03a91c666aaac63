import { findPayments } from '$lib/server/takings/list';
import { allConnections } from '$lib/server/connect/connections';
import { CONNECTORS } from '$lib/server/connectors';
import { allOffline } from '$lib/server/connect/offline';
import { allTills } from '$lib/server/accept/tills';
import { formatAmount } from '$lib/core/money';
import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** Every object whose name or reference fits a text. */
export const GET: RequestHandler = async ({ url, locals }) => {
	const text = (url.searchParams.get('q') ?? '').trim().slice(0, 80);
	const fits = (name: string) => name.toLowerCase().includes(text.toLowerCase());
	const [tills, connections, offline, payments] = await Promise.all([
		allTills(),
		allConnections(),
		allOffline(),
		text.length >= 2 ? findPayments(text, 8) : []
	]);
	return json([
		...tills
			.filter((row) => fits(row.name))
			.map((row) => ({
				kind: 'Till',
				name: row.name,
				state: row.mode === 'test' ? 'test' : '',
				href: `/accept/tills/${row.slug}`
			})),
		...connections
			.filter((row) => fits(row.name))
			.map((row) => ({ kind: 'Connection', name: row.name, state: row.mode, href: `/connect/connections/${row.id}` })),
		...Object.values(CONNECTORS)
			.filter(({ name }) => text.length >= 2 && fits(`Connect ${name}`))
			.map(({ name, processor }) => ({
				kind: 'Do',
				name: `Connect ${name}`,
				state: '',
				href: `/connect/processors/${processor}`
			})),
		...offline
			.filter((row) => fits(row.name))
			.map((row) => ({ kind: 'Offline method', name: row.name, state: '', href: `/connect/offline/${row.id}` })),
		...payments.map((row) => ({
			kind: 'Payment',
			name: row.reference,
			state: `${formatAmount({ minor: row.minor, currency: row.currency }, locals.locale)}, ${row.stage}`,
			href: `/takings/payments/${row.id}`
		}))
	]);
};
