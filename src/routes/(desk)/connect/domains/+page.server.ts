import { connectionById } from '$lib/server/connect/connections';
import {
	addDomain,
	DomainForm,
	domainTable,
	lookForCode,
	pageCode,
	prove,
	removeDomain
} from '$lib/server/connect/domains';
import { allConnections } from '$lib/server/connect/connections';
import { readAccount } from '$lib/server/connectors/account';
import { readForm } from '$lib/server/form';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends, url }) => {
	depends('live:connections');
	const rows = await allConnections();
	const asks = (what: 'wantsDomainProof' | 'wantsPageCode') =>
		rows
			.filter((row) => readAccount(row.account).abilities.some((one) => one[what]))
			.map((row) => ({ id: row.id, name: row.name, mode: row.mode }));
	const codeOf = url.searchParams.get('code');
	const row = codeOf ? rows.find((one) => one.id === codeOf) : undefined;
	const code = row && (await pageCode(row));
	return {
		domains: await domainTable(),
		provers: asks('wantsDomainProof'),
		coders: asks('wantsPageCode'),
		code: row && code ? { name: row.name, ...code } : undefined
	};
};

const both = async (request: Request) => {
	const given = await request.formData();
	return { domain: String(given.get('domain')), row: await connectionById(String(given.get('connection') ?? '')) };
};

export const actions: Actions = {
	add: async ({ request, locals }) => {
		const read = await readForm(request, DomainForm);
		if ('wrong' in read) return fail(400, read.wrong);
		const trouble = await addDomain(read.data, locals.user!.name);
		return trouble
			? fail(409, { errors: { domain: trouble }, values: { ...read.data } })
			: { says: `${read.data.domain} is added. Now have it proven where a wallet asks for it.` };
	},
	remove: async ({ request, locals }) => {
		const { domain } = await both(request);
		await removeDomain(domain, locals.user!.name);
		return { says: `${domain} is removed.` };
	},
	prove: async ({ request, locals }) => {
		const { domain, row } = await both(request);
		if (!row) return fail(404, { trouble: 'There is no such connection.' });
		const trouble = await prove(row, domain, locals.user!.name);
		return trouble ? fail(502, { trouble }) : { says: `${row.name} has looked at ${domain}.` };
	},
	look: async ({ request, locals }) => {
		const { domain, row } = await both(request);
		if (!row) return fail(404, { trouble: 'There is no such connection.' });
		const trouble = await lookForCode(row, domain, locals.user!.name);
		return trouble ? fail(502, { trouble }) : { says: `Looked at ${domain}.` };
	}
};
