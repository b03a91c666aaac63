import { randomBytes } from 'node:crypto';
import { z } from 'zod';
import { isCurrency } from '../../core/money';
import { addressQuery, checkAsk, type AddressProblem } from '../../core/references';
import { audit, randomId, seal, unseal } from '../access';
import { ownAddress } from '../connect/connections';
import { db, write, type TillRow } from '../db';
import { readJson } from '../json';
import { tell } from '../live';
import { forgetSnapshot } from './freshness';

export const COLOURS = [
	{ value: '#2f4b3c', name: 'Spruce' },
	{ value: '#3b3f63', name: 'Indigo' },
	{ value: '#5a3a2a', name: 'Varnish' },
	{ value: '#2d4a5e', name: 'Slate' },
	{ value: '#5b2b4a', name: 'Plum' }
] as const;

export const TillForm = z.object({
	name: z.string().trim().min(1, 'Give the till a name.').max(60, 'At most 60 characters.'),
	mode: z.enum(['test', 'live']).default('live'),
	currencies: z.array(z.string().refine(isCurrency)).min(1, 'Choose at least one currency.'),
	colour: z
		.string()
		.regex(/^#[0-9a-f]{6}$/)
		.default(COLOURS[0].value),
	/** the web domain on which its page is shown, where wallets ask for one; empty for this address */
	domain: z.string().max(120).default('')
});
export type TillForm = z.infer<typeof TillForm>;

export const tillCurrencies = (row: Pick<TillRow, 'currencies'>): string[] =>
	readJson(z.array(z.string()), row.currencies);

export const allTills = (): Promise<TillRow[]> => db.tills.find({}, { order: [['createdAt', 'ASC']] });
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
		kind: 'web checkout',
		mode: form.mode,
		currencies: JSON.stringify(form.currencies),
		colour: form.colour,
		fulfil: 'on promise',
		domain: form.domain,
		signingKeySealed: seal(randomBytes(32), `till ${id}`),
		createdAt: Date.now()
	};
	await write(async (tx) => {
		await db.tills.insert(row, tx);
		await audit({ by, kind: 'till', id, name: row.name, act: 'set up', after: row }, tx);
	});
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
		domain: form.domain
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
	purpose: z.string().trim().default('')
});
export type AddressForm = z.infer<typeof AddressForm>;

/** Builds a signed address of a till's own page. */
export function buildAddress(row: TillRow, form: AddressForm): { address: string } | { problems: AddressProblem[] } {
	const { ask, problems } = checkAsk(row.slug, form);
	if (!ask) return { problems };
	if (!tillCurrencies(row).includes(ask.amount.currency))
		return {
			problems: [
				{ field: 'currency', says: `${row.name} takes ${tillCurrencies(row).join(', ')}, not ${ask.amount.currency}.` }
			]
		};
	return {
		address: `${ownAddress()}/pay/${row.slug}?${addressQuery(ask, unseal(row.signingKeySealed, `till ${row.id}`))}`
	};
}
