import { z } from 'zod';
import type { RequestHandler } from './$types';

const Theme = z.enum(['auto', 'light', 'dark']);

/** Keeps which theme a reader wants; `auto` follows their system. */
export const POST: RequestHandler = async ({ request, cookies }) => {
	const read = Theme.safeParse((await request.formData()).get('theme'));
	if (!read.success) return new Response('No such theme.', { status: 400 });
	cookies.set('purse_theme', read.data, {
		path: '/',
		httpOnly: false,
		sameSite: 'lax',
		secure: false,
		maxAge: 31_536_000
	});
	return new Response(null, { status: 204 });
};
