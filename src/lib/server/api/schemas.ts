import { z } from 'zod';
import { LineUpFile, METHODS, PLACES } from '../../core/lineup';

/** What the interface takes and gives. The document at `openapi.json` is made of these, and so are the checks. */

const currency = z.string().regex(/^[A-Z]{3}$/, 'A currency code of three capital letters.');
const minor = z.number().int().min(1).max(1_000_000_000_000);
const country = z.string().regex(/^[A-Z]{2}$/, 'A country code of two capital letters.');

export const Asked = z
	.object({
		currency: currency.describe('ISO 4217'),
		amountMinor: minor.describe('whole minor units of the currency'),
		country: country.optional().describe('payer’s country, ISO 3166-1 alpha-2; left out where not known'),
		payerMail: z.email().optional().describe('a payer known here by mail: groups and online method are theirs'),
		groups: z.array(z.string()).optional().describe('names of groups; an empty list is a payer in none'),
		goods: z.string().max(120).optional(),
		delivery: z.string().max(120).optional(),
		domain: z.string().max(120).optional(),
		recurring: z.boolean().optional(),
		orderedBy: z.enum(['page', 'interface']).default('interface'),
		hasOnlineMethod: z.boolean().optional(),
		lineUp: z.enum(['published', 'draft']).default('published')
	})
	.strict();

const CardTypes = z.object({
	schemes: z.array(z.string()).or(z.literal('any')),
	fundings: z.array(z.string()).or(z.literal('any')),
	regions: z.array(z.string()).or(z.literal('any'))
});
export const OfferedWay = z.object({
	offer: z.string(),
	name: z.string(),
	note: z.string(),
	method: z.enum(METHODS),
	place: z.enum(PLACES),
	storing: z.boolean(),
	through: z.string().describe('name of the connection or offline method that carries it'),
	standby: z.boolean().describe('whether that is the standby'),
	cardTypes: CardTypes.optional()
});
export const WithheldWay = z.object({
	offer: z.string(),
	name: z.string(),
	reasons: z.array(z.object({ check: z.string(), says: z.string() })).min(1)
});
export const Answered = z.object({
	till: z.string(),
	version: z.number().int().nullable(),
	offered: z.array(OfferedWay),
	withheld: z.array(WithheldWay)
});

export const TillSummary = z.object({
	till: z.string().describe('as addresses name it'),
	name: z.string(),
	kind: z.string(),
	mode: z.enum(['test', 'live']),
	currencies: z.array(z.string()),
	published: z.object({ version: z.number().int(), at: z.string(), by: z.string() }).nullable(),
	draft: z.object({ revision: z.number().int(), basedOn: z.number().int().nullable() }).nullable()
});
export const Tills = z.object({ tills: z.array(TillSummary) });
export const TillDetail = TillSummary.extend({
	lineUp: LineUpFile.nullable().describe('what is published'),
	draftLineUp: LineUpFile.nullable()
});

export const DraftPut = z
	.object({
		revision: z.number().int().min(0).describe('the revision of the draft that was read; 0 where there was none'),
		lineUp: LineUpFile
	})
	.strict();
export const DraftPutAnswer = z.object({ revision: z.number().int(), changes: z.array(z.string()) });
export const Publish = z
	.object({ revision: z.number().int().min(1), reason: z.string().max(300).default('') })
	.strict();
export const Published = z.object({ version: z.number().int() });

export const CheckoutPost = z
	.object({
		till: z.string().min(1).max(60),
		currency,
		amountMinor: minor,
		reference: z.string().trim().min(1).max(40),
		name: z.string().max(100).default(''),
		mail: z.email().or(z.literal('')).default(''),
		country: country.or(z.literal('')).default(''),
		purpose: z.string().max(120).default(''),
		goods: z.string().max(120).optional(),
		delivery: z.string().max(120).optional(),
		domain: z.string().max(120).optional(),
		recurring: z.boolean().optional(),
		replace: z
			.boolean()
			.default(false)
			.describe(
				'whether an earlier order under this reference, with another sum or payer, gives way; never one that is paid'
			)
	})
	.strict();
export const Checkout = z.object({
	checkout: z.number().int(),
	address: z.url().describe('where the payer pays; signed, so that nothing in it can be altered'),
	offered: z.number().int().describe('how many ways to pay the payer would meet there now')
});

export const ProblemDetails = z.object({
	type: z.string(),
	title: z.string(),
	status: z.number().int(),
	detail: z.string(),
	instance: z.string(),
	faults: z.array(z.object({ pointer: z.string(), detail: z.string() })).optional()
});
