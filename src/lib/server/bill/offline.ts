import { db } from '../db';

/** The offline methods that money can be booked under. */
export const offlineMethods = async (): Promise<{ id: string; name: string; kind: string }[]> =>
	(await db.offlineMethods.find({ removedAt: null }, { order: [['createdAt', 'ASC']] })).map(({ id, name, kind }) => ({
		id,
		name,
		kind
	}));
