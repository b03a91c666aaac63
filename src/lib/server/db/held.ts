import { z } from 'zod';
import { CardTypes } from '../../core/cards';
import { NOTICE_DAYS, TAX_CATEGORIES } from '../../core/billing';
import { ENTRY_MODES } from '../../core/fees';
import { METHODS } from '../../core/lineup';

// What columns hold as JSON where it is no shape of the core's. A column names its shape where its table is declared.

/** What tokens of the interface may be used for, each by itself. */
export const TOKEN_SCOPES = [
	'tills',
	'line-ups',
	'checkouts',
	'payments',
	'money',
	'payers',
	'fees',
	'billing'
] as const;
export type TokenScope = (typeof TOKEN_SCOPES)[number];

export const Texts = z.array(z.string());
/** Values by name. */
export const Named = z.record(z.string(), z.string());
export const Thresholds = z.array(z.object({ currency: z.string(), minimum: z.number().int() }));
export type Thresholds = z.infer<typeof Thresholds>;

const Limits = z.object({ min: z.number(), max: z.number(), forbidden: z.string() });
/** What an account can do, as it is kept from one reading to the next. */
export const StoredAccount = z.object({
	abilities: z.array(
		z.object({
			method: z.enum(METHODS),
			currencies: z.array(z.string()),
			entries: z.array(z.enum(ENTRY_MODES)),
			cardTypes: CardTypes.optional(),
			limits: z.array(
				z.object({ currency: z.string(), minimum: z.number().optional(), maximum: z.number().optional() })
			),
			wantsPageCode: z.boolean().optional(),
			wantsDomainProof: z.boolean().optional()
		})
	),
	unable: z
		.array(z.object({ method: z.enum(METHODS), why: z.enum(['not enabled', 'country', 'approval']), says: z.string() }))
		.default([]),
	schemes: z.array(z.object({ id: z.string(), name: z.string() })),
	descriptor: Limits,
	shortDescriptor: Limits.optional(),
	excludes: z.array(z.string()),
	payout: z.object({
		bankDays: z.number(),
		cutOff: z.string(),
		rhythms: z.array(z.string()).optional(),
		rhythm: z.string().optional(),
		heldUntil: z.string().optional()
	}),
	refundDays: z.number(),
	authorisationDays: z.number().optional(),
	returns: z.object({ bankDays: z.number(), weeks: z.number() }).optional()
});
export type StoredAccount = z.infer<typeof StoredAccount>;

const ASKED = z.enum(['no', 'may', 'must']).default('no');

const LOGO_MAX = 80_000;

/** What a till is beside its line-up: what it asks of payers, and how its page looks. */
export const TillSettings = z.object({
	/** further web domains on which payers see it */
	domains: z.array(z.string()).default([]),
	asksAddress: ASKED,
	asksPhone: ASKED,
	asksNote: ASKED,
	/** whether what it sells is delivered to an address */
	delivers: z.boolean().default(false),
	/** when the payer's receipt tells what an outside program calls the order */
	tellsOutside: z.enum(['never', 'at once', 'once it is paid']).default('never'),
	/** where a payer goes on to after paying; empty to stay at the receipt */
	landing: z
		.string()
		.trim()
		.max(300)
		.refine((text) => text === '' || /^https?:\/\/[^\s]+$/.test(text), 'An address that begins with https://.')
		.default(''),
	/** shares of the total that a payer may add for whoever served them, in per cent: `5 10 12.5`; none where it is empty */
	gratuityShares: z
		.string()
		.trim()
		.max(60)
		.refine(
			(text) =>
				text === '' ||
				text.split(/[\s;]+/).every((one) => /^\d{1,2}([.,]\d{1,2})?%?$/.test(one) && parseFloat(one) > 0),
			'Shares in per cent with spaces between, such as 5 10 12.5.'
		)
		.default(''),
	/** whether they may name a sum of their own */
	gratuityOwn: z.boolean().default(false),
	/** what stands at the head of the payer's page; the business's name where empty */
	heading: z.string().trim().max(60, 'At most 60 characters.').default(''),
	/** what the button says; what the method says by itself where empty */
	button: z.string().trim().max(40, 'At most 40 characters.').default(''),
	languages: z.array(z.enum(['en', 'nl', 'fr', 'de'])).default(['en']),
	/** a small picture as a data address */
	logo: z
		.string()
		.max(LOGO_MAX, 'The picture is larger than 60 kB.')
		.refine(
			(text) => text === '' || /^data:image\/(png|jpeg|webp);base64,[A-Za-z0-9+/=]+$/.test(text),
			'PNG, JPEG or WebP.'
		)
		.default('')
});
export type TillSettings = z.infer<typeof TillSettings>;
const line = (most: number) => z.string().trim().max(most, `At most ${most} characters.`).default('');
/** What processors ask of a business before they open an account. Each may stay empty until one asks. */
export const DetailsForm = z.object({
	legalName: line(120),
	legalForm: line(60),
	taxNumber: line(40),
	street: line(120),
	postcode: line(20),
	city: line(80),
	representative: line(120),
	representativeRole: line(80),
	industry: line(120),
	sells: line(300),
	delivery: line(160),
	phone: z
		.string()
		.trim()
		.regex(/^(\+?[\d ()/.-]{5,30})?$/, 'A telephone number has digits, such as +32 9 555 01 70.')
		.default(''),
	mail: z.email('Give a mail address, such as hello@wrenalder.example.').or(z.literal('')).default(''),
	social: z.url('Give the whole address, with https://.').max(200).or(z.literal('')).default('')
});
export type DetailsForm = z.infer<typeof DetailsForm>;

const Tax = z.object({
	name: z.string().trim().min(1).max(60),
	category: z.enum(TAX_CATEGORIES),
	rate: z.number().int().min(0).max(1_000_000)
});
/** How the business bills. */
export const BillSettings = z.object({
	/** whether an invoice is approved by itself when it is sent, or somebody approves it first */
	approval: z.enum(['on sending', 'first']).default('on sending'),
	pricing: z.enum(['without tax', 'with tax']).default('with tax'),
	taxes: z
		.array(Tax)
		.max(12)
		.default([
			{ name: 'Standard', category: 'standard', rate: 210_000 },
			{ name: 'Reduced', category: 'reduced', rate: 60_000 },
			{ name: 'Exempt', category: 'exempt', rate: 0 },
			{ name: 'Reverse charge', category: 'reverse charge', rate: 0 },
			{ name: 'Outside the scope', category: 'outside scope', rate: 0 }
		]),
	days: z.number().int().min(0).max(3650).default(14),
	quoteDays: z.number().int().min(1).max(3650).default(30),
	/** days between telling a payer of a bank debit and making it */
	noticeDays: z
		.number('A number of days.')
		.int('Whole days.')
		.min(1, 'One day of notice at least.')
		.max(60, 'At most 60 days of notice.')
		.default(NOTICE_DAYS),
	terms: line(4_000),
	noteFoot: line(2_000),
	reason: line(200),
	accent: z
		.string()
		.regex(/^(#[0-9a-f]{6})?$/i, 'A colour, such as #6b2d2a.')
		.default(''),
	logo: z
		.string()
		.max(LOGO_MAX, 'The picture is larger than 60 kB.')
		.refine((text) => text === '' || /^data:image\/(png|jpeg);base64,[A-Za-z0-9+/=]+$/.test(text), 'PNG or JPEG.')
		.default(''),
	/** names of header fields of the business's own */
	fields: z.array(z.string().trim().min(1).max(40)).max(8).default([]),
	/** whose instructions an invoice carries: of all offline ways of its till, or only of the payer's own */
	instructions: z.enum(['all', 'preferred']).default('all'),
	/** whether money with a creditor reference that fits is placed by itself */
	placesSure: z.boolean().default(true),
	/** who is told what was paid */
	tellPaid: z.array(z.email('This is not a mail address.')).max(10).default([])
});
export type BillSettings = z.infer<typeof BillSettings>;

/** How mail and texts leave the house. */
export const MessageSettings = z.object({
	host: line(200),
	port: z.coerce.number().int().min(1).max(65_535).default(587),
	security: z.enum(['none', 'starttls', 'tls']).default('starttls'),
	user: line(200),
	fromName: line(80),
	fromMail: z.email('Give the address that mails come from.').or(z.literal('')).default(''),
	textAddress: z
		.string()
		.trim()
		.max(300)
		.refine((text) => text === '' || /^https?:\/\/[^\s]+$/.test(text), 'An address that begins with https://.')
		.default(''),
	textFrom: line(20)
});
export type MessageSettings = z.infer<typeof MessageSettings>;

/** Who is told of what, and when not. */
export const WatchRules = z.object({
	/** mail addresses that are told at once of what is urgent */
	urgentTo: z.array(z.email()).max(20).default([]),
	/** a daily or weekly summary */
	digest: z.enum(['never', 'daily', 'weekly']).default('never'),
	digestTo: z.array(z.email()).max(20).default([]),
	/** hour of the day, in the business's time zone */
	digestHour: z.number().int().min(0).max(23).default(8),
	/** no mail from this hour on, until the other; the same hour twice means never quiet */
	quietFrom: z.number().int().min(0).max(23).default(21),
	quietTo: z.number().int().min(0).max(23).default(7),
	/** a discrepancy of so much is urgent, in minor units of the home currency */
	discrepancyFrom: z.number().int().min(0).max(1_000_000_000).default(10_000),
	/** the day of the last digest */
	digestSent: z.string().default(''),
	/** the moment of the last digest: what is settled after it stands in the next one */
	digestAt: z.number().int().min(0).default(0)
});
export type WatchRules = z.infer<typeof WatchRules>;
