import { audit } from '../access';
import { db, mapSource, sourceCounts, write } from '../db';
import { tell } from '../signals/live';

/** Names that settlement files give to places, with the till each stands for and how many payments bear it. */
export const allSources = (): Promise<{ source: string; tillId: string | null; count: number }[]> => sourceCounts();

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
				act: till ? `stands for the till ${till.name}` : 'stands for no till'
			},
			tx
		);
	});
	tell('takings');
	return till ? `“${source}” stands for ${till.name} from now on.` : `“${source}” stands for no till.`;
}
