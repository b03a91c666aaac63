import { QueryTypes } from 'sequelize';
import { open, openForLongReads, type Tx } from '../open';

/** Rows of a statement, as it names their columns. */
export const select = async <T>(
	text: string,
	replacements: unknown[] | Record<string, unknown>,
	tx?: Tx
): Promise<T[]> =>
	(await (
		await open()
	).query(text, {
		replacements: replacements as unknown[],
		type: QueryTypes.SELECT,
		transaction: tx
	})) as T[];

/** The same for what reads much and is waited for by nobody. */
export const selectLong = async <T>(text: string, replacements: unknown[] | Record<string, unknown>): Promise<T[]> =>
	(await (
		await openForLongReads()
	).query(text, { replacements: replacements as unknown[], type: QueryTypes.SELECT })) as T[];
