import { z } from 'zod';
import { COUNTRIES } from './places';

const Mail = z.email('This is not a mail address.');
const text = (most: number) => z.string().trim().max(most, `At most ${most} characters.`).default('');
export const PAYER_LANGUAGES = ['en', 'nl', 'fr', 'de'] as const;
/** A payer as somebody types one, or a file tells one. */
export const PayerForm = z.object({
	name: z.string().trim().min(1, 'Give the payer’s name.').max(100, 'At most 100 characters.'),
	mail: z
		.string()
		.trim()
		.toLowerCase()
		.max(200)
		.pipe(Mail.or(z.literal('')))
		.default(''),
	country: z
		.string()
		.trim()
		.toUpperCase()
		.refine((code) => code === '' || COUNTRIES.includes(code), 'No such country; a code of two letters, such as BE.')
		.default(''),
	online: z.enum(['', 'yes', 'no'], 'yes, no, or empty.').default(''),
	groups: z.array(z.string()).default([]),
	/** the business's own number of them */
	number: text(40),
	company: text(120),
	phone: z
		.string()
		.trim()
		.regex(/^(\+?[\d ()/.-]{5,30})?$/, 'A telephone number has digits, such as +32 9 555 01 70.')
		.default(''),
	street: text(160),
	postcode: text(20),
	city: text(80),
	language: z.enum(['', ...PAYER_LANGUAGES], 'en, nl, fr, de, or empty.').default(''),
	taxNumber: text(40),
	notes: text(2_000),
	/** which ways they like: kept, and shown first where both are offered */
	prefers: z.enum(['', 'online', 'offline'], 'online, offline, or empty.').default(''),
	channel: z.enum(['mail', 'text', 'page'], 'mail, text, or page.').default('mail'),
	template: text(40)
});
export type PayerForm = z.infer<typeof PayerForm>;

/** The columns of a file of payers; all but the name may be left out. Who is known is found by mail, or else by number. */
export const PAYER_COLUMNS = [
	'name',
	'mail',
	'country',
	'online',
	'groups',
	'number',
	'company',
	'phone',
	'street',
	'postcode',
	'city',
	'language',
	'tax_number',
	'notes',
	'prefers',
	'channel',
	'template'
] as const;
export const PAYER_HEADER = PAYER_COLUMNS.slice(0, 5).join(',');

/** A payer of a file, with the names of the groups they are in. */
export type PayerLine = Omit<PayerForm, 'groups'> & { readonly groups: readonly string[] };
const LONGEST_GROUP = 40;
/** More groups are no way to sort payers, and no list of them can be looked at. */
export const MOST_GROUPS = 2_000;
const FAULTS = 50;

/** What is wrong in so many lines of a file is told; reading on would only find more. */
class Enough extends Error {}

/**
 * Checks the records of a file of payers: each line by itself, and none twice. The first names the columns, in any order.
 * @returns what every line tells, or what is wrong, by line; at most fifty things
 */
export function readPayers(
	records: Iterable<{ readonly cells: readonly string[]; readonly line: number }>
): { readonly payers: PayerLine[]; readonly columns: readonly string[] } | { readonly faults: string[] } {
	const faults: string[] = [];
	const seen = new Map<string, number>();
	const payers: PayerLine[] = [];
	const groupNames = new Set<string>();
	const add = (fault: string) => {
		faults.push(fault);
		if (faults.length >= FAULTS) throw new Enough();
	};
	let header: string[] | undefined;
	try {
		for (const { cells, line } of records) {
			if (!header) {
				header = cells.map((cell) => cell.trim().toLowerCase());
				const missing = header.includes('name') ? [] : ['name'];
				if (!header.includes('mail') && !header.includes('number')) missing.push('mail');
				if (missing.length)
					return {
						faults: [`The first line must name the columns ${PAYER_HEADER}; ${missing.join(' and ')} is missing.`]
					};
				continue;
			}
			const cell = (column: (typeof PAYER_COLUMNS)[number]) => (cells[header!.indexOf(column)] ?? '').trim();
			const form = PayerForm.safeParse({
				name: cell('name'),
				mail: cell('mail'),
				country: cell('country'),
				online: cell('online').toLowerCase(),
				number: cell('number'),
				company: cell('company'),
				phone: cell('phone'),
				street: cell('street'),
				postcode: cell('postcode'),
				city: cell('city'),
				language: cell('language').toLowerCase(),
				taxNumber: cell('tax_number'),
				notes: cell('notes'),
				prefers: cell('prefers').toLowerCase(),
				channel: cell('channel').toLowerCase() || 'mail',
				template: cell('template')
			});
			if (!form.success) {
				for (const issue of form.error.issues) add(`Line ${line}, ${String(issue.path[0])}: ${issue.message}`);
				continue;
			}
			const keys = [form.data.mail, form.data.number && `number ${form.data.number}`].filter(Boolean);
			if (!keys.length) add(`Line ${line}: a mail address or a number, so that the payer is known again.`);
			for (const key of keys) {
				const before = seen.get(key);
				if (before !== undefined) add(`Line ${line}: ${key} stands in line ${before} already.`);
				seen.set(key, line);
			}
			const groups = cell('groups')
				.split(';')
				.map((one) => one.trim())
				.filter(Boolean);
			for (const name of groups) {
				if (name.length > LONGEST_GROUP) add(`Line ${line}: a group’s name has at most ${LONGEST_GROUP} characters.`);
				groupNames.add(name.toLowerCase());
			}
			if (groupNames.size > MOST_GROUPS) {
				add(`Line ${line}: these are more than ${MOST_GROUPS} groups.`);
				break;
			}
			payers.push({ ...form.data, groups });
		}
	} catch (error) {
		if (!(error instanceof Enough)) throw error;
	}
	if (!payers.length && !faults.length) faults.push('There is no payer in it.');
	return faults.length ? { faults } : { payers, columns: header ?? [] };
}
