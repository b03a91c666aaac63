import { MOST_GROUPS, PAYER_HEADER, PayerForm, type PayerLine } from '../../core/payers';
import { audit, randomId } from '../access';
import {
	creditOf,
	db,
	forgetPerson,
	groupSizes,
	membershipsOf,
	ordersByMail,
	receivableOf,
	pageOfPayers,
	write,
	type PayerGroupRow,
	type PayerRow,
	type Tx
} from '../db';
import { endAllOf } from '../payments/stored';
import { recordEvent } from '../events';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';
import { inThread } from '../threads';
import { log } from '../log';

export { PAYER_HEADER, PayerForm };

/** A payer with the ids of the groups they are in. */
export interface Payer {
	readonly row: PayerRow;
	readonly groups: readonly string[];
}

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

const rowOf = ({ groups: _, online, ...form }: PayerForm) => ({
	...form,
	onlineMethod: online === '' ? null : Number(online === 'yes')
});
/** A payer as their form has it. */
export const formOf = ({ row, groups }: Payer): PayerForm => ({
	name: row.name,
	mail: row.mail,
	country: row.country,
	online: row.onlineMethod === null ? '' : row.onlineMethod ? 'yes' : 'no',
	groups: [...groups],
	number: row.number,
	company: row.company,
	phone: row.phone,
	street: row.street,
	postcode: row.postcode,
	city: row.city,
	language: row.language as PayerForm['language'],
	taxNumber: row.taxNumber,
	notes: row.notes,
	prefers: row.prefers,
	channel: row.channel,
	template: row.template
});

async function keep(form: PayerForm, id: string | undefined, tx: Tx): Promise<string> {
	const row = rowOf(form);
	const kept = id ?? randomId();
	if (id) await db.payers.update({ id }, row, tx);
	else await db.payers.insert({ id: kept, ...row, createdAt: timeNow() }, tx);
	// lists are searched by the name that the payer has now; what was approved keeps the one it was made out to
	await db.invoices.update({ payerId: kept }, { payerName: nameOf(row) }, tx);
	await recordEvent({ kind: 'payer.changed', object: 'payer', id: kept }, tx);
	await db.payerMemberships.remove({ payerId: kept }, tx);
	await db.payerMemberships.insertMany(
		form.groups.map((groupId) => ({ payerId: kept, groupId })),
		tx
	);
	return kept;
}

/** How a payer is called in lists: the company where there is one. */
export const nameOf = ({ name, company }: Pick<PayerRow, 'name' | 'company'>): string => company || name;

/** @returns what is wrong, by field; or the payer's id */
export async function savePayer(
	form: PayerForm,
	id: string | undefined,
	by: string
): Promise<{ wrong: Record<string, string> } | { id: string }> {
	return write(async (tx) => {
		const wrong: Record<string, string> = {};
		for (const [field, value] of [
			['mail', form.mail],
			['number', form.number]
		] as const) {
			const twin = value ? await db.payers.one({ [field]: value }, tx) : undefined;
			if (twin && twin.id !== id)
				wrong[field] = `${twin.name} has this ${field === 'mail' ? 'mail address' : 'number'} already.`;
		}
		if (form.channel === 'mail' && !form.mail && form.phone) wrong.channel = 'There is no mail address to write to.';
		if (form.channel === 'text' && !form.phone) wrong.channel = 'There is no phone to send texts to.';
		if (Object.keys(wrong).length) return { wrong };
		const kept = await keep(form, id, tx);
		await audit({ by, kind: 'payer', id: kept, name: form.name, act: id ? 'changed' : 'added', after: form }, tx);
		tx.afterCommit(() => {
			tell('tills');
			tell('bill');
		});
		return { id: kept };
	});
}

/**
 * Removes a payer. What was billed to them stays in the books under a name without a person; who was never billed is gone.
 * What is owed, or held as credit, keeps them from being removed.
 * @returns why not, if so
 */
export async function removePayer(id: string, by: string): Promise<string | undefined> {
	const known = await ordersByMail((await db.payers.one({ id }))?.mail ?? '');
	const problem = await write(async (tx): Promise<string | undefined> => {
		const row = await db.payers.one({ id }, tx);
		if (!row) return undefined;
		const invoices = await db.invoices.find({ payerId: id }, {}, tx);
		if (invoices.some((one) => one.open > 0))
			return `${row.name} owes something. Collect it, write it off, or credit it first.`;
		if ((await creditOf(id, tx)).length) return `${row.name} holds credit. Refund it, or place it first.`;
		const receivable = await receivableOf(row, known, tx);
		if (receivable) return `${row.name} has still to pay ${receivable}. Record what came for it, or cancel it first.`;
		await db.payerMemberships.remove({ payerId: id }, tx);
		await db.payerSessions.remove({ payerId: id }, tx);
		const hadStored = (await endAllOf(id, by, tx)) > 0;
		const claims = await db.orderClaims.count({ payerId: id }, tx);
		const gone = `Removed payer ${id.slice(0, 6)}`;
		await forgetPerson(row, known, gone, tx);
		if (!invoices.length && !claims && !hadStored) await db.payers.remove({ id }, tx);
		else {
			await db.payers.update(
				{ id },
				{
					...rowOf(PayerForm.parse({ name: gone, country: row.country, channel: 'page' })),
					removedAt: timeNow()
				},
				tx
			);
			// drafts and quotes that nobody answered are nobody's any more; what was approved is a document of the books
			for (const one of invoices.filter((draft) => draft.approvedAt === null))
				await db.invoices.update({ id: one.id }, { payerName: gone }, tx);
		}
		await recordEvent({ kind: 'payer.removed', object: 'payer', id }, tx);
		await audit({ by, kind: 'payer', id, name: 'A payer', act: 'removed' }, tx);
		return undefined;
	});
	tell('tills');
	tell('bill');
	return problem;
}
/** @returns what is wrong, if anything */
export async function addGroup(name: string, by: string): Promise<string | undefined> {
	const given = name.trim();
	if (!given || given.length > 40) return 'Give the group a name of at most 40 characters.';
	const all = await allGroups();
	if (all.length >= MOST_GROUPS) return `There are ${MOST_GROUPS} groups already; more cannot be looked through.`;
	if (all.some((one) => one.name.toLowerCase() === given.toLowerCase()))
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

/** So many payers are written at once: whoever else writes waits for no more than these. */
const BATCH = 250;
/** A small file is whole when the answer goes out; a large one goes on beside it. */
const WAIT_MS = 8_000;

export interface PayersTaken {
	added: number;
	changed: number;
	readonly groups: string[];
	done: number;
	readonly of: number;
	/** what went wrong on the way, if anything: what was written before stays */
	trouble?: string;
}
let underWay: PayersTaken | undefined;
/** The file of payers that is being taken in now, if one is. */
export const payersUnderWay = (): Readonly<PayersTaken> | undefined => underWay;

/**
 * Takes payers from CSV: `name,mail,country,online,groups`, groups apart by semicolons. Who is known by mail is changed;
 * groups that are not there yet are made. A file with a fault is not taken at all; a sound one is written in batches, others
 * in between. Given again, it changes nothing, so that one that was cut off by an end of the server is simply given again.
 */
export async function importPayers(text: string, by: string): Promise<PayersTaken | { faults: string[] }> {
	const read = await inThread('checkPayers', text);
	if ('faults' in read) return read;
	// looked at in the same moment in which it begins: of two given at once, one is taken in
	if (underWay) return { faults: ['Another file is being imported. Wait until it is done, then try again.'] };
	const taken: PayersTaken = { added: 0, changed: 0, groups: [], done: 0, of: read.payers.length };
	underWay = taken;
	const work = takeAll(read.payers, read.columns, taken, by)
		.catch((error: unknown) => {
			taken.trouble = 'Something went wrong on the way. What was imported stays; import the file again for the rest.';
			log.error({ error: String(error) }, 'a file of payers was not imported whole');
		})
		.finally(() => {
			underWay = undefined;
			tell('tills');
		});
	await Promise.race([work, new Promise((next) => setTimeout(next, WAIT_MS).unref())]);
	return taken;
}

async function takeAll(
	payers: readonly PayerLine[],
	columns: readonly string[],
	taken: PayersTaken,
	by: string
): Promise<void> {
	const groups = await makeGroups(payers, taken, by);
	for (let at = 0; at < payers.length; at += BATCH) {
		const batch = payers.slice(at, at + BATCH);
		await write((tx) => takeBatch(batch, columns, groups, taken, tx), { isPatient: true });
		taken.done = Math.min(payers.length, at + BATCH);
	}
	await write((tx) =>
		audit(
			{
				by,
				kind: 'payer',
				id: 'import',
				name: `${payers.length} payers`,
				act: `imported ${taken.added} new and ${taken.changed} known payers from a file`
			},
			tx
		)
	);
}

/** Makes the groups that a file names and that are not there yet. @returns ids by lower-case name */
async function makeGroups(payers: readonly PayerLine[], taken: PayersTaken, by: string): Promise<Map<string, string>> {
	const groups = new Map((await db.payerGroups.find()).map((row) => [row.name.toLowerCase(), row.id]));
	const fresh: { id: string; name: string; createdAt: number }[] = [];
	for (const { groups: names } of payers)
		for (const name of names) {
			if (groups.has(name.toLowerCase())) continue;
			const id = randomId();
			groups.set(name.toLowerCase(), id);
			fresh.push({ id, name, createdAt: timeNow() });
		}
	if (!fresh.length) return groups;
	await write(async (tx) => {
		await db.payerGroups.insertMany(fresh, tx);
		const name = fresh.map((one) => one.name).join(', ');
		await audit({ by, kind: 'group', id: 'import', name: name.slice(0, 200), act: 'added by a file of payers' }, tx);
	});
	taken.groups.push(...fresh.map((one) => one.name));
	return groups;
}

/** What a file names of a payer; columns that it has not got leave what is known as it is. */
const COLUMN_OF: Readonly<Record<string, keyof PayerRow>> = {
	name: 'name',
	mail: 'mail',
	country: 'country',
	online: 'onlineMethod',
	number: 'number',
	company: 'company',
	phone: 'phone',
	street: 'street',
	postcode: 'postcode',
	city: 'city',
	language: 'language',
	tax_number: 'taxNumber',
	notes: 'notes',
	prefers: 'prefers',
	channel: 'channel',
	template: 'template'
};

/** Those of a file that are known: by mail, or else by number. */
async function knownOf(batch: readonly PayerLine[], tx?: Tx): Promise<(payer: PayerLine) => PayerRow | undefined> {
	const by = async (field: 'mail' | 'number') => {
		const values = batch.map((one) => one[field]).filter(Boolean);
		return new Map(
			(values.length ? await db.payers.find({ [field]: values }, {}, tx) : []).map((row) => [row[field], row])
		);
	};
	const [mails, numbers] = [await by('mail'), await by('number')];
	return ({ mail, number }) => (mail ? mails.get(mail) : undefined) ?? (number ? numbers.get(number) : undefined);
}

async function takeBatch(
	batch: readonly PayerLine[],
	columns: readonly string[],
	groups: ReadonlyMap<string, string>,
	taken: PayersTaken,
	tx: Tx
): Promise<void> {
	const knownAs = await knownOf(batch, tx);
	const named = columns.flatMap((column) => COLUMN_OF[column] ?? []);
	const fresh: Partial<PayerRow>[] = [];
	const memberships: { payerId: string; groupId: string }[] = [];
	const changed: string[] = [];
	for (const payer of batch) {
		const row = rowOf(payer as PayerForm);
		const before = knownAs(payer);
		const id = before?.id ?? randomId();
		if (before) {
			changed.push(id);
			const changes = Object.fromEntries(
				named
					.filter((name) => row[name as keyof typeof row] !== before[name])
					.map((name) => [name, row[name as keyof typeof row]])
			);
			if (Object.keys(changes).length) await db.payers.update({ id }, changes, tx);
		} else fresh.push({ id, ...row, createdAt: timeNow() });
		for (const groupId of new Set(payer.groups.map((name) => groups.get(name.toLowerCase())!)))
			memberships.push({ payerId: id, groupId });
	}
	await db.payers.insertMany(fresh, tx);
	if (columns.includes('groups')) {
		if (changed.length) await db.payerMemberships.remove({ payerId: changed }, tx);
		await db.payerMemberships.insertMany(memberships, tx);
	}
	taken.added += fresh.length;
	taken.changed += changed.length;
}

/** What a file would do, before it is taken: how many are new and known, the first lines, new groups; or what is wrong. */
export async function previewPayers(text: string): Promise<
	| {
			readonly added: number;
			readonly changed: number;
			readonly groups: readonly string[];
			readonly lines: readonly { readonly name: string; readonly key: string; readonly isKnown: boolean }[];
	  }
	| { readonly faults: string[] }
> {
	const read = await inThread('checkPayers', text);
	if ('faults' in read) return read;
	let known = 0;
	const lines: { name: string; key: string; isKnown: boolean }[] = [];
	for (let at = 0; at < read.payers.length; at += BATCH) {
		const batch = read.payers.slice(at, at + BATCH);
		const knownAs = await knownOf(batch);
		for (const payer of batch) {
			const isKnown = !!knownAs(payer);
			if (isKnown) known++;
			if (lines.length < 8) lines.push({ name: payer.name, key: payer.mail || payer.number, isKnown });
		}
	}
	const there = new Set((await allGroups()).map((row) => row.name.toLowerCase()));
	const groups = [...new Set(read.payers.flatMap((one) => one.groups))].filter(
		(name) => !there.has(name.toLowerCase())
	);
	return { added: read.payers.length - known, changed: known, groups, lines };
}

/** Payers as rows of a file, a batch at a time: what `importPayers` takes in again. */
export async function* payerRows(): AsyncGenerator<Record<string, string>[]> {
	const names = new Map((await allGroups()).map((row) => [row.id, row.name]));
	let after: { name: string; id: string } | undefined;
	for (;;) {
		const { payers, more } = await payersPage('', after);
		yield payers
			.filter(({ row }) => row.removedAt === null)
			.map((one) => {
				const { groups, online, taxNumber, ...form } = formOf(one);
				return {
					...form,
					online,
					tax_number: taxNumber,
					groups: groups.flatMap((id) => names.get(id) ?? []).join('; ')
				};
			});
		const last = payers.at(-1)?.row;
		if (!more || !last) return;
		after = { name: last.name, id: last.id };
	}
}
