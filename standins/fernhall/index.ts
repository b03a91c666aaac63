import { Hono } from 'hono';
import { html } from 'hono/html';
import { join } from 'node:path';
import { Webhook } from 'standardwebhooks';
import { cardFields } from '../shared/cardFields.ts';
import { timeNow } from '../shared/clock.ts';
import { keptPage, makeConsole, type Look } from '../shared/console.ts';
import { Engine, randomText, type Key, type Mode } from '../shared/engine.ts';
import type { Manifest } from '../shared/manifest.ts';
import { backInProportion } from '../shared/price.ts';
import { serve, type RunningStandin, type StandinOptions } from '../shared/serve.ts';
import { control } from '../shared/wire.ts';
import { ACCOUNT, api, checkSign, told, TOPICS } from './api.ts';
import { priceOf, PRICES, pricesOf } from './prices.ts';

const SIGN_IN = { mail: 'ilse@wrenalder.example', password: 'ferns-and-hall' };
const SCHEMES = ['corvid', 'mainsail', 'tessel', 'gildern'];

/** `FHP-L-` for a live public key, `FHS-T-` for a secret test key; then 28 signs of which the last is a check sign. */
const makeKey = (kind: string, mode: Mode, account: string): Key => {
	const body = randomText(27);
	return {
		key: `FH${kind === 'public' ? 'P' : 'S'}-${mode === 'live' ? 'L' : 'T'}-${body}${checkSign(body)}`,
		kind,
		mode,
		account,
		made: new Date(timeNow()).toISOString()
	};
};

const look: Look = {
	css: `body{margin:0;font:14px/1.5 Georgia,'Times New Roman',serif;background:#eaf0ec;color:#15291f}
	header{background:#fff;border-bottom:4px solid #1d5c43;padding:14px 32px;display:flex;gap:28px;align-items:baseline}header b{font-size:22px;color:#1d5c43;letter-spacing:.04em}nav a{color:#1d5c43;margin-right:18px}
	main{max-width:1040px;margin:24px auto;background:#fff;padding:20px 32px 40px;border:1px solid #c4d4ca}table{border-collapse:collapse;width:100%}td,th{border:1px solid #c4d4ca;padding:5px 9px;text-align:left;font-size:13px}th{background:#eaf0ec}
	code{font:13px ui-monospace,monospace;background:#eef4f0;padding:1px 4px;word-break:break-all}button{font:inherit;background:#1d5c43;color:#fff;border:0;padding:4px 12px;cursor:pointer}button.plain{background:#fff;color:#1d5c43;border:1px solid #1d5c43}
	form{display:inline}form.tall{display:block}input{font:inherit;padding:3px 6px;border:1px solid #7f9a8b}
	.door{background:#1d5c43;display:grid;place-items:center;height:100vh}.door form{background:#fff;padding:32px;width:320px}`,
	shell: ({ title, body, links }) =>
		html`<header>
				<b>FERNHALL</b>
				<nav>${links.map((one) => html`<a href="${one.href}">${one.name}</a>`)}</nav>
			</header>
			<main>
				<h1>${title}</h1>
				${body}
			</main>`,
	words: {
		keys: 'Account and keys',
		payments: 'Payments',
		hooks: 'Listener',
		cards: 'Test cards',
		prices: 'Prices',
		faults: 'Faults',
		signIn: 'Sign in'
	}
};

/** Fernhall: two keys; cards of every scheme and Tapfold, a wallet on the device; notifications by Standard Webhooks. */
export async function startFernhall({ port, folder, haste = 1, hosts }: StandinOptions): Promise<RunningStandin> {
	const engine: Engine = new Engine(
		{
			name: 'Fernhall',
			prefix: 'FH',
			accounts: [
				{
					id: ACCOUNT,
					name: 'Wren & Alder Strings',
					country: 'BE',
					settles: 'EUR',
					zone: 'Europe/Brussels',
					off: [],
					waiting: [],
					switches: {}
				}
			],
			seed: (account, mode) => ['public', 'secret'].map((kind) => makeKey(kind, mode, account.id)),
			price: (payment, account, faults) => priceOf(payment, account, faults.wrongFee),
			givenBack: backInProportion,
			topics: TOPICS,
			body: (event) => told(event),
			headers: ({ secret }, { id, body }, at) => ({
				'webhook-id': id,
				'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
				'webhook-signature': new Webhook(secret).sign(id, at, body)
			}),
			settleAfter: () => 1,
			payOutAfter: () => 2
		},
		join(folder, 'fernhall.journal'),
		haste
	);
	const app = new Hono();
	app.get('/', (c) => c.redirect('/console'));
	app.get('/ready', (c) => c.json({ standin: 'fernhall' }));
	app.route('/v1', api(engine, hosts) as unknown as Hono);
	const keyOf = (given: string) => {
		const key = engine.state.get('keys', given);
		return key?.kind === 'public' && !key.revoked ? key : undefined;
	};
	app.route(
		'/fields',
		cardFields({
			name: 'Fernhall',
			schemes: SCHEMES,
			opens: (key) => !!keyOf(key),
			isDown: () => engine.faults.down,
			keep: (key, card, outcome, by) => {
				const token = `FHK-${randomText(24)}`;
				const { account, mode } = keyOf(key)!;
				engine.state.put('tokens', token, { token, account, mode, card, outcome, used: false, by });
				return token;
			},
			wallet: { name: 'Tapfold', number: '9901200000000007' }
		})
	);
	const { app: desk } = makeConsole({
		engine,
		look,
		signIn: SIGN_IN,
		keyKinds: { public: 'Public key', secret: 'Secret key' },
		makeKey,
		testCards: SCHEMES,
		prices: () =>
			html`<p>In ${PRICES.money}, rounded ${PRICES.rounded}. Another currency: ${PRICES.exchange} % more.</p>
				<table>
					<tr>
						<th>Band</th>
						<th>Share</th>
						<th>Plus</th>
					</tr>
					${pricesOf(engine.account(ACCOUNT)).bands.map(
						(one) =>
							html`<tr>
								<td>${one.band}</td>
								<td>${one.share} %</td>
								<td>${one.plus}</td>
							</tr>`
					)}
				</table>
				<p>Given back: the share is returned, the rest is kept.</p>`,
		pages: [
			keptPage(engine, 'Kept cards'),
			{
				path: 'agreement',
				name: 'Agreement',
				show: () =>
					html`<form method="post" action="/console/agreement/agree" class="tall">
						<label>New share at home, private cards <input name="home" size="6" placeholder="1.45" /> %</label>
						<label>from <input name="since" type="date" /></label>
						<button>Agree to it</button>
					</form>`,
				acts: {
					agree: ({ home = '', since = '' }, account) => {
						if (/^\d{1,2}\.\d{2}$/.test(home) && /^\d{4}-\d{2}-\d{2}$/.test(since))
							engine.change(account, { terms: { home, since } });
					}
				}
			},
			{
				path: 'ways',
				name: 'Ways to pay',
				show: (_c, account) => {
					const { off, domains = {} } = engine.account(account);
					return html`${(['cards', 'tapfold'] as const).map(
							(way) =>
								html`<form method="post" action="/console/ways/turn" class="tall">
									${way === 'cards' ? 'Cards' : 'Tapfold, the device wallet'}: ${off.includes(way) ? 'off' : 'on'}
									<button name="way" value="${way}" class="plain">
										${off.includes(way) ? 'Switch on' : 'Switch off'}
									</button>
								</form>`
						)}
						<h2>Domains for Tapfold</h2>
						${Object.entries(domains).map(
							([domain, one]) => html`<p><code>${domain}</code> ${one.state}${one.says ? `: ${one.says}` : ''}</p>`
						)}`;
				},
				acts: {
					turn: ({ way = '' }, account) => {
						const { off } = engine.account(account);
						if (['cards', 'tapfold'].includes(way))
							engine.change(account, {
								off: off.includes(way) ? off.filter((one) => one !== way) : [...off, way]
							});
					}
				}
			}
		]
	});
	app.route('/console', desk);
	app.route('/control', control(engine));
	return serve('Fernhall', app, port, () => engine.stop());
}

export const manifest: Manifest = {
	name: 'fernhall',
	port: 5240,
	start: startFernhall,
	account: ACCOUNT,
	signIn: SIGN_IN,
	trial: {
		unknown: (given) => ({ ...given, secretKey: `FHS-L-${'Q'.repeat(27)}${checkSign('Q'.repeat(27))}` }),
		amounts: {
			card: [
				{ minor: 8450, currency: 'EUR' },
				{ minor: 12_800, currency: 'JPY' }
			],
			'device-wallet': [{ minor: 2100, currency: 'EUR' }]
		},
		fields: (given) => given.publicKey!
	},
	keys: { publicKey: 'public', secretKey: 'secret' },
	remembers: true
};
