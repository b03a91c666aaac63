/// <reference types="vitest/config" />
import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig({
	plugins: [tailwindcss(), sveltekit()],
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
