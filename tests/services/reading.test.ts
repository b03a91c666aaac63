import fc from 'fast-check';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { CONNECTORS, ConnectorError, type Mode } from '../../src/lib/server/connectors/index.ts';
import type { RunningStandin } from '../../standins/shared/serve.ts';
import { STANDINS } from '../../standins/main.ts';
import { NAMES } from '../world/connections.ts';
import { freshFetch } from '../world/index.ts';

// Every connector against what it may be handed: keys of its own console, and bodies that are none of its processor's.

const folder = mkdtempSync(join(tmpdir(), 'purse-reading-'));
const running = new Map<string, RunningStandin>();
interface Key {
	key: string;
	kind: string;
	mode: Mode;
}
const keys = new Map<string, Key[]>();
beforeAll(async () => {
	for (const name of NAMES) {
		const standin = await STANDINS[name]!.start({ port: 0, folder, partner: 'http://127.0.0.1:9' });
		running.set(name, standin);
		keys.set(name, (await (await freshFetch(`${standin.address}/control/keys`)).json()) as Key[]);
	}
});
afterAll(async () => {
	await Promise.all([...running.values()].map((one) => one.stop()));
	rmSync(folder, { recursive: true, force: true });
});

const GIVEN_BY_CONSENT = { access: 'x', refresh: 'y' };
const credentialsOf = (name: string, mode: Mode): Record<string, string> => ({
	...(STANDINS[name]!.scopes ? GIVEN_BY_CONSENT : {}),
	...STANDINS[name]!.choices,
	...Object.fromEntries(
		Object.entries(STANDINS[name]!.keys ?? {}).map(([field, kind]) => [
			field,
			keys.get(name)!.find((one) => one.kind === kind && one.mode === mode)!.key
		])
	)
});

describe.each(NAMES)('credentials of %s', (name) => {
	const connector = () => CONNECTORS[name]!;
	it('as its console shows them are sound, in either mode', () => {
		for (const mode of ['live', 'test'] as const)
			expect(connector().inspect(credentialsOf(name, mode), mode)).toEqual([]);
	});
	it('of the other mode are told as that, in a box of the form', () => {
		if (!STANDINS[name]!.keys) return;
		const fields = new Set(connector().fields.map((one) => one.name));
		const problems = connector().inspect(credentialsOf(name, 'test'), 'live');
		expect(problems.length).toBeGreaterThan(0);
		for (const { code, field, says } of problems) {
			expect([code, fields.has(field)]).toEqual(['mode', true]);
			expect(says).toMatch(/test .* connecting for live/);
		}
	});
	it('that are empty, cut, or in each other’s boxes are told box by box', () => {
		const right = credentialsOf(name, 'live');
		const boxes = Object.keys(STANDINS[name]!.keys ?? {});
		for (const box of boxes) {
			const told = (value: string) =>
				connector()
					.inspect({ ...right, [box]: value }, 'live')
					.filter((one) => one.field === box);
			expect(told('').map((one) => one.code)).toEqual(['empty']);
			expect(told(right[box]!.slice(0, -1)).map((one) => one.code)).toEqual(['truncated']);
			expect(told('open sesame').map((one) => one.code)).toEqual(['unknown']);
			for (const { says } of [...told(''), ...told(right[box]!.slice(0, -1)), ...told('open sesame')]) {
				// a whole sentence that does not repeat a secret
				expect(says).toMatch(/^[A-Z].*\.$/s);
				expect(says).not.toContain(right[box]!.slice(-8));
			}
		}
		if (boxes.length === 2) {
			const [a, b] = boxes as [string, string];
			const problems = connector().inspect({ ...right, [a]: right[b]!, [b]: right[a]! }, 'live');
			expect(problems.map((one) => [one.code, one.field])).toEqual([
				['swapped', a],
				['swapped', b]
			]);
		}
	});
	it('never make it fail, whatever is typed', () => {
		const values = fc.record(
			Object.fromEntries([...connector().fields.map((one) => one.name), 'access'].map((field) => [field, fc.string()]))
		);
		fc.assert(
			fc.property(values, fc.constantFrom('live' as const, 'test' as const), (given, mode) => {
				for (const problem of connector().inspect(given, mode)) expect(problem.says.length).toBeGreaterThan(10);
			}),
			{ seed: 71, numRuns: 200 }
		);
	});
});

describe.each(NAMES)('notifications of %s', (name) => {
	const read = (body: string) => CONNECTORS[name]!.readNotification(body);
	const isNonsense = (body: string) => {
		try {
			read(body);
			return 'read';
		} catch (error) {
			return error instanceof ConnectorError && error.kind === 'nonsense' ? 'nonsense' : String(error);
		}
	};
	it.each(['', 'null', '[]', '{}', '7', '"a"', '{"id":', '<html></html>', '{"id":{}}', '\u0000'])(
		'that are %j are nonsense, and nothing worse',
		(body) => expect(isNonsense(body)).toBe('nonsense')
	);
	it('of any JSON are nonsense or read, and never an error of ours', () => {
		fc.assert(
			fc.property(fc.json({ maxDepth: 3 }), (body) => {
				expect(['nonsense', 'read']).toContain(isNonsense(body));
			}),
			{ seed: 93, numRuns: 300 }
		);
	});
});

describe('every processor', () => {
	it('tells in the catalogue what an administrator must know before connecting', () => {
		for (const name of NAMES) {
			const { about, fields, console: address, sends, way } = CONNECTORS[name]!;
			expect(about.methods.length * about.currencies.length * about.countries.length).toBeGreaterThan(0);
			for (const text of [about.carries, about.paysOut, about.charges, about.support, address])
				expect(text.length).toBeGreaterThan(10);
			for (const { label, where, looks, secret } of fields) {
				expect([label.length > 3, where.length > 20, looks.length > 10, typeof secret]).toEqual([
					true,
					true,
					true,
					'boolean'
				]);
			}
			// whatever it carries, it tells of captures, refunds and payouts
			expect(sends).toEqual(expect.arrayContaining(['captured', 'refunded', 'settled', 'paid-out']));
			expect(way.length).toBeGreaterThan(5);
		}
	});
	it('is stood in for by a folder of its own, which tells what demo and tests need', () => {
		expect(NAMES.length).toBe(Object.keys(CONNECTORS).length);
		const ports = new Set<number>();
		for (const name of NAMES) {
			const { account, signIn, keys: boxes = {}, port, scopes } = STANDINS[name]!;
			expect(account!.length).toBeGreaterThan(3);
			expect(signIn!.password.length).toBeGreaterThan(8);
			expect(Object.keys(boxes).sort()).toEqual(
				CONNECTORS[name]!.fields.map((one) => one.name)
					.filter((field) => Object.hasOwn(boxes, field))
					.sort()
			);
			// a consent asks for what the connector says it needs
			if (CONNECTORS[name]!.consent)
				expect([...scopes!].sort()).toEqual(Object.keys(CONNECTORS[name]!.consent.scopes).sort());
			ports.add(port);
		}
		expect(ports.size).toBe(NAMES.length);
	});
});
