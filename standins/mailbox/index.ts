import { Hono } from 'hono';
import { html, raw } from 'hono/html';
import { simpleParser } from 'mailparser';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { SMTPServer } from 'smtp-server';
import { timeNow } from '../shared/clock.ts';
import { Journal } from '../shared/journal.ts';
import type { Manifest } from '../shared/manifest.ts';
import { serve, type RunningStandin, type StandinOptions } from '../shared/serve.ts';

/** A mail as it came. */
export interface KeptMail {
	readonly id: string;
	readonly messageId: string;
	readonly from: string;
	readonly to: string;
	readonly subject: string;
	readonly text: string;
	readonly at: number;
}
interface Faults {
	/** nobody answers: connections are cut as they come */
	down?: boolean;
	/** milliseconds that every answer is late */
	slow?: number;
	/** addresses that are refused for good */
	refuses?: string[];
	/** takes the words, and cuts the connection before it says so; it keeps the mail all the same */
	dropsAfterData?: boolean;
	/** cuts the connection while the words are still coming: it keeps nothing */
	dropsInData?: boolean;
}
export const MAIL_USER = { user: 'purse', password: 'post-horn' };

const CSS = `body{font:16px/1.5 Georgia,serif;max-width:760px;margin:36px auto;color:#26343c}a{color:#26506e}table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:4px 10px 4px 0;border-bottom:1px solid #ccd6db}pre{white-space:pre-wrap;font:inherit}`;
const escape = (text: string) => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;');

/** Everybody's mailbox: a mail server, and pages on which one reads what came and follows its links. */
export async function startMailbox({ port, folder }: StandinOptions): Promise<RunningStandin> {
	const state = new Journal<{ mails: KeptMail }>(join(folder, 'mailbox.journal'));
	let faults: Faults = {};
	let count = state.all('mails').length;
	const late = () => new Promise((next) => setTimeout(next, faults.slow ?? 0));
	const smtp = new SMTPServer({
		authOptional: true,
		disabledCommands: ['STARTTLS'],
		disableReverseLookup: true,
		logger: false,
		size: 10_000_000,
		onConnect: (session, done) => {
			if (faults.down) return done(new Error('not now'));
			void late().then(() => done());
		},
		onAuth: ({ username, password }, _session, done) =>
			username === MAIL_USER.user && password === MAIL_USER.password
				? done(null, { user: username })
				: done(new Error('no such user')),
		onRcptTo: ({ address }, _session, done) =>
			faults.refuses?.includes(address)
				? done(Object.assign(new Error(`no mailbox ${address}`), { responseCode: 550 }))
				: done(),
		onData: (stream, session, done) => {
			if (faults.dropsInData) {
				stream.once('data', () => cut(session.id));
				stream.resume();
				return;
			}
			const chunks: Buffer[] = [];
			stream.on('data', (chunk: Buffer) => chunks.push(chunk));
			stream.once('end', () => {
				void (async () => {
					const mail = await simpleParser(Buffer.concat(chunks));
					await late();
					for (const { address } of session.envelope.rcptTo) {
						const id = String(++count);
						state.put('mails', id, {
							id,
							messageId: mail.messageId ?? '',
							from: mail.from?.text ?? '',
							to: address,
							subject: mail.subject ?? '',
							text: mail.text ?? '',
							at: timeNow()
						});
					}
					if (faults.dropsAfterData) return cut(session.id);
					done();
				})();
			});
		}
	});
	/** Ends the connection of a session without a word. */
	const cut = (id: string) => {
		for (const one of (smtp as unknown as { connections: Set<{ id: string; _socket: { destroy(): void } }> })
			.connections)
			if (one.id === id) one._socket.destroy();
	};
	smtp.on('error', () => {});
	await new Promise<void>((ready, failed) => {
		smtp.once('error', failed);
		smtp.listen(port ? port + 10 : 0, '127.0.0.1', () => ready());
	});
	const smtpPort = (smtp.server.address() as AddressInfo).port;

	const app = new Hono();
	app.get('/ready', (c) => c.json({ standin: 'mailbox' }));
	app.get('/control/smtp', (c) => c.json({ port: smtpPort, ...MAIL_USER }));
	app.get('/control/mails', (c) => {
		const to = c.req.query('to');
		return c.json(state.all('mails').filter((one) => !to || one.to === to));
	});
	app.post('/control/faults', async (c) => {
		faults = (await c.req.json()) as Faults;
		return c.json(faults);
	});
	const page = (title: string, body: unknown) =>
		html`<!doctype html>
			<html lang="en">
				<head>
					<meta charset="utf-8" />
					<meta name="viewport" content="width=device-width" />
					<title>${title}</title>
					<style>
						${raw(CSS)}
					</style>
				</head>
				<body>
					${body}
				</body>
			</html>`;
	app.get('/', (c) => {
		const to = c.req.query('to') ?? '';
		const mails = state
			.all('mails')
			.filter((one) => !to || one.to === to)
			.reverse();
		return c.html(
			page(
				'Mailbox',
				html`<h1>Mailbox${to ? ` of ${to}` : ''}</h1>
					<form>
						<input name="to" value="${to}" placeholder="mail address" aria-label="Mail address" /> <button>Show</button>
					</form>
					<table>
						${mails.slice(0, 200).map(
							(one) =>
								html`<tr>
									<td>${new Date(one.at).toISOString().slice(0, 16).replace('T', ' ')}</td>
									<td>${one.to}</td>
									<td><a href="/mail/${one.id}">${one.subject || '(no subject)'}</a></td>
								</tr>`
						)}
					</table>
					${mails.length ? '' : html`<p>Nothing has come yet.</p>`}`
			)
		);
	});
	app.get('/mail/:id', (c) => {
		const mail = state.get('mails', c.req.param('id'));
		if (!mail) return c.text('There is no such mail.', 404);
		const text = escape(mail.text).replace(/https?:\/\/[^\s<]+/g, (address) => `<a href="${address}">${address}</a>`);
		return c.html(
			page(
				mail.subject,
				html`<p><a href="/?to=${mail.to}">Mailbox</a></p>
					<h1>${mail.subject}</h1>
					<p>From ${mail.from} to ${mail.to}</p>
					<pre>${raw(text)}</pre>`
			)
		);
	});
	return serve('Mailbox', app, port, () => {
		state.close();
		smtp.close();
	});
}

export const manifest: Manifest = { name: 'mailbox', port: 5248, start: startMailbox };
