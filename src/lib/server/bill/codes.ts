import { CodeForm } from '../../core/billing';
import { formatAmount } from '../../core/money';
import { audit } from '../access';
import { countCodeUses, db, write } from '../db';
import { timeNow } from '../signals/clock';
import { tell } from '../signals/live';

export { CodeForm };

/** All discount codes with how often they were used. */
export async function allCodes(locale: string) {
	const rows = await db.discountCodes.find({}, { order: [['createdAt', 'DESC']] });
	return Promise.all(
		rows.map(async (row) => {
			const form = db.discountCodes.json.form(row.form);
			const { used } = await countCodeUses(row.code, '', timeNow());
			return {
				code: row.code,
				name: form.name,
				off:
					form.off.kind === 'percentage'
						? `${form.off.ppm / 10_000} %`
						: formatAmount({ minor: form.off.minor, currency: form.currency }, locale),
				least: form.least ? formatAmount({ minor: form.least, currency: form.currency }, locale) : '',
				from: form.from,
				until: form.until,
				uses: form.uses,
				usesEach: form.usesEach,
				used,
				isEnded: row.endedAt !== null
			};
		})
	);
}
/** @returns what is wrong, if anything is */
export async function addCode(form: CodeForm, by: string): Promise<string | undefined> {
	if (form.from && form.until && form.until < form.from) return 'Its last day is before its first.';
	const problem = await write(async (tx) => {
		if (await db.discountCodes.one({ code: form.code }, tx)) return `There is a code ${form.code} already.`;
		await db.discountCodes.insert({ code: form.code, form: JSON.stringify(form), createdAt: timeNow() }, tx);
		await audit({ by, kind: 'discount code', id: form.code, name: form.code, act: 'added', after: form }, tx);
		return undefined;
	});
	tell('bill');
	return problem;
}
/** Ends a code, or makes it good again. Orders that used it stay as they are. */
export async function endCode(code: string, isEnded: boolean, by: string): Promise<void> {
	await write(async (tx) => {
		await db.discountCodes.update({ code }, { endedAt: isEnded ? timeNow() : null }, tx);
		await audit({ by, kind: 'discount code', id: code, name: code, act: isEnded ? 'ended' : 'good again' }, tx);
	});
	tell('bill');
}
