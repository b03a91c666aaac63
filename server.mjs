// The entry of the built application. Notifications go straight to where they are stored, past everything that a page
// needs; all else goes to the pages. (In development, the route under src/routes/hooks does the same.)
import { createServer } from 'node:http';
import { fileURLToPath } from 'node:url';
// settlement files are large; everything else is small, and is refused below before it is read
process.env.BODY_SIZE_LIMIT ??= '128M';
// reads, writes, passwords and files wait for each other in a pool of four otherwise
process.env.UV_THREADPOOL_SIZE ??= '12';
// large computations run in a thread of their own
process.env.JUSTPURSE_THREAD ??= fileURLToPath(new URL('./build/thread/thread.js', import.meta.url));
const { handler } = await import('./build/handler.js');

const LARGEST = 262_144;
const LARGEST_FORM = 8_000_000;
// set by the application as it starts, which `build/handler.js` has waited for
const receive = globalThis[Symbol.for('just-purse.receive')];

const answer = (response, status, text) => {
	response.writeHead(status, { 'content-type': 'text/plain', 'content-length': Buffer.byteLength(text) });
	response.end(text);
};

/** What is refused here: at the interface as a problem (RFC 9457), elsewhere as a plain sentence. */
const refuse = (request, response, status, title, detail) => {
	if (!request.url.startsWith('/api/')) return answer(response, status, detail);
	const text = JSON.stringify({ type: 'about:blank', title, status, detail, instance: request.url.split('?')[0] });
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
	if (isBroken(request.url.split('?')[0]))
		return refuse(request, response, 400, 'Broken request', 'The address is broken: a part of it is not valid text.');
	if (Number(request.headers['content-length'] ?? 0) > LARGEST_FORM && !request.url.startsWith('/connect/files'))
		return refuse(request, response, 413, 'Too large', 'The body is larger than 1 MB.');
	if (request.method !== 'POST' || !request.url.startsWith('/hooks/'))
		return handler(request, response, () => answer(response, 404, 'There is nothing here.'));
	const chunks = [];
	let size = 0;
	request.on('data', (chunk) => {
		size += chunk.length;
		if (size <= LARGEST) chunks.push(chunk);
	});
	request.on('error', () => response.destroy());
	request.on('end', () => {
		if (size > LARGEST) return answer(response, 413, 'Too large.');
		const { headers } = request;
		const header = (name) => (Array.isArray(headers[name]) ? headers[name][0] : headers[name]);
		receive(
			request.url.slice('/hooks/'.length).split('?')[0],
			header,
			chunks.length === 1 ? chunks[0] : Buffer.concat(chunks)
		).then(
			({ status, text }) => answer(response, status, text),
			() => answer(response, 500, 'Something went wrong here. Please send it again.')
		);
	});
});

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
