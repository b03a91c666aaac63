import { parse } from 'csv-parse/sync';
import { z } from 'zod';
import { COUNTRIES } from '../../core/places';
import { audit, randomId } from '../access';
import { db, groupSizes, membershipsOf, pageOfPayers, write, type PayerGroupRow, type PayerRow, type Tx } from '../db';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';

/** A payer with the ids of the groups they are in. */
export interface Payer {
	readonly row: PayerRow;
	readonly groups: readonly string[];
}

const Mail = z.email('This is not a mail address.');
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

export const allGroups = (): Promise<PayerGroupRow[]> => db.payerGroups.find({}, { order: [['name', 'ASC']] });

/** How many payers are in each group, by its id. */
export const sizesOfGroups = groupSizes;
/** How many payers are known. */
export const countPayers = (): Promise<number> => db.payers.count();

export async function payerById(id: string): Promise<Payer | undefined> {
	const row = await db.payers.one({ id });
	return row && { row, groups: (await db.payerMemberships.find({ payerId: row.id })).map((one) => one.groupId) };
}

/** One page of payers by name, with their groups' ids. */
export async function payersPage(
	text: string,
	after: { name: string; id: string } | undefined
): Promise<{ payers: Payer[]; more: boolean }> {
	const { rows, more } = await pageOfPayers(text, after);
	const groups = await membershipsOf(rows.map((row) => row.id));
	return { payers: rows.map((row) => ({ row, groups: groups.get(row.id) ?? [] })), more };
}

async function keep(form: PayerForm, id: string | undefined, tx: Tx): Promise<string> {
	const row = {
		name: form.name,
		mail: form.mail,
		country: form.country,
		onlineMethod: form.online === '' ? null : Number(form.online === 'yes')
	};
	const kept = id ?? randomId();
	if (id) await db.payers.update({ id }, row, tx);
	else await db.payers.insert({ id: kept, ...row, createdAt: timeNow() }, tx);
	await db.payerMemberships.remove({ payerId: kept }, tx);
	await db.payerMemberships.insertMany(
		form.groups.map((groupId) => ({ payerId: kept, groupId })),
		tx
	);
	return kept;
}

/** @returns what is wrong, by field */
export async function savePayer(
	form: PayerForm,
	id: string | undefined,
	by: string
): Promise<{ mail: string } | undefined> {
	const twin = await db.payers.one({ mail: form.mail });
	if (twin && twin.id !== id) return { mail: `${twin.name} has this mail address already.` };
	await write(async (tx) => {
		const kept = await keep(form, id, tx);
		await audit({ by, kind: 'payer', id: kept, name: form.name, act: id ? 'changed' : 'added', after: form }, tx);
	});
	tell('tills');
	return undefined;
}

export async function removePayer(id: string, by: string): Promise<void> {
	await write(async (tx) => {
		const row = await db.payers.one({ id }, tx);
		if (!row) return;
		await db.payerMemberships.remove({ payerId: id }, tx);
		await db.payers.remove({ id }, tx);
		await audit({ by, kind: 'payer', id, name: row.name, act: 'removed', before: row }, tx);
	});
	tell('tills');
}

/** @returns what is wrong, if anything */
export async function addGroup(name: string, by: string): Promise<string | undefined> {
	const given = name.trim();
	if (!given || given.length > 40) return 'Give the group a name of at most 40 characters.';
	if ((await allGroups()).some((one) => one.name.toLowerCase() === given.toLowerCase()))
		return `There is a group called ${given} already.`;
	await write(async (tx) => {
		const id = randomId();
		await db.payerGroups.insert({ id, name: given, createdAt: timeNow() }, tx);
		await audit({ by, kind: 'group', id, name: given, act: 'added' }, tx);
	});
	tell('tills');
	return undefined;
}

/** A line-up that asks for a group keeps it from being removed. @returns why not, if so */
export async function removeGroup(id: string, by: string): Promise<string | undefined> {
	const using = await db.lineUps.find({ state: ['draft', 'published'] });
	const tills = await db.tills.find();
	const users = using
		.filter((row) => row.offers.includes(`"${id}"`))
		.map((row) => tills.find((till) => till.id === row.tillId)?.name);
	if (users.length) return `Offers of ${[...new Set(users)].join(', ')} ask for this group. Take it out of them first.`;
	await write(async (tx) => {
		const row = await db.payerGroups.one({ id }, tx);
		if (!row) return;
		await db.payerMemberships.remove({ groupId: id }, tx);
		await db.payerGroups.remove({ id }, tx);
		await audit({ by, kind: 'group', id, name: row.name, act: 'removed', before: row }, tx);
	});
	tell('tills');
	return undefined;
}

const COLUMNS = ['name', 'mail', 'country', 'online', 'groups'] as const;
export const PAYER_HEADER = COLUMNS.join(',');

/**
 * Takes payers from CSV, whole or not at all: `name,mail,country,online,groups`, groups apart by semicolons. Who is
 * known by mail is changed; groups that are not there yet are made.
 */
export async function importPayers(
	text: string,
	by: string
): Promise<{ added: number; changed: number; groups: string[] } | { faults: string[] }> {
	let records: { record: string[]; info: { lines: number } }[];
	try {
		records = parse(text, {
			bom: true,
			info: true,
			relax_column_count: true,
			skip_empty_lines: true
		}) as unknown as typeof records;
	} catch (error) {
		return { faults: [`It is not CSV: ${(error as Error).message}`] };
	}
	const header = (records[0]?.record ?? []).map((cell) => cell.trim().toLowerCase());
	const missing = ['name', 'mail'].filter((column) => !header.includes(column));
	if (missing.length)
		return { faults: [`The first line must name the columns ${PAYER_HEADER}; ${missing.join(' and ')} is missing.`] };
	const faults: string[] = [];
	const seen = new Map<string, number>();
	const read: { form: PayerForm; names: string[] }[] = [];
	for (const { record, info } of records.slice(1)) {
		const cell = (column: (typeof COLUMNS)[number]) => (record[header.indexOf(column)] ?? '').trim();
		const form = PayerForm.safeParse({
			name: cell('name'),
			mail: cell('mail'),
			country: cell('country'),
			online: cell('online').toLowerCase()
		});
		if (!form.success) {
			for (const issue of form.error.issues)
				faults.push(`Line ${info.lines}, ${String(issue.path[0])}: ${issue.message}`);
			continue;
		}
		const before = seen.get(form.data.mail);
		if (before) faults.push(`Line ${info.lines}: ${form.data.mail} stands in line ${before} already.`);
		seen.set(form.data.mail, info.lines);
		read.push({
			form: form.data,
			names: cell('groups')
				.split(';')
				.map((one) => one.trim())
				.filter(Boolean)
		});
	}
	if (!read.length && !faults.length) faults.push('There is no payer in it.');
	if (faults.length) return { faults: faults.slice(0, 50) };
	const result = { added: 0, changed: 0, groups: [] as string[] };
	await write(async (tx) => {
		const groups = new Map((await db.payerGroups.find({}, {}, tx)).map((row) => [row.name.toLowerCase(), row.id]));
		for (const { form, names } of read) {
			const ids: string[] = [];
			for (const name of names) {
				let id = groups.get(name.toLowerCase());
				if (!id) {
					id = randomId();
					await db.payerGroups.insert({ id, name: name.slice(0, 40), createdAt: timeNow() }, tx);
					groups.set(name.toLowerCase(), id);
					result.groups.push(name);
				}
				ids.push(id);
			}
			const known = await db.payers.one({ mail: form.mail }, tx);
			if (known) result.changed++;
			else result.added++;
			await keep({ ...form, groups: [...new Set(ids)] }, known?.id, tx);
		}
		await audit(
			{
				by,
				kind: 'payer',
				id: 'import',
				name: `${read.length} payers`,
				act: `took in ${result.added} new and ${result.changed} known payers from a file`
			},
			tx
		);
	});
	tell('tills');
	return result;
}
