import { z } from 'zod';
import { COUNTRIES } from './places';

const Mail = z.email('This is not a mail address.');
/** A payer as somebody types one, or a file tells one. */
export const PayerForm = z.object({
	name: z.string().trim().min(1, 'Give the payer’s name.').max(100, 'At most 100 characters.'),
	mail: z.string().trim().toLowerCase().max(200).pipe(Mail),
	country: z
		.string()
		.trim()
		.toUpperCase()
		.refine((code) => code === '' || COUNTRIES.includes(code), 'No such country; a code of two letters, such as BE.')
		.default(''),
	online: z.enum(['', 'yes', 'no'], 'yes, no, or empty.').default(''),
	groups: z.array(z.string()).default([])
});
export type PayerForm = z.infer<typeof PayerForm>;

/** The columns of a file of payers; the last three may be left out. */
export const PAYER_COLUMNS = ['name', 'mail', 'country', 'online', 'groups'] as const;
export const PAYER_HEADER = PAYER_COLUMNS.join(',');

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
): { readonly payers: PayerLine[] } | { readonly faults: string[] } {
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
				const missing = ['name', 'mail'].filter((column) => !header!.includes(column));
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
				online: cell('online').toLowerCase()
			});
			if (!form.success) {
				for (const issue of form.error.issues) add(`Line ${line}, ${String(issue.path[0])}: ${issue.message}`);
				continue;
			}
			const before = seen.get(form.data.mail);
			if (before !== undefined) add(`Line ${line}: ${form.data.mail} stands in line ${before} already.`);
			seen.set(form.data.mail, line);
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
	return faults.length ? { faults } : { payers };
}
