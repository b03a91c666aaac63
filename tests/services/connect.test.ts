import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { rows } from '../world/database.ts';
import { Desk, type ActionAnswer } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';

let world: World;
let desk: Desk;
beforeAll(async () => {
	world = await makeWorld();
	desk = new Desk(world);
	await desk.setUp();
});
afterAll(() => world.end());

const says = (answer: ActionAnswer) =>
	JSON.stringify([
		answer.data?.trouble,
		answer.data?.errors ?? (answer.data?.form as { errors?: object } | undefined)?.errors
	]);
const nothingKept = async () => {
	expect(await rows(world, 'SELECT id FROM connections')).toEqual([]);
	expect(await world.control<unknown[]>('listeners')).toEqual([]);
};

describe('keys that are not right', () => {
	it('are told apart, each with its own answer, and leave nothing behind', async () => {
		const live = await world.keys('live');
		const test = await world.keys('test');
		const typo = (key: string) => key.slice(0, -3) + (key.at(-3) === 'A' ? 'B' : 'A') + key.slice(-2);
		const cases: [string, { publicKey: string; secretKey: string }, RegExp][] = [
			['empty', { publicKey: '', secretKey: '' }, /Paste the public key.*Paste the secret key/],
			[
				'swapped',
				{ publicKey: live.secretKey, secretKey: live.publicKey },
				/secret key, in the box for the public key.*public key, in the box for the secret key/
			],
			[
				'truncated',
				{ ...live, secretKey: live.secretKey.slice(0, -4) },
				/28 signs after FHS-L- or FHS-T-; this has 24/
			],
			['with something else', { ...live, publicKey: `${live.publicKey}XX` }, /this has 30/],
			['mistyped', { ...live, secretKey: typo(live.secretKey) }, /check sign/],
			['test where live is meant', test, /test public key, and you are connecting for live/],
			['not a key at all', { ...live, secretKey: 'hunter2' }, /does not look like a Fernhall key/]
		];
		for (const [name, keys, pattern] of cases) {
			const answer = await desk.connect(keys);
			expect([name, answer.type, says(answer)]).toEqual([name, 'failure', expect.stringMatching(pattern)]);
			if (keys.secretKey.length > 20) expect(JSON.stringify(answer)).not.toContain(keys.secretKey);
		}
		await nothingKept();
	});
	it('are asked after at Fernhall: unknown and revoked ones', async () => {
		const live = await world.keys('live');
		// a key of the right form that Fernhall never gave
		const letters = 'ABCDEFGHJKLMNPQRSTUVWXYZ23456789';
		const body = 'Q'.repeat(27);
		const sign = letters[[...body].reduce((sum, one, at) => (sum + letters.indexOf(one) * (2 * at + 1)) % 32, 0)];
		expect(says(await desk.connect({ ...live, secretKey: `FHS-L-${body}${sign}` }))).toMatch(
			/knows no such secret key/
		);
		expect(says(await desk.connect({ ...live, publicKey: `FHP-L-${body}${sign}` }))).toMatch(
			/knows no such public key/
		);
		// revoked at its console, by hand
		const signIn = await fetch(`${world.fernhall.address}/console/sign-in`, {
			method: 'POST',
			body: new URLSearchParams({ mail: 'ilse@wrenalder.example', password: 'ferns-and-hall' }),
			redirect: 'manual'
		});
		const cookie = signIn.headers.getSetCookie()[0]!.split(';')[0]!;
		const press = (path: string, form: Record<string, string>) =>
			fetch(`${world.fernhall.address}/console/${path}`, {
				method: 'POST',
				headers: { cookie },
				body: new URLSearchParams(form),
				redirect: 'manual'
			});
		await press('keys/make', { account: 'FH-20417', mode: 'live', kind: 'secret' });
		await press('keys/end', { key: live.secretKey });
		expect(says(await desk.connect(live))).toMatch(/has revoked this secret key/);
		await nothingKept();
	});
});

describe('a processor in trouble', () => {
	it.each([
		[{ down: true }, /cannot be reached/],
		[{ errors: true }, /error of its own \(500\)/],
		[{ nonsense: true }, /not its usual form/]
	])('%o ends in a clear message and nothing kept', async (faults, pattern) => {
		await world.faults(faults);
		const answer = await desk.connect();
		expect([answer.status, says(answer)]).toEqual([502, expect.stringMatching(pattern)]);
		await world.faults({ down: false, errors: false, nonsense: false });
		await nothingKept();
	});
	it('gives up after ten seconds, without holding up anyone else', async () => {
		await world.faults({ slow: 60_000 });
		const began = Date.now();
		const waiting = desk.connect();
		try {
			await new Promise((next) => setTimeout(next, 300));
			// whoever asks for something else is answered long before that one gives up
			const other = desk.get('/connect/processors');
			expect(await Promise.race([other.then(() => 'the other'), waiting.then(() => 'the one that waits')])).toBe(
				'the other'
			);
			expect((await other).status).toBe(200);
			expect(says(await waiting)).toMatch(/did not answer within 10 seconds/);
			// the stand-in would take a minute
			expect(Date.now() - began).toBeLessThan(50_000);
		} finally {
			await waiting.catch(() => {});
			await world.faults({ slow: 0 });
		}
		await nothingKept();
	});
});

describe('a right pair of keys', () => {
	it('is verified on the spot, sealed, listened to, and shown by four characters', async () => {
		const keys = await world.keys('live');
		const answer = await desk.connect(keys);
		expect(answer).toMatchObject({
			type: 'redirect',
			location: expect.stringMatching(/^\/connect\/connections\/.+\?new$/)
		});
		const path = answer.location!.split('?')[0]!;
		const page = await (await desk.get(path)).text();
		expect(page).toContain(keys.secretKey.slice(-4));
		expect(page).not.toContain(keys.secretKey);
		for (const text of ['Corvid', 'Mainsail', 'Tessel', 'JPY 50 to 2,500,000', '1.35 %', 'WREN ALDER STRINGS'])
			expect(page).toContain(text);
		const [listener] = await world.control<{ address: string; topics: string[]; secret: string }[]>('listeners');
		expect(listener!.topics).toEqual([
			'payment.taken',
			'payment.declined',
			'refund.made',
			'dispute.changed',
			'money.settled',
			'payout.sent',
			'account.changed'
		]);
		await until(
			'the test notification has come',
			async () => (await rows<{ heard: number }>(world, 'SELECT hook_heard_at AS heard FROM connections'))[0]?.heard
		);
		// neither secret stands anywhere in the database, its log, or what the application wrote
		const files = ['purse.sqlite', 'purse.sqlite-wal']
			.map((name) => readFileSync(join(world.app.folder, name), 'latin1'))
			.join('');
		for (const secret of [keys.secretKey, listener!.secret]) {
			expect(files).not.toContain(secret);
			expect(world.app.output).not.toContain(secret);
		}
	});
	it('connects an account once', async () => {
		expect(says(await desk.connect())).toMatch(/connected already/);
		expect(await rows(world, 'SELECT id FROM connections')).toHaveLength(1);
		expect(await world.control<unknown[]>('listeners')).toHaveLength(1);
	});
	it('connects test beside live, and never lets it carry a live till', async () => {
		const test = await desk.connect(await world.keys('test'), 'test');
		const id = test.location!.match(/connections\/([^?]+)/)![1]!;
		await desk.act('/accept/tills/new', { name: 'Counter', mode: 'live', currencies: ['EUR'], colour: '#2f4b3c' });
		const offer = await desk.act('/accept/tills/counter/offers/new?/save', {
			on: 'on',
			revision: '0',
			carrier: `connection:${id}:card`,
			name: 'Card',
			currencies: ['EUR'],
			schemes: ['corvid'],
			fundings: ['debit'],
			regions: ['domestic'],
			countryRule: 'any',
			boundCurrency: 'EUR'
		});
		expect(says(offer)).toMatch(/cannot be used at this till/);
	});
	it('leaves a trail of who did what, without a secret in it', async () => {
		const trail = await rows<{ act: string; user_name: string; after: string | null }>(
			world,
			'SELECT * FROM audit ORDER BY id'
		);
		expect(trail.map((one) => [one.user_name, one.act])).toEqual([
			['Ilse Verhaeren', 'set up'],
			['Ilse Verhaeren', 'connected'],
			['Ilse Verhaeren', 'connected'],
			['Ilse Verhaeren', 'set up']
		]);
		const text = JSON.stringify(trail);
		for (const secret of [
			(await world.keys('live')).secretKey,
			'secretSealed',
			'hookSecretSealed',
			'hookKey',
			'signingKeySealed',
			'whsec_'
		])
			expect(text).not.toContain(secret);
	});
	it('notices a revoked key when it reads the account again', async () => {
		const [row] = await rows<{ id: string }>(world, `SELECT id FROM connections WHERE mode = 'live'`);
		expect(await desk.act(`/connect/connections/${row!.id}?/reread`, {})).toMatchObject({
			type: 'success',
			data: { says: 'Read again: nothing is different.' }
		});
	});
	it('keeps the statement descriptor within Fernhall’s limits', async () => {
		const [row] = await rows<{ id: string }>(world, `SELECT id FROM connections WHERE mode = 'live'`);
		expect(
			await desk.act(`/connect/connections/${row!.id}/settings?/descriptor`, { descriptor: 'WREN*' })
		).toMatchObject({
			type: 'failure',
			data: { descriptor: 'WREN*' }
		});
		expect(
			await desk.act(`/connect/connections/${row!.id}/settings?/descriptor`, { descriptor: 'WREN ALDER GHENT' })
		).toMatchObject({ type: 'success' });
	});
});

describe('an offline method', () => {
	it('is refused with a wrong IBAN, and keeps what was typed', async () => {
		const answer = await desk.act('/connect/offline/new', {
			name: 'Credit transfer',
			holder: 'Wren & Alder',
			iban: 'BE69 5390 0754 7034',
			currencies: 'EUR',
			termDays: '10',
			threshold: 'twenty'
		});
		expect(answer.type).toBe('failure');
		expect(JSON.stringify(answer.data)).toContain('check digits');
		expect(JSON.stringify(answer.data)).toContain('BE69 5390 0754 7034');
	});
});
