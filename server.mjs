// The entry of the built application. Notifications go straight to where they are stored, past everything that a page
// needs; all else goes to the pages. (In development, the route under src/routes/hooks does the same.)
import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { fileURLToPath } from 'node:url';
import compression from 'compression';
// what is written from here on is for the account that runs the server alone
process.umask(0o077);
// how much each route takes is counted in `src/lib/server/bodies.ts`; this is beyond the largest of them
process.env.BODY_SIZE_LIMIT ??= '420M';
// reads, writes, passwords and files wait for each other in a pool of four otherwise
process.env.UV_THREADPOOL_SIZE ??= '12';
// large computations run in a thread of their own
process.env.JUSTPURSE_THREAD ??= fileURLToPath(new URL('./build/thread/thread.js', import.meta.url));
const { handler } = await import('./build/handler.js');

/** Pages and JSON are compressed; a stream of events must not wait until enough of it has come together. */
const compress = compression({
	filter: (request, response) =>
		!String(response.getHeader('content-type')).startsWith('text/event-stream') && compression.filter(request, response)
});
/** Sends what was written on as soon as nothing more comes at once: the list of a page does not wait for its sums. */
const sendOn = (response) => {
	const write = response.write;
	let isDue = false;
	response.write = (...given) => {
		if (!isDue) setImmediate(() => ((isDue = false), !response.writableEnded && response.flush?.()));
		isDue = true;
		return write.apply(response, given);
	};
};
const favicon = readFileSync(new URL('./build/client/favicon.ico', import.meta.url));
/** Icons and the like, which change with a release at most. */
const KEPT = new Set(['/purse.svg', '/favicon.ico', '/robots.txt']);

const LARGEST = 262_144;
/** A notification must have come whole within so many milliseconds. */
const BODY_MS = 10_000;
/** Notifications that have begun to come, in the order in which they began. */
const coming = new Set();
setInterval(() => {
	const now = performance.now();
	for (const late of coming) {
		if (late.until > now) break;
		late.cut();
	}
}, 500).unref();
// set by the application as it starts, which `build/handler.js` has waited for
const receive = globalThis[Symbol.for('just-purse.receive')];

const answer = (response, status, text, more = []) => {
	// as a list, which goes out as it is
	response.writeHead(status, ['content-type', 'text/plain', 'content-length', Buffer.byteLength(text), ...more]);
	response.end(text);
};

/** A stable name of a problem: its title, as one word; the same as in `src/lib/server/api/problem.ts`. */
const codeOf = (title) => title.toLowerCase().replace(/[^a-z]+/g, '-');
/** What is refused here: at the interface as a problem (RFC 9457), elsewhere as a plain sentence. */
const refuse = (request, response, status, title, detail) => {
	if (!request.url.startsWith('/api/')) return answer(response, status, detail);
	const text = JSON.stringify({
		type: `urn:just-purse:problem:${codeOf(title)}`,
		title,
		status,
		code: codeOf(title),
		detail,
		instance: request.url.split('?')[0]
	});
	response.writeHead(status, {
		'content-type': 'application/problem+json',
		'cache-control': 'no-store',
		'content-length': Buffer.byteLength(text)
	});
	response.end(text);
};
const isBroken = (path) => {
	try {
		return decodeURI(path).includes('\0');
	} catch {
		return true;
	}
};

const server = createServer((request, response) => {
	const isNotification = request.method === 'POST' && request.url.startsWith('/hooks/');
	if (!isNotification && isBroken(request.url.split('?')[0]))
		return refuse(request, response, 400, 'Broken request', 'The address is broken: a part of it is not valid text.');
	if (!isNotification) {
		if (request.url === '/favicon.ico' && (request.method === 'GET' || request.method === 'HEAD')) {
			response.writeHead(200, {
				'content-type': 'image/x-icon',
				'content-length': favicon.length,
				'cache-control': 'public, max-age=86400'
			});
			return response.end(request.method === 'HEAD' ? undefined : favicon);
		}
		if (KEPT.has(request.url.split('?')[0])) response.setHeader('cache-control', 'public, max-age=86400');
		return compress(request, response, () => {
			sendOn(response);
			handler(request, response, () => answer(response, 404, 'There is nothing here.'));
		});
	}
	const chunks = [];
	let size = 0;
	/** What is refused is not read on: the connection ends with the answer. */
	const cut = (status, text) => {
		coming.delete(late);
		request.removeAllListeners('data').removeAllListeners('end').pause();
		response.setHeader('connection', 'close');
		answer(response, status, text);
	};
	const late = {
		until: performance.now() + BODY_MS,
		cut: () => cut(408, 'It did not come in time. Please send it again.')
	};
	coming.add(late);
	// what says that it is too large is not read at all
	if (Number(request.headers['content-length'] ?? 0) > LARGEST) return cut(413, 'Too large.');
	request.on('data', (chunk) => {
		size += chunk.length;
		if (size > LARGEST) return cut(413, 'Too large.');
		chunks.push(chunk);
	});
	request.on('error', () => {
		coming.delete(late);
		response.destroy();
	});
	request.on('end', () => {
		coming.delete(late);
		const { headers } = request;
		const header = (name) => (Array.isArray(headers[name]) ? headers[name][0] : headers[name]);
		const { id, reply } = receive(
			request.url.slice('/hooks/'.length).split('?')[0],
			header,
			chunks.length === 1 ? chunks[0] : Buffer.concat(chunks)
		);
		const send = ({ status, text }) => answer(response, status, text, ['x-request-id', id]);
		if (reply instanceof Promise) reply.then(send);
		else send(reply);
	});
});

// who sends no whole head in this time, or nothing at all, is not waited for
server.headersTimeout = 15_000;
server.connectionsCheckingInterval = 5_000;
server.keepAliveTimeout = 10_000;
server.requestTimeout = 600_000;
const port = Number(process.env.PORT ?? 5230);
const host = process.env.HOST ?? '127.0.0.1';
server.listen(port, host, () => console.log(`Listening on http://${host}:${port}`));
for (const signal of ['SIGINT', 'SIGTERM'])
	process.once(signal, () => {
		// requests first, then the work beside them, then the database
		server.close(() => {
			Promise.resolve(globalThis[Symbol.for('just-purse.stop')]?.()).finally(() => process.exit(0));
		});
		server.closeIdleConnections();
		// open streams would hold it for ever
		setTimeout(() => server.closeAllConnections(), 1000).unref();
	});
