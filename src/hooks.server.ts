import { building } from '$app/environment';
import { makeFirstUser, payForPage, prepareSealing, SESSION_COOKIE, whoIs } from '$lib/server/access';
import { business } from '$lib/server/connect/business';
import { CONNECTORS } from '$lib/server/connectors';
import { BodyRefused, withCountedBody } from '$lib/server/bodies';
import { withAsker } from '$lib/server/signals/asker';
import { open, sayStartTrouble } from '$lib/server/db';
import { log } from '$lib/server/log';
import { withRequestId } from '$lib/server/requestId';
import { receive } from '$lib/server/watch/receive';
import { proofAt } from '$lib/server/connect/domains';
import { startWorker, stopWorker } from '$lib/server/work/worker';
import { frameworkProblem } from '$lib/server/api/problem';
import { redirect, type Handle, type HandleServerError, type ServerInit } from '@sveltejs/kit';

export const init: ServerInit = async () => {
	if (building) return;
	try {
		await open();
		await prepareSealing();
		await makeFirstUser();
	} catch (error) {
		// whoever starts it reads a sentence and what to do, not where in our code it came to light
		process.stderr.write(`Just Purse does not start. ${sayStartTrouble(error)}\n`);
		process.exit(1);
	}
	// an error that nobody waits for is told, and ends nothing: payers are served on
	process.on('unhandledRejection', (error) =>
		log.error({ error: error instanceof Error ? error.stack : String(error) }, 'nobody saw to an error')
	);
	// server.mjs hands notifications over without a detour through the pages
	Object.assign(globalThis, {
		[Symbol.for('just-purse.receive')]: receiveWithId,
		[Symbol.for('just-purse.stop')]: stopWorker
	});
	startWorker();
};

/** Receives a notification under an id of its own. What cannot be kept is told in the log, and its sender is asked to send it again. */
const receiveWithId = (...given: Parameters<typeof receive>) =>
	withRequestId((id) => {
		const failed = (error: unknown) => {
			log.error({ error: error instanceof Error ? error.stack : String(error) }, 'a notification was not kept');
			return { status: 500, text: 'Something went wrong here. Please send it again.' };
		};
		try {
			const reply = receive(...given);
			return { id, reply: reply instanceof Promise ? reply.catch(failed) : reply };
		} catch (error) {
			return { id, reply: failed(error) };
		}
	});

/** What anyone may ask for: signing in, payers' pages, and where processors call. Everything else needs a session. */
const OPEN = /^\/(sign-in|pay|paid|invoice|owed|link|inset|hooks|api|docs|empty|health|metrics)(\/|$)/;

/** Pages that payers see. */
const PAYERS_PAGE = /^\/(pay|paid|invoice|owed|link)(\/|$)/;

export const handle: Handle = (asked) =>
	withRequestId(async (id) => {
		const answer = await withAsker(asked.event.platform?.req.socket, () => answerRequest(asked));
		try {
			answer.headers.set('x-request-id', id);
		} catch {
			// an answer whose headers are closed goes without it
		}
		return answer;
	});

const answerRequest: Handle = async ({ event, resolve }) => {
	const { pathname } = event.url;
	const reader = readLocale(event.request.headers.get('accept-language'));
	// at the desk sums and days are the business's own way, whatever the browser is set to
	const own = OPEN.test(pathname) || pathname.startsWith('/.well-known/') ? '' : ((await business())?.locale ?? '');
	event.locals.locale = own || reader;
	const theme = event.cookies.get('purse_theme');
	event.locals.theme = theme === 'dark' || theme === 'light' ? theme : 'auto';
	// a payer's page is in the colours of the shop, not of the reader's system
	if (PAYERS_PAGE.test(pathname)) event.locals.theme = 'light';
	// the desk speaks English; a payer's page says which language it speaks
	event.locals.language = 'en';
	event.locals.frames = [];
	// a page stays loaded while one goes from sheet to sheet, so every one of them may lead on to a consent
	event.locals.goes = OPEN.test(pathname) ? [] : consentOrigins();
	if (pathname === '/sign-out' && event.request.method !== 'POST')
		return new Response('One signs out by a form.', { status: 405, headers: { allow: 'POST' } });
	if (pathname.startsWith('/.well-known/')) {
		// the proof of a domain, for the processor that looks at it under the domain's own name
		const proof = await proofAt(event.request.headers.get('host') ?? event.url.host, pathname);
		return new Response(proof ?? 'There is nothing here.', {
			status: proof === undefined ? 404 : 200,
			headers: { 'content-type': 'text/plain; charset=utf-8', 'x-content-type-options': 'nosniff' }
		});
	}
	// the interface knows tokens, not cookies, so a page of another site has nothing to misuse
	if (!/^\/(api|hooks)\//.test(pathname) && isForeignWrite(event.request, event.url.origin))
		return new Response('This form came from another site.', { status: 403 });
	if (!OPEN.test(pathname)) {
		event.locals.user = await whoIs(event.cookies.get(SESSION_COOKIE));
		if (!event.locals.user) {
			const page = event.request.method === 'GET' && event.request.headers.get('accept')?.includes('text/html');
			if (!page && !event.isDataRequest) return new Response('Sign in first.', { status: 401 });
			redirect(303, `/sign-in?to=${encodeURIComponent(pathname + event.url.search)}`);
		}
		if (pathname !== '/set-up' && pathname !== '/sign-out' && !(await business())) redirect(303, '/set-up');
	}
	if (event.route.id?.startsWith('/(payer)/')) {
		const seconds = await payForPage({
			address: event.getClientAddress(),
			isAct: event.request.method === 'POST',
			till: event.params.till ?? event.params.token ?? event.params.slug ?? '',
			order: event.url.searchParams.get('reference') ?? ''
		});
		if (seconds !== undefined)
			return new Response(`Too many requests. Try again in ${seconds} second${seconds === 1 ? '' : 's'}.`, {
				status: 429,
				headers: { 'retry-after': String(seconds), 'content-type': 'text/plain; charset=utf-8' }
			});
	}
	try {
		event.request = await withCountedBody(event.request, event.route.id);
	} catch (error) {
		if (!(error instanceof BodyRefused)) throw error;
		// what is left of it is not read: the connection ends with the answer
		const refused = new Response(error.message, {
			status: error.status,
			headers: { 'content-type': 'text/plain; charset=utf-8' }
		});
		const answer = pathname.startsWith('/api/')
			? frameworkProblem(refused, pathname)
			: event.request.headers.get('x-sveltekit-action')
				? // a form of the desk keeps what was typed, and says why
					Response.json({
						type: 'failure',
						status: error.status,
						data: JSON.stringify([{ trouble: 1, says: 1 }, error.message])
					})
				: refused;
		answer.headers.set('connection', 'close');
		return answer;
	}
	if (pathname.startsWith('/hooks/')) return resolve(event);
	const response = await resolve(event, {
		transformPageChunk: ({ html }) =>
			html.replace('%theme%', event.locals.theme).replace('%lang%', event.locals.language)
	});
	// what the framework refuses by itself is told as every problem of the interface
	if (
		pathname.startsWith('/api/') &&
		response.status >= 400 &&
		!/json/.test(response.headers.get('content-type') ?? '')
	)
		return frameworkProblem(response, pathname);
	const policy = response.headers.get('content-security-policy');
	if (policy && (pathname.startsWith('/pay/') || event.locals.goes.length)) {
		// a form may lead on to a processor's page: to pay, or to give consent
		let own = policy.replace("form-action 'self'", `form-action 'self' ${event.locals.goes.join(' ')}`);
		// a payer's page frames the processor's card fields, and may itself stand in a frame of the desk
		if (pathname.startsWith('/pay/'))
			own = own
				.replace("frame-src 'self'", `frame-src 'self' ${event.locals.frames.join(' ')}`)
				.replace("frame-ancestors 'none'", "frame-ancestors 'self'");
		response.headers.set('content-security-policy', own);
	}
	response.headers.set('x-content-type-options', 'nosniff');
	response.headers.set('referrer-policy', 'same-origin');
	if (!OPEN.test(pathname)) response.headers.set('cache-control', 'no-store');
	// nobody's order is found by a search engine
	if (PAYERS_PAGE.test(pathname)) response.headers.set('x-robots-tag', 'noindex, nofollow');
	return response;
};

/** Origins of the processors that ask for consent on a page of their own. */
const consentOrigins = (): string[] =>
	Object.values(CONNECTORS)
		.filter((one) => one.consent)
		.map((one) => new URL(one.console).origin);

/** Whether a request would change something and does not come from a page of our own. */
const isForeignWrite = ({ method, headers }: Request, own: string): boolean =>
	method !== 'GET' && method !== 'HEAD' && method !== 'OPTIONS' && headers.get('origin') !== own;

const known = new Map<string, string>();

/** The first language that a browser asks for, when the runtime can format for it; British English otherwise. */
function readLocale(header: string | null): string {
	const first = header?.split(',')[0]?.split(';')[0]?.trim() || 'en-GB';
	let locale = known.get(first);
	if (!locale) {
		try {
			locale = first === '*' || first === 'en' ? 'en-GB' : (Intl.getCanonicalLocales(first)[0] ?? 'en-GB');
		} catch {
			locale = 'en-GB';
		}
		if (known.size < 200) known.set(first, locale);
	}
	return locale;
}

export const handleError: HandleServerError = ({ error, event, status }) => {
	if (status === 404) return { message: 'There is nothing at this address.' };
	log.error(
		// what a database says is in the message alone
		{ path: event.url.pathname, says: String(error), error: error instanceof Error ? error.stack : undefined },
		'a request failed'
	);
	return {
		message: 'Something went wrong here.',
		help: 'Nothing was lost. Go back and try again; if it happens again, tell whoever looks after Just Purse.'
	};
};
