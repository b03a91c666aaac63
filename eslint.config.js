import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

/** Imports run one way: routes → ui, server → core. Stand-ins share nothing with the application but the wire. */
const forbid = (files, patterns, except = []) => ({
	files,
	ignores: except,
	rules: { 'no-restricted-imports': ['error', { patterns }] }
});
const sql = { group: ['sequelize', 'sqlite3', 'umzug'], message: 'Only src/lib/server/db knows Sequelize or SQL.' };

const above = {
	group: ['$lib/ui', '$lib/ui/*', '**/ui/**', '**/routes/**'],
	message: 'server imports neither ui nor routes.'
};
/** The rooms of src/lib/server, from the ground up: each imports only those before it, so that no circle can come about. */
const ROOMS = [
	'signals',
	'db',
	'access',
	'connectors',
	'jobs',
	'draw',
	'threads',
	'pdf',
	'speak',
	'ratecards',
	'events',
	'placing',
	'payments',
	'connect',
	'history',
	'compare',
	'accept',
	'messages',
	'bill',
	'takings',
	'fees',
	'watch',
	'hooks',
	'api',
	'work'
];

export default ts.config(
	{ ignores: ['build/', '.svelte-kit/', 'node_modules/', 'data/', '.cache/'] },
	js.configs.recommended,
	...ts.configs.recommended,
	...svelte.configs.recommended,
	prettier,
	...svelte.configs.prettier,
	{
		languageOptions: { globals: { ...globals.browser, ...globals.node } },
		rules: {
			'no-undef': 'off',
			'@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
			// the application is always served from the root of its own origin
			'svelte/no-navigation-without-resolve': 'off'
		}
	},
	{
		files: ['**/*.svelte', '**/*.svelte.ts', '**/*.svelte.js'],
		languageOptions: { parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'], svelteConfig } }
	},
	forbid(
		['src/lib/core/**/*.ts'],
		[
			{
				group: ['$lib', '$lib/*', '$app/*', '$env/*', 'svelte', 'svelte/*', '@sveltejs/*', 'node:*', 'fs', 'crypto'],
				message: 'The core is pure: it imports only itself and pure libraries.'
			},
			{ group: ['**/server/**', '**/ui/**', '**/routes/**'], message: 'The core imports nothing above it.' },
			sql
		],
		['src/lib/core/**/*.test.ts']
	),
	forbid(
		['src/lib/ui/**'],
		[{ group: ['$lib/server', '$lib/server/*', '**/server/**'], message: 'ui never imports server.' }, sql]
	),
	forbid(['src/lib/server/**/*.ts'], [above, sql], ['src/lib/server/db/**']),
	...ROOMS.map((room, at) =>
		forbid(
			[`src/lib/server/${room}/**/*.ts`],
			[
				above,
				...(room === 'db' ? [] : [sql]),
				...(at + 1 < ROOMS.length
					? [
							{
								group: ROOMS.slice(at + 1).flatMap((one) => [`../${one}`, `../${one}/*`, `../../${one}/*`]),
								message: `The room ${room} imports only rooms that stand before it in ROOMS.`
							}
						]
					: [])
			],
			[`src/lib/server/${room}/**/*.test.ts`]
		)
	),
	{
		files: ['src/lib/server/**/*.ts', 'src/hooks.server.ts', 'src/routes/**/*.ts'],
		ignores: ['src/lib/server/outside.ts', 'src/lib/server/**/*.test.ts'],
		rules: {
			'no-restricted-globals': [
				'error',
				{
					name: 'fetch',
					message: 'Whatever goes out goes through askOutside (src/lib/server/outside.ts), which bounds it.'
				}
			],
			'no-restricted-syntax': [
				'error',
				{
					selector: "CallExpression[callee.property.name='request'][callee.object.name=/^https?$/]",
					message: 'Whatever goes out goes through askOutside (src/lib/server/outside.ts), which bounds it.'
				},
				{
					selector:
						"NewExpression[callee.name='RateLimiterMemory']:has(ObjectExpression > Property[key.name='points'] > Literal)",
					message: 'Limits stand in src/lib/server/limits.ts, each with its unit and reason.'
				}
			]
		}
	},
	forbid(['src/hooks.server.ts'], [sql]),
	forbid(
		['src/routes/**'],
		[
			sql,
			{
				group: ['$lib/server/db', '$lib/server/db/*'],
				message: 'A route asks the rooms of server, never the database.'
			}
		]
	),
	forbid(
		['standins/**/*.ts'],
		[{ group: ['$lib/*', '**/src/**'], message: 'Stand-ins share nothing with the application but the wire.' }]
	)
);
