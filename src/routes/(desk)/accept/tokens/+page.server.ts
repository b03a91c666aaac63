import { readDay } from '$lib/core/calendar';
import { instantIn } from '$lib/core/calendar';
import { allTokens, makeToken, revokeToken, rotateToken, TOKEN_SCOPES, type TokenScope } from '$lib/server/access';
import { allTills } from '$lib/server/accept/tills';
import { theBusiness } from '$lib/server/connect/business';
import { ownAddress } from '$lib/server/connect/connections';
import { tell } from '$lib/server/signals/live';
import { timeNow } from '$lib/server/signals/clock';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
	depends('live:tills');
	const tills = await allTills();
	return {
		address: `${ownAddress()}/api/v1`,
		scopes: TOKEN_SCOPES,
		tills: tills.map(({ id, name }) => ({ id, name })),
		tokens: (await allTokens()).map((one) => ({
			id: one.id,
			name: one.name,
			last4: one.last4,
			by: one.byUser,
			createdAt: one.createdAt,
			usedAt: one.usedAt,
			revokedAt: one.revokedAt,
			expiresAt: one.expiresAt,
			isExpired: one.expiresAt !== null && one.expiresAt <= timeNow(),
			oldUntil: one.oldUntil !== null && one.oldUntil > timeNow() ? one.oldUntil : null,
			mode: one.mode,
			scopes: JSON.parse(one.scopes) as string[],
			tills: (JSON.parse(one.tillIds) as string[]).map(
				(id) => tills.find((till) => till.id === id)?.name ?? 'a removed till'
			)
		}))
	};
};

export const actions: Actions = {
	make: async ({ request, locals }) => {
		const form = await request.formData();
		const name = String(form.get('name') ?? '').trim();
		const typed = {
			name,
			scopes: form.getAll('scope').map(String),
			tills: form.getAll('till').map(String),
			mode: String(form.get('mode') ?? ''),
			until: String(form.get('until') ?? '').trim()
		};
		const wrong = (trouble: string) => fail(400, { trouble, typed });
		if (!name || name.length > 60) return wrong('Say what the token is for, in at most 60 characters.');
		const scopes = TOKEN_SCOPES.filter((scope) => typed.scopes.includes(scope));
		if (!scopes.length) return wrong('Tick at least one thing that it may be used for.');
		const { timeZone } = await theBusiness();
		const day = typed.until ? readDay(typed.until, locals.locale) : undefined;
		const expiresAt = day ? instantIn(`${day}T23:59`, timeZone) : undefined;
		if (typed.until && (!expiresAt || expiresAt <= timeNow())) return wrong('It must end on a day to come.');
		const known = (await allTills()).map((till) => till.id);
		const { token } = await makeToken(
			{
				name,
				scopes: scopes as TokenScope[],
				tillIds: typed.tills.filter((id) => known.includes(id)),
				mode: typed.mode === 'test' || typed.mode === 'live' ? typed.mode : '',
				expiresAt: expiresAt ?? null
			},
			locals.user!.name
		);
		tell('tills');
		return { token, name };
	},
	rotate: async ({ request, locals }) => {
		const made = await rotateToken(String((await request.formData()).get('id') ?? ''), locals.user!.name);
		tell('tills');
		return made ?? fail(404, { trouble: 'That token is not in use any more.' });
	},
	revoke: async ({ request, locals }) => {
		const gone = await revokeToken(String((await request.formData()).get('id') ?? ''), locals.user!.name);
		tell('tills');
		return { says: 'The token is revoked: whoever sends it is refused from now on.', undo: gone?.id };
	},
	restore: async ({ request, locals }) => {
		const back = await revokeToken(String((await request.formData()).get('id') ?? ''), locals.user!.name, false);
		tell('tills');
		return { says: back ? `The token ${back.name} is good again.` : 'That token was good already.' };
	}
};
