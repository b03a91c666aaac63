import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createGzip } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { askOutside, isPublicAddress, OutsideError } from '../../src/lib/server/outside.ts';

// What others answer is counted as it comes, and addresses that somebody typed lead nowhere private.

let server: Server;
let address: string;
let sent = 0;
beforeAll(async () => {
	server = createServer((request, response) => {
		sent = 0;
		let isClosed = false;
		response.on('close', () => (isClosed = true));
		const piece = Buffer.alloc(65_536, 'a');
		const out = request.url === '/gzip' ? createGzip() : response;
		if (request.url === '/small') return response.end('small');
		if (request.url === '/away') return response.writeHead(302, { location: 'http://127.0.0.1:1/' }).end();
		if (request.url === '/drip') {
			const drip = setInterval(() => response.write('a'), 20);
			response.on('close', () => clearInterval(drip));
			return;
		}
		if (request.url === '/gzip') {
			response.writeHead(200, { 'content-encoding': 'gzip' });
			out.pipe(response);
		}
		// five gigabytes, as far as anybody reads them
		const more = () => {
			while (sent < 5_000_000_000 && !isClosed) {
				sent += piece.length;
				if (!out.write(piece)) return void out.once('drain', more);
			}
			out.end();
		};
		more();
	});
	await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
	address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
	server.closeAllConnections();
	server.close();
});

const kindOf = async (asked: Promise<unknown>): Promise<string> => {
	try {
		await asked;
		return 'answered';
	} catch (error) {
		return error instanceof OutsideError ? error.kind : String(error);
	}
};

describe('an answer of others', () => {
	it('is read when it is of a usual size', async () => {
		expect(await askOutside(`${address}/small`)).toEqual({ status: 200, text: 'small' });
	});
	it.each(['/large', '/gzip'])('is cut at its bound, counted after it was decoded: %s', async (path) => {
		const before = process.memoryUsage().rss;
		const begun = performance.now();
		expect(await kindOf(askOutside(address + path, { bytes: 2_000_000 }))).toBe('too large');
		expect(performance.now() - begun).toBeLessThan(30_000);
		// some hundred megabytes of zeros are packed before the end is heard, and none of them is kept
		expect(sent).toBeLessThan(path === '/gzip' ? 2_500_000_000 : 50_000_000);
		expect(process.memoryUsage().rss - before).toBeLessThan(300_000_000);
	});
	it('that comes byte by byte is given up at its deadline, which covers all of it', async () => {
		const begun = performance.now();
		expect(await kindOf(askOutside(`${address}/drip`, { ms: 300 }))).toBe('slow');
		expect(performance.now() - begun).toBeLessThan(30_000);
	});
	it('that leads on is not followed', async () => {
		expect(await askOutside(`${address}/away`)).toMatchObject({ status: 302, location: 'http://127.0.0.1:1/' });
	});
});

describe('an address that somebody typed', () => {
	it('leads to no private place, by number or by a name that leads there', async () => {
		for (const host of ['127.0.0.1', '0x7f.1', '2130706433', '[::1]', '[::ffff:127.0.0.1]', 'localhost'])
			expect([
				host,
				await kindOf(askOutside(`http://${host}:${new URL(address).port}/small`, { isTyped: true }))
			]).toEqual([host, 'private']);
	});
	it.each([
		['127.0.0.1', false],
		['10.1.2.3', false],
		['172.20.0.1', false],
		['192.168.1.1', false],
		['169.254.169.254', false],
		['100.64.0.1', false],
		['198.18.0.1', false],
		['192.0.0.8', false],
		['192.0.2.1', false],
		['224.0.0.1', false],
		['240.0.0.1', false],
		['255.255.255.255', false],
		['0.0.0.0', false],
		['::', false],
		['::1', false],
		['::7f00:1', false],
		['::ffff:10.0.0.1', false],
		['fe80::1', false],
		['fe90::1', false],
		['fec0::1', false],
		['fd00::1', false],
		['ff02::1', false],
		['64:ff9b::a00:1', false],
		['64:ff9b:1::1', false],
		['2002:a00:1::1', false],
		['2001:0:1::1', false],
		['2001:db8::1', false],
		['not an address', false],
		['93.184.216.34', true],
		['2606:4700::1111', true]
	])('%s is public: %s', (text, isPublic) => {
		expect(isPublicAddress(text)).toBe(isPublic);
	});
});
