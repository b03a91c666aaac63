import { findPayments } from '$lib/server/takings/list';
import { allConnections } from '$lib/server/connect/connections';
import { CONNECTORS } from '$lib/server/connectors';
import { allOffline } from '$lib/server/connect/offline';
import { findInvoices } from '$lib/server/bill/list';
import { payersPage } from '$lib/server/bill/payers';
import { allTills } from '$lib/server/accept/tills';
import { formatAmount } from '$lib/core/money';
import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** Every object whose name or reference fits a text. */
export const GET: RequestHandler = async ({ url, locals }) => {
	const text = (url.searchParams.get('q') ?? '').trim().slice(0, 80);
	const fits = (name: string) => name.toLowerCase().includes(text.toLowerCase());
	const [tills, connections, offline, invoices, payers, payments] = await Promise.all([
		allTills(),
		allConnections(),
		allOffline(),
		text.length >= 2 ? findInvoices(text) : [],
		text.length >= 2 ? payersPage(text, undefined) : { payers: [] },
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
		...invoices.slice(0, 8).map((row) => ({
			kind: row.kind === 'credit note' ? 'Credit note' : row.kind === 'quote' ? 'Quote' : 'Invoice',
			name: row.number,
			state: `${row.payerName}, ${formatAmount({ minor: row.total, currency: row.currency }, locals.locale)}, ${row.state}`,
			href: `/bill/invoices/${row.id}`
		})),
		...payers.payers.slice(0, 6).map(({ row }) => ({
			kind: 'Payer',
			name: row.company || row.name,
			state: row.mail,
			href: `/bill/payers/${row.id}`
		})),
		...payments.map((row) => ({
			kind: 'Payment',
			name: row.reference,
			state: `${formatAmount({ minor: row.minor, currency: row.currency }, locals.locale)}, ${row.stage}`,
			href: `/takings/payments/${row.id}`
		}))
	]);
};
