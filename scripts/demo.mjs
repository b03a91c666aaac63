// Starts everything with the made-up business: stand-ins and application. `--fresh` starts over; with `--bare` nothing is
// prepared: the first day of an administrator.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { build, install, ready, ROOT, runBeside, start } from './setup.mjs';
import { SERVER_ENV } from './serverEnv.mjs';

const folder = process.env.JUSTPURSE_DEMO_FOLDER ?? join(ROOT, 'data', 'demo');
const port = process.env.PORT ?? '5230';
if (process.argv.includes('--fresh')) rmSync(folder, { recursive: true, force: true });
mkdirSync(folder, { recursive: true });

const argument = process.argv.indexOf('--payments');
const payments = argument < 0 ? '10000' : (process.argv[argument + 1] ?? '10000');
const isBare = process.argv.includes('--bare');
// in a demo that is prepared they are handed over once the past is billed; in a bare one they lie in the inbox
const settlements = isBare ? join(folder, 'purse', 'settlements') : join(folder, 'settlements');
// what the processors themselves remember of it
const remembered = join(folder, 'remembered');
/** Eighteen months of payments, as the processors' settlement files tell them; taken in once the business is set up. */
const history = () =>
	existsSync(settlements)
		? 0
		: runBeside(process.execPath, ['--import', 'tsx', 'standins/history/main.ts', settlements, payments, remembered]);
await install(async () => {
	const codes = await Promise.all([build(), history()]);
	if (codes.some((code) => code !== 0)) process.exit(1);
});
// each stand-in tells its name, its usual port and who signs in at its console
const STANDINS = JSON.parse(
	execFileSync(process.execPath, ['--import', 'tsx', 'standins/list.ts'], { cwd: ROOT, encoding: 'utf8' })
).map(({ name, port: usual, signIn }) => {
	const port = process.env[`${name.toUpperCase()}_PORT`] ?? String(usual);
	return {
		name: name[0].toUpperCase() + name.slice(1),
		env: name.toUpperCase(),
		port,
		password: signIn?.password,
		address: `http://127.0.0.1:${port}`
	};
});
const shop = STANDINS.find((one) => one.name === 'Shop');
const address = `http://127.0.0.1:${port}`;
const signIn = { mail: 'ilse@wrenalder.example', name: 'Ilse Verhaeren', password: 'rosin-and-varnish' };

// the business is made from its past, day by day: the application's clock begins before the first invoice
const billed = join(remembered, 'billed.json');
const prepared = join(folder, 'prepared');
let begins = 0;
if (!isBare && !existsSync(prepared) && existsSync(billed)) {
	const first = Math.min(...JSON.parse(readFileSync(billed, 'utf8')).map((one) => one.at));
	begins = pastMoment(Math.ceil((Date.now() - first) / 86_400_000) + 3);
}
/** The same time of day so many days ago, in the time zone of the business. */
function pastMoment(days) {
	const offset = (at) => {
		const local = new Date(new Date(at).toLocaleString('en-US', { timeZone: 'Europe/Brussels' }));
		return Math.round((local - new Date(new Date(at).toLocaleString('en-US', { timeZone: 'UTC' }))) / 60_000) * 60_000;
	};
	const then = Date.now() - days * 86_400_000;
	return then + offset(Date.now()) - offset(then);
}

let stopping = false;
/** The application and the stand-ins are ended only to start again. */
let replacing = false;
const children = [];
function stop(code = 0) {
	if (stopping) return;
	stopping = true;
	for (const child of children) child.kill('SIGTERM');
	setTimeout(() => process.exit(code), 1500).unref();
	void Promise.all(children.map((child) => child.exitCode ?? new Promise((done) => child.once('exit', done)))).then(
		() => process.exit(code)
	);
}
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => stop());

function launch(name, args, env) {
	const child = start(name, args, env, (line) => {
		if (!/^\{"level":(10|20|30)/.test(line) && !/^(Listening|\w+ http:)/.test(line)) console.error(`${name}: ${line}`);
	});
	child.once('exit', (code) => {
		if (replacing) return;
		if (!stopping) console.error(`${name} stopped (${code}). Is its port taken?`);
		stop(code ?? 1);
	});
	children.push(child);
}

// names that lead to this machine here, and to the business's own shop
const hosts = {
	'shop.wrenalder.example': `127.0.0.1:${shop.port}`,
	'pay.wrenalder.example': `127.0.0.1:${port}`
};
const named = Object.entries(hosts)
	.map(([host, to]) => `${host}=${to}`)
	.join(',');
async function launchAll() {
	launch('stand-ins', ['--import', 'tsx', 'standins/main.ts'], {
		STANDINS_FOLDER: join(folder, 'standins'),
		STANDINS_PARTNER: address,
		STANDINS_HOSTS: named,
		...Object.fromEntries(STANDINS.map((one) => [`${one.env}_PORT`, one.port]))
	});
	launch('application', ['server.mjs'], {
		...SERVER_ENV,
		HOST: '127.0.0.1',
		PORT: port,
		ORIGIN: address,
		JUSTPURSE_DATA: join(folder, 'purse'),
		JUSTPURSE_ADMIN_MAIL: signIn.mail,
		JUSTPURSE_ADMIN_NAME: signIn.name,
		JUSTPURSE_ADMIN_PASSWORD: signIn.password,
		JUSTPURSE_HOSTS: named,
		// a demo's own programs may stand on this machine
		JUSTPURSE_PRIVATE_HOSTS: '127.0.0.1',
		// all of its payers come from one address
		JUSTPURSE_PAYERS_PER_ADDRESS: '100',
		...(begins ? { JUSTPURSE_DEMO_BEGINS: String(begins) } : {}),
		// a demo's clock can be moved, together with those of the stand-ins
		JUSTPURSE_DEMO_CLOCKS: STANDINS.filter((one) => one.password)
			.map((one) => `${one.address}/control/clock`)
			.join(' '),
		...Object.fromEntries(STANDINS.map((one) => [`${one.env}_URL`, one.address]))
	});
	await Promise.all([ready(`${address}/empty`), ...STANDINS.map((one) => ready(`${one.address}/ready`))]);
}
/** Runs a part of the preparation; what is there stays as it is where it fails. */
async function prepare(...more) {
	const env = {
		ORIGIN: address,
		JUSTPURSE_DATA: join(folder, 'purse'),
		DEMO_REMEMBERED: remembered,
		DEMO_SETTLEMENTS: settlements,
		...Object.fromEntries(STANDINS.map((one) => [`${one.env}_URL`, one.address]))
	};
	const code = await new Promise((done) => {
		const child = start('demo', ['--import', 'tsx', 'demo/main.ts', ...more], env, (line) => console.log(line));
		child.once('exit', done);
	});
	if (code !== 0) {
		console.error('The business could not be prepared; what is there stays as it is.');
		stop(1);
	}
	return code === 0;
}
/** Ends the application and the stand-ins, sets their clocks so many days back, and starts them again. */
async function startInThePast(days) {
	replacing = true;
	for (const child of children) child.kill('SIGTERM');
	await Promise.all(children.map((child) => child.exitCode ?? new Promise((done) => child.once('exit', done))));
	children.length = 0;
	const shift = String(pastMoment(days) - Date.now());
	writeFileSync(join(folder, 'purse', 'demo-clock'), shift);
	writeFileSync(join(folder, 'standins', 'clock'), shift);
	begins = 0;
	replacing = false;
	if (!stopping) await launchAll();
}
await launchAll();
// the business as it is after eighteen months: connected, with its six tills; once
if (!existsSync(prepared) && !isBare) {
	console.log('Preparing the made-up business …');
	if ((await prepare()) && !stopping) {
		// the notifications of the last five weeks, sent by the stand-ins as the clock passes each hour
		await startInThePast(35);
		if (!stopping && (await prepare('--weeks'))) writeFileSync(prepared, new Date().toISOString());
	}
}
console.log(`
  Just Purse     ${address}
                 ${signIn.mail}   ${signIn.password}

  The stand-ins' own consoles, each as ilse@wrenalder.example:
${STANDINS.filter((one) => one.password)
	.map((one) => `  ${one.name.padEnd(15)}${one.address}/console   ${one.password}`)
	.join('\n')}
  The shop       ${shop.address}   (its pages, to put page code on)
  Mail came to   ${STANDINS.find((one) => one.name === 'Mailbox').address}   (read it, and follow its links)
  Texts came to  ${STANDINS.find((one) => one.name === 'Texts').address}

  Ctrl C stops all of it; the data stays in ${folder}.
`);
