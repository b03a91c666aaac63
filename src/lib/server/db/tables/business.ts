import { z } from 'zod';
import { BillSettings, DetailsForm, Texts, TOKEN_SCOPES } from '../held';
import { freeJson, freeText, json, oneOf, orNull, table, text, whole, type RowOf } from '../table';

// What the business is, and who works with it. Flags are 0 or 1; what holds JSON names what it may hold, and is read by `json` of its table.

export const business = table(
	'business',
	{
		id: whole,
		name: freeText,
		country: text,
		homeCurrency: text,
		timeZone: text,
		details: json(DetailsForm, '{}'),
		offlineMinimum: orNull(whole),
		locale: text,
		billing: json(BillSettings, '{}'),
		updatedAt: whole
	},
	['id']
);
export type BusinessRow = RowOf<typeof business>;

export const brands = table(
	'brands',
	{
		id: text,
		name: freeText,
		country: text,
		homeCurrency: text,
		colour: text,
		statementName: text,
		createdAt: whole,
		removedAt: orNull(whole)
	},
	['id']
);
export type BrandRow = RowOf<typeof brands>;

export const bankAccounts = table(
	'bank_accounts',
	{
		id: text,
		name: freeText,
		holder: freeText,
		iban: text,
		bic: text,
		currency: text,
		createdAt: whole,
		removedAt: orNull(whole)
	},
	['id']
);
export type BankAccountRow = RowOf<typeof bankAccounts>;

export const ledgerAccounts = table(
	'ledger_accounts',
	{
		number: text,
		name: freeText,
		kind: text
	},
	['number']
);
export type LedgerAccountRow = RowOf<typeof ledgerAccounts>;

export const users = table(
	'users',
	{
		id: text,
		mail: text,
		name: text,
		role: text,
		passwordHash: text,
		createdAt: whole
	},
	['id']
);
export type UserRow = RowOf<typeof users>;

export const sessions = table(
	'sessions',
	{
		tokenHash: text,
		userId: text,
		createdAt: whole,
		expiresAt: whole
	},
	['tokenHash']
);
export type SessionRow = RowOf<typeof sessions>;

export const audit = table(
	'audit',
	{
		id: whole,
		at: whole,
		userName: text,
		objectKind: text,
		objectId: text,
		objectName: freeText,
		act: freeText,
		before: orNull(freeJson),
		after: orNull(freeJson)
	},
	['id'],
	true
);
export type AuditRow = RowOf<typeof audit>;

export const savedViews = table(
	'saved_views',
	{
		id: text,
		name: freeText,
		/** the filter, as the address of the list tells it */
		query: freeText,
		byUser: text,
		createdAt: whole
	},
	['id']
);
export type SavedViewRow = RowOf<typeof savedViews>;

export const tokens = table(
	'tokens',
	{
		id: text,
		name: freeText,
		hash: text,
		last4: text,
		byUser: text,
		createdAt: whole,
		usedAt: orNull(whole),
		revokedAt: orNull(whole),
		/** what it may be used for */
		scopes: json(z.array(z.enum(TOKEN_SCOPES))),
		/** the tills that it may be used at; all of them where there is none */
		tillIds: json(Texts, '[]'),
		/** tills of one mode alone; of both where it is empty */
		mode: oneOf('', 'test', 'live'),
		expiresAt: orNull(whole),
		/** the token before this one was rotated, and until when it is still good */
		oldHash: orNull(text),
		oldUntil: orNull(whole)
	},
	['id']
);
export type TokenRow = RowOf<typeof tokens>;

export const idempotentRequests = table(
	'idempotent_requests',
	{
		tokenId: text,
		key: text,
		digest: text,
		status: orNull(whole),
		body: freeJson,
		location: text,
		at: whole
	},
	['tokenId', 'key']
);
export type IdempotentRequestRow = RowOf<typeof idempotentRequests>;
