import { RateCard } from '$lib/core/fees';
import { isMethod, methodName, ONLINE_METHODS, type Method } from '$lib/core/lineup';
import { readCardText } from '$lib/server/ratecards/edit';
import { CandidateForm, saveCandidate } from '$lib/server/compare/sides';
import { theBusiness } from '$lib/server/connect/business';
import { allConnections } from '$lib/server/connect/connections';
import { CONNECTORS } from '$lib/server/connectors';
import { newestCard } from '$lib/server/ratecards';
import { fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

const DAYS = /(\d+|one|two|three|five|seven)/i;
const NUMBER: Record<string, number> = { one: 1, two: 2, three: 3, five: 5, seven: 7 };

export const load: PageServerLoad = async ({ url }) => {
	const { homeCurrency } = await theBusiness();
	const from = url.searchParams.get('processor') ?? '';
	const connector = Object.hasOwn(CONNECTORS, from) ? CONNECTORS[from] : undefined;
	const row = (await allConnections()).find((one) => one.processor === from);
	const version = row ? await newestCard(row.id) : undefined;
	const told = DAYS.exec(connector?.about.paysOut ?? '')?.[1]?.toLowerCase() ?? '2';
	return {
		start: {
			name: connector?.name ?? '',
			processor: from,
			methods: (connector?.about.methods ?? ['card']) as Method[],
			currencies: (connector?.about.currencies ?? [homeCurrency]).join(' '),
			paysOutDays: NUMBER[told] ?? (Number(told) || 2)
		},
		card: version
			? version.body
			: RateCard.parse({
					settlement: homeCurrency,
					rounding: 'total',
					mode: 'half-up',
					lines: [{ when: {}, percentage: 13_500, fixed: 18 }]
				}),
		methods: ONLINE_METHODS.map((method) => ({ method, name: methodName(method) })),
		processors: Object.values(CONNECTORS).map(({ processor, name }) => ({ processor, name }))
	};
};

export const actions: Actions = {
	default: async ({ request, locals }) => {
		const form = await request.formData();
		const card = readCardText(String(form.get('card') ?? ''));
		if ('says' in card) return fail(400, { wrong: card.says });
		const read = CandidateForm.safeParse({
			name: form.get('name'),
			processor: String(form.get('processor') ?? ''),
			methods: form.getAll('methods').map(String).filter(isMethod),
			currencies: String(form.get('currencies') ?? '')
				.toUpperCase()
				.split(/[^A-Z]+/)
				.filter(Boolean),
			paysOutDays: Number(form.get('paysOutDays')),
			note: String(form.get('note') ?? ''),
			card: card.card
		});
		if (!read.success)
			return fail(400, { wrong: read.error.issues.map((issue) => `${issue.path.join(' ')}: ${issue.message}`) });
		const id = await saveCandidate(read.data, undefined, locals.user!.name);
		redirect(303, `/connect/candidates/${id}?new`);
	}
};
