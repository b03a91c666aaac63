import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** @type {import('@sveltejs/kit').Config} */
export default {
	preprocess: vitePreprocess(),
	kit: {
		// files that never change are compressed once, here; pages by the server as they are sent
		adapter: adapter({ precompress: true }),
		// processors may send notifications in any form; hooks.server.ts checks the origin of everything else
		csrf: { trustedOrigins: ['*'] },
		csp: {
			mode: 'nonce',
			directives: {
				'default-src': ['self'],
				'script-src': ['self'],
				// Bits UI and the drag library set positions as style attributes
				'style-src': ['self', 'unsafe-inline'],
				'img-src': ['self', 'data:'],
				'font-src': ['self', 'data:'],
				'connect-src': ['self'],
				'frame-ancestors': ['none'],
				// the origins of connected processors' card fields are added per answer in hooks.server.ts
				'frame-src': ['self'],
				'form-action': ['self'],
				'base-uri': ['none'],
				'object-src': ['none']
			}
		}
	}
};
