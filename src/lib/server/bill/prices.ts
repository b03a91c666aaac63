import { parse } from 'csv-parse/sync';
import { ItemForm, TAX_CATEGORIES, type TaxCategory } from '../../core/billing';
import { audit, randomId } from '../access';
import { db, write, type PriceItemRow, type Tx } from '../db';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';

export { ItemForm };
export type PriceItem = ItemForm & { readonly id: string };

export const itemOf = (row: PriceItemRow): PriceItem => ({
	id: row.id,
	code: row.code,
	name: row.name,
	about: row.about,
	unit: row.unit,
	category: row.category as TaxCategory,
	rate: row.rate,
	pricing: row.pricing,
	prices: db.priceItems.json.prices(row.prices),
	picture: row.picture,
	stock: row.stock
});

/** The price list, by name. */
export const priceList = async (): Promise<PriceItem[]> =>
	(await db.priceItems.find({ removedAt: null }, { order: [['name', 'ASC']] })).map(itemOf);
export const itemsById = async (tx?: Tx): Promise<Map<string, PriceItem>> =>
	new Map((await db.priceItems.find({}, {}, tx)).map((row) => [row.id, itemOf(row)]));

const rowOf = (form: ItemForm) => ({ ...form, prices: JSON.stringify(form.prices) });

/** @returns what is wrong, by field; or the thing's id */
export async function saveItem(
	form: ItemForm,
	id: string | undefined,
	by: string
): Promise<{ wrong: Record<string, string> } | { id: string }> {
	const done = await write(async (tx): Promise<{ wrong: Record<string, string> } | { id: string }> => {
		const twin = await db.priceItems.one({ code: form.code, removedAt: null }, tx);
		if (twin && twin.id !== id) return { wrong: { code: `${twin.name} has this code already.` } };
		const currencies = form.prices.map((one) => one.currency);
		const twice = currencies.find((code, at) => currencies.indexOf(code) !== at);
		if (twice) return { wrong: { prices: `There are two prices in ${twice}.` } };
		if (form.rate && !['standard', 'reduced'].includes(form.category))
			return { wrong: { rate: `There is no tax of ${form.category}.` } };
		const before = id ? await db.priceItems.one({ id }, tx) : undefined;
		const kept = id ?? randomId();
		if (before) await db.priceItems.update({ id }, rowOf(form), tx);
		else await db.priceItems.insert({ id: kept, ...rowOf(form), createdAt: timeNow() }, tx);
		await audit(
			{
				by,
				kind: 'price list',
				id: kept,
				name: form.name,
				act: before ? 'changed' : 'added',
				before: before && { ...itemOf(before), picture: undefined },
				after: { ...form, picture: undefined }
			},
			tx
		);
		return { id: kept };
	});
	tell('bill');
	return done;
}

/** Takes a thing off the price list; documents that have it stay as they are. Can be put back. */
export async function setItemRemoved(id: string, isRemoved: boolean, by: string): Promise<string | undefined> {
	const problem = await write(async (tx) => {
		const row = await db.priceItems.one({ id }, tx);
		if (!row) return 'There is no such thing on the price list.';
		if (!isRemoved && (await db.priceItems.one({ code: row.code, removedAt: null }, tx)))
			return `Something else has the code ${row.code} now.`;
		await db.priceItems.update({ id }, { removedAt: isRemoved ? timeNow() : null }, tx);
		await audit({ by, kind: 'price list', id, name: row.name, act: isRemoved ? 'removed' : 'put back' }, tx);
		return undefined;
	});
	tell('bill');
	return problem;
}

export const PRICE_COLUMNS = ['code', 'name', 'about', 'unit', 'tax', 'rate', 'pricing', 'stock'] as const;
/** The price list as rows of a file: a column `price_EUR` and the like for each currency. */
export function priceRows(items: readonly PriceItem[]): { columns: string[]; rows: Record<string, string>[] } {
	const currencies = [...new Set(items.flatMap((one) => one.prices.map((price) => price.currency)))].sort();
	return {
		columns: [...PRICE_COLUMNS, ...currencies.map((code) => `price_${code}`)],
		rows: items.map((one) => ({
			code: one.code,
			name: one.name,
			about: one.about,
			unit: one.unit,
			tax: one.category,
			rate: String(one.rate / 10_000),
			pricing: one.pricing,
			stock: one.stock === null ? '' : String(one.stock),
			...Object.fromEntries(one.prices.map((price) => [`price_${price.currency}`, price.price]))
		}))
	};
}

const MOST = 5_000;
/** Reads a price list from CSV. @returns every line, or what is wrong, by line */
export function readPrices(text: string): { items: ItemForm[] } | { faults: string[] } {
	let records: Record<string, string>[];
	try {
		records = parse(text, {
			bom: true,
			columns: (names: string[]) => names.map((name) => name.trim()),
			delimiter: [',', ';'],
			skip_empty_lines: true,
			trim: true,
			relax_column_count: true
		});
	} catch (error) {
		return { faults: [`It cannot be read as CSV: ${(error as Error).message}`] };
	}
	if (!records.length) return { faults: ['There is no line in it. The first line names the columns.'] };
	if (records.length > MOST) return { faults: [`At most ${MOST} lines.`] };
	const columns = Object.keys(records[0]!);
	const missing = ['code', 'name'].filter((one) => !columns.includes(one));
	const priced = columns.filter((one) => /^price_[A-Z]{3}$/.test(one));
	if (missing.length) return { faults: [`The column “${missing[0]}” is missing.`] };
	if (!priced.length) return { faults: ['There is no column with prices, such as price_EUR.'] };
	const faults: string[] = [];
	const seen = new Map<string, number>();
	const items = records.flatMap((one, at): ItemForm[] => {
		const line = at + 2;
		const percent = Number((one.rate || '0').replace(',', '.').replace('%', ''));
		const read = ItemForm.safeParse({
			code: one.code,
			name: one.name,
			about: one.about ?? '',
			unit: one.unit ?? '',
			category: (TAX_CATEGORIES as readonly string[]).includes(one.tax ?? '')
				? one.tax
				: one.tax
					? one.tax
					: 'standard',
			rate: Math.round(percent * 10_000),
			pricing: one.pricing || 'with tax',
			stock: one.stock ? Number(one.stock) : null,
			prices: priced
				.filter((column) => one[column])
				.map((column) => ({ currency: column.slice(6), price: one[column]!.replace(',', '.') }))
		});
		if (!read.success) {
			for (const issue of read.error.issues.slice(0, 3))
				faults.push(`Line ${line}, ${issue.path.join(' ')}: ${issue.message}`);
			return [];
		}
		const before = seen.get(read.data.code);
		if (before) faults.push(`Line ${line}: the code ${read.data.code} stands in line ${before} already.`);
		seen.set(read.data.code, line);
		return [read.data];
	});
	return faults.length ? { faults: faults.slice(0, 50) } : { items };
}

/** Takes a price list in, whole or not at all; things are known by their code, and keep their picture. */
export async function importPrices(
	text: string,
	by: string
): Promise<{ faults: string[] } | { added: number; changed: number }> {
	const read = readPrices(text);
	if ('faults' in read) return read;
	const counted = await write(async (tx) => {
		let [added, changed] = [0, 0];
		for (const item of read.items) {
			const known = await db.priceItems.one({ code: item.code, removedAt: null }, tx);
			if (known) {
				await db.priceItems.update({ id: known.id }, { ...rowOf(item), picture: known.picture }, tx);
				changed++;
			} else {
				await db.priceItems.insert({ id: randomId(), ...rowOf(item), createdAt: timeNow() }, tx);
				added++;
			}
		}
		await audit(
			{
				by,
				kind: 'price list',
				id: 'import',
				name: `${read.items.length} things`,
				act: `imported ${added} new and ${changed} known things from a file`
			},
			tx
		);
		return { added, changed };
	});
	tell('bill');
	return counted;
}
