import { once } from 'node:events';
import { readdirSync, readFileSync } from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, SIGN_IN, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// What anyone may send without a sign-in, and what becomes of it: nothing ends, nothing waits, nobody is led astray.

let world: World;
let desk: Desk;
let origin: string;
beforeAll(async () => {
	world = await makeWorld();
	origin = world.app.address;
	desk = new Desk(world);
	await desk.setUp();
});
afterAll(() => world.end());

interface Raw {
	/** what came back before the connection ended, or before all was sent */
	readonly answer: string;
	/** bytes that the server took before it ended the connection */
	readonly taken: number;
}
/** Sends a request by hand, its path as it is written, its body in pieces until the server ends it. */
async function sendRaw(head: readonly string[], pieces: Iterable<Buffer>, isChunked = true): Promise<Raw> {
	const { hostname, port } = new URL(origin);
	const socket = connect(Number(port), hostname);
	let answer = '';
	let isOver = false;
	socket.setEncoding('utf8');
	socket.on('data', (text) => (answer += String(text)));
	socket.on('error', () => (isOver = true));
	socket.on('close', () => (isOver = true));
	await once(socket, 'connect');
	socket.write(`${[...head, `host: ${hostname}:${port}`, `origin: ${origin}`].join('\r\n')}\r\n\r\n`);
	let taken = 0;
	for (const piece of pieces) {
		if (isOver) break;
		if (isChunked) socket.write(`${piece.length.toString(16)}\r\n`);
		const isRoom = socket.write(piece);
		if (isChunked) socket.write('\r\n');
		taken += piece.length;
		if (!isRoom) await Promise.race([once(socket, 'drain'), once(socket, 'close')]).catch(() => {});
	}
	if (isChunked && !isOver) socket.write('0\r\n\r\n');
	await until('an answer, or the end', async () => isOver || /\r\n\r\n/.test(answer));
	socket.destroy();
	return { answer, taken };
}
const FORM = 'content-type: application/x-www-form-urlencoded';
function* times(many: number, piece: Buffer) {
	for (let n = 0; n < many; n++) yield piece;
}
const SHAPES = Buffer.from('a&'.repeat(32_768));

describe('a body', () => {
	it.each(['/sign-in', '/connect/files/../../sign-in', '/sign-in?/default', '/pay/web-shop', '/nowhere'])(
		'of 120 MB sent in pieces to %s is cut after a few kilobytes, and the server goes on',
		async (path) => {
			const { answer, taken } = await sendRaw(
				[`POST ${path} HTTP/1.1`, FORM, 'transfer-encoding: chunked'],
				times(1_900, SHAPES)
			);
			// buffers of the machine take some of it; the server reads no more than it must
			expect(taken).toBeLessThan(30_000_000);
			if (answer) expect(answer).toMatch(/^HTTP\/1\.1 4\d\d /);
			expect((await fetch(`${origin}/empty`)).status).toBe(200);
		},
		30_000
	);
	it.each(['/sign-in', '/hooks/anything'])(
		'that says beforehand that it is too large is refused before any of it is read: %s',
		async (path) => {
			const { answer } = await sendRaw([`POST ${path} HTTP/1.1`, FORM, 'content-length: 8000000'], [], false);
			expect(answer).toMatch(/^HTTP\/1\.1 413 /);
			expect(answer).toMatch(/connection: close/i);
		}
	);
	it.each([
		['cut in the middle', 'content-length: 5000', '{"id":"cut'],
		['in broken pieces', 'transfer-encoding: chunked', 'zz\r\n{"id":\r\n']
	])('%s is no notification, and the next one is answered', async (_, header, body) => {
		const { hostname, port } = new URL(origin);
		for (let n = 0; n < 30; n++) {
			const socket = connect(Number(port), hostname);
			socket.on('error', () => {});
			await once(socket, 'connect');
			socket.write(`POST /hooks/anything HTTP/1.1\r\nhost: ${hostname}\r\n${header}\r\n\r\n${body}`);
			socket.destroy();
		}
		expect((await fetch(`${origin}/hooks/anything`, { method: 'POST', body: '{}' })).status).toBe(404);
		expect((await fetch(`${origin}/empty`)).status).toBe(200);
		expect(await rows(world, `SELECT id FROM arrivals`)).toEqual([]);
	});
	it('of a form with too many fields is refused, and one of a few is not', async () => {
		const post = (fields: string) =>
			fetch(`${origin}/sign-in`, {
				method: 'POST',
				headers: { origin, 'content-type': 'application/x-www-form-urlencoded' },
				body: fields
			});
		expect((await post('a=&'.repeat(300))).status).toBe(400);
		expect(await (await post('a=&'.repeat(300))).text()).toBe('The form has more than 200 fields.');
		expect(await (await post('mail=a@b.example&password=x')).text()).toContain('do not fit together');
	});
	it('too large for the interface is told as a problem', async () => {
		const answer = await fetch(`${origin}/api/v1/tills`, {
			method: 'POST',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({ a: 'x'.repeat(1_200_000) })
		});
		expect([answer.status, answer.headers.get('content-type')]).toEqual([413, 'application/problem+json']);
	});
	it('too large for a form of the desk leaves what was typed, and says why', async () => {
		const answer = await desk.act('/accept/tills/new', { name: 'x'.repeat(1_100_000) });
		expect(answer).toMatchObject({ type: 'failure', status: 413, data: { trouble: 'The body is larger than 1 MB.' } });
	});
});

describe('paths', () => {
	it('that are broken, or want another method, are 400 and 405, never 500', async () => {
		for (const [path, status] of [
			['/%', 400],
			['/pay/%00', 400],
			['/connect/%zz', 400],
			['/sign-out', 405]
		] as const)
			expect([path, (await fetch(origin + path, { redirect: 'manual' })).status]).toEqual([path, status]);
	});
	it('of our own alone are led to after a sign-in, however they are written', async () => {
		for (const to of [
			'/\t/evil.example',
			'/%09/evil.example',
			'/\n/evil.example',
			'/a%0ab',
			'/%00',
			'/\\evil.example',
			'//evil.example/x',
			'http:evil.example',
			'/needs-you\r\nset-cookie: a=b'
		]) {
			const answer = await new Desk(world).act(`/sign-in?to=${encodeURIComponent(to)}`, {
				mail: SIGN_IN.mail,
				password: SIGN_IN.password
			});
			expect([to, answer.type]).toEqual([to, 'redirect']);
			expect([to, new URL(answer.location!, origin).origin]).toEqual([to, origin]);
		}
		const known = await new Desk(world).act('/sign-in?to=%2Ftakings%3Fq%3D1', {
			mail: SIGN_IN.mail,
			password: SIGN_IN.password
		});
		expect(known.location).toBe('/takings?q=1');
	});
});

describe('a stream of what changes', () => {
	it('ends when its person signs out', async () => {
		const person = new Desk(world);
		await person.signIn();
		const stream = await person.get('/live');
		const reader = stream.body!.getReader();
		expect((await reader.read()).done).toBe(false);
		await person.act('/sign-out', {});
		await until('it ends', async () => (await reader.read()).done);
	});
});

describe('guessing a password', () => {
	it('is no race: the right one among two hundred at once opens nothing, and others are served meanwhile', async () => {
		const owner = new Desk(world);
		expect((await owner.signIn()).type).toBe('redirect');
		const guesses = Array.from({ length: 200 }, (_, n) =>
			new Desk(world).act('/sign-in', { mail: SIGN_IN.mail, password: `guess ${n}` })
		);
		const right = new Desk(world).act('/sign-in', { mail: SIGN_IN.mail, password: SIGN_IN.password });
		const begun = performance.now();
		expect((await fetch(`${origin}/empty`)).status).toBe(200);
		const waited = performance.now() - begun;
		const answers = await Promise.all([...guesses, right]);
		// five may try, the rest is told to wait before anything is hashed
		expect(answers.filter((one) => one.status === 400)).toHaveLength(5);
		expect(answers.filter((one) => one.status === 429)).toHaveLength(196);
		// two hundred that are hashed one after another would take longer by far
		const alone = performance.now();
		expect((await new Desk(world).act('/sign-in', { mail: 'other@wrenalder.example', password: 'none' })).status).toBe(
			400
		);
		expect(waited).toBeLessThan(Math.max(2_000, 30 * (performance.now() - alone)));
		// a stranger does not lock the owner out of a browser that is known
		expect((await owner.act('/sign-out', {})).type).toBe('redirect');
		expect((await owner.signIn()).type).toBe('redirect');
		expect((await new Desk(world).act('/sign-in', { mail: SIGN_IN.mail, password: SIGN_IN.password })).status).toBe(
			429
		);
	}, 30_000);
});

describe('payers', () => {
	it('may act so often at one order, and are told when to come again', async () => {
		await desk.openWebShop();
		const address = await desk.address('12.00', 'GATE-1');
		const post = () =>
			fetch(address, {
				method: 'POST',
				headers: { origin, 'content-type': 'application/x-www-form-urlencoded' },
				body: 'way=none'
			});
		const answers = [];
		for (let n = 0; n < 40; n++) answers.push(await post());
		const refused = answers.find((one) => one.status === 429)!;
		expect(answers.slice(0, 30).every((one) => one.status !== 429)).toBe(true);
		expect(Number(refused.headers.get('retry-after'))).toBeGreaterThan(0);
		// another order is not touched by it
		const other = await desk.address('12.00', 'GATE-2');
		expect((await fetch(other)).status).toBe(200);
	});
});

describe('a full card number', () => {
	it('that somebody writes where it does not belong is kept nowhere: not in the database, its log of writes, or the log', async () => {
		const digits = CARDS.approved;
		const card = digits.replace(/(.{4})(?=.)/g, '$1 ');
		const odd = card.replaceAll(' ', '/');
		expect(
			(
				await desk.act('/bill/payers/new?/save', {
					name: `Ann ${card}`,
					mail: 'ann@payer.example',
					country: 'BE',
					online: ''
				})
			).type
		).toBe('redirect');
		await desk.act('/bill/payers?/group', { group: `Paid by ${odd}` });
		await desk.upload(
			'/bill/payers?/import',
			{},
			'file',
			`${digits}.csv`,
			`name,mail,groups\nBen order 20417${digits},ben@payer.example,with ${odd}`
		);
		await desk.act('/accept/pauses?/pause', { what: 'method card', reason: `he said ${odd} 09/29`, until: '' });
		const address = await desk.address('30.00', 'GATE-3');
		await desk.act(address, {
			way: await desk.way(address, 'Credit transfer'),
			told_note: `please charge ${card}`,
			told_phone: digits
		});
		// an address that carries one is not made
		const made = await desk.act('/accept/tills/web-shop/address', {
			amount: '5.00',
			currency: 'EUR',
			reference: digits
		});
		expect(JSON.stringify(made.data)).toContain('looks like a card number');
		const names = await rows<{ name: string }>(world, 'SELECT name FROM payers ORDER BY name');
		expect(names.map((one) => one.name)).toEqual([
			`Ann •••• ${digits.slice(-4)}`,
			`Ben order 20417•••• ${digits.slice(-4)}`
		]);
		const kept = readdirSync(world.app.folder)
			.filter((name) => name.startsWith('purse.sqlite'))
			.map((name) => readFileSync(join(world.app.folder, name), 'latin1'))
			.join('');
		for (const form of [digits, card, odd]) {
			expect(kept).not.toContain(form);
			expect(world.app.output).not.toContain(form);
		}
	});
});
