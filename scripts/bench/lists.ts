import { fork } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { history } from '../../standins/history/index.ts';
import { connectAt, NAMES, prepare } from '../../tests/world/connections.ts';
import { rows } from '../../tests/world/database.ts';
import { Desk } from '../../tests/world/desk.ts';
import { settlementFile } from '../../tests/world/settlement.ts';
import { makeWorld, until, type World } from '../../tests/world/index.ts';
import type { Ratio } from './ratio.ts';

/** What is asked, by name: each as an administrator opens it. */
const PAGES: Readonly<Record<string, string>> = {
	'first page': '/takings',
	'by stage': '/takings?stage=refunded',
	'by till': '/takings?till=web-shop',
	'a month': '/takings?from=2026-09-01&to=2026-09-30',
	'filters together':
		'/takings?till=web-shop&scheme=corvid&currency=EUR&least=80&most=120&from=2026-01-01&to=2026-11-01',
	'filters that hardly anything fits': '/takings?method=card&scheme=gildern&least=100000',
	'a search with hits': '/takings?q=FE-H000',
	'a search without a hit': '/takings?q=nobodyiscalledthis',
	'Needs you': '/needs-you',
	'an offline method': '/connect/offline/OFFLINE',
	'fees over time': '/watch/fees',
	'fees of a year against a year': '/watch/fees?from=2025-11&to=2026-10&againstFrom=2025-05&againstTo=2025-10&by=card',
	'fees of any days': '/watch/fees?from=2026-09-17&to=2026-10-21&againstFrom=2026-03-05&againstTo=2026-04-20',
	'the fee check': '/watch/discrepancies'
};

interface Waits {
	readonly payer: number;
	readonly notification: number;
}
/** Lets a process of its own ask for a page and send notifications. @returns ends it, and tells the longest waits */
async function startWatcher(asked: { page: string; hook: string; secret: string }): Promise<() => Promise<Waits>> {
	const child = fork('scripts/bench/watcher.ts', [JSON.stringify(asked)], { execArgv: ['--import', 'tsx'] });
	const next = () => new Promise<unknown>((told) => child.once('message', told));
	await next();
	return async () => {
		const told = next();
		child.send('end');
		return (await told) as Waits;
	};
}

/** The most memory that a process has had, in MB. */
const peakOf = (pid: number): number =>
	Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024;

interface Measured {
	readonly took: number;
	readonly payer: number;
	readonly notification: number;
	readonly peak: number;
	/** seconds from the last price to the last cause that the fee check named */
	readonly check: number;
	/** seconds that a check of all days at will takes, beside other work */
	readonly period: number;
	/** milliseconds of the fee check of one day's new payments */
	readonly day: number;
	/** milliseconds until a page stands, and until its sums, which come after it, are there */
	readonly pages: Record<string, { page: number; whole: number }>;
	/** the CSV of all: milliseconds until it begins, lines, MB of memory that it took more at most */
	readonly csv: { readonly begins: number; readonly lines: number; readonly more: number };
}

const residentOf = (pid: number): number =>
	Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024;

/** Opens a page as a browser does. @returns milliseconds until the page stands, and until what it added up has come after it */
async function openPage(desk: Desk, path: string): Promise<{ page: number; whole: number }> {
	const from = performance.now();
	const answer = await desk.get(path);
	const reader = answer.body!.pipeThrough(new TextDecoderStream()).getReader();
	let page = 0;
	for (let text = ''; ;) {
		const { value, done } = await reader.read();
		if (done) break;
		text = text.slice(-10) + value;
		if (!page && text.includes('</html>')) page = performance.now() - from;
	}
	const whole = performance.now() - from;
	return { page: page || whole, whole };
}
const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!;

/** Reads the CSV of every payment as it streams. */
async function readCsv(desk: Desk, pid: number): Promise<Measured['csv']> {
	const before = residentOf(pid);
	const from = performance.now();
	const answer = await desk.get('/takings/csv');
	const reader = answer.body!.getReader();
	let [begins, lines, most] = [0, 0, before];
	for (;;) {
		const { value, done } = await reader.read();
		if (done) break;
		begins ||= performance.now() - from;
		for (const byte of value) if (byte === 10) lines++;
		most = Math.max(most, residentOf(pid));
	}
	return { begins, lines: lines - 1, more: most - before };
}

/** Takes a file of one more day. @returns milliseconds from when it is priced until the fee check has looked at it */
async function checkDay(desk: Desk, world: World): Promise<number> {
	const begin = Date.UTC(2026, 10, 23, 8);
	const lines = Array.from({ length: 1_800 }, (_, n) => ({
		id: `BENCH-DAY-${n}`,
		at: begin + n * 20_000,
		minor: 2_000 + n,
		fee: n % 40 ? 45 : 99
	}));
	await desk.upload('/connect/files?/take', { processor: 'fernhall' }, 'file', 'day.csv', settlementFile(lines));
	for (let priced = 0; ;) {
		const [left] = await rows<{ before: number; checks: number }>(
			world,
			`SELECT (SELECT COUNT(*) FROM settlement_files WHERE state <> 'taken') + (SELECT COUNT(*) FROM repricings) AS before,
			 (SELECT COUNT(*) FROM fee_checks_due) AS checks`
		);
		if (!left!.before) priced ||= performance.now();
		if (priced && !left!.checks) return performance.now() - priced;
	}
}

async function measure(count: number): Promise<Measured> {
	const world: World = await makeWorld({ JUSTPURSE_ROUND_MS: '500', JUSTPURSE_FILE_WAIT_MS: '8000' }, { with: NAMES });
	try {
		const desk = new Desk(world);
		const { offline } = await desk.openWebShop();
		for (const name of NAMES.filter((one) => one !== 'fernhall')) {
			await prepare(desk, name);
			await connectAt(desk, name);
		}
		const hook = (await world.control<{ address: string; secret: string }[]>('listeners'))[0]!;
		const files = history({ until: '2026-11-24', payments: count });
		const address = await desk.address('84.50', 'BENCH-1');
		await (await desk.get(address)).text();
		const end = await startWatcher({ page: address, hook: hook.address, secret: hook.secret });
		const begun = performance.now();
		for (const [name, text] of files)
			await desk.upload('/connect/files?/take', { processor: name }, 'file', `${name}.csv`, text);
		const taken = files.size;
		// what it holds of them no longer keeps a core busy with collecting garbage while others are measured
		files.clear();
		await until(
			'every file is merged',
			async () => {
				const [row] = await rows<{ n: number }>(
					world,
					`SELECT COUNT(*) AS n FROM settlement_files WHERE state = 'taken'`
				);
				return row!.n === taken;
			},
			1_500_000
		);
		const took = (performance.now() - begun) / 1000;
		const waits = await end();
		await until(
			'months are packed and payments are priced',
			async () => {
				const [row] = await rows<{ n: number }>(
					world,
					`SELECT (SELECT COUNT(*) FROM packed_months WHERE packed < revision AND month < strftime('%Y-%m', 'now'))
					  + (SELECT COUNT(*) FROM repricings) AS n`
				);
				return row!.n === 0;
			},
			1_500_000
		);
		const checked = performance.now();
		await until(
			'the fee check has looked at everything',
			async () => (await rows<{ n: number }>(world, 'SELECT COUNT(*) AS n FROM fee_checks_due'))[0]!.n === 0,
			1_500_000
		);
		const check = (performance.now() - checked) / 1000;
		const pages: Measured['pages'] = {};
		for (const [name, path] of Object.entries(PAGES)) {
			const times: { page: number; whole: number }[] = [];
			for (let k = 0; k < 9; k++) times.push(await openPage(desk, path.replace('OFFLINE', offline)));
			pages[name] = { page: median(times.map((one) => one.page)), whole: median(times.map((one) => one.whole)) };
		}
		const asked = performance.now();
		await until(
			'all days are checked',
			async () =>
				!!(await desk.data<{ checked?: object }>('/watch/discrepancies/check?from=2025-01-01&to=2026-12-31')).checked,
			1_500_000
		);
		const period = (performance.now() - asked) / 1000;
		const csv = await readCsv(desk, world.app.child!.pid!);
		const day = await checkDay(desk, world);
		return { took, ...waits, peak: peakOf(world.app.child!.pid!), pages, csv, check, period, day };
	} finally {
		await world.end();
	}
}

/** Lists and figures over many payments against the same over few, and what importing them keeps others waiting. */
export async function lists(): Promise<Ratio> {
	const many = Number(process.env.BENCH_PAYMENTS ?? 1_000_000);
	const few = await measure(10_000);
	const much = await measure(many);
	const ratios = Object.entries(much.pages).map(([name, after]) => [name, few.pages[name]!, after] as const);
	const worst = Math.max(...ratios.map(([, before, after]) => after.page / before.page));
	const slowest = Math.max(...ratios.map(([, , after]) => after.page));
	const latest = Math.max(...ratios.map(([, , after]) => after.whole));
	return {
		name: `lists over ${many.toLocaleString('en-GB')} payments against 10,000`,
		ratio: worst,
		wanted:
			'at most 3, under 200 ms, with the sums that come after under 300 ms; files in 240 s; a payer waits under 250 ms, a notification under 1 s; 700 MB; the CSV begins in 1 s and takes 100 MB at most; a check at will in 6 s, of a new day in 200 ms',
		holds:
			worst <= 3 &&
			slowest < 200 &&
			latest < 300 &&
			much.took <= 240 &&
			much.payer < 250 &&
			much.notification < 1000 &&
			much.peak < 700 &&
			much.period <= 6 &&
			much.day < 200 &&
			much.csv.begins < 1000 &&
			much.csv.more < 100,
		detail: `${ratios.map(([name, before, after]) => `${name} ${before.page.toFixed(0)} → ${after.page.toFixed(0)} ms${after.whole > after.page + 5 ? ` (with its sums ${before.whole.toFixed(0)} → ${after.whole.toFixed(0)} ms)` : ''}`).join(', ')}; files taken in ${much.took.toFixed(0)} s, a payer waited ${much.payer.toFixed(0)} ms at most, a notification ${much.notification.toFixed(0)} ms; memory ${much.peak.toFixed(0)} MB at most; the CSV of ${much.csv.lines.toLocaleString('en-GB')} lines began after ${much.csv.begins.toFixed(0)} ms and took ${much.csv.more.toFixed(0)} MB more; the fee check ended ${much.check.toFixed(1)} s after the last price; a check of all days at will took ${much.period.toFixed(1)} s, that of one day’s new payments ${much.day.toFixed(0)} ms`
	};
}
