import { createTransport, type Transporter } from 'nodemailer';
import MailComposer from 'nodemailer/lib/mail-composer';
import { Readable } from 'node:stream';
import type { MessageSettings } from '../db';
import { MAIL } from '../limits';

/** What became of a mail that was handed to its server. */
export type Delivery =
	| { readonly state: 'sent'; readonly says: string }
	/** not now; it was not handed over, so that trying again sends it once */
	| { readonly state: 'later'; readonly says: string }
	/** never: the server refuses it */
	| { readonly state: 'refused'; readonly says: string }
	/** it was handed over, and no answer came: whether it was taken is not known */
	| { readonly state: 'unknown'; readonly says: string };

export interface Mail {
	readonly to: string;
	readonly toName: string;
	readonly subject: string;
	readonly text: string;
	readonly messageId: string;
	readonly at: number;
}

/** A connection to the server that mails go through, kept for a round of them. */
export const openMail = (form: MessageSettings, password: string): Transporter =>
	createTransport({
		host: form.host,
		port: form.port,
		secure: form.security === 'tls',
		requireTLS: form.security === 'starttls',
		ignoreTLS: form.security === 'none',
		...(form.user ? { auth: { user: form.user, pass: password } } : {}),
		connectionTimeout: MAIL.connectMs,
		greetingTimeout: MAIL.connectMs,
		socketTimeout: MAIL.answerMs,
		pool: true,
		maxConnections: 1,
		disableFileAccess: true,
		disableUrlAccess: true
	} as never);

const escapeHtml = (text: string): string =>
	text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;');
/** Plain words as a simple page: paragraphs, and addresses that can be followed. */
export const asHtml = (text: string): string =>
	`<!doctype html><html><body style="font:16px/1.5 sans-serif;max-width:36em">${text
		.split(/\n{2,}/)
		.map(
			(part) =>
				`<p>${escapeHtml(part)
					.replace(/https?:\/\/[^\s<]+/g, (address) => `<a href="${address}">${address}</a>`)
					.replace(/\n/g, '<br>')}</p>`
		)
		.join('')}</body></html>`;

const compile = (message: object): Promise<Buffer> =>
	new Promise((done, failed) =>
		new MailComposer(message)
			.compile()
			.build((error: Error | null, built: Buffer) => (error ? failed(error) : done(built)))
	);

/**
 * Hands a mail to the server. Whether an error came before the words were handed over, or after it, decides whether it may be
 * tried again: what may have been taken is not sent twice.
 */
export async function sendMail(transport: Transporter, form: MessageSettings, mail: Mail): Promise<Delivery> {
	const raw = await compile({
		from: { name: form.fromName, address: form.fromMail },
		to: { name: mail.toName, address: mail.to },
		subject: mail.subject,
		text: mail.text,
		html: asHtml(mail.text),
		messageId: mail.messageId,
		date: new Date(mail.at)
	});
	let isHanded = false;
	// read only once the server has said that it waits for the words
	const words = new Readable({
		read() {
			isHanded = true;
			this.push(raw);
			this.push(null);
		}
	});
	try {
		const answer = (await transport.sendMail({
			envelope: { from: form.fromMail, to: [mail.to] },
			raw: words
		} as never)) as { response?: string };
		return { state: 'sent', says: answer.response ?? '' };
	} catch (error) {
		const {
			responseCode,
			code = '',
			message = ''
		} = error as { responseCode?: number; code?: string; message?: string };
		const says = message.slice(0, 300);
		// a server that turns us away altogether says nothing about this address
		if (responseCode && responseCode >= 500 && ['EENVELOPE', 'EMESSAGE'].includes(code))
			return { state: 'refused', says };
		if (responseCode) return { state: 'later', says };
		if (isHanded) return { state: 'unknown', says };
		return { state: 'later', says };
	}
}

/** Whether the server can be reached and lets us in. @returns what is wrong, if anything is */
export async function tryMail(form: MessageSettings, password: string): Promise<string | undefined> {
	const transport = openMail(form, password);
	try {
		await transport.verify();
		return undefined;
	} catch (error) {
		const { code = '', message = '' } = error as { code?: string; message?: string };
		const WHY: Readonly<Record<string, string>> = {
			ECONNREFUSED: 'Nothing answers at this host and port.',
			ECONNECTION: 'The connection could not be made.',
			ESOCKET: 'The connection could not be made: host, port or kind of security may be wrong.',
			ETIMEDOUT: 'The server does not answer in time.',
			EDNS: 'There is no host of this name.',
			EAUTH: 'The server does not take this user and password.',
			ETLS: 'The server does not speak TLS on this port.'
		};
		return `${WHY[code] ?? 'It does not work.'} (${message.slice(0, 160)})`;
	} finally {
		transport.close();
	}
}
