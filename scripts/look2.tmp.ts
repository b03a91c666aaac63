import { openWorld } from '../tests/world/index.ts';
import { Desk } from '../tests/world/desk.ts';
import { unflatten } from 'devalue';
const w = openWorld('http://127.0.0.1:5230','/tmp/demo/purse',{fernhall:'http://127.0.0.1:5240'});
const d = new Desk(w); await d.signIn();
for (const p of process.argv.slice(2)) {
 const [path,q='']=p.split('?');
 const t=await (await d.get(`${path}/__data.json${q?'?'+q:''}`)).json() as any;
 console.log('=====',p);
 for (const n of t.nodes) if (n?.data) console.log(JSON.stringify(unflatten(n.data)).slice(0,2500));
}
