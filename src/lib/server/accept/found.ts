import { error } from '@sveltejs/kit';
import type { TillRow } from '../db';
import { tillBySlug, tillCurrencies } from './tills';

/** The till of an address, or 404. */
export async function foundTill(slug: string): Promise<{ row: TillRow; currencies: string[] }> {
	const row = await tillBySlug(slug);
	if (!row) error(404, 'There is no such till.');
	return { row, currencies: tillCurrencies(row) };
}
