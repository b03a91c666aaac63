import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { createConfig, lintFromString } from '@redocly/openapi-core';
import spectral from '@stoplight/spectral-core';
import rulesets from '@stoplight/spectral-rulesets';
import { Ajv2020 } from 'ajv/dist/2020.js';
import openapiTS, { astToString } from 'openapi-typescript';
import ts from 'typescript';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Desk } from '../world/desk.ts';
import { freshFetch, makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// The document of the interface, as the tools of those who use it read it.

type Schema = Record<string, unknown>;
interface Media {
	schema: { $ref: string };
	example?: object;
}
interface Operation {
	operationId: string;
	description?: string;
	tags?: string[];
	requestBody?: { content: Record<string, Media> };
	responses: Record<string, { content?: Record<string, Media> }>;
}
interface Document {
	openapi: string;
	paths: Record<string, Record<string, Operation>>;
	components: { schemas: Record<string, Schema> };
}
let world: World;
let desk: Desk;
let document: Document;
const FOLDER = join('node_modules', '.cache', 'just-purse', `client-${process.pid}`);
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
	desk = new Desk(world);
	await desk.openWebShop();
	// without a sign-in and without a token
	document = (await (await freshFetch(`${world.app.address}/api/v1/openapi.json`)).json()) as Document;
});
afterAll(async () => {
	rmSync(FOLDER, { recursive: true, force: true });
	await world.end();
});

const operations = () =>
	Object.entries(document.paths).flatMap(([path, item]) =>
		['get', 'post', 'put', 'delete'].flatMap((method) =>
			item[method] ? [{ path, method, operation: item[method] }] : []
		)
	);
async function redocly(text: string): Promise<string[]> {
	const config = await createConfig({ extends: ['recommended'] });
	const found = await lintFromString({ source: text, absoluteRef: '/openapi.json', config });
	return found.map((one) => `${one.ruleId} ${one.message} ${one.location[0]?.pointer ?? ''}`);
}
async function spectralOf(text: string): Promise<string[]> {
	const linter = new spectral.Spectral();
	linter.setRuleset({ extends: [rulesets.oas] } as never);
	return (await linter.run(JSON.parse(text) as Record<string, unknown>)).map(
		(one) => `${String(one.code)} ${one.message} ${one.path.join('/')}`
	);
}

describe('the document of the interface', () => {
	it('is found without fault by two linters that know nothing of each other', { timeout: 60_000 }, async () => {
		const text = JSON.stringify(document);
		expect(await redocly(text)).toEqual([]);
		expect(await spectralOf(text)).toEqual([]);
		// which do find what is wrong
		const broken = structuredClone(document) as unknown as { paths: Record<string, { get: Partial<Operation> }> };
		delete broken.paths['/tills']!.get.operationId;
		delete broken.paths['/groups']!.get.responses;
		expect((await redocly(JSON.stringify(broken))).length).toBeGreaterThan(0);
		expect((await spectralOf(JSON.stringify(broken))).length).toBeGreaterThan(0);
	});
	it('describes every operation, with an example that fits and every error that it answers', () => {
		const ajv = new Ajv2020({ strict: false, validateFormats: false });
		for (const [name, schema] of Object.entries(document.components.schemas))
			ajv.addSchema({
				...(JSON.parse(JSON.stringify(schema).replaceAll('#/components/schemas/', 'https://x.example/')) as Schema),
				$id: `https://x.example/${name}`
			});
		expect(operations().length).toBeGreaterThan(24);
		for (const { path, method, operation } of operations()) {
			const at = `${method} ${path}`;
			expect([at, (operation.description ?? '').length > 20]).toEqual([at, true]);
			expect([at, operation.tags?.length]).toEqual([at, 1]);
			for (const status of ['401', '403', '429'])
				expect([at, Object.keys(operation.responses)]).toEqual([at, expect.arrayContaining([status])]);
			const medias = [
				...Object.values(operation.requestBody?.content ?? {}),
				...Object.values(operation.responses).flatMap((one) =>
					one.content?.['application/json'] ? [one.content['application/json']] : []
				)
			];
			for (const { schema, example } of medias) {
				const check = ajv.getSchema(schema.$ref.replace('#/components/schemas/', 'https://x.example/'))!;
				expect([at, schema.$ref, example === undefined]).toEqual([at, schema.$ref, false]);
				expect([at, schema.$ref, check(example) || check.errors]).toEqual([at, schema.$ref, true]);
			}
		}
	});
	it('has no default that a generated client would take for required, and one line-up for reading and writing', () => {
		const text = JSON.stringify(document.components.schemas);
		expect(text).not.toMatch(/"default":/);
		const at = (name: string, field: string) =>
			JSON.stringify((document.components.schemas[name] as { properties: Schema }).properties[field]);
		expect(at('DraftPut', 'lineUp')).toContain('#/components/schemas/LineUp"');
		expect(at('TillDetail', 'lineUp')).toContain('#/components/schemas/LineUp"');
		expect(at('TillDetail', 'draftLineUp')).toContain('#/components/schemas/LineUp"');
	});
	it('gives every schema at an address of its own, without a sign-in', async () => {
		const ajv = new Ajv2020({ strict: false, validateFormats: false });
		for (const name of Object.keys(document.components.schemas)) {
			const address = `${world.app.address}/api/v1/schemas/${name}.json`;
			const answer = await freshFetch(address);
			const schema = (await answer.json()) as { $id: string };
			expect([name, answer.status, schema.$id]).toEqual([name, 200, address]);
			ajv.addSchema(schema);
		}
		// they lead on to each other, and check what the interface gives
		const till = (await (
			await freshFetch(`${world.app.address}/api/v1/tills/web-shop`, {
				headers: { authorization: `Bearer ${await desk.makeToken('schemas')}` }
			})
		).json()) as object;
		const check = ajv.getSchema(`${world.app.address}/api/v1/schemas/TillDetail.json`)!;
		expect(check(till) || check.errors).toBe(true);
		expect((await freshFetch(`${world.app.address}/api/v1/schemas/nobody.json`)).status).toBe(404);
	});
	it('is read by people at a page of its own', async () => {
		const page = await (await freshFetch(`${world.app.address}/docs/api`)).text();
		for (const { operation } of operations()) expect(page).toContain(`id="${operation.operationId}"`);
		for (const name of Object.keys(document.components.schemas)) expect(page).toContain(`id="schema-${name}"`);
		expect(page).toMatch(/curl -X POST [^<]*\/api\/v1\/checkouts/);
	});
});

/** A shop's program, written against a generated client: it is compiled strictly, then run. */
const PROGRAM = `
import createClient from 'openapi-fetch';
import type { components, paths } from './interface';

export async function makeOrder(baseUrl: string, token: string) {
	const purse = createClient<paths>({ baseUrl, headers: { authorization: \`Bearer \${token}\` } });
	const tills = await purse.GET('/tills');
	const till = tills.data!.tills[0]!.till;
	// what has a default is left out
	const asked = await purse.POST('/tills/{till}/answer', {
		params: { path: { till } },
		body: { currency: 'EUR', amountMinor: 8450 }
	});
	const made = await purse.POST('/checkouts', {
		params: { header: { 'Idempotency-Key': 'order-SHOP-1-make' } },
		body: {
			till,
			currency: 'EUR',
			amountMinor: 8450,
			reference: 'SHOP-1',
			lines: [{ name: 'Strings', amountMinor: 8450 }]
		}
	});
	return { ways: asked.data!.offered.map((one) => one.name), checkout: made.data!.checkout, address: made.data!.address };
}

export async function lookAfter(baseUrl: string, token: string, checkout: number) {
	const purse = createClient<paths>({ baseUrl, headers: { authorization: \`Bearer \${token}\` } });
	const order = (await purse.GET('/checkouts/{checkout}', { params: { path: { checkout: String(checkout) } } })).data!;
	const [payment] = order.payments;
	const refunded = await purse.POST('/payments/{payment}/refunds', {
		params: { path: { payment: String(payment) }, header: { 'Idempotency-Key': 'order-SHOP-1-back' } },
		body: { amountMinor: 1000 }
	});
	const problem = await purse.GET('/payments/{payment}', { params: { path: { payment: '99999' } } });
	const wrong: components['schemas']['Problem'] | undefined = problem.error;
	return { state: order.state, outcome: refunded.data!.outcome, code: wrong?.code };
}

/** What was read of a line-up is sent back as it is. */
export async function touchDraft(baseUrl: string, token: string, till: string) {
	const purse = createClient<paths>({ baseUrl, headers: { authorization: \`Bearer \${token}\` } });
	const read = (await purse.GET('/tills/{till}', { params: { path: { till } } })).data!;
	const lineUp: components['schemas']['LineUp'] = read.lineUp!;
	return (await purse.PUT('/tills/{till}/draft', { params: { path: { till } }, body: { revision: 0, lineUp } })).data!.revision;
}
`;

describe('a client that is generated from the document', () => {
	it('compiles with its defaults, strictly, and runs a shop’s day', { timeout: 120_000 }, async () => {
		mkdirSync(FOLDER, { recursive: true });
		writeFileSync(join(FOLDER, 'interface.ts'), astToString(await openapiTS(JSON.stringify(document))));
		writeFileSync(join(FOLDER, 'day.ts'), PROGRAM);
		const options: ts.CompilerOptions = {
			strict: true,
			noEmit: true,
			skipLibCheck: true,
			types: [],
			target: ts.ScriptTarget.ES2022,
			module: ts.ModuleKind.ESNext,
			moduleResolution: ts.ModuleResolutionKind.Bundler,
			lib: ['lib.es2022.d.ts', 'lib.dom.d.ts']
		};
		const program = ts.createProgram([join(FOLDER, 'day.ts')], options);
		const faults = ts
			.getPreEmitDiagnostics(program)
			.map((one) => `${one.file?.fileName ?? ''}: ${ts.flattenDiagnosticMessageText(one.messageText, ' ')}`);
		expect(faults).toEqual([]);
		const { outputText } = ts.transpileModule(readFileSync(join(FOLDER, 'day.ts'), 'utf8'), {
			compilerOptions: { ...options, noEmit: false }
		});
		writeFileSync(join(FOLDER, 'day.mjs'), outputText);
		const client = (await import(pathToFileURL(join(process.cwd(), FOLDER, 'day.mjs')).href)) as {
			makeOrder(base: string, token: string): Promise<{ ways: string[]; checkout: number; address: string }>;
			lookAfter(base: string, token: string, checkout: number): Promise<object>;
			touchDraft(base: string, token: string, till: string): Promise<number>;
		};
		const base = `${world.app.address}/api/v1`;
		const token = await desk.makeToken('generated client');
		const order = await client.makeOrder(base, token);
		expect(order.ways).toContain('Card');
		expect(await desk.giveCard(order.address, CARDS.approved)).toMatchObject({ type: 'redirect' });
		let seen: object = {};
		await until('the order is paid', async () => {
			seen = await client.lookAfter(base, token, order.checkout);
			return (seen as { state: string }).state === 'paid';
		});
		expect(seen).toEqual({ state: 'paid', outcome: 'done', code: 'not-found' });
		expect(await client.touchDraft(base, token, 'web-shop')).toBe(1);
	});
});

describe('payers, groups, rate cards and files by the interface', () => {
	it('are listed and read, payers added and changed by their mail address', async () => {
		const token = await desk.makeToken('records');
		const call = async (method: string, path: string, body?: object) => {
			const answer = await freshFetch(`${world.app.address}/api/v1${path}`, {
				method,
				headers: { authorization: `Bearer ${token}`, ...(body ? { 'content-type': 'application/json' } : {}) },
				...(body ? { body: JSON.stringify(body) } : {})
			});
			return {
				status: answer.status,
				at: answer.headers.get('location'),
				body: (await answer.json()) as Record<string, unknown>
			};
		};
		const made = await call('POST', '/payers', { name: 'Noor Claes', mail: 'Noor@payer.example', country: 'BE' });
		expect([made.status, made.body.mail, made.body.groups]).toEqual([201, 'noor@payer.example', []]);
		expect((await call('GET', made.at!.replace('/api/v1', ''))).body).toEqual(made.body);
		const changed = await call('POST', '/payers', { name: 'Noor C.', mail: 'noor@payer.example' });
		// what is left out stays
		expect(changed.body.country).toBe('BE');
		expect([changed.status, changed.body.payer, changed.body.name]).toEqual([200, made.body.payer, 'Noor C.']);
		expect((await call('POST', '/payers', { name: 'X', mail: 'x@payer.example', groups: ['Nobody'] })).status).toBe(
			422
		);
		expect((await call('GET', '/payers?text=noor')).body).toMatchObject({ payers: [{ name: 'Noor C.' }], next: null });
		expect((await call('GET', '/payers?cursor=%00')).status).toBe(400);
		expect((await call('GET', '/groups')).body).toEqual({ groups: [] });
		const { rateCards } = (await call('GET', '/rate-cards')).body as {
			rateCards: { connection: string; name: string; contract: object | null; proposal: object | null }[];
		};
		expect(rateCards.map((one) => one.name)).toContain('Fernhall');
		const [first] = rateCards;
		expect((await call('GET', `/rate-cards/${first!.connection}`)).body).toEqual(first);
		expect((await call('GET', '/rate-cards/nobody')).status).toBe(404);
		expect((await call('GET', '/settlement-files')).body).toEqual({ settlementFiles: [], next: null });
	});
});
