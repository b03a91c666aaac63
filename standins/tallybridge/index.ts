import { Hono } from 'hono';
import { html } from 'hono/html';
import { join } from 'node:path';
import { cardFields } from '../shared/cardFields.ts';
import { consent } from '../shared/consent.ts';
import { makeConsole, type Look } from '../shared/console.ts';
import { weekday } from '../shared/days.ts';
import { doors } from '../shared/doors.ts';
import { Engine, randomText, type Account } from '../shared/engine.ts';
import { backInProportion, priceBy } from '../shared/price.ts';
import type { Manifest } from '../shared/manifest.ts';
import { serve, type RunningStandin, type StandinOptions } from '../shared/serve.ts';
import { control } from '../shared/wire.ts';
import { api, TERMS, told, TOPICS } from './api.ts';

const SIGN_IN = { mail: 'ilse@wrenalder.example', password: 'span-and-toll' };
const SCHEMES = ['corvid', 'mainsail', 'gildern'];

const look: Look = {
	css: `body{margin:0;font:15px/1.55 'Trebuchet MS',sans-serif;background:#fff;color:#2a2140}
	header{background:#5b2a86;color:#fff;padding:26px 6vw 60px}header h1{margin:0;font-size:26px}header small{opacity:.8}
	nav{margin:-34px 6vw 0;display:flex;gap:10px;flex-wrap:wrap}nav a{background:#fff;border:2px solid #5b2a86;border-radius:18px;color:#5b2a86;padding:6px 16px;text-decoration:none}
	main{padding:18px 6vw 60px;max-width:1100px}h2{color:#5b2a86;font-size:17px}section{border:1px solid #e2d8ee;border-radius:12px;padding:6px 18px;margin:14px 0}
	table{border-collapse:collapse;width:100%}td,th{padding:6px 10px 6px 0;text-align:left;border-bottom:2px dotted #e2d8ee;vertical-align:top}code{font:13px monospace;background:#f4eefb;padding:0 4px;word-break:break-all}
	button{font:inherit;border:0;border-radius:16px;background:#e4572e;color:#fff;padding:4px 16px;cursor:pointer}button.plain{background:#e2d8ee;color:#2a2140}form{display:inline}form.tall{display:block}input{font:inherit;border:2px solid #cbb9df;border-radius:8px;padding:3px 8px}
	.door{display:grid;place-items:center;min-height:90vh;background:#5b2a86}.door form{background:#fff;padding:30px 44px;border-radius:18px}`,
	shell: ({ title, body, links }) =>
		html`<header>
				<small>Tallybridge</small>
				<h1>${title}</h1>
			</header>
			<nav>${links.map((one) => html`<a href="${one.href}">${one.name}</a>`)}</nav>
			<main>${body}</main>`,
	words: {
		keys: 'Accounts & consents',
		payments: 'Collections',
		hooks: 'Listeners',
		cards: 'Play cards',
		prices: 'What it costs',
		faults: 'Make trouble',
		signIn: 'Come in'
	}
};

const account = (id: string, country: string, settles: string, zone: string, more: Partial<Account> = {}): Account => ({
	id,
	name: 'Wren & Alder Strings',
	country,
	settles,
	zone,
	off: [],
	waiting: [],
	switches: {},
	...more
});

/** Tallybridge: consent and return, several accounts behind it; account wallet and cards in every currency of the demo. */
export async function startTallybridge({ port, folder, haste = 1, partner }: StandinOptions): Promise<RunningStandin> {
	let address = '';
	const engine: Engine = new Engine(
		{
			name: 'Tallybridge',
			prefix: 'tb',
			accounts: [
				account('TB-EU-1', 'BE', 'EUR', 'Europe/Brussels'),
				account('TB-CH-3', 'BE', 'CHF', 'Europe/Zurich', { waiting: ['card'] }),
				account('TB-UK-7', 'GB', 'GBP', 'Europe/London', { off: ['card'] })
			],
			seed: () => [],
			price: (payment, owner, faults) => {
				const terms = payment.method === 'card' ? TERMS.card : TERMS.balance;
				return priceBy(payment, owner.settles, owner.zone, -0.0011, {
					label: payment.method === 'card' ? 'card' : 'balance',
					share: faults.wrongFee ? '3.90' : terms.share,
					plus: terms.plus,
					exchange: TERMS.exchange,
					back: 'share'
				});
			},
			givenBack: backInProportion,
			topics: TOPICS,
			body: (event) => told(event, address),
			headers: ({ secret }) => ({ 'tally-word': secret }),
			settleAfter: () => 2,
			payOutAfter: () => 3,
			payoutDay: (owner, day) =>
				owner.rhythm === 'monthly' ? day.endsWith('-01') : owner.rhythm !== 'weekly' || weekday(day) === 1
		},
		join(folder, 'tallybridge.journal'),
		haste
	);
	const app = new Hono();
	app.get('/', (c) => c.redirect('/console'));
	app.get('/ready', (c) => c.json({ standin: 'tallybridge' }));
	app.route('/api/2', api(engine, () => address) as unknown as Hono);
	const accountOf = (key: string) => {
		const [id, mode] = key.split('~');
		return engine.state.get('accounts', id ?? '')
			? { account: id!, mode: mode === 'test' ? ('test' as const) : ('live' as const) }
			: undefined;
	};
	app.route(
		'/fields',
		cardFields({
			name: 'Tallybridge',
			schemes: SCHEMES,
			opens: (key) => !!accountOf(key),
			isDown: () => engine.faults.down,
			keep: (key, card, outcome) => {
				const token = `tbk-${randomText(24)}`;
				engine.state.put('tokens', token, { token, ...accountOf(key)!, card, outcome, used: false });
				return token;
			}
		})
	);
	app.route(
		'/door',
		doors(engine, () => ({
			css: `body{font:17px/1.5 'Trebuchet MS',sans-serif;background:#5b2a86;margin:0}main{max-width:400px;margin:9vh auto;padding:26px 30px;background:#fff;border-radius:18px}h1{color:#5b2a86;font-size:18px}.sum{font-size:34px;margin:6px 0}button{font:inherit;border:0;border-radius:20px;background:#e4572e;color:#fff;padding:10px 22px;margin:4px 6px 0 0}button.no{background:#e2d8ee;color:#2a2140}`,
			says: () => html`<p>Your Tallybridge balance will be used.</p>`,
			approve: 'Pay from my balance',
			refuse: 'Go back without paying'
		}))
	);
	const {
		app: desk,
		signedIn,
		page
	} = makeConsole({
		engine,
		look,
		signIn: SIGN_IN,
		keyKinds: {},
		testCards: SCHEMES,
		consents: true,
		prices: (id) =>
			html`<section>
				<h2>${id}</h2>
				<p>
					From a balance ${TERMS.balance.share} % + ${TERMS.balance.plus}. By card ${TERMS.card.share} % +
					${TERMS.card.plus}. Another currency: ${TERMS.exchange} % more.
				</p>
			</section>`,
		pages: [
			{
				path: 'ways',
				name: 'Ways to collect',
				show: () =>
					html`${engine.state.all('accounts').map(
						(one) =>
							html`<section>
								<h2>${one.id}</h2>
								${['account wallet', 'card'].map(
									(way) =>
										html`<p>
											${way}:
											${one.waiting.includes(way) ? 'awaiting approval' : one.off.includes(way) ? 'switched off' : 'open'}
											${['open', 'off', 'waiting'].map(
												(to) =>
													html`<form method="post" action="/console/ways/turn?account=${one.id}">
														<input type="hidden" name="way" value="${way}" /><button
															name="to"
															value="${to}"
															class="plain"
														>
															${to}
														</button>
													</form> `
											)}
										</p>`
								)}
							</section>`
					)}`,
				acts: {
					turn: ({ way = '', to }, id) => {
						const { off, waiting } = engine.account(id);
						const without = (list: string[]) => list.filter((one) => one !== way);
						engine.change(id, {
							off: to === 'off' ? [...without(off), way] : without(off),
							waiting: to === 'waiting' ? [...without(waiting), way] : without(waiting)
						});
					}
				}
			}
		]
	});
	app.route('/console', desk);
	app.route(
		'/consent',
		consent({
			engine,
			client: { id: 'just-purse', name: 'Just Purse', returnTo: `${partner ?? ''}/connect/consent/tallybridge` },
			scopes: {
				account: 'See your accounts and what they can do',
				collect: 'Collect payments and send them back',
				notices: 'Set up notifications'
			},
			signedIn,
			signInPath: '/console/sign-in',
			page
		})
	);
	app.route('/control', control(engine));
	const running = await serve('Tallybridge', app, port, () => engine.stop());
	address = running.address;
	return running;
}

export const manifest: Manifest = {
	name: 'tallybridge',
	port: 5242,
	start: startTallybridge,
	account: 'TB-EU-1',
	signIn: SIGN_IN,
	trial: {
		unknown: (given) => ({ ...given, access: `at.${'Q'.repeat(27)}` }),
		amounts: {
			'account-wallet': [
				{ minor: 8450, currency: 'EUR' },
				{ minor: 12_800, currency: 'JPY' }
			],
			card: [{ minor: 4300, currency: 'EUR' }]
		},
		holds: 'card',
		fields: () => 'TB-EU-1~live'
	},
	choices: { account: 'TB-EU-1' },
	scopes: ['account', 'collect', 'notices'],
	remembers: true
};
