import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { randomInt } from 'node:crypto';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { SERVER_ENV } from '../../scripts/serverEnv.mjs';
import { STANDINS } from '../../standins/main.ts';
import type { RunningStandin } from '../../standins/shared/serve.ts';

export const SIGN_IN = { mail: 'ilse@wrenalder.example', name: 'Ilse Verhaeren', password: 'rosin-and-varnish' };

/** A request that is made once more when a connection that was kept alive turns out to be closed. */
export async function freshFetch(address: string, init: RequestInit = {}): Promise<Response> {
	try {
		return await fetch(address, init);
	} catch (error) {
		const { code } = ((error as Error).cause ?? {}) as { code?: string };
		if (code !== 'UND_ERR_SOCKET' && code !== 'ECONNRESET' && code !== 'EPIPE') throw error;
		return fetch(address, init);
	}
}

/**
 * A port for a server that starts later. It lies below those that the system gives to whoever asks for any: between its choice
 * and the start, a stand-in or a call of another test that runs beside this one would be given it.
 */
export async function freePort(): Promise<number> {
	for (let tries = 0; ; tries++) {
		const port = randomInt(11_000, 32_000);
		try {
			await new Promise<void>((free, taken) => {
				const probe = createServer();
				probe.once('error', taken);
				probe.listen(port, '127.0.0.1', () => probe.close(() => free()));
			});
			return port;
		} catch (error) {
			if (tries === 50) throw error;
		}
	}
}

/** Asks until something is so, or fails with what was seen last. */
export async function until<T>(
	what: string,
	ask: () => Promise<T | undefined | false | null>,
	ms = 45_000,
	every = 60
): Promise<T> {
	let last: unknown;
	for (const end = Date.now() + ms; Date.now() < end;) {
		try {
			last = await ask();
			if (last) return last as T;
		} catch (error) {
			last = error;
		}
		await new Promise((next) => setTimeout(next, every));
	}
	throw new Error(`Waited ${ms} ms in vain for: ${what} (last: ${String(last)})`);
}

/** The built application as a process of its own, with a folder of its own. */
export class Application {
	child: ChildProcess | undefined;
	/** everything it wrote, to look for what must not be there */
	output = '';

	constructor(
		readonly address: string,
		readonly folder: string,
		private readonly env: Record<string, string>
	) {}

	async start(env: Record<string, string> = {}): Promise<void> {
		const child = spawn(process.execPath, ['server.mjs'], {
			env: { ...SERVER_ENV, ...process.env, ...this.env, ...env },
			stdio: ['ignore', 'pipe', 'pipe']
		});
		this.child = child;
		for (const stream of [child.stdout, child.stderr]) stream.on('data', (data) => (this.output += String(data)));
		await until(
			'the application answers',
			async () => child.exitCode !== null || (await fetch(`${this.address}/empty`)).ok,
			90_000
		);
		if (child.exitCode !== null) throw new Error(`The application did not start: ${this.output.slice(-2_000)}`);
	}

	/** Ends it without any chance to tidy up. */
	async kill(): Promise<void> {
		const { child } = this;
		if (!child || child.exitCode !== null || child.signalCode !== null) return;
		const gone = new Promise((done) => child.once('exit', done));
		child.kill('SIGKILL');
		await gone;
	}
}

export interface World {
	readonly app: Application;
	readonly fernhall: RunningStandin;
	readonly folder: string;
	/** Does at Fernhall what a hand does at its console. */
	control<T = unknown>(path: string, body?: object): Promise<T>;
	/** the same at another stand-in */
	at<T = unknown>(name: string, path: string, body?: object): Promise<T>;
	/** the address of a stand-in */
	addressOf(name: string): string;
	keys(mode?: 'live' | 'test'): Promise<{ publicKey: string; secretKey: string }>;
	/** the newest key of a kind at a stand-in, that was not revoked */
	keyOf(name: string, kind: string, mode?: 'live' | 'test'): Promise<string>;
	faults(faults: object): Promise<void>;
	restartFernhall(): Promise<void>;
	end(): Promise<void>;
}

/** What hands do at stand-ins that run, wherever they run. */
function handsAt(addressOf: (name: string) => string) {
	const at = async <T>(name: string, path: string, body?: object): Promise<T> => {
		const answer = await freshFetch(
			`${addressOf(name)}/control/${path}`,
			body ? { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {}
		);
		return (await answer.json()) as T;
	};
	const control = <T>(path: string, body?: object): Promise<T> => at<T>('fernhall', path, body);
	const keyOf = async (name: string, kind: string, mode = 'live') => {
		const keys = await at<{ key: string; kind: string; mode: string; revoked?: string; made?: string }[]>(name, 'keys');
		const mine = keys.filter((one) => one.kind === kind && one.mode === mode && !one.revoked);
		return mine.at(-1)!.key;
	};
	return {
		at,
		control,
		keyOf,
		keys: async (mode: 'live' | 'test' = 'live') => {
			const keys = await control<{ key: string; kind: string; mode: string; revoked?: string }[]>('keys');
			const of = (kind: string) => keys.find((one) => one.kind === kind && one.mode === mode && !one.revoked)!.key;
			return { publicKey: of('public'), secretKey: of('secret') };
		},
		faults: async (faults: object) => void (await control('faults', faults))
	};
}

/** A world that somebody else has started: the demo. */
export function openWorld(address: string, folder: string, standins: Readonly<Record<string, string>>): World {
	const addressOf = (name: string) => standins[name]!;
	const none = () => Promise.reject(new Error('this world was started elsewhere'));
	return {
		...handsAt(addressOf),
		app: new Application(address, folder, {}),
		fernhall: { name: 'fernhall', address: addressOf('fernhall'), stop: none },
		folder,
		addressOf,
		restartFernhall: none,
		end: none
	};
}

/** Stand-ins and application, fresh, on free ports. */
export async function makeWorld(
	env: Record<string, string> = {},
	{ start = true, haste = 40, with: names = ['fernhall'] as readonly string[], movesClock = false } = {}
): Promise<World> {
	const folder = mkdtempSync(join(tmpdir(), 'purse-'));
	const port = await freePort();
	const address = `http://127.0.0.1:${port}`;
	// where each name leads on this machine; shops are looked up here, by processors and by the application
	const hosts: Record<string, string> = { 'pay.wrenalder.example': `127.0.0.1:${port}` };
	const standins = new Map<string, RunningStandin>();
	const startOne = async (name: string, at = 0) => {
		const running = await STANDINS[name]!.start({
			port: at,
			folder: join(folder, 'standins'),
			haste,
			partner: address,
			hosts
		});
		standins.set(name, running);
		return running;
	};
	for (const name of [...new Set(['shop', 'fernhall', ...names])]) {
		const { address: to } = await startOne(name);
		if (name === 'shop') hosts['shop.wrenalder.example'] = to.replace('http://', '');
	}
	const app = new Application(address, join(folder, 'purse'), {
		HOST: '127.0.0.1',
		PORT: String(port),
		ORIGIN: address,
		JUSTPURSE_DATA: join(folder, 'purse'),
		// a file of a test is whole when its answer goes out, however busy the machine is
		JUSTPURSE_FILE_WAIT_MS: '60000',
		// all of a test comes from one address
		JUSTPURSE_PAYERS_PER_ADDRESS: '100',
		JUSTPURSE_ADMIN_MAIL: SIGN_IN.mail,
		JUSTPURSE_ADMIN_NAME: SIGN_IN.name,
		JUSTPURSE_ADMIN_PASSWORD: SIGN_IN.password,
		JUSTPURSE_HOSTS: Object.entries(hosts)
			.map(([host, to]) => `${host}=${to}`)
			.join(','),
		...Object.fromEntries([...standins].map(([name, one]) => [`${name.toUpperCase()}_URL`, one.address])),
		...(movesClock
			? {
					JUSTPURSE_DEMO_CLOCKS: [...standins]
						.filter(([name]) => STANDINS[name]!.account)
						.map(([, one]) => `${one.address}/control/clock`)
						.join(' ')
				}
			: {}),
		...env
	});
	if (start) await app.start();
	const addressOf = (name: string) => standins.get(name)!.address;
	return {
		app,
		get fernhall() {
			return standins.get('fernhall')!;
		},
		...handsAt(addressOf),
		addressOf,
		folder,
		restartFernhall: async () => {
			const running = standins.get('fernhall')!;
			await running.stop();
			await startOne('fernhall', Number(new URL(running.address).port));
		},
		end: async () => {
			await app.kill();
			for (const one of standins.values()) await one.stop();
			rmSync(folder, { recursive: true, force: true });
		}
	};
}
