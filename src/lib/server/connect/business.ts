import { z } from 'zod';
import { inZone, isTimeZone, type Day } from '../../core/calendar';
import { isCurrency } from '../../core/money';
import { forgetSnapshot } from '../signals/freshness';
import { audit } from '../access';
import { db, DetailsForm, paymentCount, write, type BusinessRow } from '../db';

export { DetailsForm } from '../db';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';

export const BusinessForm = z.object({
	name: z.string().trim().min(1, 'Give the name that payers know.').max(80, 'At most 80 characters.'),
	country: z.string().regex(/^[A-Z]{2}$/, 'Choose the country the business is in.'),
	homeCurrency: z.string().refine(isCurrency, 'Choose the currency the books are kept in.'),
	timeZone: z.string().refine(isTimeZone, 'Choose the time zone that days are counted in.'),
	/** by which sums and days are shown and typed at the desk; empty where the browser decides, as it did before */
	locale: z.string().refine(isLocale, 'Choose how sums and days are written.').default('')
});
export type BusinessForm = z.infer<typeof BusinessForm>;

/** Whether the runtime can write sums and days so. */
function isLocale(text: string): boolean {
	try {
		return text === '' || Intl.NumberFormat.supportedLocalesOf(text).length > 0;
	} catch {
		return false;
	}
}

export const readDetails = (row: Pick<BusinessRow, 'details'>): DetailsForm => db.business.json.details(row.details);

/** What a processor may ask for: its name, and where it is given. */
export const ASKED: Readonly<Record<string, { name: string; href: string }>> = {
	legalName: { name: 'Legal name', href: '/connect/business#legalName' },
	legalForm: { name: 'Legal form', href: '/connect/business#legalForm' },
	taxNumber: { name: 'Tax number', href: '/connect/business#taxNumber' },
	address: { name: 'Address', href: '/connect/business#street' },
	representative: { name: 'Representative', href: '/connect/business#representative' },
	industry: { name: 'Industry', href: '/connect/business#industry' },
	delivery: { name: 'What is sold, and how soon it is delivered', href: '/connect/business#sells' },
	phone: { name: 'Telephone for payers', href: '/connect/business#phone' },
	mail: { name: 'Mail for payers', href: '/connect/business#mail' },
	domains: { name: 'A web domain or a social page', href: '/connect/domains#domain' },
	bankAccount: { name: 'A bank account', href: '/connect/bank-accounts#iban' }
};

/** What a processor will ask for, and whether it is there. */
export async function readiness(asks: readonly string[]): Promise<{ name: string; href: string; there: boolean }[]> {
	const [row, domains, accounts] = await Promise.all([
		theBusiness(),
		db.domains.count(),
		db.bankAccounts.count({ removedAt: null })
	]);
	const details = readDetails(row);
	const has = (ask: string): boolean => {
		if (ask === 'address') return !!(details.street && details.postcode && details.city);
		if (ask === 'delivery') return !!(details.sells && details.delivery);
		if (ask === 'domains') return domains > 0 || !!details.social;
		if (ask === 'bankAccount') return accounts > 0;
		return !!details[ask as keyof DetailsForm];
	};
	return asks.map((ask) => ({ ...ASKED[ask]!, there: has(ask) }));
}

let known: BusinessRow | undefined;
/** grows with every change: what was read before one is not kept after it */
let changes = 0;
const forget = (): void => {
	known = undefined;
	changes++;
};

/** The business, or undefined before it was asked for. */
export async function business(): Promise<BusinessRow | undefined> {
	if (known) return known;
	const before = changes;
	const row = await db.business.one({ id: 1 });
	if (before === changes) known = row;
	return row;
}

/** @throws Error before set-up; pages behind the sign-in see to it that it is done first */
export async function theBusiness(): Promise<BusinessRow> {
	const row = await business();
	if (!row) throw new Error('The business is not set up yet');
	return row;
}

/** What depends on country and home currency, in words; it is listed before they change, and they change only on purpose. */
export async function hangsOnCountry(): Promise<string[]> {
	const [connections, payments, offline, tills, abroad] = await Promise.all([
		db.connections.count({ removedAt: null }),
		paymentCount(),
		db.offlineMethods.count({ removedAt: null }),
		db.tills.count(),
		db.rateCards.count()
	]);
	const many = (count: number, one: string) => `${count} ${one}${count === 1 ? '' : 's'}`;
	const says = [];
	if (payments) says.push(`${many(payments, 'payment')}, whose sums in the home currency are worked out from it`);
	if (connections)
		says.push(`${many(connections, 'connection')}, whose account must be of the business’s country or a brand’s`);
	if (abroad) says.push(`${many(abroad, 'rate card')}: which cards count as domestic depends on the country`);
	if (offline) says.push(`${many(offline, 'offline method')}, with limits in the home currency`);
	if (tills) says.push(`${many(tills, 'till')}, whose limits in the home currency count for other currencies`);
	return says;
}

export async function saveBusiness(form: BusinessForm, by: string, details?: DetailsForm): Promise<void> {
	await write(async (tx) => {
		const before = await db.business.one({ id: 1 }, tx);
		const after: BusinessRow = {
			id: 1,
			...form,
			details: details ? JSON.stringify(details) : (before?.details ?? '{}'),
			offlineMinimum: before?.offlineMinimum ?? null,
			billing: before?.billing ?? '{}',
			updatedAt: timeNow()
		};
		if (before) await db.business.update({ id: 1 }, after, tx);
		else await db.business.insert(after, tx);
		await audit(
			{
				by,
				kind: 'business',
				id: '1',
				name: form.name,
				act: before ? 'changed details' : 'set up',
				before: before && { ...before, ...readDetails(before), details: undefined },
				after: { ...after, ...readDetails(after), details: undefined }
			},
			tx
		);
	});
	forget();
	forgetSnapshot();
}

/** What the business says of itself and of how it bills was changed: it is read anew. */
export function forgetBusiness(): void {
	forget();
	forgetSnapshot();
}

/** The amount from which offline methods are offered at all, in minor units of the home currency; undefined for any. */
export async function setOfflineMinimum(minor: number | null, by: string): Promise<void> {
	await write(async (tx) => {
		const before = await db.business.one({ id: 1 }, tx);
		await db.business.update({ id: 1 }, { offlineMinimum: minor }, tx);
		await audit(
			{
				by,
				kind: 'business',
				id: '1',
				name: before?.name ?? '',
				act: 'changed the threshold of all offline methods',
				before: { offlineMinimum: before?.offlineMinimum },
				after: { offlineMinimum: minor }
			},
			tx
		);
	});
	forget();
	forgetSnapshot();
	tell('connections');
}

/** The day it is in the business's time zone. */
export const today = async (): Promise<Day> => inZone(new Date(timeNow()), (await theBusiness()).timeZone).day;
