// What demo and test share: install what is missing, build what is old. Plain JavaScript, because nothing may be installed yet.
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { compileDriver, placeDriver } from './driver.mjs';

export const ROOT = join(dirname(fileURLToPath(import.meta.url)), '..');
const CACHE = join(ROOT, 'node_modules', '.cache', 'just-purse');

/** Runs a command to its end; its output is shown unless `quiet`. Returns the exit code. */
export function run(command, args, { quiet = false, env = {} } = {}) {
	const result = spawnSync(command, args, {
		cwd: ROOT,
		stdio: quiet ? 'pipe' : 'inherit',
		env: { ...process.env, ...env }
	});
	if (quiet && result.status !== 0) process.stderr.write(`${result.stdout ?? ''}${result.stderr ?? ''}`);
	return result.status ?? 1;
}

const digest = (texts) => texts.reduce((hash, text) => hash.update(text), createHash('sha256')).digest('hex');
const stamp = (name) => join(CACHE, name);
const isStamped = (name, value) => existsSync(stamp(name)) && readFileSync(stamp(name), 'utf8') === value;
const setStamp = (name, value) => {
	mkdirSync(CACHE, { recursive: true });
	writeFileSync(stamp(name), value);
};

/** The same, beside other work. What it says is shown where it fails. */
export function runBeside(command, args, env = {}, cwd = ROOT) {
	return new Promise((done, failed) => {
		const child = spawn(command, args, { cwd, stdio: 'pipe', env: { ...process.env, ...env } });
		let said = '';
		for (const stream of [child.stdout, child.stderr]) stream.on('data', (data) => (said += data));
		child.once('error', failed);
		child.once('exit', (code) => {
			if (code !== 0) process.stderr.write(said);
			done(code ?? 1);
		});
	});
}

const npm = (...args) => runBeside('npm', [...args, '--ignore-scripts', '--no-audit', '--no-fund']);
const packagesDigest = () => digest([readFileSync(join(ROOT, 'package-lock.json'), 'utf8'), process.version]);

/**
 * Installs the packages that the application is built of and runs with, unless they are there already.
 * @param meanwhile what is done once the packages are there, while the database driver may still be compiled
 */
export async function install(meanwhile = async () => {}) {
	const value = packagesDigest();
	if (isStamped('installed', value)) return meanwhile();
	console.log('Installing packages and compiling the database driver, which takes one to two minutes …');
	const compiled = compileDriver(ROOT, (args, folder, env) => runBeside('npm', args, env, folder));
	const rest = async () => {
		if ((await npm('ci', '--omit=dev')) !== 0) throw new Error('npm ci failed');
		await meanwhile();
	};
	const [driver] = await Promise.all([compiled, rest()]);
	placeDriver(ROOT, driver);
	setStamp('installed', value);
}

/** Installs what the tests need as well. */
export const installForTests = () =>
	install(async () => {
		const value = packagesDigest();
		if (isStamped('installed for tests', value)) return;
		console.log('Installing packages for the tests …');
		if ((await npm('install', '--no-save')) !== 0) throw new Error('npm install failed');
		setStamp('installed for tests', value);
	});

function filesIn(folder) {
	return readdirSync(join(ROOT, folder), { withFileTypes: true }).flatMap((entry) =>
		entry.isDirectory() ? filesIn(join(folder, entry.name)) : [join(folder, entry.name)]
	);
}

/**
 * Builds the application, unless nothing that it is made of has changed.
 * @returns the exit code
 */
export async function build() {
	const sources = [
		...filesIn('src'),
		...filesIn('static'),
		'package-lock.json',
		'svelte.config.js',
		'vite.config.ts',
		'vite.thread.config.ts',
		'tsconfig.json'
	];
	const value = digest(sources.sort().flatMap((file) => [file, readFileSync(join(ROOT, file))]));
	if (
		isStamped('built', value) &&
		['index.js', 'thread/thread.js'].every(
			(name) => existsSync(join(ROOT, 'build', name)) && statSync(join(ROOT, 'build', name)).size
		)
	)
		return 0;
	console.log('Building the application …');
	const stub = `--import ${pathToFileURL(join(ROOT, 'scripts', 'driverStub.mjs')).href}`;
	const vite = (...more) =>
		runBeside('npx', ['--no-install', 'vite', 'build', '--logLevel', 'warn', ...more], {
			NODE_OPTIONS: `${process.env.NODE_OPTIONS ?? ''} ${stub}`.trim()
		});
	const code = (await vite()) || (await vite('--config', 'vite.thread.config.ts'));
	if (code === 0) setStamp('built', value);
	return code;
}

/** Starts a long-running child; its output goes through `onLine`. */
export function start(name, args, env, onLine = () => {}) {
	const child = spawn(process.execPath, args, {
		cwd: ROOT,
		env: { ...process.env, ...env },
		stdio: ['ignore', 'pipe', 'pipe']
	});
	for (const stream of [child.stdout, child.stderr])
		stream.on('data', (data) => {
			for (const line of String(data).split('\n')) if (line.trim()) onLine(line, name);
		});
	return child;
}

/** Waits until an address answers at all. */
export async function ready(address, ms = 30_000) {
	for (const end = Date.now() + ms; Date.now() < end;) {
		try {
			await fetch(address, { redirect: 'manual' });
			return;
		} catch {
			await new Promise((next) => setTimeout(next, 100));
		}
	}
	throw new Error(`${address} does not answer`);
}
