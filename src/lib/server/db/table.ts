import { DataTypes, type Model, type ModelAttributes, type ModelStatic, type WhereOptions } from 'sequelize';
import { sequelize, type Tx } from './open';

type Columns = Record<string, unknown>;
type Types<Row> = { [K in keyof Row]: 'text' | 'whole' };
type Where<Row> = { [K in keyof Row]?: Row[K] | readonly Row[K][] | null };

export interface Query<Row> {
	readonly order?: readonly [keyof Row & string, 'ASC' | 'DESC'][];
	readonly limit?: number;
}

/** The few things that use cases do with a table. Anything more particular is in `queries.ts`. */
export interface Table<Row> {
	readonly model: ModelStatic<Model<Columns, Columns>>;
	find(where?: Where<Row>, query?: Query<Row>, tx?: Tx): Promise<Row[]>;
	one(where: Where<Row>, tx?: Tx): Promise<Row | undefined>;
	count(where?: Where<Row>): Promise<number>;
	insert(row: Partial<Row>, tx: Tx): Promise<Row>;
	/** Adds rows with one statement; rows that are there already stay as they are, where so asked. */
	insertMany(rows: Partial<Row>[], tx: Tx, options?: { keepOld?: boolean }): Promise<void>;
	/** @returns how many rows were changed */
	update(where: Where<Row>, changes: Partial<Row>, tx: Tx): Promise<number>;
	remove(where: Where<Row>, tx: Tx): Promise<number>;
}

/**
 * Binds a table to its row type.
 * @param primary the column, or columns, of the primary key
 */
export function table<Row extends object>(
	name: string,
	types: Types<Row>,
	primary: readonly (keyof Row)[],
	counted = false
): Table<Row> {
	const attributes: ModelAttributes = {};
	for (const [column, type] of Object.entries(types))
		attributes[column] = {
			type: type === 'text' ? DataTypes.TEXT : DataTypes.INTEGER,
			primaryKey: primary.includes(column as keyof Row),
			autoIncrement: counted && primary.includes(column as keyof Row)
		};
	const model = sequelize().define<Model<Columns, Columns>>(name, attributes);
	const where = (given: Where<Row> = {}) => given as unknown as WhereOptions<Columns>;
	return {
		model,
		find: async (given, { order, limit } = {}, tx) =>
			(await model.findAll({
				where: where(given),
				order: order as unknown as [string, string][],
				limit,
				transaction: tx,
				raw: true
			})) as unknown as Row[],
		one: async (given, tx) =>
			((await model.findOne({ where: where(given), transaction: tx, raw: true })) ?? undefined) as unknown as
				Row | undefined,
		count: (given) => model.count({ where: where(given) }),
		insert: async (row, tx) =>
			(await model.create(row as Columns, { transaction: tx })).get({ plain: true }) as unknown as Row,
		insertMany: async (rows, tx, { keepOld = false } = {}) => {
			if (rows.length) await model.bulkCreate(rows as Columns[], { transaction: tx, ignoreDuplicates: keepOld });
		},
		update: async (given, changes, tx) =>
			(await model.update(changes as Columns, { where: where(given), transaction: tx }))[0],
		remove: (given, tx) => model.destroy({ where: where(given), transaction: tx })
	};
}
