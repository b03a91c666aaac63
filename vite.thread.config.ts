import { defineConfig } from 'vite';

/** The entry of the server's other thread: a file of its own beside the built application. */
export default defineConfig({
	publicDir: false,
	build: {
		ssr: 'src/lib/server/threads/thread.ts',
		outDir: 'build/thread',
		emptyOutDir: true,
		rollupOptions: { output: { entryFileNames: 'thread.js' } }
	}
});
