import { Hono, type Context } from 'hono';
import { deleteCookie, getCookie, setCookie } from 'hono/cookie';
import { html, raw } from 'hono/html';
import type { HtmlEscapedString } from 'hono/utils/html';
import { TEST_CARDS } from './cards.ts';
import { standingConsents, withdraw } from './consent.ts';
import { NO_FAULTS, randomText, type Engine, type Faults, type Key, type Mode, type Payment } from './engine.ts';
import { decimal, minorOf, shown } from './sums.ts';
import { actOn, type Act } from './wire.ts';
import { timeNow } from './clock.ts';

export type Piece = HtmlEscapedString | Promise<HtmlEscapedString>;

/** The page of what payers let a house keep: a hand ends it here as an issuer or a bank would. */
export const keptPage = (engine: Engine, name: string): OwnPage => ({
	path: 'kept',
	name,
	show: (_c, accountId) =>
		html`<table>
			${engine.state
				.all('kept')
				.filter((one) => one.account === accountId)
				.map(
					(one) =>
						html`<tr>
							<td><code>${one.id}</code> ${one.mode}</td>
							<td>
								${one.card ? `${one.card.scheme} ${one.card.lastFour}, ${one.card.expires}` : `${one.bank} ${one.lastFour}`}
							</td>
							<td>
								${
									one.ended
										? one.ended
										: html`<form method="post" action="/console/kept/end?account=${accountId}">
												<button name="id" value="${one.id}" class="plain">End it</button>
											</form>`
								}
							</td>
						</tr>`
				)}
		</table>`,
	acts: { end: ({ id = '' }) => void engine.endKept(id, 'ended by its bank') }
});

/** How a house's console looks, and what it calls its parts. No two look alike. */
export interface Look {
	readonly css: string;
	/** wraps the body of a page; the links are of the house's own parts */
	shell(parts: { title: string; body: Piece; links: { href: string; name: string }[]; account: string }): Piece;
	readonly words: {
		keys: string;
		payments: string;
		hooks: string;
		cards: string;
		prices: string;
		faults: string;
		signIn: string;
	};
}

/** A page of a house's own beside the usual ones. */
export interface OwnPage {
	readonly path: string;
	readonly name: string;
	show(c: Context, accountId: string): Piece;
	/** acts by name; each leads back to the page */
	readonly acts?: Record<string, (form: Record<string, string>, accountId: string) => void>;
}

export interface ConsoleOptions {
	readonly engine: Engine;
	readonly look: Look;
	readonly signIn: { mail: string; password: string };
	/** kinds of keys that are shown and made here */
	readonly keyKinds: Readonly<Record<string, string>>;
	makeKey?(kind: string, mode: Mode, accountId: string): Key;
	readonly testCards?: readonly string[];
	prices(accountId: string): Piece;
	readonly pages?: readonly OwnPage[];
	/** whether the address and the events of notifications are typed here by hand */
	readonly hooksByHand?: { readonly topics: readonly string[]; secret(accountId: string, mode: Mode): string };
	readonly consents?: boolean;
}

const FAULT_WORDS: Record<Exclude<keyof Faults, 'id' | 'slow'>, string> = {
	errors: 'Every request fails with 500',
	silent: 'Notifications are not sent',
	forgedHooks: 'Notifications are signed with a wrong secret',
	wrongFee: 'Fees are charged too high',
	loseAnswer: 'The answer is lost after the act',
	keepsOutcomes: 'What became of a request is not told',
	nonsense: 'Answers are nonsense',
	down: 'The line is cut',
	drips: 'Answers drip, a byte at a time',
	shortTokens: 'Access tokens end after two seconds'
};

/** A house's own console for the people of an account: keys, payments, notifications, prices, faults. */
export function makeConsole(options: ConsoleOptions): {
	app: Hono;
	signedIn: (c: Context) => boolean;
	page: (title: string, body: Piece) => Piece;
} {
	const { engine, look, signIn, keyKinds, makeKey, prices, pages = [], hooksByHand, consents } = options;
	const { state, house } = engine;
	const { words } = look;
	const app = new Hono();
	const sessions = new Set<string>();
	const cookie = house.name.toLowerCase().split(' ')[0]!;
	const signedIn = (c: Context) => sessions.has(getCookie(c, cookie) ?? '');
	const accounts = house.accounts.map((one) => one.id);
	const accountOf = (c: Context) => {
		const asked = c.req.query('account') ?? '';
		return accounts.includes(asked) ? asked : accounts[0]!;
	};
	const links = [
		{ href: '/console', name: words.keys },
		{ href: '/console/payments', name: words.payments },
		{ href: '/console/hooks', name: words.hooks },
		...(options.testCards ? [{ href: '/console/cards', name: words.cards }] : []),
		{ href: '/console/prices', name: words.prices },
		...pages.map((one) => ({ href: `/console/${one.path}`, name: one.name })),
		{ href: '/console/faults', name: words.faults }
	];
	const page = (title: string, body: Piece, account = '') =>
		html`<!doctype html>
			<html lang="en">
				<head>
					<meta charset="utf-8" />
					<meta name="viewport" content="width=device-width" />
					<title>${title} – ${house.name}</title>
					<style>
						${raw(look.css)}
					</style>
				</head>
				<body>
					${look.shell({ title, body, links, account })}
				</body>
			</html>`;

	app.get('/sign-in', (c) =>
		c.html(
			html`<!doctype html>
				<html lang="en">
					<head>
						<meta charset="utf-8" />
						<title>${words.signIn} – ${house.name}</title>
						<style>
							${raw(look.css)}
						</style>
					</head>
					<body class="door">
						<form method="post">
							<h1>${house.name}</h1>
							<input type="hidden" name="to" value="${c.req.query('to') ?? '/console'}" />
							<p>
								<label>Mail <input name="mail" type="email" required /></label>
							</p>
							<p>
								<label>Password <input name="password" type="password" required /></label>
							</p>
							${c.req.query('wrong') ? html`<p>That is not right.</p>` : ''}
							<p><button>${words.signIn}</button></p>
						</form>
					</body>
				</html>`
		)
	);
	app.post('/sign-in', async (c) => {
		const { mail, password, to = '/console' } = (await c.req.parseBody()) as Record<string, string>;
		if (mail !== signIn.mail || password !== signIn.password)
			return c.redirect(`/console/sign-in?wrong=1&to=${encodeURIComponent(to)}`);
		const id = randomText(32);
		sessions.add(id);
		setCookie(c, cookie, id, { httpOnly: true, sameSite: 'Lax', path: '/' });
		return c.redirect(/^\/[a-z]/.test(to) ? to : '/console');
	});
	app.use('*', async (c, next) => {
		if (!signedIn(c)) return c.redirect('/console/sign-in');
		const origin = c.req.header('origin');
		if (c.req.method === 'POST' && origin && new URL(origin).host !== c.req.header('host'))
			return c.text('Refused', 403);
		await next();
	});
	app.post('/sign-out', (c) => {
		sessions.delete(getCookie(c, cookie) ?? '');
		deleteCookie(c, cookie, { path: '/' });
		return c.redirect('/console/sign-in');
	});

	app.get('/', (c) =>
		c.html(
			page(
				words.keys,
				html`${accounts.map((id) => {
					const account = engine.account(id);
					return html`<section>
						<h2>${account.name}, <code>${id}</code></h2>
						<p>${account.country}, paid out in ${account.settles}.</p>
						${(['live', 'test'] as const).map((mode) => {
							const mine = state.all('keys').filter((key) => key.account === id && key.mode === mode);
							if (!Object.keys(keyKinds).length) return '';
							return html`<h3>${mode === 'live' ? 'Real payments' : 'Trial payments'}</h3>
								<table>
									<tr>
										<th>What</th>
										<th>Value</th>
										<th>Made</th>
										<th></th>
									</tr>
									${mine.map(
										(key) =>
											html`<tr>
												<td>${keyKinds[key.kind] ?? key.kind}</td>
												<td><code id="${id}-${mode}-${key.kind}${key.revoked ? '-revoked' : ''}">${key.key}</code></td>
												<td>${key.made.slice(0, 10)}</td>
												<td>
													${
														key.revoked
															? html`<b>ended ${key.revoked.slice(0, 16)}</b>`
															: key.kind === 'number'
																? ''
																: html`<form method="post" action="/console/keys/end">
																		<input type="hidden" name="key" value="${key.key}" /><button class="plain">
																			End it
																		</button>
																	</form>`
													}
												</td>
											</tr>`
									)}
								</table>
								${
									makeKey
										? Object.entries(keyKinds)
												.filter(([kind]) => kind !== 'number')
												.map(
													([kind, name]) =>
														html`<form method="post" action="/console/keys/make">
															<input type="hidden" name="account" value="${id}" /><input
																type="hidden"
																name="mode"
																value="${mode}"
															/><input type="hidden" name="kind" value="${kind}" /><button>New: ${name}</button>
														</form> `
												)
										: ''
								}`;
						})}
					</section>`;
				})}
				${
					consents
						? html`<h2>Consents given to others</h2>
								<table>
									${standingConsents(engine).map(
										(one) =>
											html`<tr>
												<td>Just Purse, ${one.mode === 'test' ? 'trial' : 'real'}</td>
												<td>${one.scope}</td>
												<td>
													<form method="post" action="/console/withdraw">
														<input type="hidden" name="id" value="${one.id}" /><button class="plain">Withdraw</button>
													</form>
												</td>
											</tr>`
									)}
								</table>`
						: ''
				}`
			)
		)
	);
	app.post('/keys/end', async (c) => {
		const { key } = (await c.req.parseBody()) as Record<string, string>;
		const found = state.get('keys', key ?? '');
		if (found) state.put('keys', found.key, { ...found, revoked: new Date(timeNow()).toISOString() });
		return c.redirect('/console');
	});
	app.post('/keys/make', async (c) => {
		const { mode, kind, account } = (await c.req.parseBody()) as Record<string, string>;
		if (makeKey && kind && Object.hasOwn(keyKinds, kind) && accounts.includes(account ?? '')) {
			const made = makeKey(kind, mode === 'test' ? 'test' : 'live', account!);
			state.put('keys', made.key, made);
		}
		return c.redirect('/console');
	});
	app.post('/withdraw', async (c) => {
		const { id } = (await c.req.parseBody()) as Record<string, string>;
		withdraw(engine, id ?? '');
		return c.redirect('/console');
	});

	const acts = (one: Payment): [Act, string][] => {
		const list: [Act, string][] = [];
		if (one.state === 'waiting' && one.method === 'transfer') list.push(['match', 'The money came']);
		if (one.state === 'pending') list.push(['submit', 'Submit to the bank'], ['bounce', 'Bounce']);
		if (one.state === 'held') list.push(['capture', 'Take'], ['cancel', 'Let go']);
		if (one.state === 'taken' && one.method === 'bank debit') list.push(['bounce', 'Return']);
		if (engine.leftToRefund(one) > 0) list.push(['dispute', 'Dispute']);
		if (one.disputed && !one.disputed.outcome) list.push(['win', 'The shop is right'], ['lose', 'The payer is right']);
		return list;
	};
	app.get('/payments', (c) => {
		const account = accountOf(c);
		const mode: Mode = c.req.query('mode') === 'test' ? 'test' : 'live';
		const payments = state
			.all('payments')
			.filter((one) => one.account === account && one.mode === mode)
			.reverse()
			.slice(0, 200);
		const here = `account=${account}&mode=${mode}`;
		return c.html(
			page(
				words.payments,
				html`<p>
						${accounts.map((id) => html`<a href="?account=${id}&mode=${mode}">${id}</a> `)} ·
						<a href="?account=${account}&mode=live">Real</a> · <a href="?account=${account}&mode=test">Trial</a>
						${(['settle', 'pay out'] as const).map(
							(step) =>
								html`<form method="post" action="/console/night?${here}">
									<input type="hidden" name="step" value="${step}" /><button>
										${step === 'settle' ? 'Settle now' : 'Pay out now'}
									</button>
								</form> `
						)}
						${c.req.query('said') ?? ''}
					</p>
					${
						payments.length
							? html`<table>
									<tr>
										<th>Ours, yours</th>
										<th>At</th>
										<th>How</th>
										<th>Sum</th>
										<th>Fee</th>
										<th>State</th>
										<th></th>
									</tr>
									${payments.map(
										(one) =>
											html`<tr>
												<td><code>${one.id}</code><br /><small>${one.ours}</small></td>
												<td>${one.at.slice(0, 19)}</td>
												<td>
													${one.method}${one.card ? ` ${one.card.scheme} ${one.card.funding} …${one.card.lastFour}` : ''}${one.reference ? html`<br /><code>${one.reference}</code>` : ''}
												</td>
												<td>${shown(one.minor, one.currency)}</td>
												<td>${one.charged ? shown(one.charged.fee, one.charged.currency) : ''}</td>
												<td>
													${one.state}${one.why ? `, ${one.why}` : ''}${one.settledAt ? ', settled' : ''}${one.payout ? ', paid out' : ''}${one.disputed ? `, disputed${one.disputed.answered ? ', answered' : ''}${one.disputed.outcome ? `, ${one.disputed.outcome}` : ''}` : ''}
													${one.refunds.map((r) => html`<br />back ${shown(r.minor, one.currency)}`)}
												</td>
												<td>
													${acts(one).map(
														([act, name]) =>
															html`<form method="post" action="/console/payments/${one.id}?${here}">
																<button name="act" value="${act}" class="plain">${name}</button>
															</form> `
													)}
													${
														engine.leftToRefund(one) > 0
															? html`<form method="post" action="/console/payments/${one.id}?${here}">
																	<input
																		name="sum"
																		size="8"
																		aria-label="Sum to give back"
																		value="${decimal(engine.leftToRefund(one), one.currency)}"
																	/>
																	<button name="act" value="refund">Give back</button>
																</form>`
															: ''
													}
												</td>
											</tr>`
									)}
								</table>`
							: html`<p>No payments yet.</p>`
					}`,
				account
			)
		);
	});
	app.post('/night', async (c) => {
		const { step } = (await c.req.parseBody()) as Record<string, string>;
		const account = engine.account(accountOf(c));
		const mode: Mode = c.req.query('mode') === 'test' ? 'test' : 'live';
		const moved = engine.settle(account, mode, step === 'settle' ? 'settle' : 'pay out');
		return c.redirect(`/console/payments?account=${account.id}&mode=${mode}&said=${moved}+moved.`);
	});
	app.post('/payments/:id', async (c) => {
		const { act, sum } = (await c.req.parseBody()) as Record<string, string>;
		const payment = state.get('payments', c.req.param('id'));
		const minor = payment && sum !== undefined ? minorOf(sum.trim(), payment.currency) : undefined;
		const done = payment && (act !== 'refund' || minor) ? actOn(engine, payment.id, act as Act, { minor }) : undefined;
		return c.redirect(
			`/console/payments?account=${accountOf(c)}&mode=${c.req.query('mode') ?? 'live'}${done ? '' : '&said=That+cannot+be+done.'}`
		);
	});

	app.get('/hooks', (c) =>
		c.html(
			page(
				words.hooks,
				html`${accounts.map((id) =>
						(['live', 'test'] as const).map((mode) => {
							const mine = state.all('listeners').filter((one) => one.account === id && one.mode === mode);
							const hand = hooksByHand;
							return html`<section>
								<h2>${id}, ${mode === 'live' ? 'real' : 'trial'}</h2>
								${
									hand
										? html`<form method="post" action="/console/hooks/set" class="tall">
												<input type="hidden" name="account" value="${id}" /><input
													type="hidden"
													name="mode"
													value="${mode}"
												/>
												<p>
													<label
														>Address that is told
														<input
															name="address"
															size="60"
															value="${mine[0]?.address ?? ''}"
															aria-label="Address, ${id} ${mode}"
													/></label>
												</p>
												${hand.topics.map(
													(topic) =>
														html`<label
															><input
																type="checkbox"
																name="topics"
																value="${topic}"
																${mine[0]?.topics.includes(topic) ? raw('checked') : ''}
															/>
															${topic}</label
														> `
												)}
												<p><button>Keep these</button></p>
											</form>`
										: mine.map(
												(one) =>
													html`<p><code>${one.address}</code><br />${one.topics.join(', ')}</p>
														<form method="post" action="/console/hooks/topics">
															<input type="hidden" name="id" value="${one.id}" />
															<input name="topics" size="70" value="${one.topics.join(' ')}" aria-label="Events" />
															<button class="plain">Change events</button>
														</form>`
											)
								}
							</section>`;
						})
					)}
					<h2>Sent</h2>
					<table>
						${state
							.all('deliveries')
							.reverse()
							.slice(0, 60)
							.map(
								(one) =>
									html`<tr>
										<td><code>${one.id}</code></td>
										<td>${one.topic}</td>
										<td>${one.done ? 'done' : one.next ? 'waiting' : 'given up'}</td>
										<td>${one.tries.map((t) => html`${t.at.slice(11, 19)} ${t.result}<br />`)}</td>
										<td>
											<form method="post" action="/console/again">
												<input type="hidden" name="id" value="${one.id}" /><button class="plain">Send again</button>
											</form>
										</td>
									</tr>`
							)}
					</table>`
			)
		)
	);
	app.post('/hooks/set', async (c) => {
		const form = (await c.req.parseBody({ all: true })) as Record<string, string | string[]>;
		const [account, mode] = [String(form.account), form.mode === 'test' ? ('test' as const) : ('live' as const)];
		if (!hooksByHand || !accounts.includes(account)) return c.redirect('/console/hooks');
		const id = `${house.prefix}L${account}${mode}`;
		const address = String(form.address ?? '').trim();
		if (!address) state.remove('listeners', id);
		else
			state.put('listeners', id, {
				id,
				account,
				mode,
				address,
				topics: [form.topics ?? []].flat(),
				secret: hooksByHand.secret(account, mode)
			});
		return c.redirect('/console/hooks');
	});
	app.post('/hooks/topics', async (c) => {
		const { id, topics } = (await c.req.parseBody()) as Record<string, string>;
		const listener = state.get('listeners', id ?? '');
		if (listener)
			state.put('listeners', listener.id, { ...listener, topics: (topics ?? '').split(/[\s,]+/).filter(Boolean) });
		return c.redirect('/console/hooks');
	});
	app.post('/again', async (c) => {
		const { id } = (await c.req.parseBody()) as Record<string, string>;
		engine.again(id ?? '');
		return c.redirect('/console/hooks');
	});

	app.get('/cards', (c) =>
		c.html(
			page(
				words.cards,
				html`<table>
					<tr>
						<th>Number</th>
						<th>Scheme</th>
						<th>Funding</th>
						<th>Issued in</th>
						<th>What happens</th>
					</tr>
					${TEST_CARDS.filter((one) => options.testCards?.includes(one.scheme)).map(
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
	app.get('/prices', (c) => c.html(page(words.prices, html`${accounts.map((id) => prices(id))}`)));

	app.get('/faults', (c) =>
		c.html(
			page(
				words.faults,
				html`<form method="post" class="tall">
					${(Object.keys(FAULT_WORDS) as (keyof typeof FAULT_WORDS)[]).map(
						(name) =>
							html`<p>
								<label
									><input type="checkbox" name="${name}" ${engine.faults[name] ? raw('checked') : ''} />
									${FAULT_WORDS[name]}</label
								>
							</p>`
					)}
					<p>
						<label>Every request takes <input name="slow" size="6" value="${engine.faults.slow}" /> ms longer</label>
					</p>
					<button>Switch as ticked</button>
				</form>`
			)
		)
	);
	app.post('/faults', async (c) => {
		const form = (await c.req.parseBody()) as Record<string, string>;
		const next: Partial<Faults> = { slow: Math.max(0, Math.min(120_000, Number(form.slow) || 0)) };
		for (const name of Object.keys(NO_FAULTS))
			if (name !== 'id' && name !== 'slow') Object.assign(next, { [name]: name in form });
		engine.setFaults(next);
		return c.redirect('/console/faults');
	});

	for (const own of pages) {
		app.get(`/${own.path}`, (c) => c.html(page(own.name, own.show(c, accountOf(c)), accountOf(c))));
		for (const [act, run] of Object.entries(own.acts ?? {}))
			app.post(`/${own.path}/${act}`, async (c) => {
				run((await c.req.parseBody()) as Record<string, string>, accountOf(c));
				return c.redirect(`/console/${own.path}?account=${accountOf(c)}`);
			});
	}
	return { app, signedIn, page };
}
