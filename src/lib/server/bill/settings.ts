import { z } from 'zod';
import { numberText } from '../../core/billing';
import { audit, randomId } from '../access';
import { forgetBusiness, theBusiness, today } from '../connect/business';
import { db, takeNumber, write, type BillSettings, type NumberSeriesRow, type Tx } from '../db';
import { tell } from '../signals/live';

/** How the business bills. */
export const billSettings = async (): Promise<BillSettings> => db.business.json.billing((await theBusiness()).billing);

export async function saveBillSettings(form: BillSettings, by: string): Promise<void> {
	await write(async (tx) => {
		const before = (await db.business.one({ id: 1 }, tx))!;
		await db.business.update({ id: 1 }, { billing: JSON.stringify(form) }, tx);
		await audit(
			{
				by,
				kind: 'business',
				id: '1',
				name: before.name,
				act: 'changed how it bills',
				before: { ...db.business.json.billing(before.billing), logo: undefined },
				after: { ...form, logo: undefined }
			},
			tx
		);
	});
	forgetBusiness();
	tell('bill');
}

export const SERIES_KINDS = ['invoice', 'quote', 'credit note'] as const;
export type SeriesKind = (typeof SERIES_KINDS)[number];
const FIRST: Readonly<Record<SeriesKind, string>> = { invoice: 'INV-', quote: 'Q-', 'credit note': 'CN-' };

export const SeriesForm = z.object({
	prefix: z
		.string()
		.trim()
		.max(12, 'At most 12 characters.')
		.regex(/^[A-Za-z0-9/.-]*$/, 'Letters, digits, hyphen, point and slash.'),
	year: z.enum(['none', 'two digits', 'four digits']),
	digits: z.coerce.number().int().min(1, 'One digit at least.').max(10, 'At most ten digits.'),
	start: z.coerce.number().int().min(1, 'From 1 on.').max(999_999_999)
});
export type SeriesForm = z.infer<typeof SeriesForm>;

/** The series of a brand and kind; made where there is none yet. */
export async function seriesOf(brandId: string, kind: SeriesKind, tx: Tx): Promise<NumberSeriesRow> {
	const known =
		(await db.numberSeries.one({ brandId, kind }, tx)) ?? (await db.numberSeries.one({ brandId: '', kind }, tx));
	if (known) return known;
	return db.numberSeries.insert(
		{ id: randomId(), brandId: '', kind, prefix: FIRST[kind], year: 'four digits', digits: 4, start: 1 },
		tx
	);
}

/** The number that a document gets: taken in the transaction that stores it. */
export async function nextNumber(series: NumberSeriesRow, day: string, tx: Tx): Promise<string> {
	const year = series.year === 'none' ? '' : day.slice(0, 4);
	return numberText(series, day, await takeNumber(series.id, year, series.start, tx));
}

/** All series, each with the number it gives next. */
export async function allSeries(): Promise<
	{ brand: string; brandId: string; kind: SeriesKind; form: SeriesForm; next: string; given: number }[]
> {
	const [rows, counters, brands, day] = await Promise.all([
		db.numberSeries.find(),
		db.numberCounters.find(),
		db.brands.find({ removedAt: null }),
		today()
	]);
	return ['', ...brands.map((one) => one.id)].flatMap((brandId) =>
		SERIES_KINDS.flatMap((kind) => {
			const row = rows.find((one) => one.brandId === brandId && one.kind === kind);
			if (!row && brandId) return [];
			const form: SeriesForm = row ?? { prefix: FIRST[kind], year: 'four digits', digits: 4, start: 1 };
			const mine = row ? counters.filter((one) => one.seriesId === row.id) : [];
			const next = mine.find((one) => one.year === (form.year === 'none' ? '' : day.slice(0, 4)))?.next ?? form.start;
			return [
				{
					brand: brands.find((one) => one.id === brandId)?.name ?? '',
					brandId,
					kind,
					form: { prefix: form.prefix, year: form.year, digits: form.digits, start: form.start },
					next: numberText(form, day, next),
					given: mine.reduce((all, one) => all + one.next - form.start, 0)
				}
			];
		})
	);
}

/** Changes how numbers of a series are written. Numbers that were given stay; a series that was used begins no earlier. */
export async function saveSeries(
	brandId: string,
	kind: SeriesKind,
	form: SeriesForm,
	by: string
): Promise<string | undefined> {
	const problem = await write(async (tx) => {
		const known = await db.numberSeries.one({ brandId, kind }, tx);
		const day = await today();
		const others = (await db.numberSeries.find({ kind }, {}, tx)).filter((one) => one.id !== known?.id);
		if (others.some((one) => one.prefix === form.prefix && one.year === form.year && one.digits === form.digits))
			return 'Another brand’s numbers are written the same way: they would meet.';
		const year = form.year === 'none' ? '' : day.slice(0, 4);
		const first = numberText(form, day, form.start);
		if (!known && (await db.invoices.one({ number: first, kind }, tx)))
			return `${first} was given already. Begin with a later number.`;
		if (known) {
			const counter = await db.numberCounters.one({ seriesId: known.id, year }, tx);
			if (counter && form.start > counter.next)
				await db.numberCounters.update({ seriesId: known.id, year }, { next: form.start }, tx);
			else if (counter && form.start < known.start)
				return `Numbers of this series were given from ${known.start} on; it cannot begin earlier.`;
			await db.numberSeries.update({ id: known.id }, form, tx);
		} else await db.numberSeries.insert({ id: randomId(), brandId, kind, ...form }, tx);
		await audit(
			{ by, kind: 'business', id: '1', name: `Numbers of ${kind}s`, act: 'changed', before: known, after: form },
			tx
		);
		return undefined;
	});
	tell('bill');
	return problem;
}
