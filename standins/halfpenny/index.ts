import { createHmac } from 'node:crypto';
import { Hono } from 'hono';
import { html } from 'hono/html';
import { join } from 'node:path';
import { cardFields } from '../shared/cardFields.ts';
import { makeConsole, type Look } from '../shared/console.ts';
import { nextDay, weekday } from '../shared/days.ts';
import { Engine, randomText, type Key, type Mode } from '../shared/engine.ts';
import { priceBy } from '../shared/price.ts';
import type { Manifest } from '../shared/manifest.ts';
import { serve, type RunningStandin, type StandinOptions } from '../shared/serve.ts';
import { control } from '../shared/wire.ts';
import { ACCOUNT, api, PRICES, told, TOPICS } from './api.ts';
import { timeNow } from '../shared/clock.ts';

const SIGN_IN = { mail: 'ilse@wrenalder.example', password: 'copper-and-till' };
const SCHEMES = ['corvid', 'tessel'];

/** `HA` for public or `HZ` for secret keys, `0` for trial or `1` for real, then 22 capitals and digits. */
const makeKey = (kind: string, mode: Mode, account: string): Key => ({
	key: `${kind === 'public' ? 'HA' : 'HZ'}${mode === 'live' ? 1 : 0}${randomText(22)}`,
	kind,
	mode,
	account,
	made: new Date(timeNow()).toISOString()
});

const look: Look = {
	css: `body{margin:0 auto;max-width:980px;background:#e9e1d3;color:#40260e;font:16px/1.5 Palatino,'Book Antiqua',serif;padding:20px}
	.sign{border:3px double #8a4b1c;text-align:center;padding:10px;font-size:26px;font-variant:small-caps;background:#f6efe2}nav{text-align:center;padding:8px;border-bottom:1px solid #8a4b1c}nav a{color:#8a4b1c;margin:0 10px}main{padding-bottom:60px}
	h1{font-size:20px;text-align:center;font-style:italic}h2{font-size:17px}h3{font-size:15px;font-style:italic}table{border-collapse:collapse;width:100%;background:#f6efe2}td,th{border:1px solid #d3bd9c;padding:4px 8px;text-align:left;vertical-align:top;font-size:14px}code{font:13px monospace;word-break:break-all}
	button{font:inherit;font-size:14px;background:#8a4b1c;color:#f6efe2;border:2px outset #b8763f;padding:1px 12px;cursor:pointer}button.plain{background:#d3bd9c;color:#40260e}form{display:inline}form.tall{display:block}input{font:inherit;background:#fffaf0;border:2px inset #d3bd9c}
	.door form{display:block;max-width:340px;margin:12vh auto;border:3px double #8a4b1c;padding:20px;background:#f6efe2}`,
	shell: ({ title, body, links }) =>
		html`<div class="sign">Halfpenny &amp; Co.</div>
			<nav>${links.map((one) => html`<a href="${one.href}">${one.name}</a>`)}</nav>
			<main>
				<h1>${title}</h1>
				${body}
			</main>`,
	words: {
		keys: 'Keys',
		payments: 'Coins',
		hooks: 'Doorbell',
		cards: 'Practice cards',
		prices: 'Price board',
		faults: 'Mishaps',
		signIn: 'Step in'
	}
};

/** Halfpenny: two keys; cards, cheap and few; payouts slow, the first ones held; never at a till with Fernhall. */
export async function startHalfpenny({ port, folder, haste = 1 }: StandinOptions): Promise<RunningStandin> {
	const engine: Engine = new Engine(
		{
			name: 'Halfpenny',
			prefix: 'hp',
			accounts: [
				{
					id: ACCOUNT,
					name: 'Wren & Alder Strings',
					country: 'BE',
					settles: 'EUR',
					zone: 'Europe/Brussels',
					off: [],
					waiting: [],
					switches: {},
					heldUntil: nextDay(new Date(timeNow()).toISOString().slice(0, 10), 21)
				}
			],
			seed: (account, mode) => ['public', 'secret'].map((kind) => makeKey(kind, mode, account.id)),
			price: (payment, account, faults) =>
				priceBy(payment, 'EUR', account.zone, 0.0004, {
					label: 'coin',
					share: faults.wrongFee ? '1.29' : PRICES.rate,
					plus: PRICES.each,
					exchange: PRICES.abroad,
					back: 'nothing'
				}),
			givenBack: () => 0,
			topics: TOPICS,
			body: (event) => told(event),
			headers: ({ secret }, { body }) => ({ 'halfpenny-mac': createHmac('sha256', secret).update(body).digest('hex') }),
			settleAfter: () => 3,
			payOutAfter: () => 7,
			payoutDay: (_account, day) => weekday(day) === 5
		},
		join(folder, 'halfpenny.journal'),
		haste
	);
	const app = new Hono();
	app.get('/', (c) => c.redirect('/console'));
	app.get('/ready', (c) => c.json({ standin: 'halfpenny' }));
	app.route('/hp', api(engine) as unknown as Hono);
	const keyOf = (given: string) => {
		const key = engine.state.get('keys', given);
		return key?.kind === 'public' && !key.revoked ? key : undefined;
	};
	app.route(
		'/fields',
		cardFields({
			name: 'Halfpenny',
			schemes: SCHEMES,
			opens: (key) => !!keyOf(key),
			isDown: () => engine.faults.down,
			keep: (key, card, outcome) => {
				const token = `hps${randomText(24)}`;
				const { account, mode } = keyOf(key)!;
				engine.state.put('tokens', token, { token, account, mode, card, outcome, used: false });
				return token;
			}
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
			html`<p>
					${PRICES.rate} % and ${PRICES.each} EUR a coin. Other money ${PRICES.abroad} % more. What went out is not
					given back.
				</p>
				<p>The first purses are held until ${engine.account(ACCOUNT).heldUntil ?? 'no day'}.</p>`
	});
	app.route('/console', desk);
	app.route('/control', control(engine));
	return serve('Halfpenny', app, port, () => engine.stop());
}

export const manifest: Manifest = {
	name: 'halfpenny',
	port: 5246,
	start: startHalfpenny,
	account: ACCOUNT,
	signIn: SIGN_IN,
	trial: {
		unknown: (given) => ({ ...given, secretKey: `HZ1${'Q'.repeat(22)}` }),
		amounts: {
			card: [
				{ minor: 8450, currency: 'EUR' },
				{ minor: 4200, currency: 'GBP' }
			]
		},
		fields: (given) => given.publicKey!
	},
	keys: { publicKey: 'public', secretKey: 'secret' }
};
