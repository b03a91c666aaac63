import { Hono } from 'hono';
import { html } from 'hono/html';
import { join } from 'node:path';
import { Webhook } from 'standardwebhooks';
import { makeConsole, type Look } from '../shared/console.ts';
import { afterBusinessDays, dayIn } from '../shared/days.ts';
import { doors } from '../shared/doors.ts';
import { Engine, randomText, type Application, type Key, type Mode } from '../shared/engine.ts';
import { backInProportion, priceBy } from '../shared/price.ts';
import type { Manifest } from '../shared/manifest.ts';
import { serve, type RunningStandin, type StandinOptions } from '../shared/serve.ts';
import { decimal } from '../shared/sums.ts';
import { control } from '../shared/wire.ts';
import { ACCOUNT, api, codeOf, TIERS, told, TOPICS, type Tier } from './api.ts';
import { timeNow } from '../shared/clock.ts';

const SIGN_IN = { mail: 'ilse@wrenalder.example', password: 'noon-and-shadow' };

/** A token of a shop: `SDT`, 27 letters and digits, and one that checks them. */
export const tokenCheck = (body: string): string =>
	'ABCDEFGHJKLMNPQRSTUVWXYZ23456789'[[...body].reduce((sum, sign) => (sum * 7 + sign.charCodeAt(0)) % 32, 5)]!;
const makeKey = (kind: string, mode: Mode, account: string): Key => {
	const body = randomText(27);
	return {
		key: kind === 'number' ? `${account}${mode === 'test' ? '-T' : ''}` : `SDT${body}${tokenCheck(body)}`,
		kind,
		mode,
		account,
		made: new Date(timeNow()).toISOString()
	};
};

const look: Look = {
	css: `body{margin:0;background:#fffbe8;color:#403200;font:15px/1.5 'Gill Sans','Segoe UI',sans-serif}
	header{display:flex;justify-content:space-between;align-items:end;border-top:14px solid #ffc400;padding:16px 40px 8px}header b{font-size:24px}nav{background:#403200;padding:0 40px}nav a{display:inline-block;color:#ffe9a3;padding:9px 18px 9px 0;text-decoration:none}
	main{padding:16px 40px 60px;display:block}h1{font-weight:300;font-size:28px;margin:.3em 0}h2{font-size:18px;font-weight:600}table{border-spacing:0 4px;width:100%}td,th{background:#fff;padding:6px 10px;text-align:left;vertical-align:top}th{background:none;font-weight:300}
	code{font:13px monospace;background:#fff2b8;padding:1px 5px;word-break:break-all}button{font:inherit;background:#ffc400;border:0;border-bottom:3px solid #c79700;padding:3px 16px;cursor:pointer}button.plain{background:#fff;border-bottom-color:#ddd}form{display:inline}form.tall{display:block}input{font:inherit;border:0;border-bottom:2px solid #c79700;background:#fff;padding:3px 6px}
	.door{display:grid;place-items:center;height:100vh}.door form{border-top:14px solid #ffc400;background:#fff;padding:20px 50px}`,
	shell: ({ title, body, links }) =>
		html`<header><b>☀ Sundial Split</b><span>four parts, one basket</span></header>
			<nav>${links.map((one) => html`<a href="${one.href}">${one.name}</a>`)}</nav>
			<main>
				<h1>${title}</h1>
				${body}
			</main>`,
	words: {
		keys: 'Shop number & tokens',
		payments: 'Plans',
		hooks: 'The bell',
		cards: '',
		prices: 'Tiers',
		faults: 'Cloudy days',
		signIn: 'Open the shop'
	}
};

/** Sundial Split: pay later in four parts, after an application that is reviewed; number and token; two tiers. */
export async function startSundial({ port, folder, haste = 1 }: StandinOptions): Promise<RunningStandin> {
	let address = '';
	const engine: Engine = new Engine(
		{
			name: 'Sundial Split',
			prefix: 'SUN',
			accounts: [
				{
					id: ACCOUNT,
					name: 'Wren & Alder Strings',
					country: 'BE',
					settles: 'EUR',
					zone: 'Europe/Brussels',
					off: [],
					waiting: ['pay later'],
					switches: { 'data transfer': true }
				}
			],
			seed: (account, mode) => ['number', 'token'].map((kind) => makeKey(kind, mode, account.id)),
			price: (payment, account, faults) => {
				const tier = TIERS[(payment.tier as Tier) ?? 'FOUR'];
				return priceBy(payment, 'EUR', account.zone, 0, {
					label: payment.tier ?? 'FOUR',
					share: faults.wrongFee ? '5.90' : tier.pct,
					plus: tier.fixed,
					back: 'share'
				});
			},
			givenBack: backInProportion,
			topics: TOPICS,
			body: (event) => told(event, address),
			headers: ({ secret }, { id, body }, at) => ({
				'webhook-id': id,
				'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
				'webhook-signature': secret.startsWith('whsec_') ? new Webhook(secret).sign(id, at, body) : `v1,${secret}`
			}),
			settleAfter: () => 1,
			payOutAfter: () => 2,
			patience: 3600
		},
		join(folder, 'sundial.journal'),
		haste
	);
	const { state } = engine;
	const turn = (number: string, to: Application['state'], papers: string[] = []) => {
		const one = state.get('applications', number);
		if (!one) return;
		state.put('applications', number, { ...one, state: to, papers });
		engine.change(ACCOUNT, { waiting: to === 'open' ? [] : ['pay later'] });
	};
	const app = new Hono();
	app.get('/', (c) => c.redirect('/console'));
	app.get('/ready', (c) => c.json({ standin: 'sundial' }));
	app.route('/sun/v4', api(engine, () => address) as unknown as Hono);
	app.route(
		'/door',
		doors(engine, (payment) => ({
			css: `body{font:16px/1.5 'Gill Sans','Segoe UI',sans-serif;background:#fffbe8;color:#403200;margin:0}main{max-width:420px;margin:6vh auto;background:#fff;border-top:14px solid #ffc400;padding:18px 30px 30px}h1{font-weight:300;font-size:20px}.sum{font-size:34px;margin:0}button{font:inherit;background:#ffc400;border:0;border-bottom:3px solid #c79700;padding:10px 24px;margin:10px 8px 0 0}button.no{background:#fff;border-bottom-color:#ddd}`,
			says: () => {
				const part = Math.floor(payment.minor / 4);
				const today = dayIn('Europe/Brussels');
				return html`<p>Four parts:</p>
					<ol>
						${[0, 1, 2, 3].map(
							(month) =>
								html`<li>
									${decimal(month === 0 ? payment.minor - part * 3 : part, 'EUR')} EUR,
									${month === 0 ? 'today' : `in ${month} month${month > 1 ? 's' : ''}`}
								</li>`
						)}
					</ol>
					<p><small>Agreed on ${today}.</small></p>`;
			},
			approve: 'Agree to four parts',
			refuse: 'Rather not'
		}))
	);
	const { app: desk } = makeConsole({
		engine,
		look,
		signIn: SIGN_IN,
		keyKinds: { number: 'Shop number', token: 'Token' },
		makeKey,
		prices: () =>
			html`<table>
				${Object.entries(TIERS).map(
					([id, one]) =>
						html`<tr>
							<td>${id}</td>
							<td>${one.title}</td>
							<td>${one.pct} % + ${one.fixed}</td>
							<td>${decimal(one.lowest, 'EUR')} to ${decimal(one.highest, 'EUR')} EUR</td>
						</tr>`
				)}
			</table>`,
		pages: [
			{
				path: 'application',
				name: 'Application',
				show: () =>
					html`${state.all('applications').map(
							(one) =>
								html`<h2>Application <code>${one.number}</code></h2>
									<p>
										${one.mail}, ${one.state}${one.papers.length ? html`: we need ${one.papers.join(' and ')}` : ''}
									</p>
									${(['in review', 'papers wanted', 'open', 'refused'] as const).map(
										(to) =>
											html`<form method="post" action="/console/application/turn">
												<input type="hidden" name="number" value="${one.number}" /><button
													name="to"
													value="${to}"
													class="plain"
												>
													${{ 'in review': 'Review', 'papers wanted': 'Ask for papers', open: 'Open the shop', refused: 'Refuse' }[to]}
												</button>
											</form> `
									)}`
						)}
						<h2>Apply</h2>
						<form method="post" action="/console/application/apply" class="tall">
							<p>
								<label>Mail <input name="mail" value="${SIGN_IN.mail}" /></label> <button>Send the application</button>
							</p>
						</form>
						<h2>Code for your pages</h2>
						<p><code>${codeOf(ACCOUNT)}</code></p>`,
				acts: {
					apply: ({ mail = '' }) => {
						const number = `SA-${randomText(6)}`;
						state.put('applications', number, {
							number,
							mail: mail.trim().toLowerCase(),
							state: 'received',
							papers: [],
							at: new Date(timeNow()).toISOString()
						});
					},
					turn: ({ number = '', to }) =>
						turn(
							number,
							to as Application['state'],
							to === 'papers wanted' ? ['an extract of the trade register', 'a bill that shows your address'] : []
						)
				}
			},
			{
				path: 'switches',
				name: 'Switches',
				show: () =>
					html`<p>
							Data transfer: ${engine.account(ACCOUNT).switches['data transfer'] === false ? 'off' : 'on'}
							<form method="post" action="/console/switches/turn"><button>Turn it</button></form>
						</p>`,
				acts: {
					turn: () => {
						const { switches } = engine.account(ACCOUNT);
						engine.change(ACCOUNT, { switches: { ...switches, 'data transfer': switches['data transfer'] === false } });
					}
				}
			}
		]
	});
	app.route('/console', desk);
	const levers = control(engine);
	levers.post('/application', async (c) => {
		const { number, to, mail, papers } = await c.req.json<{
			number: string;
			to: Application['state'];
			mail?: string;
			papers?: string[];
		}>();
		if (!state.get('applications', number))
			state.put('applications', number, {
				number,
				mail: mail ?? '',
				state: to,
				papers: [],
				at: new Date(timeNow()).toISOString()
			});
		turn(number, to, papers);
		return c.json(state.get('applications', number)!);
	});
	app.route('/control', levers);
	// a review takes two business days
	const reviews = setInterval(() => {
		for (const one of state.all('applications'))
			if (one.state === 'received' && afterBusinessDays(one.at.slice(0, 10), 1) <= dayIn('Europe/Brussels'))
				turn(one.number, 'in review');
	}, 60_000);
	const running = await serve('Sundial', app, port, () => {
		clearInterval(reviews);
		engine.stop();
	});
	address = running.address;
	return running;
}

export const manifest: Manifest = {
	name: 'sundial',
	port: 5244,
	start: startSundial,
	account: ACCOUNT,
	signIn: SIGN_IN,
	trial: {
		unknown: (given) => ({ ...given, token: `SDT${'Q'.repeat(27)}${tokenCheck('Q'.repeat(27))}` }),
		amounts: { 'pay-later': [{ minor: 14_800, currency: 'EUR' }] }
	},
	keys: { number: 'number', token: 'token' },
	choices: { tier: 'FOUR' },
	beforeConnecting: { waiting: [] },
	remembers: true
};
