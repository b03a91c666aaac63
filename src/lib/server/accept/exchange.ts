import { ownAddress } from '../connect/connections';
import { fromFile, LineUp, LineUpFile, toFile, type CarrierBook, type FileFault } from '../../core/lineup';
import { audit, randomId } from '../access';
import { db, write, type TemplateRow, type TillRow } from '../db';
import { tell } from '../signals/live';
import { groupNames } from './ask';
import { lineUpsOf, replaceDraft } from './lineups';
import { readAccount } from '../connectors/account';
import { snapshot } from './snapshot';
import { allTills } from './tills';
import { timeNow } from '../signals/clock';

/** Connections and offline methods as files name them. */
export async function carrierBook(): Promise<CarrierBook> {
	const { connections, offline } = await snapshot();
	return [
		...[...connections.values()]
			.filter((row) => !row.removedAt)
			.map(({ id, name, mode, account }) => ({
				kind: 'connection' as const,
				id,
				name,
				mode,
				schemes: readAccount(account).schemes.map((one) => one.id)
			})),
		...[...offline.values()]
			.filter((row) => !row.removedAt)
			.map(({ id, name }) => ({ kind: 'offline' as const, id, name }))
	];
}

/** The line-up of a till as a file: the draft where there is one and it is asked for, else what is published. */
export async function exportLineUp(till: TillRow, which: 'draft' | 'published'): Promise<LineUpFile> {
	const { draft, published } = await lineUpsOf(till.id);
	const shown = which === 'draft' ? (draft ?? published) : published;
	return toFile(shown?.offers ?? [], till.name, await carrierBook(), await groupNames(), ownAddress());
}

/** Reads a file's text for a till, or tells each fault by its path. */
export async function readFile(till: TillRow, text: string): Promise<{ lineUp: LineUp } | { faults: FileFault[] }> {
	let given: unknown;
	try {
		given = JSON.parse(text);
	} catch (error) {
		return { faults: [{ path: '(whole file)', pointer: '', says: `It is not JSON: ${(error as Error).message}` }] };
	}
	return fromFile(given, till.mode, await carrierBook(), randomId, await groupNames());
}

/**
 * Copies a line-up to other tills, as a draft of each. A till of the other mode, or one whose draft somebody is at work
 * on, is left out and told.
 */
export async function copyTo(
	from: TillRow,
	slugs: readonly string[],
	by: string
): Promise<{ copied: string[]; left: string[] }> {
	const { draft, published } = await lineUpsOf(from.id);
	const offers = (draft ?? published)?.offers ?? [];
	const copied: string[] = [];
	const left: string[] = [];
	for (const till of await allTills()) {
		if (!slugs.includes(till.slug) || till.id === from.id) continue;
		if (till.mode !== from.mode) {
			left.push(`${till.name} is a ${till.mode} till`);
			continue;
		}
		const there = await lineUpsOf(till.id);
		if (there.draft) {
			left.push(`${till.name} has a draft already`);
			continue;
		}
		await replaceDraft(
			till,
			0,
			offers.map((offer) => ({ ...offer, id: randomId() })),
			by,
			`copied the line-up of ${from.name}`
		);
		copied.push(till.name);
	}
	return { copied, left };
}

export const allTemplates = (): Promise<TemplateRow[]> => db.templates.find({}, { order: [['name', 'ASC']] });

/** Keeps a line-up under a name, to begin others from. @returns what is wrong, if anything */
export async function keepTemplate(till: TillRow, name: string, by: string): Promise<string | undefined> {
	const given = name.trim();
	if (!given || given.length > 60) return 'Give the template a name of at most 60 characters.';
	const { draft, published } = await lineUpsOf(till.id);
	const offers = (draft ?? published)?.offers;
	if (!offers?.length) return 'There is no offer to keep.';
	await write(async (tx) => {
		await db.templates.remove({ name: given }, tx);
		const id = randomId();
		await db.templates.insert({ id, name: given, offers: JSON.stringify(offers), byUser: by, at: timeNow() }, tx);
		await audit({ by, kind: 'template', id, name: given, act: `kept from ${till.name}`, after: { offers } }, tx);
	});
	tell('tills');
	return undefined;
}
export async function removeTemplate(id: string, by: string): Promise<void> {
	await write(async (tx) => {
		const row = await db.templates.one({ id }, tx);
		if (!row) return;
		await db.templates.remove({ id }, tx);
		await audit({ by, kind: 'template', id, name: row.name, act: 'removed' }, tx);
	});
	tell('tills');
}
export async function templateOffers(id: string): Promise<LineUp | undefined> {
	const row = await db.templates.one({ id });
	return row && db.templates.json.offers(row.offers).map((offer) => ({ ...offer, id: randomId() }));
}
