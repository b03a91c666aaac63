import { audit } from '../access';
import { db, mapSource, write, type AccountClashRow, type FileSourceRow } from '../db';
import { moveSoon } from './moves';
import { timeNow } from '../signals/clock';
import { tell } from '../signals/live';

/** Names that settlement files give to places, with the till each stands for and how many payments bear it. */
export const allSources = (): Promise<FileSourceRow[]> => db.fileSources.find({}, { order: [['source', 'ASC']] });

/** Payouts and charges of accounts that files told twice, with different sums, and that nobody has looked at since. */
export const accountClashes = (): Promise<AccountClashRow[]> =>
	db.accountClashes.find({ seenAt: null }, { order: [['id', 'DESC']], limit: 50 });

/** Notes that somebody has looked at one of them. */
export async function seeAccountClash(id: number, by: string): Promise<boolean> {
	const changed = await write(async (tx) => {
		const row = await db.accountClashes.one({ id, seenAt: null }, tx);
		if (!row) return false;
		await db.accountClashes.update({ id }, { seenAt: timeNow() }, tx);
		await audit(
			{ by, kind: 'settlement file', id: row.source, name: row.object, act: 'looked at a contradiction' },
			tx
		);
		return true;
	});
	if (changed) tell('connections');
	return changed;
}

/** Says for which till a name in settlement files stands. @returns what was done, or undefined where there is no such */
export async function mapSourceTo(source: string, tillId: string, by: string): Promise<string | undefined> {
	const till = tillId ? await db.tills.one({ id: tillId }) : undefined;
	if ((tillId && !till) || !(await db.fileSources.one({ source }))) return undefined;
	await write(async (tx) => {
		await mapSource(source, till?.id ?? null, tx);
		await audit(
			{
				by,
				kind: 'settlement file',
				id: source,
				name: source,
				act: till ? `belongs to the till ${till.name}` : 'belongs to no till'
			},
			tx
		);
	});
	await moveSoon();
	tell('takings');
	return till ? `“${source}” belongs to ${till.name} from now on.` : `“${source}” belongs to no till.`;
}
