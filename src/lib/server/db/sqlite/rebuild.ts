import { open, write } from '../open';
import { REBUILD_SUMS } from './billSums';
import { derivedRows } from './derived';
import { FILL_FEE_DAYS, FILL_FEES } from './feeMonths';

/** Works out everything anew that is derived from payments and invoices. */
export async function rebuildDerived(): Promise<void> {
	const db = await open();
	await write(async (transaction) => {
		for (const statement of [
			`DELETE FROM day_sums`,
			`DELETE FROM tier_volumes`,
			`DELETE FROM fee_months`,
			`DELETE FROM fee_days`,
			...derivedRows(),
			...FILL_FEES,
			...FILL_FEE_DAYS,
			...REBUILD_SUMS
		])
			await db.query(statement, { transaction });
	});
}
