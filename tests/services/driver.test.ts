import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { compileDriver, lockOf, placeDriver } from '../../scripts/driver.mjs';

// The database driver is installed and compiled by itself, at the versions that the project's lock file holds.

const lock = {
	lockfileVersion: 3,
	packages: {
		'': { dependencies: { wanted: '^1.0.0', other: '^1.0.0' } },
		'node_modules/wanted': {
			version: '1.2.3',
			dependencies: { near: '*', shared: '*' },
			optionalDependencies: { missing: '*', extra: '*' }
		},
		'node_modules/wanted/node_modules/near': { version: '2.0.0', dependencies: { shared: '*', wanted: '*' } },
		'node_modules/near': { version: '1.0.0' },
		'node_modules/shared': { version: '3.0.0' },
		'node_modules/extra': { version: '4.0.0' },
		'node_modules/other': { version: '5.0.0' }
	}
};
const folder = mkdtempSync(join(tmpdir(), 'driver-'));
afterAll(() => rmSync(folder, { recursive: true }));

describe('the database driver', () => {
	it('is locked with all that it needs, and with nothing else', () => {
		const { packages } = lockOf(lock, 'wanted');
		expect(Object.keys(packages).sort()).toEqual([
			'',
			'node_modules/extra',
			'node_modules/shared',
			'node_modules/wanted',
			'node_modules/wanted/node_modules/near'
		]);
		expect(packages['']).toMatchObject({ dependencies: { wanted: '1.2.3' } });
		expect(packages['node_modules/wanted']).toBe(lock.packages['node_modules/wanted']);
	});
	it('says what the lock file lacks', () => {
		expect(() =>
			lockOf({ ...lock, packages: { ...lock.packages, 'node_modules/shared': undefined } }, 'wanted')
		).toThrow('The lock file does not hold shared.');
	});
	it("is of the project's own lock file", () => {
		const mine = JSON.parse(readFileSync('package-lock.json', 'utf8')) as typeof lock;
		const { packages } = lockOf(mine, 'sqlite3');
		for (const [path, entry] of Object.entries(packages))
			if (path) expect(entry).toEqual(mine.packages[path as keyof typeof mine.packages]);
		expect(Object.keys(packages)).toContain('node_modules/node-addon-api');
	});
	it('is compiled once, kept for later, and put where it is looked for; a failure leaves nothing behind', async () => {
		writeFileSync(
			join(folder, 'package-lock.json'),
			JSON.stringify({ lockfileVersion: 3, packages: { 'node_modules/sqlite3': { version: '6.0.0' } } })
		);
		const asked: string[] = [];
		const npm = (works: boolean) => async (args: string[], at: string) => {
			asked.push(args[0]!);
			if (args[0] !== 'rebuild') return 0;
			if (!works) return 1;
			const release = join(at, 'node_modules', 'sqlite3', 'build', 'Release');
			mkdirSync(release, { recursive: true });
			writeFileSync(join(release, 'node_sqlite3.node'), 'compiled');
			return 0;
		};
		await expect(compileDriver(folder, npm(false))).rejects.toThrow('could not be compiled');
		const file = await compileDriver(folder, npm(true));
		expect(await compileDriver(folder, npm(true))).toBe(file);
		expect(asked).toEqual(['ci', 'rebuild', 'ci', 'rebuild']);
		expect(existsSync(join(folder, '.cache', 'driver'))).toBe(false);
		placeDriver(folder, file);
		expect(readFileSync(join(folder, 'node_modules', 'sqlite3', 'build', 'Release', 'node_sqlite3.node'), 'utf8')).toBe(
			'compiled'
		);
	});
});
