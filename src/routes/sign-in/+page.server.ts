import { SESSION_COOKIE, signIn } from '$lib/server/access';
import { fail, redirect } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions } from './$types';

const Form = z.object({ mail: z.string().trim().max(200), password: z.string().max(500) });

/** Only an address of our own: anything else would lead a person who just signed in elsewhere. */
const ownPath = (to: string | null): string => (to && /^\/(?![/\\])/.test(to) ? to : '/needs-you');

export const actions: Actions = {
	default: async ({ request, cookies, url, getClientAddress }) => {
		const read = Form.safeParse(Object.fromEntries(await request.formData()));
		if (!read.success || !read.data.mail || !read.data.password)
			return fail(400, { mail: String(read.data?.mail ?? ''), says: 'Give your mail address and your password.' });
		const { mail, password } = read.data;
		const result = await signIn(mail, password, getClientAddress());
		if ('refused' in result)
			return fail(result.refused === 'wait' ? 429 : 400, {
				mail,
				says:
					result.refused === 'wait'
						? `Too many wrong passwords. Sign in again in ${result.minutes} minute${result.minutes === 1 ? '' : 's'}.`
						: 'Mail address and password do not fit together. Check both; five wrong tries mean a wait.'
			});
		cookies.set(SESSION_COOKIE, result.token, {
			path: '/',
			httpOnly: true,
			sameSite: 'lax',
			secure: url.protocol === 'https:',
			expires: result.expires
		});
		redirect(303, ownPath(url.searchParams.get('to')));
	}
};
