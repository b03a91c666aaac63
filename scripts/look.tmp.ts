import { writeFileSync } from 'node:fs';
import { Browser } from '/work/main/tests/world/browser.ts';
const b = await Browser.open();
const base='http://127.0.0.1:5230';
await b.go(base+'/');
await b.fill('Mail address','ilse@wrenalder.example');
await b.fill('Password','rosin-and-varnish');
await b.press('Sign in');
await b.sees('Needs you','h1');
for (const [name,path] of process.argv.slice(2).map(a=>a.split('=') as [string,string])) {
  const t=Date.now();
  await b.go(base+path);
  await new Promise(r=>setTimeout(r,900));
  writeFileSync(`/tmp/look/${name}.png`, await b.picture());
  console.log(name, Date.now()-t, await b.complaints());
}
await b.close();
