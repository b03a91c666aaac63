import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { inZone } from '../../../core/calendar';

/** A charge of an account counts to a day of that account, as a payment does. */
export const nineteenth: readonly string[] = [
	`ALTER TABLE account_charges ADD COLUMN day TEXT NOT NULL DEFAULT ''`,
	`DROP INDEX account_charges_at`,
	`CREATE INDEX account_charges_day ON account_charges (day)`
];

const ZONES = `SELECT c.id, c.at, COALESCE(k.time_zone, (SELECT time_zone FROM business)) AS zone
	FROM account_charges c LEFT JOIN connections k ON k.id = c.connection_id`;

/** Gives each charge that is known its day: in the account's time zone, or the business's where the account is not connected. */
export async function fillChargeDays(db: Sequelize, transaction: Transaction): Promise<void> {
	const rows = await db.query<{ id: number; at: number; zone: string | null }>(ZONES, {
		type: QueryTypes.SELECT,
		transaction
	});
	const days = rows.map(({ id, at, zone }) => [id, inZone(new Date(at), zone ?? 'UTC').day]);
	for (let n = 0; n < days.length; n += 10_000)
		await db.query(
			`UPDATE account_charges SET day = j.value ->> 1 FROM json_each($1) j WHERE account_charges.id = j.value ->> 0`,
			{ bind: [JSON.stringify(days.slice(n, n + 10_000))], transaction }
		);
}
