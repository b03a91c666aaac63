import { Hono } from 'hono';
import { html, raw } from 'hono/html';
import { isLuhn, schemeOf, SCHEMES, TEST_CARDS } from './cards.ts';
import type { CardReport } from './engine.ts';
import { timeNow } from './clock.ts';

export interface CardFields {
	/** the house whose fields these are */
	readonly name: string;
	/** the schemes it knows */
	readonly schemes: readonly string[];
	/** whether this key or number of a shop opens the fields */
	opens(key: string): boolean;
	isDown(): boolean;
	/** keeps a card under a token, and gives the token */
	keep(key: string, card: CardReport, outcome: string, by: 'card' | 'tapfold'): string;
	/** a wallet of the device, where the house has one: the card it holds */
	readonly wallet?: { readonly name: string; readonly number: string };
}

/**
 * The card fields of a house: a page of its own origin, shown in a frame on a shop's page. It tells the shop a token and
 * the card's type, never the number.
 */
export function cardFields(house: CardFields): Hono {
	const { name } = house;
	const app = new Hono();
	const policy = (shop: string) =>
		`default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; connect-src 'self'; frame-ancestors ${/^https?:\/\/[\w.:-]+$/.test(shop) ? shop : "'none'"}`;
	const report = (number: string, expires: string) => {
		const known = TEST_CARDS.find((one) => one.number === number);
		return {
			outcome: known?.outcome ?? 'declined: not a card of the table',
			card: {
				scheme: schemeOf(number),
				funding: known?.funding ?? 'unknown',
				issuedIn: known?.issuedIn ?? 'unknown',
				lastFour: number.slice(-4),
				expires
			}
		};
	};

	app.get('/', (c) => {
		const key = c.req.query('key') ?? '';
		const shop = c.req.query('shop') ?? '';
		if (house.isDown()) return c.text('', 503);
		if (!house.opens(key))
			return c.html(
				'<!doctype html><title>Card fields</title><p role="alert">These card fields are not open: the key is not valid.</p>',
				403
			);
		c.header('content-security-policy', policy(shop));
		return c.html(page(name, key, shop));
	});

	if (house.wallet) {
		const { wallet } = house;
		app.get('/wallet', (c) => {
			const key = c.req.query('key') ?? '';
			const shop = c.req.query('shop') ?? '';
			if (!house.opens(key)) return c.text('The wallet is not open here.', 403);
			c.header('content-security-policy', policy(shop));
			return c.html(walletPage(wallet.name, key, shop));
		});
		app.post('/wallet', async (c) => {
			const { key } = await c.req.json<{ key: string }>();
			if (!house.opens(key)) return c.json({ text: 'The wallet is not open here.' }, 403);
			const { card, outcome } = report(wallet.number, '2030-12');
			return c.json({ token: house.keep(key, card, outcome, 'tapfold'), card });
		});
	}

	app.post('/token', async (c) => {
		const asked = await c.req.json<{ key: string; number: string; expiry: string; code: string }>();
		if (!house.opens(asked.key)) return c.json({ field: 'number', text: 'These card fields are not open.' }, 403);
		const number = (asked.number ?? '').replace(/[ -]/g, '');
		const scheme = schemeOf(number);
		if (!isLuhn(number))
			return c.json({ field: 'number', text: 'This is not a card number. Please check the digits.' }, 422);
		if (!scheme || !house.schemes.includes(scheme) || SCHEMES[scheme]!.digits !== number.length)
			return c.json({ field: 'number', text: `${name} does not know this kind of card.` }, 422);
		const expiry = /^(0[1-9]|1[0-2])\s*\/\s*(\d{2})$/.exec((asked.expiry ?? '').trim());
		if (!expiry) return c.json({ field: 'expiry', text: 'Write the month and year like 09/29.' }, 422);
		const expires = `20${expiry[2]}-${expiry[1]}`;
		if (expires < new Date(timeNow()).toISOString().slice(0, 7))
			return c.json({ field: 'expiry', text: 'This card has expired.' }, 422);
		if (!/^\d{3,4}$/.test(asked.code ?? ''))
			return c.json({ field: 'code', text: 'The code has three or four digits.' }, 422);
		const { card, outcome } = report(number, expires);
		const token = house.keep(asked.key, card, outcome, 'card');
		return c.json({ token, card });
	});
	return app;
}

const page = (name: string, key: string, shop: string) =>
	html`<!doctype html>
		<html lang="en">
			<head>
				<meta charset="utf-8" />
				<title>Card fields by ${name}</title>
				<style>
					* {
						box-sizing: border-box;
						margin: 0;
					}
					body {
						font:
							16px/1.3 system-ui,
							sans-serif;
						color: #2b2320;
						background: transparent;
						padding: 3px;
					}
					.row {
						display: grid;
						grid-template-columns: 1fr 1fr;
						gap: 8px;
					}
					label {
						display: block;
						font-size: 13px;
						color: #5f544c;
						margin-bottom: 8px;
					}
					input {
						display: block;
						width: 100%;
						font: inherit;
						color: #211b18;
						background: #fff;
						border: 1px solid #b8a992;
						border-radius: 3px;
						padding: 11px 12px;
						margin-top: 3px;
					}
					input:focus {
						outline: 2px solid #9a6f1b;
						outline-offset: 0;
					}
					input[aria-invalid='true'] {
						border-color: #a9482a;
					}
					#says {
						color: #a1401f;
						font-size: 13px;
						min-height: 18px;
					}
					@media (prefers-color-scheme: dark) {
						body.dark label {
							color: #d8cbbd;
						}
					}
				</style>
			</head>
			<body>
				<form id="fields" novalidate>
					<label
						>Card number<input id="number" inputmode="numeric" autocomplete="cc-number" aria-describedby="says"
					/></label>
					<div class="row">
						<label
							>Month / year<input
								id="expiry"
								inputmode="numeric"
								autocomplete="cc-exp"
								placeholder="MM/YY"
								aria-describedby="says"
						/></label>
						<label>Code<input id="code" inputmode="numeric" autocomplete="cc-csc" aria-describedby="says" /></label>
					</div>
					<p id="says" role="alert"></p>
					<button hidden></button>
				</form>
				<script>
					const key = ${raw(JSON.stringify(key))},
						shop = ${raw(JSON.stringify(shop).replace(/</g, '\\u003c'))};
					const $ = (id) => document.getElementById(id);
					const tell = (message) => parent.postMessage({ from: 'card-fields', ...message }, shop);
					const size = () => tell({ is: 'height', height: document.documentElement.scrollHeight });
					$('number').addEventListener('input', () => {
						const at = $('number');
						const digits = at.value.replace(/[^0-9]/g, '').slice(0, 19);
						at.value = digits.replace(/(.{4})(?=.)/g, '$1 ');
					});
					$('expiry').addEventListener('input', (event) => {
						const at = $('expiry');
						const digits = at.value.replace(/[^0-9]/g, '').slice(0, 4);
						if (event.inputType !== 'deleteContentBackward')
							at.value = digits.length > 2 ? digits.slice(0, 2) + '/' + digits.slice(2) : digits;
					});
					async function read() {
						$('says').textContent = '';
						for (const id of ['number', 'expiry', 'code']) $(id).removeAttribute('aria-invalid');
						try {
							const answer = await fetch('fields/token', {
								method: 'POST',
								headers: { 'content-type': 'application/json' },
								body: JSON.stringify({
									key,
									number: $('number').value,
									expiry: $('expiry').value,
									code: $('code').value
								})
							});
							const told = await answer.json();
							if (answer.ok) return tell({ is: 'token', token: told.token });
							$('says').textContent = told.text;
							$(told.field).setAttribute('aria-invalid', 'true');
							$(told.field).focus();
							tell({ is: 'refused', text: told.text });
						} catch {
							$('says').textContent = ${raw(JSON.stringify(`${name} does not answer. Please try again.`))};
							tell({ is: 'refused', text: 'no answer' });
						}
						size();
					}
					addEventListener('message', (event) => {
						if (event.origin === shop && event.data && event.data.to === 'card-fields' && event.data.act === 'read')
							read();
					});
					$('fields').addEventListener('submit', (event) => {
						event.preventDefault();
						tell({ is: 'enter' });
					});
					addEventListener('load', () => {
						size();
						tell({ is: 'ready' });
					});
				</script>
			</body>
		</html>`;

const walletPage = (name: string, key: string, shop: string) =>
	html`<!doctype html>
		<html lang="en">
			<head>
				<meta charset="utf-8" />
				<title>${name}</title>
				<style>
					body {
						margin: 0;
						padding: 3px;
						font:
							15px/1.4 system-ui,
							sans-serif;
						color: #2b2320;
					}
					p {
						margin: 0 0 4px;
					}
				</style>
			</head>
			<body>
				<p>The card in your ${name} on this device will be used.</p>
				<p id="says" role="alert"></p>
				<script>
					const key = ${raw(JSON.stringify(key))},
						shop = ${raw(JSON.stringify(shop).replace(/</g, '\\u003c'))};
					const tell = (message) => parent.postMessage({ from: 'card-fields', ...message }, shop);
					addEventListener('message', async (event) => {
						if (event.origin !== shop || !event.data || event.data.to !== 'card-fields' || event.data.act !== 'read')
							return;
						try {
							const answer = await fetch('wallet', {
								method: 'POST',
								headers: { 'content-type': 'application/json' },
								body: JSON.stringify({ key })
							});
							const told = await answer.json();
							if (answer.ok) return tell({ is: 'token', token: told.token });
							document.getElementById('says').textContent = told.text;
						} catch {
							document.getElementById('says').textContent = 'The wallet does not answer. Please try again.';
						}
						tell({ is: 'refused', text: 'no answer' });
					});
					addEventListener('load', () => {
						tell({ is: 'height', height: document.documentElement.scrollHeight });
						tell({ is: 'ready' });
					});
				</script>
			</body>
		</html>`;
