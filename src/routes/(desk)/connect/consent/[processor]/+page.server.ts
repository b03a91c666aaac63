import { endConsent } from '$lib/server/connect/connecting';
import { knownBrowser } from '$lib/server/connect/consentCookie';
import { CONNECTORS } from '$lib/server/connectors';
import { error, redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** Where a processor sends the administrator back to after a consent. */
export const load: PageServerLoad = async ({ params, url, locals, cookies }) => {
	if (!Object.hasOwn(CONNECTORS, params.processor)) error(404, 'There is no such processor.');
	const q = (name: string) => (url.searchParams.get(name) ?? '').slice(0, 400);
	const told = await endConsent(params.processor, locals.user!.id, knownBrowser(cookies), {
		state: q('state'),
		code: q('code'),
		error: q('error')
	});
	if ('stranger' in told)
		return { stranger: told.stranger, name: CONNECTORS[params.processor]!.name, processor: params.processor };
	const { draft, trouble } = told;
	redirect(
		303,
		draft.connectionId
			? `/connect/connections/${draft.connectionId}/keys${trouble ? '' : '?consented'}`
			: `/connect/processors/${params.processor}?mode=${draft.mode}${trouble ? '' : '&says=consented'}`
	);
};
