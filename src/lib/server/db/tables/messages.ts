import { MessageSettings } from '../held';
import { freeText, json, oneOf, orNull, table, text, whole, type RowOf } from '../table';

// What is told to payers and to the business, and how payers sign in.

export const messageTemplates = table(
	'message_templates',
	{
		id: text,
		event: text,
		brandId: text,
		language: text,
		channel: oneOf('mail', 'text', 'page'),
		/** one of several for the same event, which a payer can be given */
		variant: freeText,
		subject: freeText,
		body: freeText,
		byUser: text,
		at: whole
	},
	['id']
);
export type MessageTemplateRow = RowOf<typeof messageTemplates>;

export const outbox = table(
	'outbox',
	{
		id: whole,
		/** cause, payer and channel: nothing is sent twice for one */
		cause: text,
		event: text,
		channel: oneOf('mail', 'text', 'page'),
		payerId: orNull(text),
		invoiceId: orNull(whole),
		paymentId: orNull(whole),
		toAddress: text,
		toName: freeText,
		language: text,
		subject: freeText,
		body: freeText,
		state: oneOf('waiting', 'sending', 'sent', 'unknown', 'refused', 'failed'),
		tries: whole,
		nextAt: whole,
		says: freeText,
		messageId: text,
		byUser: text,
		createdAt: whole,
		sentAt: orNull(whole)
	},
	['id'],
	true
);
export type OutboxRow = RowOf<typeof outbox>;

export const messageSettings = table(
	'message_settings',
	{
		id: whole,
		form: json(MessageSettings),
		mailPasswordSealed: orNull(text),
		textKeySealed: orNull(text),
		testedAt: orNull(whole),
		says: freeText
	},
	['id']
);
export type MessageSettingsRow = RowOf<typeof messageSettings>;

export const payerSessions = table(
	'payer_sessions',
	{ tokenHash: text, payerId: text, createdAt: whole, expiresAt: whole },
	['tokenHash']
);
export const payerCodes = table(
	'payer_codes',
	{ mail: text, codeHash: text, tries: whole, createdAt: whole, expiresAt: whole },
	['mail']
);
