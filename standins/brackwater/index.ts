import { createHmac } from 'node:crypto';
import { Hono } from 'hono';
import { html } from 'hono/html';
import { join } from 'node:path';
import { cardFields } from '../shared/cardFields.ts';
import { keptPage, makeConsole, type Look } from '../shared/console.ts';
import { dayIn, weekday } from '../shared/days.ts';
import { doors } from '../shared/doors.ts';
import { Engine, randomText, type Key, type Mode } from '../shared/engine.ts';
import type { Manifest } from '../shared/manifest.ts';
import { serve, type RunningStandin, type StandinOptions } from '../shared/serve.ts';
import { control } from '../shared/wire.ts';
import { api, told, TOPICS } from './api.ts';
import { price, TARIFF } from './prices.ts';
import { timeNow } from '../shared/clock.ts';

const SIGN_IN = { mail: 'ilse@wrenalder.example', password: 'tide-and-sluice' };
const SCHEMES = ['corvid', 'mainsail', 'tessel'];

/** A merchant number: 73 for real, 99 for trial payments; its last digit checks the nine before it. */
export const checkDigit = (nine: string): string =>
	String(([...nine].reduce((sum, digit, at) => sum + Number(digit) * (at + 2), 0) % 11) % 10);
const merchantNumber = (mode: Mode) => {
	const nine = (mode === 'live' ? '73' : '99') + randomText(7, '0123456789');
	return nine + checkDigit(nine);
};
const makeKey = (kind: string, mode: Mode, account: string): Key => ({
	key: kind === 'number' ? merchantNumber(mode) : randomText(32, '0123456789abcdef').replace(/(.{8})(?=.)/g, '$1-'),
	kind,
	mode,
	account,
	made: new Date(timeNow()).toISOString()
});

const look: Look = {
	css: `body{margin:0;font:13px/1.45 Verdana,Geneva,sans-serif;background:#0f2436;color:#d9e6ef;display:grid;grid-template-columns:190px 1fr;min-height:100vh}
	aside{background:#0a1927;padding:18px 0}aside b{display:block;padding:0 18px 14px;font-size:17px;color:#7fd0e8}aside a{display:block;padding:8px 18px;color:#a9c4d6;text-decoration:none;border-left:4px solid transparent}aside a:hover{border-color:#e2a63d;color:#fff}
	main{padding:22px 30px}h1{font-size:19px;color:#fff;border-bottom:1px dotted #41637c;padding-bottom:8px}h2{font-size:14px;color:#e2a63d}h3{font-size:12px;color:#7fd0e8;text-transform:uppercase}
	table{border-collapse:collapse;width:100%}td,th{border-bottom:1px solid #24435a;padding:5px 8px;text-align:left;vertical-align:top}th{color:#7fd0e8;font-weight:normal}
	code{font:12px monospace;color:#ffe2a8;word-break:break-all}button{font:inherit;background:#e2a63d;color:#1a1204;border:0;border-radius:12px;padding:3px 12px;cursor:pointer}button.plain{background:#24435a;color:#d9e6ef}
	form{display:inline}form.tall{display:block}input{background:#17324a;color:#fff;border:1px solid #41637c;padding:3px 6px;font:inherit}a{color:#7fd0e8}.door{display:grid;place-items:center;grid-template-columns:1fr}.door form{background:#0a1927;padding:30px 40px}`,
	shell: ({ title, body, links }) =>
		html`<aside><b>≋ Brackwater Acquiring</b>${links.map((one) => html`<a href="${one.href}">${one.name}</a>`)}</aside>
			<main>
				<h1>${title}</h1>
				${body}
			</main>`,
	words: {
		keys: 'Terminal access',
		payments: 'Transactions',
		hooks: 'Callbacks',
		cards: 'Trial cards',
		prices: 'Tariff sheet',
		faults: 'Storm drill',
		signIn: 'Log on'
	}
};

/** Brackwater Acquiring: merchant number and token; cards and bank redirect; interchange plus. */
export async function startBrackwater({ port, folder, haste = 1 }: StandinOptions): Promise<RunningStandin> {
	let address = '';
	const monthBefore = (account: string, mode: Mode, zone: string) => {
		const month = dayIn(zone).slice(0, 7);
		return engine.state
			.all('payments')
			.filter(
				(one) =>
					one.account === account &&
					one.mode === mode &&
					one.charged &&
					dayIn(zone, new Date(one.takenAt!)).startsWith(month)
			)
			.reduce((sum, one) => sum + one.charged!.base, 0);
	};
	const engine: Engine = new Engine(
		{
			name: 'Brackwater Acquiring',
			prefix: 'BW',
			accounts: [
				{
					id: 'BW-5518',
					name: 'Wren & Alder Strings',
					country: 'BE',
					settles: 'EUR',
					zone: 'Europe/Brussels',
					off: [],
					waiting: [],
					switches: {}
				}
			],
			seed: (account, mode) => ['number', 'token'].map((kind) => makeKey(kind, mode, account.id)),
			price: (payment, account, faults) =>
				price(payment, account, faults, monthBefore(account.id, payment.mode, account.zone)),
			givenBack: () => 0,
			topics: TOPICS,
			body: (event) => told(event, address),
			headers: ({ secret }, { body }) => ({
				'brackwater-digest': createHmac('sha256', secret).update(body).digest('hex')
			}),
			settleAfter: () => 1,
			payOutAfter: () => 1,
			payoutDay: (account, day) => account.rhythm !== 'WEEKLY' || weekday(day) === 5
		},
		join(folder, 'brackwater.journal'),
		haste
	);
	const app = new Hono();
	app.get('/', (c) => c.redirect('/console'));
	app.get('/ready', (c) => c.json({ standin: 'brackwater' }));
	app.route('/acq', api(engine, () => address) as unknown as Hono);
	const keyOf = (number: string) => {
		const key = engine.state.get('keys', number);
		return key?.kind === 'number' ? key : undefined;
	};
	app.route(
		'/fields',
		cardFields({
			name: 'Brackwater',
			schemes: SCHEMES,
			opens: (key) => !!keyOf(key),
			isDown: () => engine.faults.down,
			keep: (key, card, outcome) => {
				const token = `BWK${randomText(24)}`;
				const { account, mode } = keyOf(key)!;
				engine.state.put('tokens', token, { token, account, mode, card, outcome, used: false });
				return token;
			}
		})
	);
	app.route(
		'/door',
		doors(engine, () => ({
			css: `body{font:16px/1.5 Verdana,sans-serif;background:#0f2436;color:#d9e6ef;margin:0}main{max-width:420px;margin:8vh auto;padding:24px;background:#17324a}h1{font-size:16px;color:#7fd0e8}.sum{font-size:30px;margin:8px 0}button{font:inherit;padding:10px 18px;border:0;background:#e2a63d;margin-right:8px}button.no{background:#41637c;color:#fff}`,
			says: () => html`<p>You are at your bank, sent by Brackwater. Release this payment from your account?</p>`,
			approve: 'Release the payment',
			refuse: 'Do not pay'
		}))
	);
	const { app: desk } = makeConsole({
		engine,
		look,
		signIn: SIGN_IN,
		keyKinds: { number: 'Merchant number', token: 'Access token' },
		makeKey,
		testCards: SCHEMES,
		prices: () =>
			html`<p>Valid from ${TARIFF.FROM}. Monthly ${TARIFF.MONTH}, minimum of the markup ${TARIFF.MONTHMIN}.</p>
				<p>
					A refund ${TARIFF.REFUND.EACH}, a dispute ${TARIFF.DISPUTE.EACH}, a declined attempt ${TARIFF.DECLINED.EACH}.
				</p>
				<h2>Our markup, by the month’s volume</h2>
				<table>
					${TARIFF.MARKUP.map(
						(one) =>
							html`<tr>
								<td>${one.UPTO ? `up to ${one.UPTO}` : 'above'}</td>
								<td>${one.PCT} %</td>
								<td>${one.EACH}</td>
							</tr>`
					)}
				</table>
				<h2>Costs passed on</h2>
				<table>
					<tr>
						<th>Scheme</th>
						<th>Funding</th>
						<th>Issued</th>
						<th>Interchange</th>
						<th>Scheme fee</th>
					</tr>
					${TARIFF.COSTS.map(
						(row) =>
							html`<tr>
								${row.map((cell) => html`<td>${cell}</td>`)}
							</tr>`
					)}
				</table>`,
		pages: [
			keptPage(engine, 'CARD REFERENCES'),
			{
				path: 'services',
				name: 'Services',
				show: (_c, id) => {
					const account = engine.account(id);
					return html`${['card', 'bank redirect'].map(
						(method) =>
							html`<p>
								${method}: ${account.off.includes(method) ? 'off' : 'on'}
								<form method="post" action="/console/services/turn?account=${id}">
									<input type="hidden" name="method" value="${method}" /><button>Turn it</button>
								</form>
							</p>`
					)}`;
				},
				acts: {
					turn: ({ method = '' }, id) => {
						const { off } = engine.account(id);
						engine.change(id, { off: off.includes(method) ? off.filter((one) => one !== method) : [...off, method] });
					}
				}
			}
		]
	});
	app.route('/console', desk);
	app.route('/control', control(engine));
	const running = await serve('Brackwater', app, port, () => engine.stop());
	address = running.address;
	return running;
}

export const manifest: Manifest = {
	name: 'brackwater',
	port: 5241,
	start: startBrackwater,
	account: 'BW-5518',
	signIn: SIGN_IN,
	trial: {
		unknown: (given) => ({ ...given, token: Array(4).fill('0a1b2c3d').join('-') }),
		amounts: {
			card: [
				{ minor: 8450, currency: 'EUR' },
				{ minor: 4200, currency: 'GBP' }
			],
			'bank-redirect': [{ minor: 5600, currency: 'EUR' }]
		},
		fields: (given) => given.number!
	},
	keys: { number: 'number', token: 'token' },
	remembers: true
};
