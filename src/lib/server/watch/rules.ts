import { db, type Tx, type WatchRules } from '../db';

/** Who is told of what, and when. */
export const watchRules = async (tx?: Tx): Promise<WatchRules> =>
	db.watchSettings.json.rules((await db.watchSettings.one({ id: 1 }, tx))?.rules ?? '{}');
