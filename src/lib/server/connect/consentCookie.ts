import type { Cookies } from '@sveltejs/kit';
import { randomBytes } from 'node:crypto';

const NAME = 'purse_consent';

/** The secret by which a browser that began a consent is known again; it outlives a session that ends meanwhile. */
export function consentCookie(cookies: Cookies): string {
	const known = cookies.get(NAME);
	const value = known && known.length >= 32 ? known : randomBytes(24).toString('base64url');
	cookies.set(NAME, value, {
		path: '/connect',
		httpOnly: true,
		// the answer comes from the processor's site
		sameSite: 'lax',
		secure: (process.env.ORIGIN ?? '').startsWith('https:'),
		maxAge: 24 * 3600
	});
	return value;
}
export const knownBrowser = (cookies: Cookies): string | undefined => cookies.get(NAME);
