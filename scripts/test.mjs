// The whole test: installs what is missing, then format, lint, types, unit and service tests, build, browser journeys.
// The last line adds up what the runners themselves report; the exit code is 0 only when nothing failed.
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, installForTests, run } from './setup.mjs';

let [passed, failed] = [0, 0];
/** what failed, told once more at the end */
const troubles = [];

/** One step that either holds or does not. */
function step(name, code) {
	console.log(`${code === 0 ? 'ok    ' : 'FAILED'} ${name}`);
	if (code === 0) passed++;
	else failed++;
	return code === 0;
}

/** Debian's browser and its driver, where they are missing and may be installed. */
function browsers() {
	const has = () =>
		existsSync(process.env.CHROMIUM ?? '/usr/bin/chromium') &&
		existsSync(process.env.CHROMEDRIVER ?? '/usr/bin/chromedriver');
	if (has()) return true;
	console.log('Installing chromium and chromium-driver …');
	const sudo = process.getuid?.() === 0 ? [] : ['sudo', '-n'];
	const apt = (...args) =>
		run([...sudo, 'apt-get'][0], [...sudo.slice(1), ...(sudo.length ? ['apt-get'] : []), ...args], {
			quiet: true,
			env: { DEBIAN_FRONTEND: 'noninteractive' }
		});
	apt('update', '-qq');
	apt('install', '-y', '-qq', '--no-install-recommends', 'chromium', 'chromium-driver');
	return has();
}

/** Runs some of the projects and adds up their report. A runner that reports nothing has failed. */
function vitest(name, ...projects) {
	const folder = mkdtempSync(join(tmpdir(), 'purse-report-'));
	const report = join(folder, 'report.json');
	const began = Date.now();
	const code = run('npx', [
		'--no-install',
		'vitest',
		'run',
		...projects.flatMap((one) => ['--project', one]),
		'--reporter=dot',
		'--reporter=json',
		`--outputFile.json=${report}`
	]);
	let [good, bad] = [0, 0];
	if (existsSync(report)) {
		const told = JSON.parse(readFileSync(report, 'utf8'));
		good = told.numPassedTests;
		bad = told.numFailedTests;
		// a file that could not even be loaded has no tests to count
		const broken = told.testResults.filter((file) => file.status === 'failed' && file.assertionResults.length === 0);
		bad += broken.length;
		troubles.push(...broken.map((file) => `${file.name}: ${file.message}`));
		for (const file of told.testResults)
			for (const one of file.assertionResults)
				if (one.status === 'failed') troubles.push(`${one.fullName}: ${one.failureMessages.join(' ').slice(0, 300)}`);
	}
	if (code !== 0 && bad === 0) bad = 1;
	if (good + bad === 0) bad = 1;
	passed += good;
	failed += bad;
	rmSync(folder, { recursive: true, force: true });
	console.log(
		`${bad ? 'FAILED' : 'ok    '} ${name}: ${good} passed, ${bad} failed, ${Math.round((Date.now() - began) / 1000)} s`
	);
}

const began = Date.now();
try {
	await installForTests();
	const npx = (...args) => run('npx', ['--no-install', ...args], { quiet: true });
	step('made types for routes', npx('svelte-kit', 'sync'));
	step('format', npx('prettier', '--check', '.'));
	step('lint', npx('eslint', '.'));
	step('types', npx('svelte-check', '--tsconfig', './tsconfig.json', '--fail-on-warnings'));
	vitest('unit tests', 'core');
	if (step('build', await build())) {
		vitest('service tests', 'services');
		if (step('a browser is there', browsers() ? 0 : 1)) vitest('browser journeys', 'journeys');
	}
} catch (error) {
	console.error(error);
	failed++;
}
console.log(`took ${Math.round((Date.now() - began) / 1000)} s`);
for (const one of troubles) console.log(`FAILED ${one.replace(/\s+/g, ' ')}`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
