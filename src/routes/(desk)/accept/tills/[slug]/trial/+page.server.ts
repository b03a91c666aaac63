import { AmountError, isCurrency, readTypedAmount } from '$lib/core/money';
import { countriesIn } from '$lib/core/places';
import { foundTill } from '$lib/server/accept/found';
import { lineUpsOf } from '$lib/server/accept/lineups';
import {
	arrivalsOf,
	beginTrial,
	paidTrials,
	TRIAL_OUTCOMES,
	trialAddress,
	trialsOf,
	twinned,
	type TrialOutcome
} from '$lib/server/accept/trials';
import { fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
	depends('live:tills', 'live:takings', 'live:arrivals');
	const { row, currencies } = await foundTill(params.slug);
	const [{ draft, published }, trials] = await Promise.all([lineUpsOf(row.id), trialsOf(row.id)]);
	const { untried } = await twinned((draft ?? published)?.offers ?? []);
	const paid = await paidTrials(trials);
	const shown = paid.find((one) => one.trial.id === url.searchParams.get('trial')) ?? undefined;
	const arrivals = shown?.payment ? await arrivalsOf(shown.payment.id) : [];
	return {
		till: { slug: row.slug, name: row.name, mode: row.mode },
		currencies,
		countries: countriesIn(locals.locale),
		hasDraft: !!draft,
		hasPublished: !!published,
		untried,
		outcomes: Object.entries(TRIAL_OUTCOMES).map(([value, one]) => ({ value, says: one.says })),
		trials: paid.map(({ trial, payment, request }) => ({
			id: trial.id,
			at: trial.at,
			by: trial.byUser,
			state: trial.state,
			outcome: TRIAL_OUTCOMES[trial.outcome as TrialOutcome]?.says ?? trial.outcome,
			payment: payment && { id: payment.id, way: request?.offerName ?? '', stage: payment.stage }
		})),
		shown: shown && {
			id: shown.trial.id,
			state: shown.trial.state,
			outcome: shown.trial.outcome,
			card: TRIAL_OUTCOMES[shown.trial.outcome as TrialOutcome]?.card ?? '',
			address: trialAddress(row, shown.trial),
			payment: shown.payment && {
				id: shown.payment.id,
				token: shown.request?.token ?? '',
				way: shown.request?.offerName ?? '',
				stage: shown.payment.stage,
				reachedStep: shown.payment.reachedStep,
				brokenStep: shown.payment.brokenStep,
				failure: shown.payment.failure
			},
			arrivals: arrivals.map((one) => ({ id: one.id, topic: one.topic, at: one.receivedAt, state: one.state }))
		}
	};
};

export const actions: Actions = {
	default: async ({ params, request, locals }) => {
		const { row, currencies } = await foundTill(params.slug);
		const form = await request.formData();
		const text = (name: string) => String(form.get(name) ?? '').trim();
		const typed = Object.fromEntries(
			['amount', 'currency', 'country', 'goods', 'delivery', 'which', 'outcome'].map((name) => [name, text(name)])
		) as Record<string, string>;
		const outcome = text('outcome');
		if (!Object.hasOwn(TRIAL_OUTCOMES, outcome)) return fail(400, { typed, trouble: 'Choose an outcome.' });
		if (!isCurrency(typed.currency!) || !currencies.includes(typed.currency!))
			return fail(400, { typed, trouble: `${row.name} takes ${currencies.join(', ')}.` });
		let amount;
		try {
			({ amount } = readTypedAmount(typed.amount!, typed.currency!, { locale: locals.locale }));
		} catch (error) {
			if (!(error instanceof AmountError)) throw error;
			return fail(400, { typed, trouble: error.message });
		}
		const result = await beginTrial(
			row,
			text('which') === 'draft' ? 'draft' : 'published',
			outcome as TrialOutcome,
			{ amount, country: text('country'), goods: text('goods'), delivery: text('delivery') },
			locals.user!.name
		);
		if ('trouble' in result) return fail(409, { typed, trouble: result.trouble });
		redirect(303, `/accept/tills/${row.slug}/trial?trial=${result.id}`);
	}
};
