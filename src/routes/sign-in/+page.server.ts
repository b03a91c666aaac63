import { KNOWN_COOKIE, SESSION_COOKIE, signIn } from '$lib/server/access';
import { fail, redirect } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions } from './$types';

const Form = z.object({ mail: z.string().trim().max(200), password: z.string().max(500) });

const FIRST_PAGE = '/needs-you';
/** Only an address of our own, as a browser would read it: anything else would lead a person who just signed in elsewhere. */
function ownPath(to: string | null, origin: string): string {
	if (!to?.startsWith('/')) return FIRST_PAGE;
	try {
		const read = new URL(to, origin);
		return read.origin === origin ? read.pathname + read.search : FIRST_PAGE;
	} catch {
		return FIRST_PAGE;
	}
}

export const actions: Actions = {
	default: async ({ request, cookies, url, getClientAddress }) => {
		const read = Form.safeParse(Object.fromEntries(await request.formData()));
		if (!read.success || !read.data.mail || !read.data.password)
			return fail(400, { mail: String(read.data?.mail ?? ''), says: 'Give your mail address and your password.' });
		const { mail, password } = read.data;
		const result = await signIn(mail, password, getClientAddress(), cookies.get(KNOWN_COOKIE));
		if ('refused' in result && result.refused === 'busy')
			return fail(429, { mail, says: 'Many people are signing in at this moment. Try again in a few seconds.' });
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
		// this browser is known from now on: strangers who guess wrong cannot lock its owner out
		cookies.set(KNOWN_COOKIE, result.known, {
			path: '/sign-in',
			httpOnly: true,
			sameSite: 'lax',
			secure: url.protocol === 'https:',
			maxAge: 180 * 86_400
		});
		redirect(303, ownPath(url.searchParams.get('to'), url.origin));
	}
};
