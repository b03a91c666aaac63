import { randomBytes } from 'node:crypto';
import { z } from 'zod';
import { isCurrency } from '../../core/money';
import { FULFIL } from '../../core/stages';
import { audit, randomId, seal } from '../access';
import { db, mapSource, pastPayers, TillSettings, unmetSums, write, type TillRow } from '../db';

export { TillSettings } from '../db';
import { tell } from '../signals/live';
import { forgetSnapshot } from '../signals/freshness';
import { moveSoon } from '../history/moves';
import { timeNow } from '../signals/clock';

export const COLOURS = [
	{ value: '#2f4b3c', name: 'Spruce' },
	{ value: '#3b3f63', name: 'Indigo' },
	{ value: '#5a3a2a', name: 'Varnish' },
	{ value: '#2d4a5e', name: 'Slate' },
	{ value: '#5b2b4a', name: 'Plum' }
] as const;

export const TILL_KINDS = ['web checkout', 'counter', 'invoice sheet', 'pay link', 'plan'] as const;
export type TillKind = (typeof TILL_KINDS)[number];
export const LANGUAGES = { en: 'English', nl: 'Nederlands', fr: 'Français', de: 'Deutsch' } as const;
export const settingsOf = (row: Pick<TillRow, 'settings'>): TillSettings => db.tills.json.settings(row.settings);
/** All web domains of a till. */
export const domainsOf = (row: Pick<TillRow, 'settings' | 'domain'>): string[] => [
	...new Set([row.domain, ...settingsOf(row).domains].filter(Boolean))
];

export const TillForm = z.object({
	name: z.string().trim().min(1, 'Give the till a name.').max(60, 'At most 60 characters.'),
	kind: z.enum(TILL_KINDS).default('web checkout'),
	brandId: z.string().max(60).default(''),
	fulfil: z.enum(FULFIL).default('on promise'),
	mode: z.enum(['test', 'live']).default('live'),
	currencies: z.array(z.string().refine(isCurrency)).min(1, 'Choose at least one currency.'),
	colour: z
		.string()
		.regex(/^#[0-9a-f]{6}$/)
		.default(COLOURS[0].value),
	/** the web domain on which its page is shown, where wallets ask for one; empty for this address */
	domain: z.string().max(120).default(''),
	...TillSettings.shape
});
export type TillForm = z.infer<typeof TillForm>;

export const tillCurrencies = (row: Pick<TillRow, 'currencies'>): string[] => db.tills.json.currencies(row.currencies);

export const allTills = (): Promise<TillRow[]> => db.tills.find({}, { order: [['createdAt', 'ASC']] });
/** What payers wanted to pay at a till and could not, since a moment: by kind and currency. */
export const unmetAt = unmetSums;
/** Who came to a till since a moment, alike ones together. */
export const whoCame = pastPayers;

export const tillBySlug = (slug: string): Promise<TillRow | undefined> => db.tills.one({ slug });

/** A name as an address carries it: `Web shop` is `web-shop`. */
const slugOf = (name: string): string =>
	name
		.normalize('NFKD')
		.toLowerCase()
		.replace(/[^a-z0-9]+/g, '-')
		.replace(/^-+|-+$/g, '')
		.slice(0, 40) || 'till';

export async function setUpTill(form: TillForm, by: string): Promise<TillRow> {
	const id = randomId();
	const taken = new Set((await allTills()).map((row) => row.slug));
	let slug = slugOf(form.name);
	for (let n = 2; taken.has(slug) || slug === 'new'; n++) slug = `${slugOf(form.name)}-${n}`;
	const row: TillRow = {
		id,
		slug,
		name: form.name,
		kind: form.kind,
		mode: form.mode,
		currencies: JSON.stringify(form.currencies),
		colour: form.colour,
		fulfil: form.fulfil,
		domain: form.domain,
		brandId: form.brandId || null,
		settings: JSON.stringify(TillSettings.parse(form)),
		signingKeySealed: seal(randomBytes(32), `till ${id}`),
		createdAt: timeNow()
	};
	await write(async (tx) => {
		await db.tills.insert(row, tx);
		await audit({ by, kind: 'till', id, name: row.name, act: 'set up', after: row }, tx);
		// settlement files that came before the till may name it already
		const source = await db.fileSources.one({ source: row.name }, tx);
		if (source && !source.tillId) {
			await mapSource(source.source, id, tx);
			await audit(
				{ by, kind: 'settlement file', id: row.name, name: row.name, act: `belongs to the till ${row.name}` },
				tx
			);
		}
	});
	await moveSoon();
	forgetSnapshot();
	tell('tills');
	return row;
}

/** The mode of a till never changes: its payments are of one mode. The address keeps its name. */
export async function changeTill(row: TillRow, form: TillForm, by: string): Promise<void> {
	const changes = {
		name: form.name,
		currencies: JSON.stringify(form.currencies),
		colour: form.colour,
		fulfil: form.fulfil,
		domain: form.domain,
		brandId: form.brandId || null,
		settings: JSON.stringify(TillSettings.parse(form))
	};
	await write(async (tx) => {
		await db.tills.update({ id: row.id }, changes, tx);
		await audit(
			{ by, kind: 'till', id: row.id, name: form.name, act: 'changed', before: row, after: { ...row, ...changes } },
			tx
		);
	});
	forgetSnapshot();
	tell('tills');
}

export const AddressForm = z.object({
	amount: z.string().trim().default(''),
	currency: z.string().trim().default(''),
	reference: z.string().trim().default(''),
	name: z.string().trim().default(''),
	mail: z.string().trim().default(''),
	country: z.string().trim().toUpperCase().default(''),
	purpose: z.string().trim().default(''),
	goods: z.string().trim().max(120).optional(),
	delivery: z.string().trim().max(120).optional(),
	domain: z.string().trim().max(120).optional(),
	recurring: z.string().trim().max(3).optional(),
	ordered: z.string().trim().max(20).optional()
});
export type AddressForm = z.infer<typeof AddressForm>;

/** A till's settings as the form shows them. */
export const tillForm = (row: TillRow): TillForm => ({
	name: row.name,
	kind: row.kind as TillKind,
	brandId: row.brandId ?? '',
	fulfil: row.fulfil as TillForm['fulfil'],
	mode: row.mode,
	currencies: tillCurrencies(row),
	colour: row.colour,
	domain: row.domain,
	...settingsOf(row)
});
