import { maskInJson } from '../../../core/cards';
import { z } from 'zod';
import { LineUp } from '../../../core/lineup';
import { Texts, TillSettings } from '../held';
import { freeText, json, oneOf, orNull, soughtText, table, text, whole, type RowOf } from '../table';

// Where payers pay, and what is offered there. Flags are 0 or 1; what holds JSON names what it may hold, and is read by `json` of its table.

/** What a payer was asked for, as far as it was known. */
const Asked = z.record(z.string(), z.unknown());

export const tills = table(
	'tills',
	{
		id: text,
		slug: text,
		name: freeText,
		kind: text,
		mode: oneOf('test', 'live'),
		currencies: json(Texts),
		colour: text,
		fulfil: text,
		domain: text,
		brandId: orNull(text),
		settings: json(TillSettings, '{}'),
		signingKeySealed: text,
		createdAt: whole
	},
	['id']
);
export type TillRow = RowOf<typeof tills>;

export const lineUps = table(
	'lineup_versions',
	{
		id: whole,
		tillId: text,
		number: orNull(whole),
		state: oneOf('draft', 'published', 'replaced'),
		offers: json(LineUp),
		basedOn: orNull(whole),
		revision: whole,
		byUser: text,
		at: whole,
		reason: freeText
	},
	['id'],
	true
);
export type LineUpRow = RowOf<typeof lineUps>;

export const templates = table(
	'lineup_templates',
	{
		id: text,
		name: freeText,
		offers: json(LineUp),
		byUser: text,
		at: whole
	},
	['id']
);
export type TemplateRow = RowOf<typeof templates>;

export const pauses = table(
	'pauses',
	{
		id: text,
		kind: oneOf('connection', 'method', 'scheme', 'currency'),
		value: text,
		until: orNull(whole),
		reason: freeText,
		byUser: text,
		at: whole,
		endedAt: orNull(whole)
	},
	['id']
);
export type PauseRow = RowOf<typeof pauses>;

export const trials = table(
	'trials',
	{
		id: text,
		tillId: text,
		versionId: whole,
		state: text,
		revision: whole,
		offers: json(LineUp),
		outcome: text,
		query: freeText,
		byUser: text,
		at: whole,
		paymentId: orNull(whole)
	},
	['id']
);
export type TrialRow = RowOf<typeof trials>;

export const unmet = table(
	'unmet',
	{
		id: whole,
		tillId: text,
		at: whole,
		kind: oneOf('nothing offered', 'card type'),
		currency: text,
		minor: whole,
		reference: text,
		context: { ...json(Asked, '{}'), clean: maskInJson }
	},
	['id'],
	true
);
export type UnmetRow = RowOf<typeof unmet>;

export const payers = table(
	'payers',
	{
		id: text,
		/** the business's own number of them, or empty */
		number: { ...freeText, sought: true },
		name: freeText,
		company: freeText,
		mail: soughtText,
		phone: freeText,
		street: freeText,
		postcode: freeText,
		city: freeText,
		country: text,
		/** the language they are written to in; the business's own where empty */
		language: text,
		taxNumber: freeText,
		notes: freeText,
		/** 1 has an online method, 0 has none, null not known */
		onlineMethod: orNull(whole),
		prefers: oneOf('', 'online', 'offline'),
		channel: oneOf('mail', 'text', 'page'),
		/** which of several templates they are written to by */
		template: freeText,
		createdAt: whole,
		/** removed: what the books need stays, what is personal is gone */
		removedAt: orNull(whole)
	},
	['id']
);
export type PayerRow = RowOf<typeof payers>;

export const payerGroups = table(
	'payer_groups',
	{
		id: text,
		name: freeText,
		createdAt: whole
	},
	['id']
);
export type PayerGroupRow = RowOf<typeof payerGroups>;

export const payerMemberships = table(
	'payer_memberships',
	{
		payerId: text,
		groupId: text
	},
	['payerId', 'groupId']
);
export type PayerMembershipRow = RowOf<typeof payerMemberships>;
