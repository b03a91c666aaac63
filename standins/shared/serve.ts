import { createAdaptorServer } from '@hono/node-server';
import type { Hono } from 'hono';
import type { AddressInfo } from 'node:net';

/** Where and how a stand-in runs. */
export interface StandinOptions {
	/** 0 takes a free port */
	readonly port: number;
	/** folder that keeps its state */
	readonly folder: string;
	/** tries of a notification wait this many times shorter than in life; 1 in life */
	readonly haste?: number;
	/** the origin of the application that may ask for consent */
	readonly partner?: string;
	/** names that are looked up here before the network is asked: host → address and port */
	readonly hosts?: Readonly<Record<string, string>>;
}

export interface RunningStandin {
	readonly name: string;
	readonly address: string;
	readonly stop: () => Promise<void>;
}

/** Listens on loopback and tells the address. */
export function serve(name: string, app: Hono, port: number, onStop: () => void = () => {}): Promise<RunningStandin> {
	return new Promise((resolve, reject) => {
		const server = createAdaptorServer({ fetch: app.fetch });
		server.once('error', reject);
		server.listen(port, '127.0.0.1', () => {
			const { port: taken } = server.address() as AddressInfo;
			resolve({
				name,
				address: `http://127.0.0.1:${taken}`,
				stop: () =>
					new Promise((done) => {
						onStop();
						server.close(() => done());
						if ('closeAllConnections' in server) server.closeAllConnections();
					})
			});
		});
	});
}
