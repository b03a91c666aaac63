import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { z } from 'zod';
import { cleanRichText, plainText } from '../../src/lib/server/connect/richText';
import { ConnectorError, withinTime } from '../../src/lib/server/connectors';
import { consentAt, scopesMissing } from '../../src/lib/server/connectors/consent';
import { call, parseBody, readAs } from '../../src/lib/server/connectors/http';
import { minorIn, noticeNames, ppmOf, speaker } from '../../src/lib/server/connectors/speaker';

let server: Server;
let base: string;
/** what a request gets, by its path */
const answers: Record<string, (request: IncomingMessage, response: ServerResponse, body: string) => void> = {};
beforeAll(async () => {
	server = createServer((request, response) => {
		let body = '';
		request.on('data', (part) => (body += String(part)));
		request.on('end', () => {
			const answer = answers[request.url!.split('?')[0]!];
			if (answer) answer(request, response, body);
			else response.writeHead(404).end('{}');
		});
	});
	await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
	base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
	server.closeAllConnections();
	server.close();
});
const json =
	(value: unknown, status = 200) =>
	(_: IncomingMessage, response: ServerResponse) =>
		void response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(value));
const failure = async (asked: Promise<unknown>): Promise<ConnectorError> => {
	const error = await asked.catch((one: unknown) => one);
	if (!(error instanceof ConnectorError)) throw new Error(`no ConnectorError: ${String(error)}`);
	return error;
};

describe('a call to a processor', () => {
	it('sends JSON, a form, or a text as it is', async () => {
		answers['/echo'] = (request, response, body) =>
			response.end(JSON.stringify({ type: request.headers['content-type'] ?? null, body, method: request.method }));
		const ask = async (options: object) => (await call('House', `${base}/echo`, options)).json;
		expect(await ask({ body: { a: 1 }, method: 'PUT' })).toEqual({
			type: 'application/json',
			body: '{"a":1}',
			method: 'PUT'
		});
		expect(await ask({ form: { a: 'ü', b: undefined }, method: 'POST' })).toEqual({
			type: 'application/x-www-form-urlencoded',
			body: 'a=%C3%BC',
			method: 'POST'
		});
		expect(await ask({ text: 'as it is', method: 'POST' })).toMatchObject({ body: 'as it is' });
		expect(await ask({})).toEqual({ type: null, body: '', method: 'GET' });
	});
	it('tells broken, nonsense, too much and unreachable apart, and whether something may have happened', async () => {
		answers['/broken'] = json({}, 500);
		answers['/words'] = (_, response) => response.end('<p>hello</p>');
		answers['/flood'] = (_, response) => response.end(JSON.stringify('x'.repeat(2_100_000)));
		answers['/cut'] = (_, response) => void response.destroy();
		const kinds = async (path: string, acts = false) => {
			const error = await failure(call('House', path, { acts, method: 'POST' }));
			return [error.kind, error.mayHaveActed];
		};
		expect(await kinds(`${base}/broken`, true)).toEqual(['broken', true]);
		expect(await kinds(`${base}/words`)).toEqual(['nonsense', false]);
		expect(await kinds(`${base}/flood`, true)).toEqual(['nonsense', true]);
		expect(await kinds(`${base}/cut`, true)).toEqual(['unreachable', true]);
		expect(await kinds('http://127.0.0.1:9/')).toEqual(['unreachable', false]);
	});
	it('never follows a redirect, which could lead a secret elsewhere', async () => {
		let asked = 0;
		answers['/away'] = (_, response) => void response.writeHead(302, { location: '/secret' }).end();
		answers['/secret'] = (_, response) => void (asked++, response.end('{}'));
		expect((await failure(call('House', `${base}/away`, { headers: { authorization: 'Bearer x' } }))).kind).toBe(
			'unreachable'
		);
		expect(asked).toBe(0);
	});
	it('shares one end among all that is asked within it', async () => {
		answers['/slow'] = (_, response) => void setTimeout(() => response.end('{}'), 400);
		const error = await failure(
			withinTime(600, async () => {
				await call('House', `${base}/slow`);
				await call('House', `${base}/slow`);
			})
		);
		expect(error.kind).toBe('slow');
	});
	it('is read by a schema, or is nonsense', async () => {
		const schema = z.object({ id: z.string() });
		expect(readAs('House', schema, { id: 'x', more: 1 })).toEqual({ id: 'x' });
		expect((await failure(Promise.resolve().then(() => readAs('House', schema, { id: 1 }, true)))).mayHaveActed).toBe(
			true
		);
		expect((await failure(Promise.resolve().then(() => parseBody('House', '{')))).kind).toBe('nonsense');
	});
});

describe('what most processors have in common', () => {
	const speech = speaker({
		name: 'House',
		base: () => base,
		proof: ({ key = '' }, { method, path, text }) => ({ 'x-proof': `${key} ${method} ${path} ${text.length}` }),
		keyHeader: 'x-key',
		payment: z.object({ id: z.string() }),
		read: ({ id }) => ({ processorId: id, ours: '', facts: [] }),
		refusal: (told) => (told as { why: string }).why,
		settled: z
			.object({ state: z.enum(['done', 'under way', 'never came']), answer: z.unknown().optional() })
			.transform(({ state, answer }) => ({ became: state, answer }))
	});
	it('proves each request over what it sends', async () => {
		answers['/who'] = (request, response) => response.end(JSON.stringify(request.headers['x-proof']));
		expect((await speech.ask({ key: 'k' }, '/who', { method: 'POST', body: { a: 1 } })).json).toBe('k POST /who 7');
	});
	it('acts by key: done, refused, or still under way', async () => {
		answers['/act'] = (request, response, body) => {
			const { say } = JSON.parse(body) as { say: number };
			response.writeHead(say).end(JSON.stringify(say < 400 ? { id: request.headers['x-key'] } : { why: 'no' }));
		};
		const act = (say: number) => speech.act({}, '/act', 'key-1', { body: { say } });
		expect(await act(200)).toMatchObject({ outcome: 'done', report: { processorId: 'key-1' } });
		expect(await act(422)).toEqual({ outcome: 'refused', says: 'no' });
		expect(await failure(act(409))).toMatchObject({ kind: 'broken', mayHaveActed: true });
	});
	it('settles a key, and finds nothing where there is nothing', async () => {
		answers['/settle'] = json({ state: 'done', answer: { id: 'p' } });
		answers['/none'] = json({ state: 'never came' });
		expect(await speech.settle({}, '/settle')).toMatchObject({ outcome: 'done', report: { processorId: 'p' } });
		expect(await speech.settle({}, '/none')).toEqual({ outcome: 'never came' });
		expect(await speech.fetch({}, '/nothing')).toBeUndefined();
		expect(await speech.maybe({}, '/nothing', z.object({}))).toBeUndefined();
	});
	it('reads percentages and sums as texts', () => {
		expect([ppmOf('1.35'), ppmOf('0.2'), ppmOf('12'), ppmOf('0.0001')]).toEqual([13_500, 2_000, 120_000, 1]);
		expect([minorIn('0.18', 'EUR'), minorIn('35', 'JPY'), minorIn('1.2', 'EUR'), minorIn('1250.00', 'EUR')]).toEqual([
			18, 35, 120, 125_000
		]);
	});
	it('names notifications there and back, the changed account always among them', () => {
		const { sends, topicsOf, noticeOf, noticesOf } = noticeNames(
			{ captured: 'x.taken', refunded: 'x.back' },
			'x.account'
		);
		expect(sends).toEqual(['captured', 'refunded']);
		expect(topicsOf(['captured', 'disputed'])).toEqual(['x.taken', 'x.account']);
		expect([noticeOf('x.back'), noticeOf('x.other')]).toEqual(['refunded', undefined]);
		expect(noticesOf(['x.account', 'x.taken'])).toEqual(['captured']);
	});
});

describe('a consent', () => {
	const consent = consentAt('House', () => base, { read: 'nothing could be read.', act: 'nothing could be done.' });
	it('asks with a state and a challenge, and for every scope', () => {
		const address = new URL(
			consent.address({ state: 's', challenge: 'c', returnTo: 'http://us.example/back', mode: 'test' })
		);
		expect(Object.fromEntries(address.searchParams)).toEqual({
			response_type: 'code',
			client_id: 'just-purse',
			redirect_uri: 'http://us.example/back',
			scope: 'read act',
			state: 's',
			code_challenge: 'c',
			code_challenge_method: 'S256',
			mode: 'test'
		});
	});
	it('turns a code into tokens with an end, and a refusal into words', async () => {
		answers['/consent/token'] = (_, response, body) => {
			const form = new URLSearchParams(body);
			const right = form.get('code') === 'right' || form.get('refresh_token') === 'right';
			response.writeHead(right ? 200 : 400);
			response.end(
				JSON.stringify(
					right
						? { access_token: 'a'.repeat(9), refresh_token: 'r'.repeat(9), expires_in: 60, scope: 'read' }
						: { error: 'invalid_grant' }
				)
			);
		};
		const given = { verifier: 'v', returnTo: 'http://us.example/back' };
		expect(await consent.exchange({ ...given, code: 'right' })).toMatchObject({ access: 'a'.repeat(9), scope: 'read' });
		expect(await consent.exchange({ ...given, code: 'stale' })).toMatchObject([{ code: 'expired' }]);
		expect(await consent.refresh({ refresh: 'right' })).toMatchObject({ refresh: 'r'.repeat(9) });
		expect(await consent.refresh({ refresh: 'gone' })).toMatchObject([{ code: 'revoked' }]);
		expect(scopesMissing('House', consent, 'read').map((one) => one.says)).toEqual([
			'The consent at House does not include “act”: nothing could be done. Give consent once more, with every box ticked.'
		]);
	});
});

describe('rich text', () => {
	it('keeps paragraphs, lists, emphasis and links, and nothing else', () => {
		expect(cleanRichText('<p>a <b>b</b> <i>c</i></p><ul><li>d</li></ul>')).toBe(
			'<p>a <strong>b</strong> <em>c</em></p><ul><li>d</li></ul>'
		);
		expect(cleanRichText('<h1>x</h1><table><tr><td>y</td></tr></table>')).toBe('xy');
		expect(cleanRichText('<a href="https://x.example/?a=1&b=2">x</a>')).toBe(
			'<a href="https://x.example/?a=1&amp;b=2" rel="noopener nofollow" target="_blank">x</a>'
		);
	});
	it.each([
		'<script>alert(1)</script>',
		'<img src=x onerror=alert(1)>',
		'<a href="javascript:alert(1)">x</a>',
		'<a href="data:text/html,x">x</a>',
		'<p style="position:fixed" onclick="x()">x</p>',
		'<svg><script>x</script></svg>',
		'<iframe src="https://x.example"></iframe>',
		'<a href="//x.example">x</a>'
	])('takes the harm out of %s', (html) => {
		const clean = cleanRichText(html);
		expect(clean).not.toMatch(/script|onerror|javascript|data:|style|onclick|svg|iframe|href/);
	});
	it('is empty when nothing is left', () => {
		for (const html of ['', '<p></p>', '<p> </p>', '<p><br></p>', '<script></script>'])
			expect(cleanRichText(html)).toBe('');
	});
	it('reads as plain text in mail and on paper, links beside their words', () => {
		expect(
			plainText('<p>See <a href="https://x.example/a">here</a></p><ul><li>one</li><li>two &amp; three</li></ul>')
		).toBe('See here (https://x.example/a)\n– one\n– two & three');
		expect(plainText('<p><a href="mailto:a@x.example">a@x.example</a></p>')).toBe('a@x.example');
	});
});
