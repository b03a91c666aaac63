import { MOST_GROUPS, PAYER_HEADER, PayerForm, type PayerLine } from '../../core/payers';
import { audit, randomId } from '../access';
import { db, groupSizes, membershipsOf, pageOfPayers, write, type PayerGroupRow, type PayerRow, type Tx } from '../db';
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

const rowOf = (form: Omit<PayerForm, 'groups'>) => ({
	name: form.name,
	mail: form.mail,
	country: form.country,
	onlineMethod: form.online === '' ? null : Number(form.online === 'yes')
});

async function keep(form: PayerForm, id: string | undefined, tx: Tx): Promise<string> {
	const row = rowOf(form);
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
	const work = takeAll(read.payers, taken, by)
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

async function takeAll(payers: readonly PayerLine[], taken: PayersTaken, by: string): Promise<void> {
	const groups = await makeGroups(payers, taken, by);
	for (let at = 0; at < payers.length; at += BATCH) {
		const batch = payers.slice(at, at + BATCH);
		await write((tx) => takeBatch(batch, groups, taken, tx), { isPatient: true });
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

async function takeBatch(
	batch: readonly PayerLine[],
	groups: ReadonlyMap<string, string>,
	taken: PayersTaken,
	tx: Tx
): Promise<void> {
	const known = new Map(
		(await db.payers.find({ mail: batch.map((one) => one.mail) }, {}, tx)).map((row) => [row.mail, row])
	);
	const fresh: Partial<PayerRow>[] = [];
	const memberships: { payerId: string; groupId: string }[] = [];
	for (const payer of batch) {
		const row = rowOf(payer);
		const before = known.get(payer.mail);
		const id = before?.id ?? randomId();
		if (!before) fresh.push({ id, ...row, createdAt: timeNow() });
		else if (before.name !== row.name || before.country !== row.country || before.onlineMethod !== row.onlineMethod)
			await db.payers.update({ id }, row, tx);
		for (const groupId of new Set(payer.groups.map((name) => groups.get(name.toLowerCase())!)))
			memberships.push({ payerId: id, groupId });
	}
	await db.payers.insertMany(fresh, tx);
	if (known.size) await db.payerMemberships.remove({ payerId: [...known.values()].map((row) => row.id) }, tx);
	await db.payerMemberships.insertMany(memberships, tx);
	taken.added += fresh.length;
	taken.changed += known.size;
}
