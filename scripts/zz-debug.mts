import { Browser } from '../tests/world/browser.ts';
import { logging } from 'selenium-webdriver';
const b = await Browser.open();
await b.go('http://127.0.0.1:5230/');
await b.fill('Mail address', 'ilse@wrenalder.example');
await b.fill('Password', 'rosin-and-varnish');
await b.press('Sign in');
await new Promise((r) => setTimeout(r, 3000));
console.log(await b.path());
for (const e of await b.driver.manage().logs().get(logging.Type.BROWSER))
	console.log(e.level.name, e.message.slice(0, 300));
await b.close();
