import { allTokens, makeToken, revokeToken } from '$lib/server/access';
import { ownAddress } from '$lib/server/connect/connections';
import { tell } from '$lib/server/signals/live';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
	depends('live:tills');
	return {
		address: `${ownAddress()}/api/v1`,
		tokens: (await allTokens()).map(({ id, name, last4, byUser, createdAt, usedAt, revokedAt }) => ({
			id,
			name,
			last4,
			by: byUser,
			createdAt,
			usedAt,
			revokedAt
		}))
	};
};

export const actions: Actions = {
	make: async ({ request, locals }) => {
		const name = String((await request.formData()).get('name') ?? '').trim();
		if (!name || name.length > 60)
			return fail(400, { trouble: 'Say what the token is for, in at most 60 characters.', name });
		const { token } = await makeToken(name, locals.user!.name);
		tell('tills');
		return { token, name };
	},
	revoke: async ({ request, locals }) => {
		await revokeToken(String((await request.formData()).get('id') ?? ''), locals.user!.name);
		tell('tills');
		return { says: 'The token is revoked: whoever sends it is refused from now on.' };
	}
};
