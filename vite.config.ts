import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { existsSync } from 'node:fs';
import { setTimeout as pause } from 'node:timers/promises';
import type { Plugin } from 'vite';
import { defineConfig } from 'vitest/config';

const DRIVER = 'node_modules/sqlite3/build/Release/node_sqlite3.node';
/** The kit loads what it has built for the server: the database driver, which may be compiled beside, must be there by then. */
const driverIsThere: Plugin = {
	name: 'driver-is-there',
	apply: 'build',
	writeBundle: {
		order: 'pre',
		sequential: true,
		async handler() {
			for (let waits = 0; waits < 6_000 && !existsSync(DRIVER); waits++) await pause(100);
		}
	}
};

export default defineConfig({
	plugins: [driverIsThere, tailwindcss(), sveltekit()],
	build: {
		chunkSizeWarningLimit: 900,
		reportCompressedSize: false,
		rolldownOptions: {
			// the forms' package offers adapters for a dozen packages that are not used; what it names of them is left out
			treeshake: { moduleSideEffects: [{ test: /^(typebox|zod-v3-to-json-schema)/, sideEffects: false }] }
		}
	},
	test: {
		projects: [
			{
				extends: true,
				test: { name: 'core', include: ['src/**/*.test.ts'], environment: 'node', testTimeout: 120_000 }
			},
			{
				extends: true,
				test: {
					name: 'services',
					include: ['tests/services/**/*.test.ts'],
					environment: 'node',
					testTimeout: 180_000,
					hookTimeout: 180_000,
					fileParallelism: false
				}
			},
			{
				extends: true,
				test: {
					name: 'journeys',
					include: ['tests/journeys/**/*.test.ts'],
					environment: 'node',
					testTimeout: 180_000,
					hookTimeout: 240_000,
					fileParallelism: false
				}
			}
		]
	}
});
