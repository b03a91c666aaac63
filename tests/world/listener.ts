import { createServer, type IncomingHttpHeaders, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';

export interface Heard {
	readonly headers: IncomingHttpHeaders;
	readonly body: string;
	readonly at: number;
}

/** A program of the business that listens to events, and answers as it is told to. */
export class Listener {
	readonly heard: Heard[] = [];
	answers: (heard: Heard) => number | 'hang' = () => 204;
	private readonly server: Server;

	private constructor() {
		this.server = createServer((request, response) => {
			const chunks: Buffer[] = [];
			request.on('data', (chunk: Buffer) => chunks.push(chunk));
			request.on('end', () => {
				const heard = { headers: request.headers, body: Buffer.concat(chunks).toString(), at: Date.now() };
				this.heard.push(heard);
				const status = this.answers(heard);
				if (status === 'hang') return;
				response.writeHead(status, status >= 300 && status < 400 ? { location: `${this.address}elsewhere` } : {});
				response.end(status === 500 ? 'The shelf is full' : '');
			});
		});
	}
	static async open(): Promise<Listener> {
		const made = new Listener();
		await new Promise<void>((done) => made.server.listen(0, '127.0.0.1', () => done()));
		return made;
	}
	get address(): string {
		return `http://127.0.0.1:${(this.server.address() as AddressInfo).port}/`;
	}
	kinds(): string[] {
		return this.heard.map((one) => (JSON.parse(one.body) as { type: string }).type);
	}
	async close(): Promise<void> {
		this.server.closeAllConnections();
		await new Promise((done) => this.server.close(done));
	}
}
