import { writeFileSync, mkdirSync } from 'node:fs';
import { Browser } from '/work/main/tests/world/browser.ts';
mkdirSync('/tmp/pics', { recursive: true });
const b = await Browser.open();
const base = 'http://127.0.0.1:5230';
await b.go(base + '/');
await b.fill('Mail address', 'ilse@wrenalder.example');
await b.fill('Password', 'rosin-and-varnish');
await b.press('Sign in');
await b.sees('Needs you', 'h1');
for (const arg of process.argv.slice(2)) {
	const [name, path, wait] = arg.split('=>');
	await b.go(base + path!);
	await new Promise((r) => setTimeout(r, Number(wait ?? 900)));
	writeFileSync(`/tmp/pics/${name}.png`, await b.picture());
}
await b.driver.quit();
