import { openWorld } from '../tests/world/index.ts';
import { Desk } from '../tests/world/desk.ts';
import { unflatten } from 'devalue';
const w = openWorld('http://127.0.0.1:5230','/tmp/demo/purse',{fernhall:'http://127.0.0.1:5240'});
const d = new Desk(w); await d.signIn();
const shape=(v:any,n=0):any=> v instanceof Map? 'Map': Array.isArray(v)?[v.length, n<6&&v.length?shape(v[0],n+1):'']: v&&typeof v==='object'? Object.fromEntries(Object.entries(v).map(([k,x])=>[k,n<5?shape(x,n+1):'…'])): typeof v==='string'?v.slice(0,40):v;
for (const p of process.argv.slice(2)) {
 const [path,q='']=p.split('?');
 const t=await (await d.get(`${path}/__data.json${q?'?'+q:''}`)).json() as any;
 const n=t.nodes.filter((x:any)=>x?.data).at(-1);
 console.log('=====',p, JSON.stringify(shape(unflatten(n.data))).slice(0,5000));
}
