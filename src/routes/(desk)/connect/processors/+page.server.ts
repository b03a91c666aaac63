import { methodName, ONLINE_METHODS } from '$lib/core/lineup';
import { countriesIn } from '$lib/core/places';
import { allApplications, papersOf } from '$lib/server/connect/applications';
import { readiness, theBusiness } from '$lib/server/connect/business';
import { readAccount } from '$lib/server/connectors/account';
import { allConnections } from '$lib/server/connect/connections';
import { draftsOf } from '$lib/server/connect/connecting';
import { CONNECTORS, WAYS } from '$lib/server/connectors';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:connections');
	const q = (name: string) => url.searchParams.get(name) ?? '';
	const filter = { country: q('country'), method: q('method'), currency: q('currency'), way: q('way') };
	const [rows, applications, drafts, business] = await Promise.all([
		allConnections(),
		allApplications(),
		draftsOf(locals.user!.id),
		theBusiness()
	]);
	const all = Object.values(CONNECTORS);
	const some = (list: readonly string[]) => [...new Set(list)].sort();
	const shown = all.filter(
		({ about, way }) =>
			(!filter.country || about.countries.includes(filter.country)) &&
			(!filter.method || (about.methods as readonly string[]).includes(filter.method)) &&
			(!filter.currency || about.currencies.includes(filter.currency)) &&
			(!filter.way || way === filter.way)
	);
	return {
		filter,
		country: business.country,
		countries: countriesIn(locals.locale).filter((one) => all.some(({ about }) => about.countries.includes(one.code))),
		methods: ONLINE_METHODS.filter((method) => all.some(({ about }) => about.methods.includes(method))).map(
			(method) => ({
				method,
				name: methodName(method)
			})
		),
		currencies: some(all.flatMap(({ about }) => about.currencies)),
		ways: WAYS,
		count: all.length,
		processors: await Promise.all(
			shown.map(async ({ processor, name, about, console, way }) => ({
				processor,
				name,
				way,
				console,
				carries: about.carries,
				methods: about.methods.map(methodName),
				currencies: about.currencies,
				here: about.countries.includes(business.country),
				paysOut: about.paysOut,
				charges: about.charges,
				support: about.support,
				apply: about.apply,
				missing: (await readiness(about.asks)).filter((one) => !one.there).length,
				connections: rows
					.filter((row) => row.processor === processor)
					.map((row) => ({
						id: row.id,
						mode: row.mode,
						accountId: row.accountId,
						heldUntil: readAccount(row.account).payout.heldUntil
					})),
				applications: applications
					.filter((row) => row.processor === processor)
					.map((row) => ({ number: row.number, state: row.state, papers: papersOf(row) })),
				draft: drafts.find((row) => row.processor === processor)?.mode
			}))
		)
	};
};
