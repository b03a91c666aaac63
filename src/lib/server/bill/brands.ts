import { db } from '../db';

/** Brands of the business, for series and templates. */
export const allBrands = async (): Promise<{ id: string; name: string }[]> =>
	(await db.brands.find({ removedAt: null }, { order: [['name', 'ASC']] })).map(({ id, name }) => ({ id, name }));
