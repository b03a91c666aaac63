import { Hono, type Context } from 'hono';
import { deleteCookie, getCookie, setCookie } from 'hono/cookie';
import { html } from 'hono/html';
import type { HtmlEscapedString } from 'hono/utils/html';
import { TEST_CARDS } from '../shared/cards.ts';
import { dispute, leftToRefund, refund, settle } from './money.ts';
import type { Notifier } from './notify.ts';
import { PRICES, pricesOf } from './pricing.ts';
import { addKey, faultsOf, randomText, type Account, type Mode, type Payment, type State } from './state.ts';
import { timeNow } from '../shared/clock.ts';

type Piece = HtmlEscapedString | Promise<HtmlEscapedString>;

export const CONSOLE_SIGN_IN = { mail: 'ilse@wrenalder.example', password: 'ferns-and-hall' };

const digitsOf = (currency: string) => (currency === 'JPY' ? 0 : 2);
const shown = ({ currency, thousandths }: { currency: string; thousandths: number }) =>
	`${(thousandths / 1000).toFixed(digitsOf(currency))} ${currency}`;

/** Fernhall's own console for the people of an account: keys, payments, listener, test cards, prices, faults. */
export function console_(state: State, notifier: Notifier): Hono {
	const app = new Hono();
	const sessions = new Set<string>();
	const account = 'FH-20417';

	const page = (title: string, body: Piece, mode: Mode = 'live') =>
		html`<!doctype html>
			<html lang="en">
				<head>
					<meta charset="utf-8" />
					<title>${title} – Fernhall console</title>
					<style>
						body {
							margin: 0;
							font:
								14px/1.5 Georgia,
								'Times New Roman',
								serif;
							background: #eaf0ec;
							color: #15291f;
						}
						header {
							background: #fff;
							border-bottom: 4px solid #1d5c43;
							padding: 14px 32px;
							display: flex;
							gap: 28px;
							align-items: baseline;
						}
						header b {
							font-size: 22px;
							color: #1d5c43;
							letter-spacing: 0.04em;
						}
						nav a {
							color: #1d5c43;
							margin-right: 18px;
						}
						main {
							max-width: 1040px;
							margin: 24px auto;
							background: #fff;
							padding: 20px 32px 40px;
							border: 1px solid #c4d4ca;
						}
						table {
							border-collapse: collapse;
							width: 100%;
						}
						td,
						th {
							border: 1px solid #c4d4ca;
							padding: 5px 9px;
							text-align: left;
							font-size: 13px;
						}
						th {
							background: #eaf0ec;
						}
						code {
							font:
								13px ui-monospace,
								monospace;
							background: #eef4f0;
							padding: 1px 4px;
							word-break: break-all;
						}
						button {
							font: inherit;
							background: #1d5c43;
							color: #fff;
							border: 0;
							padding: 4px 12px;
							cursor: pointer;
						}
						button.plain {
							background: #fff;
							color: #1d5c43;
							border: 1px solid #1d5c43;
						}
						form {
							display: inline;
						}
						input {
							font: inherit;
							padding: 3px 6px;
							border: 1px solid #7f9a8b;
						}
						.dim {
							color: #567063;
						}
						.bad {
							color: #9c2f1d;
						}
					</style>
				</head>
				<body>
					<header>
						<b>FERNHALL</b>
						<nav>
							<a href="/console">Keys</a><a href="/console/payments?mode=${mode}">Payments</a
							><a href="/console/listener">Listener</a><a href="/console/ways">Ways to pay</a
							><a href="/console/cards">Test cards</a><a href="/console/prices">Prices</a
							><a href="/console/faults">Faults</a>
						</nav>
						<form method="post" action="/console/sign-out" style="margin-left:auto">
							<button class="plain">Sign out</button>
						</form>
					</header>
					<main>
						<h1>${title}</h1>
						${body}
					</main>
				</body>
			</html>`;

	app.get('/sign-in', (c) =>
		c.html(
			html`<!doctype html>
				<html lang="en">
					<head>
						<meta charset="utf-8" />
						<title>Fernhall console</title>
						<style>
							body {
								font:
									15px Georgia,
									serif;
								background: #1d5c43;
								color: #fff;
								display: grid;
								place-items: center;
								height: 100vh;
								margin: 0;
							}
							form {
								background: #fff;
								color: #15291f;
								padding: 32px;
								width: 320px;
							}
							label {
								display: block;
								margin-bottom: 12px;
							}
							input {
								width: 100%;
								font: inherit;
								padding: 6px;
								box-sizing: border-box;
							}
							button {
								font: inherit;
								background: #1d5c43;
								color: #fff;
								border: 0;
								padding: 8px 18px;
							}
						</style>
					</head>
					<body>
						<form method="post">
							<h1>Fernhall</h1>
							<label>Mail<input name="mail" type="email" required /></label
							><label>Password<input name="password" type="password" required /></label
							>${c.req.query('wrong') ? html`<p>That is not right.</p>` : ''}<button>Sign in</button>
						</form>
					</body>
				</html>`
		)
	);
	app.post('/sign-in', async (c) => {
		const { mail, password } = (await c.req.parseBody()) as Record<string, string>;
		if (mail !== CONSOLE_SIGN_IN.mail || password !== CONSOLE_SIGN_IN.password)
			return c.redirect('/console/sign-in?wrong=1');
		const id = randomText(32);
		sessions.add(id);
		setCookie(c, 'fernhall', id, { httpOnly: true, sameSite: 'Lax', path: '/console' });
		return c.redirect('/console');
	});
	app.use('*', async (c, next) => {
		if (!sessions.has(getCookie(c, 'fernhall') ?? '')) return c.redirect('/console/sign-in');
		if (
			c.req.method === 'POST' &&
			c.req.header('origin') &&
			new URL(c.req.header('origin')!).host !== c.req.header('host')
		)
			return c.text('Refused', 403);
		await next();
	});
	app.post('/sign-out', (c) => {
		sessions.delete(getCookie(c, 'fernhall') ?? '');
		deleteCookie(c, 'fernhall', { path: '/console' });
		return c.redirect('/console/sign-in');
	});

	app.get('/', (c) => {
		const owner = state.get('accounts', account)!;
		return c.html(
			page(
				'Account and keys',
				html`<p>${owner.name}, account <code>${owner.id}</code>, ${owner.country}, paid out in ${owner.settles}.</p>
					${(['live', 'test'] as const).map(
						(
							mode
						) => html`<h2>${mode === 'live' ? 'Live' : 'Test'} keys</h2><table><tr><th>Kind</th><th>Key</th><th>Made</th><th></th></tr>
			${state
				.all('keys')
				.filter((key) => key.mode === mode && key.account === account)
				.map(
					(key) =>
						html`<tr>
							<td>${key.kind}</td>
							<td><code id="${key.mode}-${key.kind}${key.revoked ? '-revoked' : ''}">${key.key}</code></td>
							<td>${key.made.slice(0, 16)}</td>
							<td>
								${key.revoked ? html`<span class="bad">revoked ${key.revoked.slice(0, 16)}</span>` : html`<form method="post" action="/console/keys/revoke"><input type="hidden" name="key" value="${key.key}" /><button class="plain">Revoke</button></form>`}
							</td>
						</tr>`
				)}</table>
			<p><form method="post" action="/console/keys/make"><input type="hidden" name="mode" value="${mode}"><input type="hidden" name="kind" value="secret"><button>Make a secret key</button></form> <form method="post" action="/console/keys/make"><input type="hidden" name="mode" value="${mode}"><input type="hidden" name="kind" value="public"><button>Make a public key</button></form></p>`
					)}`
			)
		);
	});
	app.post('/keys/revoke', async (c) => {
		const { key } = (await c.req.parseBody()) as Record<string, string>;
		const found = state.get('keys', key ?? '');
		if (found) state.put('keys', found.key, { ...found, revoked: new Date(timeNow()).toISOString() });
		return c.redirect('/console');
	});
	app.post('/keys/make', async (c) => {
		const { mode, kind } = (await c.req.parseBody()) as Record<string, string>;
		addKey(state, account, kind === 'public' ? 'public' : 'secret', mode === 'test' ? 'test' : 'live');
		return c.redirect('/console');
	});

	const modeOf = (c: Context): Mode => (c.req.query('mode') === 'test' ? 'test' : 'live');
	app.get('/payments', (c) => {
		const mode = modeOf(c);
		const payments = state
			.all('payments')
			.filter((one) => one.account === account && one.mode === mode)
			.reverse()
			.slice(0, 200);
		const row = (one: Payment) =>
			html`<tr>
				<td><code>${one.id}</code><br /><span class="dim">${one.ours}</span></td>
				<td>${one.at.slice(0, 19)}</td>
				<td>${one.card.scheme} ${one.card.funding} …${one.card.lastFour}, ${one.card.issuedIn}</td>
				<td>${shown(one.sum)}</td>
				<td>${one.fee ? shown(one.fee) : ''}</td>
				<td>
					${one.state}${one.why ? `, ${one.why}` : ''}${one.settledAt ? ', settled' : ''}${one.payout ? ', paid out' : ''}${one.disputed ? ', disputed' : ''}${one.refunds.map((r) => html`<br />given back ${shown(r.sum)}`)}
				</td>
				<td>
					${
						leftToRefund(one) > 0
							? html`<form method="post" action="/console/payments/${one.id}/refund">
										<input
											name="sum"
											size="8"
											aria-label="Sum to give back"
											value="${(leftToRefund(one) / 1000).toFixed(digitsOf(one.sum.currency))}"
										/>
										<button>Give back</button>
									</form>
									<form method="post" action="/console/payments/${one.id}/dispute">
										<button class="plain">Dispute</button>
									</form>`
							: ''
					}
				</td>
			</tr>`;
		return c.html(
			page(
				`Payments, ${mode}`,
				html`<p><a href="?mode=live">Live</a> · <a href="?mode=test">Test</a> <form method="post" action="/console/night?mode=${mode}&step=settle"><button>Settle now</button></form> <form method="post" action="/console/night?mode=${mode}&step=pay+out"><button>Pay out now</button></form> ${c.req.query('said') ?? ''}</p>
			${
				payments.length
					? html`<table>
							<tr>
								<th>Payment, yours</th>
								<th>At</th>
								<th>Card</th>
								<th>Sum</th>
								<th>Fee</th>
								<th>State</th>
								<th></th>
							</tr>
							${payments.map(row)}
						</table>`
					: html`<p>No payments yet.</p>`
			}`,
				mode
			)
		);
	});
	app.post('/payments/:id/refund', async (c) => {
		const payment = state.get('payments', c.req.param('id'));
		const { sum } = (await c.req.parseBody()) as Record<string, string>;
		if (!payment || !/^\d+(\.\d{1,2})?$/.test(sum ?? ''))
			return c.redirect('/console/payments?said=That+is+not+a+sum.');
		const thousandths = Math.round(Number(sum) * 1000);
		if (thousandths <= 0 || thousandths > leftToRefund(payment))
			return c.redirect(`/console/payments?mode=${payment.mode}&said=Too+much.`);
		refund(state, notifier, payment, thousandths);
		return c.redirect(`/console/payments?mode=${payment.mode}`);
	});
	app.post('/payments/:id/dispute', (c) => {
		const payment = state.get('payments', c.req.param('id'));
		if (payment && leftToRefund(payment) > 0) dispute(state, notifier, payment);
		return c.redirect(`/console/payments?mode=${payment?.mode ?? 'live'}`);
	});
	app.post('/night', (c) => {
		const mode = modeOf(c);
		const count = settle(
			state,
			notifier,
			account,
			mode,
			c.req.query('step') === 'pay out' ? 'pay out' : 'settle',
			() => true
		);
		return c.redirect(`/console/payments?mode=${mode}&said=${count}+moved.`);
	});

	app.get('/listener', (c) =>
		c.html(
			page(
				'Listener',
				html`${state.all('listeners').map((one) => html`<p><code>${one.address}</code> (${one.mode})<br />${one.topics.join(', ')}</p>`)}
					<table>
						<tr>
							<th>Event</th>
							<th>Topic</th>
							<th>Tries</th>
							<th></th>
						</tr>
						${state
							.all('deliveries')
							.slice(-100)
							.reverse()
							.map(
								(one) =>
									html`<tr>
										<td><code>${one.id}</code></td>
										<td>${one.topic}</td>
										<td>
											${one.tries.map((t) => html`${t.at.slice(11, 19)} ${t.result}<br />`)}${one.done ? '' : one.next ? `next ${new Date(one.next).toISOString().slice(11, 19)}` : 'given up'}
										</td>
										<td>
											<form method="post" action="/console/listener/${one.id}/again">
												<button class="plain">Send again</button>
											</form>
										</td>
									</tr>`
							)}
					</table>`
			)
		)
	);
	app.post('/listener/:id/again', (c) => {
		notifier.again(c.req.param('id'));
		return c.redirect('/console/listener');
	});

	app.get('/cards', (c) =>
		c.html(
			page(
				'Test cards',
				html`<p>
						Any expiry to come, any code of three digits. They do the same with test and live keys, because nothing here
						is real money.
					</p>
					<table>
						<tr>
							<th>Number</th>
							<th>Scheme</th>
							<th>Funding</th>
							<th>Issued in</th>
							<th>What happens</th>
						</tr>
						${TEST_CARDS.map(
							(one) =>
								html`<tr>
									<td><code>${one.number.replace(/(.{4})(?=.)/g, '$1 ')}</code></td>
									<td>${one.scheme}</td>
									<td>${one.funding}</td>
									<td>${one.issuedIn}</td>
									<td>${one.outcome}</td>
								</tr>`
						)}
					</table>`
			)
		)
	);
	app.get('/prices', (c) =>
		c.html(
			page(
				'Prices',
				html`<p>In ${PRICES.money}, rounded ${PRICES.rounded}. Another currency: ${PRICES.exchange} % more.</p>
					<table>
						<tr>
							<th>Band</th>
							<th>Share</th>
							<th>Plus</th>
						</tr>
						${pricesOf(state.get('accounts', account)!).bands.map(
							(one) =>
								html`<tr>
									<td>${one.band}</td>
									<td>${one.share} %</td>
									<td>${one.plus}</td>
								</tr>`
						)}
					</table>
					<p>Given back: the share is returned, the rest is kept.</p>
					<form method="post">
						<p>
							<label>New share at home, private cards <input name="home" size="6" placeholder="1.45" /> %</label>
							<label>from <input name="since" type="date" /></label>
							<button>Agree to it</button>
						</p>
					</form>`
			)
		)
	);
	app.post('/prices', async (c) => {
		const { home = '', since = '' } = (await c.req.parseBody()) as Record<string, string>;
		if (/^\d{1,2}\.\d{2}$/.test(home) && /^\d{4}-\d{2}-\d{2}$/.test(since))
			changeAccount(state, notifier, { dearer: { home, since } });
		return c.redirect('/console/prices');
	});

	app.get('/ways', (c) => {
		const { off = [] } = state.get('accounts', account)!;
		return c.html(
			page(
				'Ways to pay',
				html`${(['cards', 'tapfold'] as const).map(
						(way) =>
							html`<p>
								${way === 'cards' ? 'Cards' : 'Tapfold, the device wallet'}: ${off.includes(way) ? 'off' : 'on'}
								<form method="post" action="/console/ways"><button name="way" value="${way}" class="plain">
									${off.includes(way) ? 'Switch on' : 'Switch off'}
								</button></form>
							</p>`
					)}
					<h2>Domains for Tapfold</h2>
					${state.all('domains').map((one) => html`<p><code>${one.domain}</code> ${one.state}${one.says ? `: ${one.says}` : ''}</p>`)}`
			)
		);
	});
	app.post('/ways', async (c) => {
		const { way } = (await c.req.parseBody()) as Record<string, 'cards' | 'tapfold'>;
		const { off = [] } = state.get('accounts', account)!;
		if (way)
			changeAccount(state, notifier, { off: off.includes(way) ? off.filter((one) => one !== way) : [...off, way] });
		return c.redirect('/console/ways');
	});

	app.get('/faults', (c) => {
		const faults = faultsOf(state);
		const line = (name: keyof typeof faults, says: string) =>
			html`<p>
				<label><input type="checkbox" name="${name}" ${faults[name] ? 'checked' : ''} /> ${says}</label>
			</p>`;
		return c.html(
			page(
				'Faults',
				html`<form method="post">
					<p>
						<label>Every answer waits <input name="slow" size="6" value="${faults.slow}" /> ms</label>
					</p>
					${line('errors', 'Every answer is an error 500')}${line('nonsense', 'Every answer is nonsense')}${line('down', 'No answer at all')}${line('silent', 'No notifications are sent')}${line('wrongFee', 'Cards of neighbours are priced as from elsewhere')}${line('loseAnswer', 'The answer is lost after the charge')}<button>
						Set faults
					</button>
				</form>`
			)
		);
	});
	app.post('/faults', async (c) => {
		const given = (await c.req.parseBody()) as Record<string, string>;
		setFaults(state, notifier, {
			slow: Math.max(0, Math.min(60_000, Number(given.slow) || 0)),
			errors: !!given.errors,
			nonsense: !!given.nonsense,
			down: !!given.down,
			silent: !!given.silent,
			wrongFee: !!given.wrongFee,
			loseAnswer: !!given.loseAnswer
		});
		return c.redirect('/console/faults');
	});
	return app;
}

/** Switches faults, and lets queued notifications go once they are no longer silenced. */
export function setFaults(state: State, notifier: Notifier, faults: Partial<ReturnType<typeof faultsOf>>): void {
	state.put('faults', 'faults', { ...faultsOf(state), ...faults, id: 'faults' });
	notifier.wake(0);
}

/** Changes the account, and tells whoever listens. */
export function changeAccount(state: State, notifier: Notifier, changes: Partial<Account>): Account {
	const after = state.put('accounts', 'FH-20417', { ...state.get('accounts', 'FH-20417')!, ...changes });
	for (const mode of ['live', 'test'] as const) notifier.tell(after.id, mode, 'account.changed', {});
	return after;
}
