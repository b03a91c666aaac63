import { foundTill } from '$lib/server/accept/found';
import { changeDraft, DraftMoved, lineUpsOf } from '$lib/server/accept/lineups';
import { offerForm, OfferForm } from '$lib/core/lineup';
import { contextOf, groupNames } from '$lib/server/accept/ask';
import { carrierChoices, readOffer } from '$lib/server/accept/offers';
import { countriesIn } from '$lib/core/places';
import { snapshot } from '$lib/server/accept/snapshot';
import { domainsOf, LANGUAGES, settingsOf } from '$lib/server/accept/tills';
import { error, fail, redirect } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { connectorOf } from '$lib/server/connectors';
import { zod4 } from 'sveltekit-superforms/adapters';
import type { Actions, PageServerLoad } from './$types';
import { timeNow } from '$lib/server/signals/clock';

const blankTexts = (count: number) => {
	const none = Array.from({ length: count }, () => '');
	return { textNames: none, textNotes: none, textNotesAfter: none };
};

export const load: PageServerLoad = async ({ params, locals }) => {
	const till = await foundTill(params.slug);
	const { draft, published } = await lineUpsOf(till.row.id);
	const offers = (draft ?? published)?.offers ?? [];
	const revision = draft?.row.revision ?? 0;
	const choices = await carrierChoices(till.row.mode);
	const offer = offers.find((one) => one.id === params.offer);
	if (!offer && params.offer !== 'new') error(404, 'There is no such offer in this line-up.');
	const unused =
		choices.find(
			(one) =>
				!offers.some((other) =>
					Object.values(other.routes).some(({ first }) => `${first.kind}:${first.id}:${other.method}` === one.value)
				)
		) ?? choices[0];
	const blank = unused && {
		revision,
		carrier: unused.value,
		name: unused.payerName,
		currencies: till.currencies.filter((code) => unused.currencies.includes(code)),
		schemes: unused.schemes.map((one) => one.id),
		fundings: [...unused.fundings] as OfferForm['fundings'],
		regions: [...unused.regions] as OfferForm['regions'],
		boundCurrency: till.currencies[0]!
	};
	const [held, groups] = await Promise.all([snapshot(), groupNames()]);
	const domains = domainsOf(till.row);
	// an offer without limits shows the currency in which one would be typed
	const limited = (form: OfferForm) => ({ ...form, boundCurrency: form.boundCurrency || till.currencies[0]! });
	// a line for each further language of the till, filled or not
	const [, ...further] = settingsOf(till.row).languages;
	const spoken = (form: OfferForm) => {
		const languages = [...new Set([...further, ...form.textLanguages])];
		const placed = (list: readonly string[]) => languages.map((one) => list[form.textLanguages.indexOf(one)] ?? '');
		return {
			...form,
			textLanguages: languages,
			textNames: placed(form.textNames),
			textNotes: placed(form.textNotes),
			textNotesAfter: placed(form.textNotesAfter)
		};
	};
	return {
		lineUp: offers,
		id: offer?.id ?? 'new',
		states: held.states,
		base: contextOf(till, { currency: till.currencies[0]!, minor: 1 }, held, new Date(timeNow())),
		domains,
		languageNames: LANGUAGES,
		countries: countriesIn(locals.locale),
		groups,
		names: {
			...groups,
			...Object.fromEntries([...held.connections, ...held.offline].map(([key, row]) => [key, row.name]))
		},
		till: { slug: till.row.slug, name: till.row.name, mode: till.row.mode, currencies: till.currencies },
		isNew: !offer,
		// what a processor keeps for payers, by the carrier that is chosen
		keepers: choices
			.filter(({ value, method }) => {
				const connection = held.connections.get(value.split(':')[1] ?? '');
				return connection && connectorOf(connection.processor).stores?.includes(method);
			})
			.map((one) => one.value),
		name: offer?.name ?? 'New offer',
		choices,
		others: offers.filter((one) => one.id !== offer?.id).map((one) => one.name),
		form: await superValidate(
			offer
				? spoken(limited(offerForm(offer, choices, revision)))
				: { ...(blank ?? { revision }), textLanguages: further, ...blankTexts(further.length) },
			zod4(OfferForm),
			{
				errors: false
			}
		)
	};
};

export const actions: Actions = {
	save: async ({ params, request, locals }) => {
		const till = await foundTill(params.slug);
		const form = await superValidate(request, zod4(OfferForm));
		if (!form.valid) return fail(400, { form });
		const isNew = params.offer === 'new';
		const read = await readOffer(form.data, till, isNew ? undefined : params.offer, locals.locale);
		if ('problems' in read) {
			for (const { field, says } of read.problems)
				setError(
					form,
					([
						'currencies',
						'schemes',
						'fundings',
						'regions',
						'overrides',
						'groups',
						'domains',
						'moreCurrencies'
					].includes(field)
						? `${field}._errors`
						: field) as 'name',
					says
				);
			return fail(400, { form });
		}
		try {
			await changeDraft(
				till.row,
				form.data.revision,
				(offers) =>
					isNew ? [...offers, read.offer] : offers.map((offer) => (offer.id === params.offer ? read.offer : offer)),
				locals.user!.name,
				isNew ? `added the offer ${read.offer.name}` : `changed the offer ${read.offer.name}`
			);
		} catch (moved) {
			if (moved instanceof DraftMoved) return setError(form, '', moved.message, { status: 409 });
			throw moved;
		}
		redirect(303, `/accept/tills/${params.slug}`);
	},
	remove: async ({ params, request, locals }) => {
		const till = await foundTill(params.slug);
		const form = await superValidate(request, zod4(OfferForm));
		try {
			await changeDraft(
				till.row,
				form.data.revision,
				(offers) => offers.filter((offer) => offer.id !== params.offer),
				locals.user!.name,
				`removed the offer ${form.data.name}`
			);
		} catch (moved) {
			if (moved instanceof DraftMoved) return setError(form, '', moved.message, { status: 409 });
			throw moved;
		}
		redirect(303, `/accept/tills/${params.slug}`);
	}
};
