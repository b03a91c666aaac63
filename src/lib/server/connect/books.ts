import { z } from 'zod';
import { isCurrency } from '../../core/money';
import { readIban } from '../../core/references';
import { audit, randomId } from '../access';
import { db, write, type BankAccountRow, type BrandRow, type LedgerAccountRow } from '../db';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';

// Brands, bank accounts and the chart of accounts: small lists that other things choose from.

export const BrandForm = z.object({
	id: z.string().default(''),
	name: z.string().trim().min(1, 'Give the name that payers know.').max(80, 'At most 80 characters.'),
	country: z.string().regex(/^[A-Z]{2}$/, 'Choose a country.'),
	homeCurrency: z.string().refine(isCurrency, 'Choose a currency.'),
	colour: z
		.string()
		.regex(/^#[0-9a-f]{6}$/i, 'Choose a colour.')
		.default('#2f4b3c'),
	statementName: z.string().trim().max(22, 'At most 22 characters.').default('')
});
export const allBrands = (): Promise<BrandRow[]> =>
	db.brands.find({ removedAt: null }, { order: [['createdAt', 'ASC']] });

export async function saveBrand({ id, ...form }: z.infer<typeof BrandForm>, by: string): Promise<void> {
	await write(async (tx) => {
		const before = id ? await db.brands.one({ id, removedAt: null }, tx) : undefined;
		const saved = before?.id ?? randomId();
		if (before) await db.brands.update({ id: saved }, form, tx);
		else await db.brands.insert({ id: saved, ...form, createdAt: timeNow() }, tx);
		await audit(
			{
				by,
				kind: 'brand',
				id: saved,
				name: form.name,
				act: before ? 'changed' : 'added',
				before,
				after: { ...before, ...form }
			},
			tx
		);
	});
	tell('connections');
}
/** @returns why it cannot be removed, if so */
export async function removeBrand(id: string, by: string): Promise<string | undefined> {
	const row = await db.brands.one({ id, removedAt: null });
	if (!row) return undefined;
	const abroad = await db.connections.find({ accountCountry: row.country, removedAt: null });
	const business = await db.business.one({ id: 1 });
	const others = (await allBrands()).filter((one) => one.id !== id && one.country === row.country);
	if (abroad.length && business?.country !== row.country && !others.length)
		return `${abroad.map((one) => one.name).join(', ')} ${abroad.length === 1 ? 'is' : 'are'} connected for this brand’s country.`;
	await write(async (tx) => {
		await db.brands.update({ id }, { removedAt: timeNow() }, tx);
		await audit({ by, kind: 'brand', id, name: row.name, act: 'removed', before: row }, tx);
	});
	tell('connections');
	return undefined;
}

export const BankAccountForm = z
	.object({
		name: z.string().trim().min(1, 'Give it a name that you know it by.').max(60, 'At most 60 characters.'),
		holder: z.string().trim().min(1, 'Give the name the account is held in.').max(70, 'At most 70 characters.'),
		iban: z.string().trim().max(60),
		bic: z
			.string()
			.trim()
			.toUpperCase()
			.regex(/^([A-Z]{6}[A-Z0-9]{2}([A-Z0-9]{3})?)?$/, 'A BIC has 8 or 11 letters and digits. It may be left empty.')
			.default(''),
		currency: z.string().refine(isCurrency, 'Choose a currency.')
	})
	.superRefine((form, context) => {
		const read = readIban(form.iban);
		if ('problem' in read) context.addIssue({ code: 'custom', path: ['iban'], message: read.problem });
	});
export const allBankAccounts = (): Promise<BankAccountRow[]> =>
	db.bankAccounts.find({ removedAt: null }, { order: [['createdAt', 'ASC']] });

export async function addBankAccount(form: z.infer<typeof BankAccountForm>, by: string): Promise<string | undefined> {
	const read = readIban(form.iban);
	if ('problem' in read) return read.problem;
	const { iban } = read;
	if (await db.bankAccounts.one({ iban, currency: form.currency, removedAt: null }))
		return 'This account is there already, in this currency.';
	await write(async (tx) => {
		const id = randomId();
		await db.bankAccounts.insert({ ...form, id, iban, createdAt: timeNow() }, tx);
		await audit({ by, kind: 'bank account', id, name: form.name, act: 'added', after: { ...form, iban } }, tx);
	});
	tell('connections');
	return undefined;
}
export async function removeBankAccount(id: string, by: string): Promise<string | undefined> {
	const row = await db.bankAccounts.one({ id, removedAt: null });
	if (!row) return undefined;
	const used = await db.connections.find({ bankAccountId: id, removedAt: null });
	if (used.length)
		return `${used.map((one) => one.name).join(', ')} pay${used.length === 1 ? 's' : ''} out to it. Choose another account there first.`;
	await write(async (tx) => {
		await db.bankAccounts.update({ id }, { removedAt: timeNow() }, tx);
		await audit({ by, kind: 'bank account', id, name: row.name, act: 'removed', before: row }, tx);
	});
	tell('connections');
	return undefined;
}

export const LedgerForm = z.object({
	number: z
		.string()
		.trim()
		.regex(/^[0-9A-Za-z.-]{1,12}$/, 'A number of at most 12 letters and digits, such as 5800.'),
	name: z.string().trim().min(1, 'Give it a name.').max(80, 'At most 80 characters.'),
	kind: z.enum(['asset', 'liability', 'income', 'expense'])
});
export const chartOfAccounts = (): Promise<LedgerAccountRow[]> =>
	db.ledgerAccounts.find({}, { order: [['number', 'ASC']] });

export async function saveLedgerAccount(form: z.infer<typeof LedgerForm>, by: string): Promise<void> {
	await write(async (tx) => {
		const before = await db.ledgerAccounts.one({ number: form.number }, tx);
		if (before) await db.ledgerAccounts.update({ number: form.number }, form, tx);
		else await db.ledgerAccounts.insert(form, tx);
		await audit(
			{
				by,
				kind: 'ledger account',
				id: form.number,
				name: `${form.number} ${form.name}`,
				act: before ? 'changed' : 'added',
				before,
				after: form
			},
			tx
		);
	});
}
export async function removeLedgerAccount(number: string, by: string): Promise<string | undefined> {
	const used = (await db.connections.find({ removedAt: null })).filter(
		(row) => row.clearingAccount === number || row.feeAccount === number
	);
	if (used.length)
		return `${used.map((one) => one.name).join(', ')} book${used.length === 1 ? 's' : ''} on it. Choose another account there first.`;
	await write(async (tx) => {
		const before = await db.ledgerAccounts.one({ number }, tx);
		await db.ledgerAccounts.remove({ number }, tx);
		await audit(
			{ by, kind: 'ledger account', id: number, name: `${number} ${before?.name ?? ''}`, act: 'removed', before },
			tx
		);
	});
	return undefined;
}
