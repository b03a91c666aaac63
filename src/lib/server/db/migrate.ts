import type { Sequelize, Transaction } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import { first } from './migrations/0001-first';
import { second } from './migrations/0002-connect';
import { third } from './migrations/0003-choose';
import { fourth } from './migrations/0004-accept';
import { fifth } from './migrations/0005-attempts';
import { sixth } from './migrations/0006-one-truth';
import { seventh } from './migrations/0007-arrival-counts';
import { eighth } from './migrations/0008-hold';
import { ninth } from './migrations/0009-takings';
import { tenth } from './migrations/0010-bill';
import { eleventh } from './migrations/0011-owed';
import { twelfth } from './migrations/0012-fees';
import { thirteenth } from './migrations/0013-routing';
import { fourteenth } from './migrations/0014-hooks';
import { fifteenth } from './migrations/0015-watch';
import { sixteenth } from './migrations/0016-search';
import { seventeenth } from './migrations/0017-disputes';
import { eighteenth } from './migrations/0018-charges';
import { fillChargeDays, nineteenth } from './migrations/0019-charge-days';
import { twentieth } from './migrations/0020-unconfirmed';
import { twentyFirst } from './migrations/0021-fee-days';
import { twentySecond } from './migrations/0022-trouble-mail';
import { twentyThird } from './migrations/0023-waiting-money';
import { twentyFourth } from './migrations/0024-stored-methods';
import { twentyFifth } from './migrations/0025-part-refunded';
import { twentySixth } from './migrations/0026-announced-debits';

/**
 * Brings the schema up to date, at every start. A migration that has run is never changed.
 * @param to the last one to run, where it is not the newest; for tests
 */
export async function migrate(db: Sequelize, to?: string): Promise<void> {
	const umzug = new Umzug({
		migrations: [
			{ name: '0001-first', up: async () => run(db, first) },
			{ name: '0002-connect', up: async () => run(db, second) },
			{ name: '0003-choose', up: async () => run(db, third) },
			{ name: '0004-accept', up: async () => run(db, fourth) },
			{ name: '0005-attempts', up: async () => run(db, fifth) },
			{ name: '0006-one-truth', up: async () => rebuild(db, sixth) },
			{ name: '0007-arrival-counts', up: async () => run(db, seventh) },
			{ name: '0008-hold', up: async () => run(db, eighth) },
			{ name: '0009-takings', up: async () => run(db, ninth) },
			{ name: '0010-bill', up: async () => rebuild(db, tenth) },
			{ name: '0011-owed', up: async () => run(db, eleventh) },
			{ name: '0012-fees', up: async () => run(db, twelfth) },
			{ name: '0013-routing', up: async () => run(db, thirteenth) },
			{ name: '0014-hooks', up: async () => run(db, fourteenth) },
			{ name: '0015-watch', up: async () => run(db, fifteenth) },
			{ name: '0016-search', up: async () => run(db, sixteenth) },
			{ name: '0017-disputes', up: async () => run(db, seventeenth) },
			{ name: '0018-charges', up: async () => run(db, eighteenth) },
			{ name: '0019-charge-days', up: async () => run(db, nineteenth, fillChargeDays) },
			{ name: '0020-unconfirmed', up: async () => run(db, twentieth) },
			{ name: '0021-fee-days', up: async () => run(db, twentyFirst) },
			{ name: '0022-trouble-mail', up: async () => run(db, twentySecond) },
			{ name: '0023-waiting-money', up: async () => run(db, twentyThird) },
			{ name: '0024-stored-methods', up: async () => run(db, twentyFourth) },
			{ name: '0025-part-refunded', up: async () => run(db, twentyFifth) },
			{ name: '0026-announced-debits', up: async () => run(db, twentySixth) }
		],
		context: db.getQueryInterface(),
		storage: new SequelizeStorage({ sequelize: db }),
		logger: undefined
	});
	await umzug.up(to === undefined ? undefined : { to });
}

/** A migration succeeds whole or not at all. What no statement can do is done after them. */
const run = (
	db: Sequelize,
	statements: readonly string[],
	then?: (db: Sequelize, transaction: Transaction) => Promise<void>
): Promise<void> =>
	db.transaction(async (transaction) => {
		for (const statement of statements) await db.query(statement, { transaction });
		await then?.(db, transaction);
	});

/**
 * The same for one that makes tables anew that others refer to: references are not checked on the way, and all of them at
 * the end, as SQLite's documentation of ALTER TABLE asks (section 7).
 */
async function rebuild(db: Sequelize, statements: readonly string[]): Promise<void> {
	await db.query('PRAGMA foreign_keys = OFF');
	try {
		await db.query('BEGIN IMMEDIATE');
		for (const statement of statements) await db.query(statement);
		const [broken] = (await db.query('PRAGMA foreign_key_check')) as unknown as [object[]];
		if (broken.length) throw new Error(`the migration would break ${broken.length} references`);
		await db.query('COMMIT');
	} catch (error) {
		await db.query('ROLLBACK').catch(() => {});
		throw error;
	} finally {
		await db.query('PRAGMA foreign_keys = ON');
	}
}
