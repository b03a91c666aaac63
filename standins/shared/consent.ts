import { createHash, timingSafeEqual } from 'node:crypto';
import { Hono, type Context } from 'hono';
import { html } from 'hono/html';
import type { HtmlEscapedString } from 'hono/utils/html';
import { randomText, type Engine, type Grant, type Mode } from './engine.ts';
import { troubled } from './wire.ts';
import { timeNow } from './clock.ts';

type Piece = HtmlEscapedString | Promise<HtmlEscapedString>;

/** An application of somebody else's that may ask for consent here. It is registered with one exact return address. */
export interface Client {
	readonly id: string;
	readonly name: string;
	readonly returnTo: string;
}

export interface ConsentOptions {
	readonly engine: Engine;
	readonly client: Client;
	/** what can be asked for, and what it means in words */
	readonly scopes: Readonly<Record<string, string>>;
	/** the person who is signed in at the console, if any */
	signedIn(c: Context): boolean;
	readonly signInPath: string;
	page(title: string, body: Piece): Piece;
}

const CODE_SECONDS = 60;
const ACCESS_SECONDS = 3600;
const hashed = (text: string) => createHash('sha256').update(text).digest('hex');
const challengeOf = (verifier: string) => createHash('sha256').update(verifier).digest('base64url');
const same = (a: string, b: string) => a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));

/**
 * Consent by OAuth 2.0: authorisation code with PKCE, S256 only (RFC 6749, RFC 7636). Codes are used once; a code that
 * comes a second time ends everything that was given for it. Refresh tokens change with each use.
 */
export function consent({ engine, client, scopes, signedIn, signInPath, page }: ConsentOptions): Hono {
	const app = new Hono();
	const { state } = engine;

	const asked = (c: Context) => {
		const q = (name: string) => c.req.query(name) ?? '';
		const wanted = q('scope').split(' ').filter(Boolean);
		if (q('client_id') !== client.id) return { wrong: `No application is registered as “${q('client_id')}”.` };
		// the return address is compared whole: nothing is sent to another
		if (q('redirect_uri') !== client.returnTo)
			return { wrong: `The return address is not the one that ${client.name} registered.` };
		if (q('response_type') !== 'code' || q('code_challenge_method') !== 'S256' || q('code_challenge').length !== 43)
			return { wrong: 'The request is not complete.' };
		return {
			state: q('state'),
			challenge: q('code_challenge'),
			mode: (q('mode') === 'test' ? 'test' : 'live') as Mode,
			scope: wanted.filter((one) => Object.hasOwn(scopes, one))
		};
	};
	const back = (parts: Record<string, string>) => {
		const address = new URL(client.returnTo);
		for (const [name, value] of Object.entries(parts)) address.searchParams.set(name, value);
		return address.href;
	};

	app.get('/', (c) => {
		if (engine.faults.down) return c.text('', 503);
		const read = asked(c);
		if ('wrong' in read) return c.html(page('This does not work', html`<p>${read.wrong}</p>`), 400);
		if (!signedIn(c))
			return c.redirect(`${signInPath}?to=${encodeURIComponent(c.req.path + new URL(c.req.url).search)}`);
		return c.html(
			page(
				`${client.name} asks for your consent`,
				html`<p>
						${client.name} would like to act for your accounts at ${engine.house.name}, for
						${read.mode === 'test' ? 'trial' : 'real'} payments:
					</p>
					<form method="post" action="${new URL(c.req.url).search}">
						<ul>
							${read.scope.map(
								(one) =>
									html`<li>
										<label><input type="checkbox" name="scope" value="${one}" checked /> ${scopes[one]}</label>
									</li>`
							)}
						</ul>
						<button name="answer" value="yes">Give consent</button>
						<button name="answer" value="no" class="plain">Refuse</button>
					</form>`
			)
		);
	});
	app.post('/', async (c) => {
		const read = asked(c);
		if ('wrong' in read || !signedIn(c)) return c.text('This does not work.', 400);
		const given = (await c.req.parseBody({ all: true })) as Record<string, string | string[]>;
		if (given.answer !== 'yes') return c.redirect(back({ error: 'access_denied', state: read.state }));
		const ticked = [given.scope ?? []].flat();
		const code = randomText(40);
		state.put('grants', hashed(code), {
			id: hashed(code),
			kind: 'code',
			client: client.id,
			mode: read.mode,
			scope: read.scope.filter((one) => ticked.includes(one)).join(' '),
			challenge: read.challenge,
			returnTo: client.returnTo,
			until: timeNow() + CODE_SECONDS * 1000,
			consent: randomText(16)
		});
		return c.redirect(back({ code, state: read.state }));
	});

	const endAll = (id: string) => {
		for (const grant of state.all('grants')) if (grant.consent === id) state.remove('grants', grant.id);
	};
	const give = ({ client: id, mode, scope, consent: stem }: Grant) => {
		const seconds = engine.faults.shortTokens ? 2 : ACCESS_SECONDS;
		const [access, refresh] = [`at.${randomText(36)}`, `rt.${randomText(36)}`];
		for (const [token, kind, until] of [
			[access, 'access', timeNow() + seconds * 1000],
			[refresh, 'refresh', timeNow() + 180 * 86_400_000]
		] as const)
			state.put('grants', hashed(token), { id: hashed(token), kind, client: id, mode, scope, until, consent: stem });
		return { access_token: access, refresh_token: refresh, token_type: 'Bearer', expires_in: seconds, scope };
	};

	app.use('/token', troubled(engine));
	app.post('/token', async (c) => {
		const form = (await c.req.parseBody()) as Record<string, string>;
		const no = (error: string) => c.json({ error }, 400);
		if (form.client_id !== client.id) return no('invalid_client');
		if (form.grant_type === 'authorization_code') {
			const code = state.get('grants', hashed(form.code ?? ''));
			if (code?.used) endAll(code.consent);
			if (!code || code.kind !== 'code' || code.used || code.until < timeNow()) return no('invalid_grant');
			if (form.redirect_uri !== code.returnTo || !same(challengeOf(form.code_verifier ?? ''), code.challenge!))
				return no('invalid_grant');
			state.put('grants', code.id, { ...code, used: true });
			return c.json(give(code));
		}
		if (form.grant_type === 'refresh_token') {
			const old = state.get('grants', hashed(form.refresh_token ?? ''));
			if (!old || old.kind !== 'refresh' || old.until < timeNow()) return no('invalid_grant');
			state.remove('grants', old.id);
			return c.json(give(old));
		}
		return no('unsupported_grant_type');
	});
	app.post('/revoke', async (c) => {
		const { token } = (await c.req.parseBody()) as Record<string, string>;
		const grant = state.get('grants', hashed(token ?? ''));
		if (grant) endAll(grant.consent);
		return c.json({});
	});
	return app;
}

/** The grant behind a bearer token, or why there is none. */
export function bearer(engine: Engine, c: Context): Grant | 'unknown' | 'expired' {
	const token = /^Bearer (\S+)$/.exec(c.req.header('authorization') ?? '')?.[1] ?? '';
	const grant = engine.state.get('grants', hashed(token));
	if (!grant || grant.kind !== 'access') return 'unknown';
	return grant.until < timeNow() ? 'expired' : grant;
}

/** Every consent that stands, for the console; and its end. */
export const standingConsents = (engine: Engine): { id: string; mode: Mode; scope: string }[] => [
	...new Map(
		engine.state
			.all('grants')
			.filter((one) => one.kind === 'refresh')
			.map((one) => [one.consent, { id: one.consent, mode: one.mode, scope: one.scope }])
	).values()
];
export function withdraw(engine: Engine, id: string): void {
	for (const grant of engine.state.all('grants')) if (grant.consent === id) engine.state.remove('grants', grant.id);
}
