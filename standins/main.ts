import { mkdirSync, readdirSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { keepClockIn } from './shared/clock.ts';
import type { Manifest } from './shared/manifest.ts';

const HERE = dirname(fileURLToPath(import.meta.url));
/** Folders of this one that are no stand-in. */
const OTHERS = ['shared', 'history'];

/** Every stand-in, by name, in the order of their ports. One process hosts them, but they share no state. */
export const STANDINS: Readonly<Record<string, Manifest>> = Object.fromEntries(
	(
		await Promise.all(
			readdirSync(HERE, { withFileTypes: true })
				.filter((entry) => entry.isDirectory() && !OTHERS.includes(entry.name))
				.map(async ({ name }) => ((await import(`./${name}/index.ts`)) as { manifest: Manifest }).manifest)
		)
	)
		.sort((a, b) => a.port - b.port)
		.map((manifest) => [manifest.name, manifest])
);

if (process.argv[1]?.endsWith('standins/main.ts')) {
	const folder = resolve(process.env.STANDINS_FOLDER ?? 'data/standins');
	mkdirSync(folder, { recursive: true });
	keepClockIn(folder);
	const haste = Number(process.env.STANDINS_HASTE ?? 1);
	const partner = process.env.STANDINS_PARTNER ?? 'http://127.0.0.1:5230';
	const hosts = Object.fromEntries(
		(process.env.STANDINS_HOSTS ?? '')
			.split(',')
			.filter(Boolean)
			.map((one) => one.split('=') as [string, string])
	);
	const running = await Promise.all(
		Object.values(STANDINS).map(({ name, port, start }) =>
			start({ port: Number(process.env[`${name.toUpperCase()}_PORT`] ?? port), folder, haste, partner, hosts })
		)
	);
	for (const { name, address } of running) console.log(`${name} ${address}`);
	for (const signal of ['SIGINT', 'SIGTERM'] as const)
		process.once(signal, () => void Promise.all(running.map((one) => one.stop())).then(() => process.exit(0)));
}
