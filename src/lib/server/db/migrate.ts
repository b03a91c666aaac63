import type { Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import { first } from './migrations/0001-first';
import { second } from './migrations/0002-connect';
import { third } from './migrations/0003-choose';
import { fourth } from './migrations/0004-accept';
import { fifth } from './migrations/0005-attempts';

/** Brings the schema up to date, at every start. A migration that has run is never changed. */
export async function migrate(db: Sequelize): Promise<void> {
	const umzug = new Umzug({
		migrations: [
			{ name: '0001-first', up: async () => run(db, first) },
			{ name: '0002-connect', up: async () => run(db, second) },
			{ name: '0003-choose', up: async () => run(db, third) },
			{ name: '0004-accept', up: async () => run(db, fourth) },
			{ name: '0005-attempts', up: async () => run(db, fifth) }
		],
		context: db.getQueryInterface(),
		storage: new SequelizeStorage({ sequelize: db }),
		logger: undefined
	});
	await umzug.up();
}

/** A migration succeeds whole or not at all. */
const run = (db: Sequelize, statements: readonly string[]): Promise<void> =>
	db.transaction(async (transaction) => {
		for (const statement of statements) await db.query(statement, { transaction });
	});
