import { allCandidates } from '$lib/server/compare/sides';
import { countFiles } from '$lib/server/history/files';
import { allBankAccounts, allBrands, chartOfAccounts } from '$lib/server/connect/books';
import { theBusiness } from '$lib/server/connect/business';
import { draftsOf } from '$lib/server/connect/connecting';
import { allConnections } from '$lib/server/connect/connections';
import { domainTable } from '$lib/server/connect/domains';
import { allOffline } from '$lib/server/connect/offline';
import { CONNECTORS } from '$lib/server/connectors';
import { methodName } from '$lib/core/lineup';
import type { IndexGroup } from '$lib/ui';
import { worthOfConnect } from '$lib/server/worth';
import type { LayoutServerLoad } from './$types';
import { timeNow } from '$lib/server/signals/clock';

const DAY = 86_400_000;
/** keys older than this are due for rotation */
const KEY_DAYS = 365;
const many = (count: number, one: string) => `${count} ${one}${count === 1 ? '' : 's'}`;

export const load: LayoutServerLoad = async ({ depends, locals }) => {
	depends('live:connections');
	const [business, connections, offline, brands, banks, ledger, domains, drafts, files, candidates] = await Promise.all(
		[
			theBusiness(),
			allConnections(),
			allOffline(),
			allBrands(),
			allBankAccounts(),
			chartOfAccounts(),
			domainTable(),
			draftsOf(locals.user!.id),
			countFiles(),
			allCandidates()
		]
	);
	/** a line of state only where there is something to say */
	const state = (row: (typeof connections)[number]): { state?: string; bad?: boolean } => {
		if (row.paused) return { state: 'paused', bad: true };
		if (row.failing) return { state: 'failing, its standby steps in', bad: true };
		if (!row.verified) return { state: 'its keys are not valid any more', bad: true };
		if (row.oldUntil) return { state: 'two pairs of keys are valid' };
		const days = row.keyMadeAt ? Math.floor((timeNow() - row.keyMadeAt) / DAY) : 0;
		return days > KEY_DAYS ? { state: `its keys are ${days} days old`, bad: true } : {};
	};
	const wrongDomains = domains.filter(
		(one) => one.proofs.some((proof) => proof.state !== 'proven') || one.codes.some((code) => code.state !== 'present')
	).length;
	const index: IndexGroup[] = [
		{
			name: 'The business',
			folded: true,
			items: [
				{
					name: 'Details',
					href: '/connect/business',
					state: `${business.country}, ${business.homeCurrency}, ${business.timeZone}`
				},
				{ name: 'Brands', href: '/connect/brands', state: brands.length ? many(brands.length + 1, 'brand') : 'one' },
				{ name: 'Bank accounts', href: '/connect/bank-accounts', state: many(banks.length, 'account') },
				{ name: 'Chart of accounts', href: '/connect/ledger', state: many(ledger.length, 'ledger account') },
				{
					name: 'Domains',
					href: '/connect/domains',
					state: wrongDomains
						? `${wrongDomains} of ${many(domains.length, 'domain')} lack${wrongDomains === 1 ? 's' : ''} a proof or code`
						: many(domains.length, 'domain'),
					bad: wrongDomains > 0
				}
			]
		},
		{
			name: 'Processors',
			items: [
				{
					name: 'Catalogue',
					href: '/connect/processors',
					state: `${Object.keys(CONNECTORS).length} to connect, ${connections.length} connected`
				},
				{ name: 'What each can do', href: '/connect/abilities', state: 'methods, currencies, cards' },
				{ name: 'Side by side', href: '/connect/compare', state: 'what each would cost you' },
				{
					name: 'Settlement files',
					href: '/connect/files',
					state: files ? `${many(files, 'file')} imported` : 'past payments, for comparing'
				},
				...drafts.map((row) => ({
					name: CONNECTORS[row.processor]?.name ?? row.processor,
					href: `/connect/processors/${row.processor}`,
					state: `begun, for ${row.mode}`,
					tag: 'begun'
				})),
				...candidates.map((row) => ({
					name: row.name,
					href: `/connect/candidates/${row.id}`,
					state: 'considered',
					tag: 'candidate'
				})),
				...connections.map((row) => ({
					name: row.name,
					href: `/connect/connections/${row.id}`,
					...state(row),
					tag: row.mode === 'test' ? 'test' : undefined
				}))
			]
		},
		{
			name: 'Offline methods',
			items: [
				...offline.map((row) => ({
					name: row.name,
					href: `/connect/offline/${row.id}`,
					bad: !!row.paused,
					state: row.paused
						? 'paused'
						: row.iban
							? `to ${row.iban.slice(0, 2)}.. ${row.iban.slice(-4)}`
							: methodName(row.kind).toLowerCase()
				})),
				{ name: 'Add an offline method', href: '/connect/offline/new', add: true }
			]
		}
	];
	return { index, worth: await worthOfConnect(locals.locale) };
};
