import {
	anyTypes,
	conditionsInWords,
	coverageRuler,
	hasCard,
	routeTrouble,
	sayTypes,
	shareOfOffers,
	sound
} from '$lib/core/lineup';
import { formatDay, inZone } from '$lib/core/calendar';
import { formatAmount, formatNumber } from '$lib/core/money';
import { contextOf, groupNames } from '$lib/server/accept/ask';
import { foundTill } from '$lib/server/accept/found';
import {
	changeDraft,
	discardDraft,
	DraftMoved,
	newlyEmpty,
	idleParts,
	lineUpsOf,
	publish,
	publishProblems,
	sayDifferences
} from '$lib/server/accept/lineups';
import { missingNotices } from '$lib/server/watch/needed';
import { lastTrial } from '$lib/server/accept/trials';
import { snapshot } from '$lib/server/accept/snapshot';
import { unmetAt, whoCame } from '$lib/server/accept/tills';
import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';
import { timeNow } from '$lib/server/signals/clock';

/** Connections that a till's published line-up goes through. */
async function carriersAt(tillId: string): Promise<Set<string>> {
	const { published } = await lineUpsOf(tillId);
	const carriers = (published?.offers ?? []).flatMap((offer) =>
		Object.values(offer.routes).flatMap((route) => [route.first, route.standby])
	);
	return new Set(carriers.flatMap((one) => (one?.kind === 'connection' ? [one.id] : [])));
}

const DAYS_90 = 90 * 86_400_000;
/** amounts at which the rulers are labelled, in major units */
const DECADES = [1, 10, 100, 1000, 10_000];

export const load: PageServerLoad = async ({ params, locals, depends }) => {
	depends('live:tills', 'live:connections');
	const till = await foundTill(params.slug);
	const [{ draft, published }, held, unmet, groups, came] = await Promise.all([
		lineUpsOf(till.row.id),
		snapshot(),
		unmetAt(till.row.id, timeNow() - DAYS_90),
		groupNames(),
		whoCame(till.row.id, timeNow() - DAYS_90)
	]);
	const shown = draft ?? published;
	const offers = shown?.offers ?? [];
	const { connections, offline, schemeNames, states } = held;
	const nameOf = (carrier?: { kind: string; id: string }) =>
		carrier &&
		((carrier.kind === 'connection' ? connections.get(carrier.id) : offline.get(carrier.id))?.name ?? 'removed');
	const now = new Date(timeNow());
	const context = contextOf(till, { currency: till.currencies[0]!, minor: 1 }, held, now);
	// by the line-up that is shown, with every route in order: what is paused today says nothing of ninety days
	const shares = shareOfOffers({ lineUp: offers, states: sound(states), base: context }, came);
	const carriesNow = (offer: (typeof offers)[number]): string => {
		if (states.pausedMethods.includes(offer.method)) return 'its method is paused everywhere';
		const says = new Set<string>();
		for (const code of till.currencies) {
			const route = offer.routes[code];
			const trouble = route && routeTrouble(route.first, context, states);
			if (!trouble) continue;
			const steps = route.standby && !routeTrouble(route.standby, context, states);
			says.add(`${trouble}: ${steps ? `${nameOf(route.standby)} carries it now` : 'nothing carries it now'}`);
		}
		return [...says].join('; ');
	};
	return {
		till: {
			slug: till.row.slug,
			name: till.row.name,
			kind: till.row.kind,
			mode: till.row.mode,
			currencies: till.currencies
		},
		trial: await lastTrial(till.row.id, locals.locale),
		published: published && { number: published.row.number, at: published.row.at, by: published.row.byUser },
		draft: draft && {
			revision: draft.row.revision,
			says: await sayDifferences(published?.offers ?? [], draft.offers, locals.locale, till.row),
			idle: idleParts(till.row, draft.offers),
			problems: await publishProblems(till.row, draft.offers, locals.locale),
			...(await newlyEmpty(till.row, draft.offers, published?.offers ?? [], locals.locale)),
			// somebody published, or went back, since this draft was begun
			stale: published && draft.row.basedOn !== published.row.number ? (draft.row.basedOn ?? 0) : undefined
		},
		revision: draft?.row.revision ?? 0,
		since: formatDay(inZone(new Date(timeNow() - DAYS_90), held.business.timeZone).day, locals.locale),
		offers: offers.map((offer) => {
			const first = Object.values(offer.routes)[0];
			const standby = Object.values(offer.routes).find((route) => route.standby)?.standby;
			return {
				id: offer.id,
				name: offer.name,
				on: offer.on,
				method: offer.method,
				route: nameOf(first?.first) ?? 'none',
				// what carries it just now, where that is not the first choice
				now: carriesNow(offer),
				share: shares.get(offer.id),
				standby: nameOf(standby),
				currencies: Object.keys(offer.routes),
				types: hasCard(offer.method) ? sayTypes(offer.cardTypes ?? anyTypes, schemeNames) : '',
				amounts: offer.conditions.amounts.map(({ currency, minimum, maximum }) => {
					const of = (minor: number) => formatAmount({ minor, currency }, locals.locale);
					if (minimum === undefined) return `to ${of(maximum ?? 0)}`;
					return maximum === undefined
						? `from ${of(minimum)}`
						: `${formatNumber({ minor: minimum, currency }, locals.locale)} to ${of(maximum)}`;
				}),
				// what the amounts and the card types do not tell already
				conditions: conditionsInWords(
					{ ...offer, cardTypes: undefined, conditions: { ...offer.conditions, amounts: [] } },
					locals.locale,
					groups
				)
			};
		}),
		rulers: till.currencies.map((currency) => ({
			currency,
			stretches: coverageRuler(offers, contextOf(till, { currency, minor: 1 }, held, now), states).map((one) => ({
				...one,
				fromText: formatNumber({ minor: one.from, currency }, locals.locale),
				toText: one.to === undefined ? 'up' : formatNumber({ minor: one.to, currency }, locals.locale)
			}))
		})),
		decades: DECADES,
		unmet: unmet.map((one) => ({
			kind: one.kind,
			count: one.count,
			sum: formatAmount({ minor: one.minor, currency: one.currency }, locals.locale)
		}))
	};
};

const Order = z.object({
	revision: z.coerce.number().int(),
	order: z.string().transform((text) => text.split(' ').filter(Boolean))
});

export const actions: Actions = {
	order: async ({ params, request, locals }) => {
		const till = await foundTill(params.slug);
		const read = Order.safeParse(Object.fromEntries(await request.formData()));
		if (!read.success) return fail(400, { trouble: 'The order was not complete.' });
		const { revision, order } = read.data;
		try {
			await changeDraft(
				till.row,
				revision,
				(offers) => {
					// an offer that the order does not name keeps its place at the end
					const named = order
						.map((id) => offers.find((offer) => offer.id === id))
						.filter((offer) => offer !== undefined);
					return [...named, ...offers.filter((offer) => !order.includes(offer.id))];
				},
				locals.user!.name,
				'changed the order'
			);
		} catch (error) {
			if (error instanceof DraftMoved) return fail(409, { trouble: error.message });
			throw error;
		}
		return {};
	},
	publish: async ({ params, request, locals }) => {
		const till = await foundTill(params.slug);
		const form = await request.formData();
		const reason = String(form.get('reason') ?? '').slice(0, 300);
		try {
			const result = await publish(till.row, Number(form.get('revision')), reason, locals.user!.name, locals.locale);
			if ('problems' in result) return fail(400, { problems: result.problems, reason });
			const missing = await missingNotices(await carriersAt(till.row.id));
			return { says: `Version ${result.number} is in force: payers meet it from now on.`, missing };
		} catch (error) {
			if (error instanceof DraftMoved) return fail(409, { trouble: error.message });
			throw error;
		}
	},
	discard: async ({ params, request, locals }) => {
		const till = await foundTill(params.slug);
		try {
			await discardDraft(till.row, Number((await request.formData()).get('revision')), locals.user!.name);
		} catch (error) {
			if (error instanceof DraftMoved) return fail(409, { trouble: error.message });
			throw error;
		}
		return { says: 'The draft is thrown away. What was published stays.' };
	}
};
