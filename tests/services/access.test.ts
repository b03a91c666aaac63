import { statSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Desk } from '../world/desk.ts';
import { makeWorld, SIGN_IN, type World } from '../world/index.ts';

let world: World;
beforeAll(async () => (world = await makeWorld()));
afterAll(() => world.end());

describe('access', () => {
	it('refuses every page and route behind the sign-in', async () => {
		const pages = [
			'/',
			'/needs-you',
			'/set-up',
			'/connect/business',
			'/connect/processors/fernhall',
			'/accept',
			'/accept/tills/new',
			'/takings',
			'/takings/payments/1',
			'/watch',
			'/watch/trail',
			'/bill'
		];
		for (const path of pages) {
			const answer = await fetch(world.app.address + path, { headers: { accept: 'text/html' }, redirect: 'manual' });
			expect([path, answer.status, answer.headers.get('location')?.split('?')[0]]).toEqual([path, 303, '/sign-in']);
		}
		for (const path of ['/find?q=a', '/live', '/needs-you/__data.json'])
			expect([
				path,
				(await fetch(world.app.address + path, { redirect: 'manual' })).status === 200 && !path.includes('__data')
			]).toEqual([path, false]);
		const data = await (await fetch(`${world.app.address}/needs-you/__data.json`)).text();
		expect(data).toContain('/sign-in');
		const form = await fetch(`${world.app.address}/accept/tills/new`, {
			method: 'POST',
			headers: { origin: world.app.address },
			body: new URLSearchParams({ name: 'x' })
		});
		expect(form.status).toBe(401);
		const foreign = await fetch(`${world.app.address}/sign-in`, {
			method: 'POST',
			headers: { origin: 'http://evil.example' },
			body: new URLSearchParams({ mail: 'x' })
		});
		expect(foreign.status).toBe(403);
	});
	it('asks for the business first, and lets nobody around it', async () => {
		const desk = new Desk(world);
		expect(await desk.signIn()).toMatchObject({ type: 'redirect', location: '/needs-you' });
		expect((await desk.get('/connect/processors')).headers.get('location')).toBe('/set-up');
		expect(
			await desk.act('/set-up', { name: '', country: 'Belgium', homeCurrency: 'XXQ', timeZone: 'Mars/Base' })
		).toMatchObject({ type: 'failure', status: 400 });
		await desk.act('/set-up', {
			name: 'Wren & Alder Strings',
			country: 'BE',
			homeCurrency: 'EUR',
			timeZone: 'Europe/Brussels'
		});
		expect((await desk.get('/connect/processors')).status).toBe(200);
	});
	it('makes a wrong password slow to guess, whoever the mail belongs to', async () => {
		for (const mail of ['nobody@wrenalder.example', 'ghost@wrenalder.example']) {
			const desk = new Desk(world);
			const answers = [];
			for (let i = 0; i < 7; i++) answers.push((await desk.act('/sign-in', { mail, password: `guess ${i}` })).status);
			expect(answers.slice(0, 4)).toEqual([400, 400, 400, 400]);
			expect(answers.slice(5)).toEqual([429, 429]);
		}
		expect((await new Desk(world).signIn('wrong')).status).toBe(400);
		expect((await new Desk(world).signIn()).type).toBe('redirect');
	});
	it('never leads elsewhere after the sign-in', async () => {
		for (const to of ['//evil.example', 'https://evil.example', '/\\evil.example']) {
			const answer = await new Desk(world).act(`/sign-in?to=${encodeURIComponent(to)}`, {
				mail: SIGN_IN.mail,
				password: SIGN_IN.password
			});
			expect(answer.location).toBe('/needs-you');
		}
	});
	it('ends a session for good', async () => {
		const desk = new Desk(world);
		await desk.signIn();
		expect((await desk.get('/needs-you')).status).toBe(200);
		await desk.act('/sign-out', {});
		expect((await desk.get('/needs-you')).status).toBe(303);
	});
	it('keeps its sealing key to itself', () => {
		expect(statSync(join(world.app.folder, 'seal.key')).mode & 0o777).toBe(0o600);
	});
});
