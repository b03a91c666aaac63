import { writeFileSync } from 'node:fs';
import { Browser } from '../tests/world/browser.ts';
// usage: tsx scripts/look.tmp.ts [--w 1280] [--h 800] [--dark] [--full] path=name …   ; "path#css" presses css first
const args = process.argv.slice(2);
const opt = (n: string) => { const i = args.indexOf(`--${n}`); return i < 0 ? undefined : args.splice(i, 2)[1]; };
const flag = (n: string) => { const i = args.indexOf(`--${n}`); if (i < 0) return false; args.splice(i, 1); return true; };
const width = Number(opt('w') ?? 1280), height = Number(opt('h') ?? 800); const dark = flag('dark');
const full = flag('full');
const browser = await Browser.open({ width, height });
const base = 'http://127.0.0.1:5230';
try {
	await browser.go(`${base}/sign-in`);
	await browser.driver.executeScript(`
		document.querySelector('[name=mail]').value='ilse@wrenalder.example';
		document.querySelector('[name=password]').value='rosin-and-varnish';
		document.querySelector('main form, form').requestSubmit();`);
	await new Promise((r) => setTimeout(r, 2500));
	for (const one of args) {
		const [where, name] = one.split('=>');
		const [path, css] = where!.split('@@');
		await browser.go(path!.startsWith('http') ? path! : base + path);
		await new Promise((r) => setTimeout(r, 1200));
		if (dark) await browser.driver.executeScript(`document.documentElement.dataset.theme='dark'`);
		if (css) { for (const c of css.split('||')) { await browser.driver.executeScript(`document.querySelector(${JSON.stringify(c)}).click()`); await new Promise((r) => setTimeout(r, 900)); } }
		if (full) { const h = await browser.driver.executeScript<number>(`return Math.max(...[...document.querySelectorAll('*')].map(e=>e.scrollHeight))`); await browser.driver.manage().window().setRect({ width, height: Math.min(4000, h + 60) }); await new Promise((r) => setTimeout(r, 500)); }
		writeFileSync(`/tmp/look/${name}.png`, await browser.picture());
		console.log(name, await browser.driver.getCurrentUrl());
	}
} finally { await browser.close(); }
