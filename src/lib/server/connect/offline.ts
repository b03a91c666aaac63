import { z } from 'zod';
import { OFFLINE_METHODS } from '../../core/lineup';
import { AmountError, isCurrency, readTypedAmount } from '../../core/money';
import { readIban, RECEIPT, receiptLines } from '../../core/references';
import { forgetSnapshot } from '../signals/freshness';
import { audit, randomId } from '../access';
import { inZone } from '../../core/calendar';
import { db, middleDays, sumsOfDays, write, type OfflineMethodRow, type Thresholds } from '../db';
import { tell } from '../signals/live';
import { theBusiness } from './business';
import { cleanRichText } from './richText';
import { timeNow } from '../signals/clock';

const Bic = z
	.string()
	.trim()
	.toUpperCase()
	.regex(
		/^([A-Z]{6}[A-Z0-9]{2}([A-Z0-9]{3})?)?$/,
		'A BIC has 8 or 11 letters and digits, such as GKCCBEBB. It may be left empty.'
	);

export const REFERENCE_STYLES = ['structured', 'plain', 'none'] as const;

/** A way to pay that no processor carries. A credit transfer has an account besides. */
export const OfflineForm = z
	.object({
		kind: z.enum(OFFLINE_METHODS).default('credit-transfer'),
		name: z.string().trim().min(1, 'Give the name payers will read.').max(40, 'At most 40 characters.').default(''),
		holder: z.string().trim().max(70, 'At most 70 characters, as a transfer code holds.').default(''),
		iban: z.string().trim().max(60).default(''),
		bic: Bic.default(''),
		currencies: z.array(z.string().refine(isCurrency)).min(1, 'Choose at least one currency.').default(['EUR']),
		instructions: z
			.string()
			.max(8000, 'Too long: at most 8,000 signs with their markup.')
			.transform(cleanRichText)
			.default(''),
		afterNote: z
			.string()
			.trim()
			.max(400, 'At most 400 characters.')
			.refine((text) => receiptLines(text).length <= RECEIPT.lines, {
				message: `Too long for the receipt: it has room for ${RECEIPT.lines} lines of ${RECEIPT.columns} characters.`
			})
			.default(''),
		pictureCode: z.string().trim().max(300, 'At most 300 characters fit a code that phones read well.').default(''),
		referenceStyle: z.enum(REFERENCE_STYLES).default('plain'),
		transferCode: z.boolean().default(false),
		termDays: z.number().int().min(0, 'No fewer than no days.').max(365, 'At most 365 days.').default(10),
		threshold: z.string().trim().max(30).default(''),
		followUp: z.string().trim().max(80, 'At most 80 characters.').default('')
	})
	.superRefine((form, context) => {
		if (form.kind !== 'credit-transfer') return;
		if (!form.holder)
			context.addIssue({ code: 'custom', path: ['holder'], message: 'Give the name the account is held in.' });
		const read = readIban(form.iban);
		if ('problem' in read) context.addIssue({ code: 'custom', path: ['iban'], message: read.problem });
	});
export type OfflineForm = z.infer<typeof OfflineForm>;

export const allOffline = (): Promise<OfflineMethodRow[]> =>
	db.offlineMethods.find({ removedAt: null }, { order: [['createdAt', 'ASC']] });
export const offlineById = (id: string): Promise<OfflineMethodRow | undefined> =>
	db.offlineMethods.one({ id, removedAt: null });

/** What a kind begins with. */
export const BLANKS: Readonly<Record<OfflineForm['kind'], Partial<OfflineForm>>> = {
	'credit-transfer': {
		name: 'Credit transfer',
		instructions: '<p>Please give the reference exactly as it stands here.</p>',
		afterNote: 'We hold the order until the money has come.',
		referenceStyle: 'structured',
		transferCode: true
	},
	cash: {
		name: 'Cash',
		instructions: '<p>Pay at the counter when you collect your order.</p>',
		afterNote: 'Please bring the sum in cash.',
		termDays: 7,
		referenceStyle: 'none'
	},
	cheque: {
		name: 'Cheque',
		instructions: '<p>Write the order’s reference on the back of the cheque.</p>',
		afterNote: 'We pack once the cheque has cleared.',
		termDays: 14
	},
	'on-delivery': {
		name: 'On delivery',
		instructions: '<p>Pay whoever brings the parcel.</p>',
		afterNote: 'Please have the sum ready.',
		termDays: 14
	},
	'on-account': {
		name: 'On account',
		instructions: '<p>An invoice follows by mail.</p>',
		afterNote: 'An invoice follows.',
		termDays: 30
	},
	'money-order': {
		name: 'Money order',
		instructions: '<p>Send a money order to our address, with the reference on it.</p>',
		afterNote: 'We pack when it has come.',
		termDays: 21
	},
	'card-elsewhere': {
		name: 'Card at the counter',
		instructions: '<p>Pay by card on the terminal at the counter.</p>',
		afterNote: 'Please bring your card.',
		termDays: 7,
		referenceStyle: 'none'
	},
	own: { name: '', instructions: '<p></p>', afterNote: '', termDays: 10 }
};

/** Adds an offline method, or changes one. */
export async function saveOffline(
	form: OfflineForm,
	id: string | undefined,
	by: string,
	locale: string
): Promise<{ id: string } | { problem: string; field: 'threshold' }> {
	const { homeCurrency } = await theBusiness();
	let threshold: Thresholds = [];
	if (form.threshold)
		try {
			threshold = [
				{ currency: homeCurrency, minimum: readTypedAmount(form.threshold, homeCurrency, { locale }).amount.minor }
			];
		} catch (error) {
			if (error instanceof AmountError) return { problem: error.message, field: 'threshold' };
			throw error;
		}
	const transfers = form.kind === 'credit-transfer';
	const read = readIban(form.iban);
	const fields: Partial<OfflineMethodRow> = {
		kind: form.kind,
		name: form.name,
		holder: transfers ? form.holder : '',
		iban: transfers && 'iban' in read ? read.iban : '',
		bic: transfers ? form.bic : '',
		currencies: JSON.stringify(form.currencies),
		instructions: form.instructions,
		afterNote: form.afterNote,
		pictureCode: form.pictureCode,
		referenceStyle: form.referenceStyle,
		transferCode: Number(transfers && form.transferCode),
		termDays: form.termDays,
		threshold: JSON.stringify(threshold),
		followUp: form.followUp
	};
	const saved = id ?? randomId();
	await write(async (tx) => {
		const before = id ? await db.offlineMethods.one({ id }, tx) : undefined;
		if (before) await db.offlineMethods.update({ id }, fields, tx);
		else await db.offlineMethods.insert({ id: saved, ...fields, createdAt: timeNow() }, tx);
		await audit(
			{
				by,
				kind: 'offline method',
				id: saved,
				name: form.name,
				act: before ? 'changed' : 'added',
				before,
				after: { ...before, ...fields }
			},
			tx
		);
	});
	forgetSnapshot();
	tell('connections');
	return { id: saved };
}

/** Pauses or resumes an offline method, or removes it where nothing offers it. @returns why not, if so */
export async function endOffline(
	row: OfflineMethodRow,
	act: 'pause' | 'remove',
	by: string,
	tills: readonly string[] = []
): Promise<string | undefined> {
	if (act === 'remove' && tills.length)
		return `It is offered at ${tills.join(', ')}. Take it out of the line-up there first, or pause it.`;
	const changes = act === 'pause' ? { paused: row.paused ? 0 : 1 } : { removedAt: timeNow() };
	await write(async (tx) => {
		await db.offlineMethods.update({ id: row.id }, changes, tx);
		await audit(
			{
				by,
				kind: 'offline method',
				id: row.id,
				name: row.name,
				act: act === 'remove' ? 'removed' : row.paused ? 'resumed' : 'paused',
				before: { paused: row.paused },
				after: changes
			},
			tx
		);
	});
	forgetSnapshot();
	tell('connections');
	return undefined;
}

/** A row as the form shows it. */
export function offlineForm(row: OfflineMethodRow, plain: (minor: number, currency: string) => string): OfflineForm {
	const threshold = db.offlineMethods.json.threshold(row.threshold)[0];
	return {
		kind: row.kind as OfflineForm['kind'],
		name: row.name,
		holder: row.holder,
		iban: row.iban.replace(/(.{4})(?=.)/g, '$1 '),
		bic: row.bic,
		currencies: db.offlineMethods.json.currencies(row.currencies),
		instructions: row.instructions,
		afterNote: row.afterNote,
		pictureCode: row.pictureCode,
		referenceStyle: row.referenceStyle as OfflineForm['referenceStyle'],
		transferCode: row.transferCode === 1,
		termDays: row.termDays,
		threshold: threshold ? plain(threshold.minimum, threshold.currency) : '',
		followUp: row.followUp
	};
}

const DAYS = 90;
const ENOUGH = 50;
const HARDLY_BPS = 200;

/** How an offline method was used of late, and whether dropping it is worth a thought. */
export interface OfflineUse {
	readonly days: number;
	readonly chosen: number;
	readonly paid: number;
	/** what came, by currency */
	readonly taken: readonly { readonly currency: string; readonly minor: number }[];
	/** payments of any kind in the same time */
	readonly all: number;
	/** the middle of the days from order to money */
	readonly daysUntilPaid: number | null;
	readonly hardly: boolean;
}

/** Use of each offline method over the last 90 days. Hardly used is under two in a hundred of at least 50 payments. */
export async function usageOfOffline(now: number): Promise<Map<string, OfflineUse>> {
	const since = now - DAYS * 86_400_000;
	const { timeZone } = await theBusiness();
	const [from, to] = [since, now].map((at) => inZone(new Date(at), timeZone).day) as [string, string];
	const [rows, sums] = await Promise.all([allOffline(), sumsOfDays(from, to)]);
	const all = sums.reduce((count, one) => count + one.count, 0);
	return new Map(
		await Promise.all(
			rows.map(async (row): Promise<[string, OfflineUse]> => {
				const mine = sums.filter((one) => one.carrier === row.id);
				const chosen = mine.reduce((count, one) => count + one.count, 0);
				return [
					row.id,
					{
						days: DAYS,
						chosen,
						paid: mine.reduce((count, one) => count + one.paid, 0),
						taken: mine.filter((one) => one.taken > 0).map(({ currency, taken }) => ({ currency, minor: taken })),
						all,
						daysUntilPaid: chosen ? await middleDays(row.id, since) : null,
						hardly: row.createdAt < since && all >= ENOUGH && chosen * 10_000 < HARDLY_BPS * all
					}
				];
			})
		)
	);
}
