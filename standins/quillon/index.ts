import { createHmac } from 'node:crypto';
import { Hono } from 'hono';
import { electronicFormatIBAN, isValidIBAN } from 'ibantools';
import { html, raw } from 'hono/html';
import { join } from 'node:path';
import { consent } from '../shared/consent.ts';
import { keptPage, makeConsole, type Look } from '../shared/console.ts';
import { doors } from '../shared/doors.ts';
import { Engine, randomText, type Key, type Mode } from '../shared/engine.ts';
import { priceBy } from '../shared/price.ts';
import type { Manifest } from '../shared/manifest.ts';
import { serve, type RunningStandin, type StandinOptions } from '../shared/serve.ts';
import { decimal, minorOf } from '../shared/sums.ts';
import { control } from '../shared/wire.ts';
import { ACCOUNT, api, RATES, told, TOPICS } from './api.ts';
import { timeNow } from '../shared/clock.ts';

/** The banks of payers, as invented as the house. */
const BANKS = ['Scheldt Bank', 'Lys Savings', 'Meuse Credit'];
const SIGN_IN = { mail: 'ilse@wrenalder.example', password: 'goose-and-ink' };

/** A notice token: `qn`, the kind, and 26 letters. */
const makeKey = (kind: string, mode: Mode, account: string): Key => ({
	key: `qn${mode === 'live' ? 'r' : 't'}-${randomText(26).toLowerCase()}`,
	kind,
	mode,
	account,
	made: new Date(timeNow()).toISOString()
});

const look: Look = {
	css: `body{margin:0;background:#fdf6e3;color:#3b3a36;font:16px/1.6 'Courier New',monospace}
	body>pre{margin:0;padding:14px 5vw;background:#2f4858;color:#f6ae2d;font-size:15px}nav{padding:10px 5vw;border-bottom:2px solid #2f4858}nav a{margin-right:3ch;color:#2f4858}main{padding:4px 5vw 60px}
	h1{font-size:20px}h2{font-size:16px;background:#f6ae2d;display:inline-block;padding:0 1ch}h3{font-size:15px}table{border-collapse:collapse;width:100%}td,th{border:1px dashed #86bbd8;padding:4px 1ch;text-align:left;font-size:14px;vertical-align:top}
	code{background:#fff;padding:0 .5ch;word-break:break-all}button{font:inherit;background:#2f4858;color:#fdf6e3;border:0;padding:2px 2ch;cursor:pointer}button.plain{background:#fff;color:#2f4858;border:1px solid #2f4858}form{display:inline}form.tall{display:block}input{font:inherit;border:1px solid #2f4858;background:#fff}
	.door form{margin:14vh auto;width:40ch;border:2px solid #2f4858;padding:2ch;display:block}`,
	shell: ({ title, body, links }) =>
		html`<pre>~~~ Quillon Direct ~~~ money from bank to bank</pre>
			<nav>${links.map((one) => html`<a href="${one.href}">${one.name}</a>`)}</nav>
			<main>
				<h1>${title}</h1>
				${body}
			</main>`,
	words: {
		keys: 'Notice tokens',
		payments: 'Requests',
		hooks: 'Who is told',
		cards: '',
		prices: 'Prices',
		faults: 'Rehearse faults',
		signIn: 'Sign the book'
	}
};

/** Quillon Direct: consent, plus a token of its settings page; bank debit, and credit transfer matched by itself. */
export async function startQuillon({ port, folder, haste = 1, partner }: StandinOptions): Promise<RunningStandin> {
	let address = '';
	const noticeToken = (mode: Mode): string =>
		engine.state
			.all('keys')
			.filter((one) => one.mode === mode && !one.revoked)
			.at(-1)?.key ?? randomText(30);
	const engine: Engine = new Engine(
		{
			name: 'Quillon Direct',
			prefix: 'qd',
			accounts: [
				{
					id: ACCOUNT,
					name: 'Wren & Alder Strings',
					country: 'BE',
					settles: 'EUR',
					zone: 'Europe/Brussels',
					off: [],
					waiting: [],
					switches: { notifications: false, 'payer return': true }
				}
			],
			seed: (account, mode) => [makeKey('notice', mode, account.id)],
			price: (payment, account, faults) => {
				const terms = payment.method === 'bank debit' ? RATES.debit : RATES.transfer;
				return priceBy(payment, 'EUR', account.zone, 0.0002, {
					label: payment.method === 'bank debit' ? 'debit' : 'transfer',
					share: String((faults.wrongFee ? 2 : 1) * (Number(terms.permille) / 10)),
					plus: '0.00',
					floor: decimal(terms.never_less, 'EUR'),
					cap: decimal(terms.never_more, 'EUR'),
					exchange: '0.50',
					back: 'nothing'
				});
			},
			givenBack: () => 0,
			topics: TOPICS,
			body: (event) => told(event, address),
			headers: ({ mode }, { body }) => ({
				'quillon-seal': createHmac('sha256', engine.faults.forgedHooks ? 'not it' : noticeToken(mode))
					.update(body)
					.digest('hex')
			}),
			settleAfter: (payment) => (payment.method === 'bank debit' ? 3 : 1),
			payOutAfter: (payment) => (payment.method === 'bank debit' ? 5 : 1)
		},
		join(folder, 'quillon.journal'),
		haste
	);
	// nothing is told while the switch is off
	const tell = engine.tell.bind(engine);
	engine.tell = (account, mode, happening, content) => {
		if (engine.account(account).switches.notifications === true) tell(account, mode, happening, content);
	};
	const app = new Hono();
	app.get('/', (c) => c.redirect('/console'));
	app.get('/ready', (c) => c.json({ standin: 'quillon' }));
	app.route('/direct', api(engine, () => address) as unknown as Hono);
	app.route(
		'/door',
		doors(engine, () => ({
			css: `body{font:16px/1.6 'Courier New',monospace;background:#2f4858;margin:0}main{max-width:46ch;margin:7vh auto;padding:3ch;background:#fdf6e3}h1{font-size:17px}.sum{font-size:28px;background:#f6ae2d;display:inline-block;padding:0 1ch;margin:0}input{font:inherit;width:100%;box-sizing:border-box;padding:1ch}button{font:inherit;padding:1ch 2ch;margin-top:1ch;border:0;background:#2f4858;color:#fdf6e3}button.no{background:none;color:#2f4858;text-decoration:underline}`,
			says: (payment) =>
				html`<p>
					By signing you allow Quillon to collect
					${
						payment.keeps
							? 'this sum, and later sums that you agree to at the shop, from your account, until you end it.'
							: 'this sum from your account once.'
					}
					You may ask for it back within eight weeks.
				</p>`,
			boxes: () =>
				html`<p>
					<label>Your IBAN<br /><input name="iban" required autocomplete="off" /></label>
				</p>`,
			check: (_payment, { iban = '' }) =>
				isValidIBAN(electronicFormatIBAN(iban) ?? '') ? undefined : 'That is not an IBAN: its digits do not fit.',
			payerAccount: ({ iban = '' }) => {
				const account = electronicFormatIBAN(iban) ?? '';
				return { bank: BANKS[Number(account.slice(4, 5)) % BANKS.length] ?? BANKS[0]!, lastFour: account.slice(-4) };
			},
			approve: 'Sign the mandate',
			refuse: 'Do not sign'
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
		keyKinds: { notice: 'Notice token' },
		makeKey,
		consents: true,
		hooksByHand: {
			topics: Object.values(TOPICS).filter((one) => one !== TOPICS.hello),
			secret: (_account, mode) => noticeToken(mode)
		},
		prices: () =>
			html`<p>
					Debit ${RATES.debit.permille} ‰, at least ${RATES.debit.never_less} and at most ${RATES.debit.never_more}
					cents.
				</p>
				<p>
					Transfer ${RATES.transfer.permille} ‰, at least ${RATES.transfer.never_less} and at most
					${RATES.transfer.never_more} cents.
				</p>`,
		pages: [
			keptPage(engine, 'Mandates'),
			{
				path: 'came',
				name: 'Money that came',
				show: () =>
					html`<p>A transfer to our account that no request asked for, as a payer’s bank sends it.</p>
						<form method="post" action="/console/came/book" class="tall">
							<p>
								<label>Sum <input name="sum" required size="9" placeholder="84.50" /></label>
								<select name="currency">
									<option>EUR</option>
									<option>GBP</option>
								</select>
							</p>
							<p>
								<label>From <input name="from" size="40" maxlength="120" /></label>
							</p>
							<p>
								<label>IBAN <input name="iban" size="40" maxlength="40" /></label>
							</p>
							<p>
								<label>Words <input name="words" size="60" maxlength="140" /></label>
							</p>
							<button>Book it</button>
						</form>
						<ul>
							${engine.state
								.all('payments')
								.filter((one) => one.came)
								.map(
									(one) =>
										html`<li>${one.id}: ${decimal(one.minor, one.currency)} ${one.currency}, ${one.came!.from}</li>`
								)}
						</ul>`,
				acts: {
					book: ({ sum = '', currency = 'EUR', from = '', iban = '', words = '' }) => {
						const minor = minorOf(sum, currency);
						if (minor) engine.receive({ account: ACCOUNT, mode: 'live', currency, minor }, { words, from, iban });
					}
				}
			},
			{
				path: 'settings',
				name: 'Settings',
				show: () => {
					const { switches } = engine.account(ACCOUNT);
					return html`<form method="post" action="/console/settings/keep" class="tall">
							<p>
								<label
									><input type="checkbox" name="notifications" ${switches.notifications ? raw('checked') : ''} /> Send
									notifications</label
								>
							</p>
							<p>
								<label
									><input
										type="checkbox"
										name="payer return"
										${switches['payer return'] === false ? '' : raw('checked')}
									/>
									Send payers back to the shop</label
								>
							</p>
							<button>Keep settings</button>
						</form>
						<h2>Notice tokens</h2>
						${(['live', 'test'] as const).map(
							(mode) =>
								html`<p>
									${mode === 'live' ? 'Real' : 'Trial'}: <code id="settings-${mode}-notice">${noticeToken(mode)}</code>
								</p>`
						)}`;
				},
				acts: {
					keep: (form) => {
						engine.change(ACCOUNT, {
							switches: { notifications: 'notifications' in form, 'payer return': 'payer return' in form }
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
			client: { id: 'just-purse', name: 'Just Purse', returnTo: `${partner ?? ''}/connect/consent/quillon` },
			scopes: { read: 'Read your account and its requests', collect: 'Collect money and return it' },
			signedIn,
			signInPath: '/console/sign-in',
			page
		})
	);
	app.post('/control/came', async (c) => {
		const { minor, currency = 'EUR', words = '', from = '', iban = '' } = await c.req.json();
		return c.json(engine.receive({ account: ACCOUNT, mode: 'live', currency, minor }, { words, from, iban }));
	});
	app.route('/control', control(engine));
	const running = await serve('Quillon', app, port, () => engine.stop());
	address = running.address;
	return running;
}

export const manifest: Manifest = {
	name: 'quillon',
	port: 5243,
	start: startQuillon,
	account: ACCOUNT,
	signIn: SIGN_IN,
	trial: {
		unknown: (given) => ({ ...given, noticeToken: `qnr-${'q'.repeat(26)}` }),
		amounts: {
			'bank-debit': [{ minor: 4000, currency: 'EUR' }],
			'credit-transfer': [
				{ minor: 9000, currency: 'EUR' },
				{ minor: 4200, currency: 'GBP' }
			]
		}
	},
	keys: { noticeToken: 'notice' },
	scopes: ['read', 'collect'],
	beforeConnecting: { switches: { notifications: true, 'payer return': true } },
	tickedByHand: [
		'mandate_signed',
		'money_collected',
		'mandate_refused',
		'money_returned_to_payer',
		'money_certain',
		'debit_bounced',
		'transfer_to_you',
		'hello_there'
	],
	remembers: true
};
