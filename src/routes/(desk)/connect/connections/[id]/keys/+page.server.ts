import { beginConsent, draftOf, shownDraft } from '$lib/server/connect/connecting';
import { change } from '$lib/server/connect/connections';
import { consentCookie } from '$lib/server/connect/consentCookie';
import { foundConnection } from '$lib/server/connect/found';
import { disconnect, retireOld, rotate } from '$lib/server/connect/keys';
import { hurtBy } from '$lib/server/accept/usage';
import { theBusiness } from '$lib/server/connect/business';
import { connectorOf } from '$lib/server/connectors';
import { readMoment } from '$lib/server/form';
import { fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import { timeNow } from '$lib/server/signals/clock';

export const load: PageServerLoad = async ({ params, locals, url }) => {
	const row = await foundConnection(params.id);
	const connector = connectorOf(row.processor);
	const draft = await draftOf(row.processor, row.mode, locals.user!.id, row.id);
	return {
		fields: connector.fields,
		hasConsent: !!connector.consent,
		consented: shownDraft(connector, draft).consented,
		draftSays: draft?.says ?? '',
		justConsented: url.searchParams.has('consented'),
		hurt: await hurtBy(row.id, locals.locale)
	};
};

const FAR_MS = 90 * 86_400_000;

export const actions: Actions = {
	rotate: async ({ params, request, locals }) => {
		const row = await foundConnection(params.id);
		const connector = connectorOf(row.processor);
		const form = await request.formData();
		const { timeZone } = await theBusiness();
		const until = form.get('when') === 'now' ? timeNow() : readMoment(form, 'until', locals.locale, timeZone);
		const errors: Record<string, string> = {};
		if (until === undefined) errors.until = 'Give a day and a time.';
		else if (until < timeNow() - 60_000)
			errors.until = 'That is over already. Choose a later time, or end them at once.';
		else if (until > timeNow() + FAR_MS) errors.until = 'At most 90 days from now.';
		if (Object.keys(errors).length) return fail(400, { errors });
		const typed = Object.fromEntries(
			connector.fields.map((one) => [one.name, String(form.get(one.name) ?? '').slice(0, 300)])
		);
		const result = await rotate(row, typed, until!, locals.user!);
		if ('done' in result) {
			// at once means now, not with the next round
			if (form.get('when') === 'now') {
				const trouble = await retireOld(await foundConnection(params.id), locals.user!.name);
				return {
					says: trouble
						? `New credentials are in use. The old ones are ended soon: ${trouble}`
						: 'New credentials are in use; the old ones are ended.'
				};
			}
			return { says: result.done };
		}
		if ('trouble' in result) return fail(502, { trouble: result.trouble });
		const general: string[] = [];
		for (const { field, says } of result.problems)
			if (connector.fields.some((one) => one.name === field)) errors[field] = says;
			else general.push(says);
		return fail(400, { errors, trouble: general.join(' ') || undefined });
	},
	consent: async ({ params, locals, cookies }) => {
		const row = await foundConnection(params.id);
		redirect(303, await beginConsent(row.processor, row.mode, locals.user!.id, consentCookie(cookies), row.id));
	},
	retire: async ({ params, locals }) => {
		const trouble = await retireOld(await foundConnection(params.id), locals.user!.name);
		return trouble ? fail(502, { trouble }) : { says: 'The old credentials are ended.' };
	},
	rename: async ({ params, request, locals }) => {
		const row = await foundConnection(params.id);
		const name = String((await request.formData()).get('name') ?? '').trim();
		if (!name || name.length > 60) return fail(400, { errors: { name: 'A name of 1 to 60 characters.' } });
		await change(row, { name }, 'renamed', locals.user!.name);
		return { says: `It is called ${name} from now on.` };
	},
	disconnect: async ({ params, request, locals }) => {
		const row = await foundConnection(params.id);
		const form = await request.formData();
		if (form.get('sure') !== 'on')
			return fail(400, { trouble: 'Nothing was disconnected: tick that you have read the list.' });
		const trouble = await disconnect(row, form.get('anyway') === 'on', locals.user!.name);
		if (trouble) return fail(502, { trouble, down: true });
		redirect(303, '/connect/processors?ended');
	}
};
