// The database driver, `sqlite3`, has to be compiled, which takes longer than all other packages together. So it is compiled in
// a folder of its own while they are installed, and kept there: packages that change later do not compile it again.
import { createHash } from 'node:crypto';
import { copyFileSync, existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

/**
 * SQLite without four extensions that nothing here uses, and without those optimisations and warnings that take half the time
 * and gain nothing that could be measured.
 */
const FLAGS = [
	'-O2 -Wno-all -Wno-extra',
	...['tree-pre', 'ipa-cp', 'gcse', 'tree-vrp', 'ipa-pure-const', 'schedule-insns2', 'tree-dominator-opts'].map(
		(one) => `-fno-${one}`
	),
	...['tree-dse', 'split-wide-types', 'ipa-sra', 'thread-jumps'].map((one) => `-fno-${one}`),
	...['FTS3', 'FTS4', 'RTREE', 'DBSTAT_VTAB'].map((one) => `-USQLITE_ENABLE_${one}`)
].join(' ');
const COMPILED = join('node_modules', 'sqlite3', 'build', 'Release', 'node_sqlite3.node');

/**
 * @typedef {{ version?: string, dependencies?: Record<string, string>, optionalDependencies?: Record<string, string> }} Locked
 * @typedef {{ lockfileVersion: number, packages: Record<string, Locked | undefined> }} Lock
 */

/**
 * Of a lock file, one package and all that it needs, at the versions that are locked.
 * @param {Lock} lock a package-lock.json of version 3, parsed
 * @param {string} name
 * @returns such a lock file for a folder in which this package alone is installed
 * @throws where the lock does not hold what is needed
 */
export function lockOf(lock, name) {
	/** @type {Record<string, Locked>} */
	const packages = {};
	/** @type {(from: string, wanted: string, isOptional: boolean) => void} */
	const take = (from, wanted, isOptional) => {
		// as Node.js looks for it: beside whoever needs it, then further up
		let folder = from;
		let path = `${folder ? `${folder}/` : ''}node_modules/${wanted}`;
		while (folder && !lock.packages[path]) {
			folder = folder.includes('/node_modules/') ? folder.slice(0, folder.lastIndexOf('/node_modules/')) : '';
			path = `${folder ? `${folder}/` : ''}node_modules/${wanted}`;
		}
		const entry = lock.packages[path];
		if (!entry && isOptional) return;
		if (!entry) throw new Error(`The lock file does not hold ${wanted}.`);
		if (packages[path]) return;
		packages[path] = entry;
		for (const needed of Object.keys(entry.dependencies ?? {})) take(path, needed, false);
		for (const needed of Object.keys(entry.optionalDependencies ?? {})) take(path, needed, true);
	};
	take('', name, false);
	const dependencies = { [name]: packages[`node_modules/${name}`]?.version ?? '' };
	return {
		name: 'just-purse-driver',
		lockfileVersion: lock.lockfileVersion,
		requires: true,
		packages: /** @type {Record<string, Locked>} */ ({ '': { name: 'just-purse-driver', dependencies }, ...packages })
	};
}

/**
 * Compiles the driver, unless it is there for this version and this Node.js.
 * @param {string} root the project's folder
 * @param {(args: string[], folder: string, env: Record<string, string>) => Promise<number>} npm runs npm with its arguments in a
 * folder and an environment, and returns its exit code
 * @returns the file
 */
export async function compileDriver(root, npm) {
	const lock = lockOf(JSON.parse(readFileSync(join(root, 'package-lock.json'), 'utf8')), 'sqlite3');
	const made = [lock.packages['node_modules/sqlite3'], process.version, process.platform, process.arch, FLAGS];
	const key = createHash('sha256').update(JSON.stringify(made)).digest('hex').slice(0, 16);
	const file = join(root, '.cache', `driver-${key}.node`);
	if (existsSync(file)) return file;
	const folder = join(root, '.cache', 'driver');
	rmSync(folder, { recursive: true, force: true });
	mkdirSync(folder, { recursive: true });
	writeFileSync(join(folder, 'package-lock.json'), JSON.stringify(lock));
	writeFileSync(join(folder, 'package.json'), JSON.stringify({ ...lock.packages[''], private: true }));
	const code =
		(await npm(['ci', '--ignore-scripts', '--no-audit', '--no-fund'], folder, {})) ||
		(await npm(['rebuild', 'sqlite3'], folder, { JOBS: 'max', CFLAGS: FLAGS }));
	if (code !== 0 || !existsSync(join(folder, COMPILED))) throw new Error('the database driver could not be compiled');
	renameSync(join(folder, COMPILED), file);
	rmSync(folder, { recursive: true, force: true });
	return file;
}

/**
 * Puts a compiled driver where the application looks for it.
 * @param {string} root the project's folder
 * @param {string} file
 */
export function placeDriver(root, file) {
	mkdirSync(dirname(join(root, COMPILED)), { recursive: true });
	copyFileSync(file, join(root, COMPILED));
}
