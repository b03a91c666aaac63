import { Hono } from 'hono';
import { html } from 'hono/html';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { makeConsole, type Look } from '../shared/console.ts';
import { doors } from '../shared/doors.ts';
import { Engine, randomText, type Key, type Mode } from '../shared/engine.ts';
import { priceBy } from '../shared/price.ts';
import type { Manifest } from '../shared/manifest.ts';
import { serve, type RunningStandin, type StandinOptions } from '../shared/serve.ts';
import { control } from '../shared/wire.ts';
import { ACCOUNT, api, contentOf, PRICES, told, TOPICS } from './api.ts';
import { timeNow } from '../shared/clock.ts';

const SIGN_IN = { mail: 'ilse@wrenalder.example', password: 'amber-and-gull' };

/** `ostrel.open.` or `ostrel.seal.`, `try.` for trial keys, then 32 letters. */
const makeKey = (kind: string, mode: Mode, account: string): Key => ({
	key: `ostrel.${kind}.${mode === 'test' ? 'try.' : ''}${randomText(32, 'abcdefghijkmnpqrstuvwxyz')}`,
	kind,
	mode,
	account,
	made: new Date(timeNow()).toISOString()
});

const look: Look = {
	css: `body{margin:0;background:#111;color:#eee;font:15px/1.5 'Arial Narrow',Arial,sans-serif;padding:0 0 0 8vw}
	.top{font-size:64px;letter-spacing:.3em;padding:30px 0 0;color:#00c2a8;text-transform:lowercase}nav{position:fixed;right:0;top:0;bottom:0;width:150px;background:#00c2a8;padding-top:40px}nav a{display:block;color:#111;padding:9px 16px;text-decoration:none;font-weight:bold}main{margin-right:190px;padding-bottom:60px}
	h1{font-size:20px;font-weight:normal;color:#00c2a8}h2{font-size:16px}h3{font-size:13px;color:#999}table{border-collapse:collapse;width:100%}td,th{border-top:1px solid #333;padding:6px 8px 6px 0;text-align:left;vertical-align:top}code{font:12px monospace;color:#9ff;word-break:break-all}
	button{font:inherit;background:none;border:1px solid #00c2a8;color:#00c2a8;padding:3px 14px;cursor:pointer}button.plain{border-color:#555;color:#ccc}form{display:inline}form.tall{display:block}input{font:inherit;background:#222;border:0;color:#fff;padding:4px 8px}a{color:#00c2a8}.door form{display:block;margin:20vh 0}`,
	shell: ({ title, body, links }) =>
		html`<div class="top">ostrel</div>
			<nav>${links.map((one) => html`<a href="${one.href}">${one.name}</a>`)}</nav>
			<main>
				<h1>${title}</h1>
				${body}
			</main>`,
	words: {
		keys: 'keys',
		payments: 'demands',
		hooks: 'rings',
		cards: '',
		prices: 'price',
		faults: 'glitches',
		signIn: 'enter'
	}
};

/** Ostrel: two keys; payment by a bank's app, by code on a screen or app switch on a phone; EUR only. */
export async function startOstrel({ port, folder, haste = 1 }: StandinOptions): Promise<RunningStandin> {
	let address = '';
	// what was rung, so that a call back after a restart is still answered
	const file = join(folder, 'ostrel.rings');
	const rings = new Map<string, object>();
	const engine: Engine = new Engine(
		{
			name: 'Ostrel',
			prefix: 'os',
			accounts: [
				{
					id: ACCOUNT,
					name: 'Wren & Alder Strings',
					country: 'BE',
					settles: 'EUR',
					zone: 'Europe/Brussels',
					off: [],
					waiting: [],
					switches: { 'payer return': true }
				}
			],
			seed: (account, mode) => ['open', 'seal'].map((kind) => makeKey(kind, mode, account.id)),
			price: (payment, account, faults) =>
				priceBy(payment, 'EUR', account.zone, 0, {
					label: 'demand',
					share: faults.wrongFee ? '0.95' : PRICES.percent,
					plus: PRICES.each,
					back: 'nothing'
				}),
			givenBack: () => 0,
			topics: TOPICS,
			body: (event) => {
				rings.set(event.id, contentOf(event, address));
				if (rings.size > 2000) rings.delete(rings.keys().next().value!);
				writeFileSync(file, JSON.stringify([...rings]));
				return told(event);
			},
			headers: () => ({ 'user-agent': 'Ostrel ringing' }),
			settleAfter: () => 1,
			payOutAfter: () => 1,
			patience: 900
		},
		join(folder, 'ostrel.journal'),
		haste
	);
	if (existsSync(file))
		for (const [id, ring] of JSON.parse(readFileSync(file, 'utf8')) as [string, object][]) rings.set(id, ring);
	const app = new Hono();
	app.get('/', (c) => c.redirect('/console'));
	app.get('/ready', (c) => c.json({ standin: 'ostrel' }));
	app.route('/o/v1', api(engine, () => address, rings) as unknown as Hono);
	app.route(
		'/door',
		doors(engine, () => ({
			css: `body{margin:0;background:#111;color:#eee;font:17px/1.5 Arial,sans-serif}main{max-width:360px;margin:0 auto;padding:40px 24px}h1{color:#00c2a8;letter-spacing:.3em;font-size:26px;text-transform:lowercase}.sum{font-size:44px;margin:0}button{display:block;width:100%;font:inherit;padding:14px;margin-top:12px;background:#00c2a8;border:0;color:#111}button.no{background:none;color:#aaa}`,
			says: () => html`<p>Your bank’s app asks: pay this now?</p>`,
			approve: 'Confirm with my fingerprint',
			refuse: 'Decline'
		}))
	);
	const { app: desk } = makeConsole({
		engine,
		look,
		signIn: SIGN_IN,
		keyKinds: { open: 'Open key', seal: 'Sealed key' },
		makeKey,
		hooksByHand: { topics: Object.values(TOPICS).filter((one) => one !== TOPICS.hello), secret: () => '' },
		prices: () =>
			html`<p>${PRICES.percent} % and ${PRICES.each} EUR for each demand that is paid. Repaid within 30 days.</p>`,
		pages: [
			{
				path: 'return',
				name: 'payer return',
				show: () =>
					html`<p>
							Payers are ${engine.account(ACCOUNT).switches['payer return'] === false ? 'not ' : ''}sent back to the shop.
							<form method="post" action="/console/return/turn"><button>turn it</button></form>
						</p>`,
				acts: {
					turn: () => {
						engine.change(ACCOUNT, {
							switches: { 'payer return': engine.account(ACCOUNT).switches['payer return'] === false }
						});
					}
				}
			}
		]
	});
	app.route('/console', desk);
	app.route('/control', control(engine));
	const running = await serve('Ostrel', app, port, () => engine.stop());
	address = running.address;
	return running;
}

export const manifest: Manifest = {
	name: 'ostrel',
	port: 5245,
	start: startOstrel,
	account: ACCOUNT,
	signIn: SIGN_IN,
	trial: {
		unknown: (given) => ({ ...given, seal: `ostrel.seal.${'q'.repeat(32)}` }),
		amounts: { 'bank-app': [{ minor: 3150, currency: 'EUR' }] }
	},
	keys: { open: 'open', seal: 'seal' },
	tickedByHand: ['paid', 'declined', 'expired', 'repaid', 'booked', 'forwarded'],
	remembers: true
};
