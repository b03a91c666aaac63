import { audit, seal, unseal } from '../access';
import { db, MessageSettings, write } from '../db';
import { askOutside, OutsideError } from '../outside';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';
import { wake } from '../signals/wake';
import { openMail, sendMail, tryMail } from './mail';

export { MessageSettings };
export interface Sending {
	readonly form: MessageSettings;
	readonly mailPassword: string;
	readonly textKey: string;
	readonly hasPassword: boolean;
	readonly hasKey: boolean;
	readonly testedAt?: number;
	readonly says: string;
}
const EMPTY = MessageSettings.parse({ port: 587 });

/** How messages leave the house, with the secrets opened: for sending only. */
export async function sending(): Promise<Sending> {
	const row = await db.messageSettings.one({ id: 1 });
	return {
		form: row ? db.messageSettings.json.form(row.form) : EMPTY,
		mailPassword: row?.mailPasswordSealed ? unseal(row.mailPasswordSealed, 'mail password').toString() : '',
		textKey: row?.textKeySealed ? unseal(row.textKeySealed, 'text key').toString() : '',
		hasPassword: !!row?.mailPasswordSealed,
		hasKey: !!row?.textKeySealed,
		testedAt: row?.testedAt ?? undefined,
		says: row?.says ?? ''
	};
}

/** Keeps how messages are sent; secrets that are left empty stay as they were. Takes up what waited. */
export async function saveSending(
	form: MessageSettings,
	secrets: { readonly password?: string; readonly key?: string },
	by: string
): Promise<void> {
	await write(async (tx) => {
		const before = await db.messageSettings.one({ id: 1 }, tx);
		const row = {
			form: JSON.stringify(form),
			mailPasswordSealed: secrets.password
				? seal(secrets.password, 'mail password')
				: (before?.mailPasswordSealed ?? null),
			textKeySealed: secrets.key ? seal(secrets.key, 'text key') : (before?.textKeySealed ?? null),
			testedAt: null,
			says: ''
		};
		if (before) await db.messageSettings.update({ id: 1 }, row, tx);
		else await db.messageSettings.insert({ id: 1, ...row }, tx);
		await db.outbox.update({ state: 'waiting' }, { nextAt: 0 }, tx);
		await audit(
			{
				by,
				kind: 'message',
				id: 'settings',
				name: 'How messages are sent',
				act: 'changed',
				before: before && db.messageSettings.json.form(before.form),
				after: form
			},
			tx
		);
	});
	tell('bill');
	wake();
}

/** Tries the mail server by a mail to somebody. @returns what came of it */
export async function testMail(to: string, businessName: string): Promise<{ says: string } | { problem: string }> {
	const { form, mailPassword } = await sending();
	if (!form.host || !form.fromMail)
		return { problem: 'Give the mail server and the address that mails come from first.' };
	const wrong = await tryMail(form, mailPassword);
	let says = wrong ?? '';
	if (!wrong) {
		const transport = openMail(form, mailPassword);
		const delivery = await sendMail(transport, form, {
			to,
			toName: '',
			subject: `Test from ${businessName}`,
			text: `This mail server works: ${businessName} can send invoices through it.`,
			messageId: `<test-${timeNow()}@${form.fromMail.split('@')[1] ?? 'localhost'}>`,
			at: timeNow()
		});
		transport.close();
		says = delivery.state === 'sent' ? '' : delivery.says;
	}
	await write((tx) => db.messageSettings.update({ id: 1 }, { testedAt: timeNow(), says }, tx));
	tell('bill');
	return says ? { problem: says } : { says: `A test mail is on its way to ${to}.` };
}

/** Sends one text through the gateway. The gateway keeps by the key what it has taken, so that trying again sends it once. */
export async function sendText(
	{ form, textKey }: Sending,
	to: string,
	text: string,
	key: string
): Promise<{ state: 'sent' | 'later' | 'refused'; says: string }> {
	try {
		const answer = await askOutside(form.textAddress, {
			method: 'POST',
			headers: {
				'content-type': 'application/json',
				'idempotency-key': key,
				...(textKey ? { authorization: `Bearer ${textKey}` } : {})
			},
			body: JSON.stringify({ to, from: form.textFrom, text })
		});
		if (answer.status < 300) return { state: 'sent', says: '' };
		const says = `The gateway answered ${answer.status}: ${answer.text.slice(0, 160)}`;
		return { state: answer.status >= 500 || answer.status === 429 ? 'later' : 'refused', says };
	} catch (error) {
		if (!(error instanceof OutsideError)) throw error;
		return { state: 'later', says: 'The gateway does not answer.' };
	}
}
