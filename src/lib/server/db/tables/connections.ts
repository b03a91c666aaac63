import { z } from 'zod';
import { NOTICES } from '../../../core/notices';
import { Named, StoredAccount, Texts, Thresholds } from '../held';
import { freeText, json, oneOf, orNull, table, text, whole, type RowOf } from '../table';

// Processors, as we are connected to them. Flags are 0 or 1; what holds JSON names what it may hold, and is read by `json` of its table.

const Notices = z.array(z.enum(NOTICES));

export const connections = table(
	'connections',
	{
		id: text,
		processor: text,
		name: text,
		mode: oneOf('test', 'live'),
		accountId: text,
		accountName: text,
		accountCountry: text,
		settlement: text,
		timeZone: text,
		given: json(Named),
		secretSealed: text,
		secretLast4: text,
		keyMadeAt: orNull(whole),
		hookKey: text,
		hookId: orNull(text),
		hookSecretSealed: orNull(text),
		hookNotices: json(Notices),
		hookHeardAt: orNull(whole),
		account: json(StoredAccount),
		accountReadAt: whole,
		descriptor: text,
		shortDescriptor: text,
		capture: oneOf('at once', 'later'),
		bankAccountId: orNull(text),
		expectedDays: orNull(whole),
		cutOff: text,
		bankCalendar: text,
		clearingAccount: text,
		feeAccount: text,
		oldGiven: orNull(text),
		oldSecretSealed: orNull(text),
		oldSecretLast4: orNull(text),
		oldHookSecretSealed: orNull(text),
		oldUntil: orNull(whole),
		hookTicked: json(Notices),
		/** whom the processor mails when its notifications do not get here; empty: nobody, null: nobody has said */
		hookMail: orNull(text),
		verified: whole,
		paused: whole,
		failing: whole,
		createdAt: whole,
		removedAt: orNull(whole)
	},
	['id']
);
export type ConnectionRow = RowOf<typeof connections>;

export const connectionChanges = table(
	'connection_changes',
	{
		id: whole,
		connectionId: text,
		at: whole,
		change: text,
		why: freeText
	},
	['id'],
	true
);
export type ConnectionChangeRow = RowOf<typeof connectionChanges>;

export const connectDrafts = table(
	'connect_drafts',
	{
		id: text,
		processor: text,
		mode: oneOf('test', 'live'),
		userId: text,
		connectionId: orNull(text),
		given: json(Named),
		secretSealed: orNull(text),
		hookKey: text,
		stateHash: orNull(text),
		browserHash: orNull(text),
		verifierSealed: orNull(text),
		says: freeText,
		changedAt: whole
	},
	['id']
);
export type ConnectDraftRow = RowOf<typeof connectDrafts>;

export const abilityChanges = table(
	'ability_changes',
	{
		id: whole,
		connectionId: text,
		at: whole,
		says: freeText,
		seenAt: orNull(whole)
	},
	['id'],
	true
);
export type AbilityChangeRow = RowOf<typeof abilityChanges>;

export const applications = table(
	'applications',
	{
		id: text,
		processor: text,
		number: text,
		mail: text,
		state: text,
		papers: json(Texts),
		says: freeText,
		askedAt: whole,
		createdAt: whole,
		removedAt: orNull(whole)
	},
	['id']
);
export type ApplicationRow = RowOf<typeof applications>;

export const domains = table(
	'domains',
	{
		domain: text,
		page: text,
		createdAt: whole
	},
	['domain']
);
export type DomainRow = RowOf<typeof domains>;

export const domainProofs = table(
	'domain_proofs',
	{
		domain: text,
		connectionId: text,
		path: text,
		content: text,
		state: oneOf('missing', 'proven', 'failing'),
		says: freeText,
		lookedAt: orNull(whole)
	},
	['domain', 'connectionId']
);
export type DomainProofRow = RowOf<typeof domainProofs>;

export const pageCodes = table(
	'page_codes',
	{
		domain: text,
		connectionId: text,
		state: oneOf('present', 'missing'),
		says: freeText,
		lookedAt: whole
	},
	['domain', 'connectionId']
);
export type PageCodeRow = RowOf<typeof pageCodes>;

export const offlineMethods = table(
	'offline_methods',
	{
		id: text,
		kind: text,
		name: freeText,
		instructions: freeText,
		afterNote: freeText,
		holder: freeText,
		iban: text,
		bic: text,
		currencies: json(Texts),
		referenceStyle: text,
		pictureCode: text,
		followUp: freeText,
		transferCode: whole,
		termDays: whole,
		threshold: json(Thresholds),
		paused: whole,
		createdAt: whole,
		removedAt: orNull(whole)
	},
	['id']
);
export type OfflineMethodRow = RowOf<typeof offlineMethods>;
