import type { ZodType } from 'zod';
import {
	DataTypes,
	Op,
	QueryTypes,
	type Model,
	type ModelAttributes,
	type ModelStatic,
	type WhereOptions
} from 'sequelize';
import { maskCardNumbers, maskInJson } from '../../core/cards';
import { sequelize, type Tx } from './open';

/** A column, told once: what the database keeps, and what the use cases see. */
export interface Column<T> {
	readonly keeps: 'text' | 'whole' | 'real';
	/** what a text that holds JSON may hold */
	readonly schema?: ZodType<unknown>;
	/** what an empty text is read as */
	readonly empty?: string;
	/** makes what is written harmless first: full card numbers in free text are kept nowhere */
	readonly clean?: (text: string) => string;
	/** only filled ones are in its index: who seeks one says so, or the database reads the whole table */
	readonly sought?: true;
	/** only for the type */
	readonly is?: T;
}
export const text: Column<string> = { keeps: 'text' };
/** a text by which rows are looked up, where many rows have none: a mail address, a number, an outside reference */
export const soughtText: Column<string> = { keeps: 'text', sought: true };
/** what somebody typed freely: a name, a note, a reason */
export const freeText: Column<string> = { keeps: 'text', clean: maskCardNumbers };
/** JSON in which texts are free */
export const freeJson: Column<string> = { keeps: 'text', clean: maskInJson };
/** a whole number: a count, minor units, milliseconds since 1970, or a flag */
export const whole: Column<number> = { keeps: 'whole' };
/** A probability or a rate: never a sum of money. */
export const real: Column<number> = { keeps: 'real' };
export const orNull = <T>(column: Column<T>): Column<T | null> => column;
/** A text that holds JSON, and what it may hold. */
export interface JsonColumn<T> extends Column<string> {
	readonly schema: ZodType<T>;
}
export const json = <T>(schema: ZodType<T>, empty = 'null'): JsonColumn<T> => ({ keeps: 'text', schema, empty });
/** the same where there may be none */
export const jsonOrNull = <T>(schema: ZodType<T>): Column<string | null> & { readonly schema: ZodType<T> } => ({
	keeps: 'text',
	schema
});
/** one of a few texts; the database checks it, too */
export const oneOf = <const T extends string>(..._texts: T[]): Column<T> => ({ keeps: 'text' });

type Columns = Record<string, Column<unknown>>;
type Values<C> = { -readonly [K in keyof C]: C[K] extends Column<infer T> ? T : never };
/** A row of a table, as its declaration tells it. */
export type RowOf<T> = T extends Table<infer Row, infer _Readers> ? Row : never;
/** What reads the columns that hold JSON, by their names. @throws ZodError where one holds something else */
type Readers<C> = {
	readonly [K in keyof C as C[K] extends { readonly schema: ZodType<unknown> } ? K : never]: C[K] extends {
		readonly schema: ZodType<infer T>;
	}
		? (text: string) => T
		: never;
};

type Where<Row> = { [K in keyof Row]?: Row[K] | readonly Row[K][] | null };
type Stored = Record<string, unknown>;

export interface Query<Row> {
	readonly order?: readonly [keyof Row & string, 'ASC' | 'DESC'][];
	readonly limit?: number;
	readonly offset?: number;
}

/** The few things that use cases do with a table. Anything more particular is in the queries. */
export interface Table<Row, R = unknown> {
	readonly model: ModelStatic<Model<Stored, Stored>>;
	readonly json: R;
	find(where?: Where<Row>, query?: Query<Row>, tx?: Tx): Promise<Row[]>;
	one(where: Where<Row>, tx?: Tx): Promise<Row | undefined>;
	count(where?: Where<Row>, tx?: Tx): Promise<number>;
	insert(row: Partial<Row>, tx: Tx): Promise<Row>;
	/** Adds rows with one statement. A row that breaks a rule of the table fails all of them. */
	insertMany(rows: Partial<Row>[], tx: Tx): Promise<void>;
	/** Adds rows one by one, each unless one with the same value in these columns is there. @returns those that were added */
	insertNew(rows: Partial<Row>[], unique: readonly (keyof Row & string)[], tx: Tx): Promise<Partial<Row>[]>;
	/** @returns how many rows were changed */
	update(where: Where<Row>, changes: Partial<Row>, tx: Tx): Promise<number>;
	remove(where: Where<Row>, tx: Tx): Promise<number>;
}

/**
 * Binds a table to its declaration.
 * @param primary the column, or columns, of the primary key
 * @param counted whether the database numbers the rows
 */
export function table<const C extends Columns>(
	name: string,
	columns: C,
	primary: readonly (keyof C)[],
	counted = false
): Table<Values<C>, Readers<C>> {
	type Row = Values<C>;
	const attributes: ModelAttributes = {};
	for (const [column, { keeps }] of Object.entries(columns))
		attributes[column] = {
			type: keeps === 'text' ? DataTypes.TEXT : keeps === 'real' ? DataTypes.REAL : DataTypes.INTEGER,
			primaryKey: primary.includes(column),
			autoIncrement: counted && primary.includes(column)
		};
	const model = sequelize().define<Model<Stored, Stored>>(name, attributes);
	const escape = (value: unknown) => sequelize().escape(value as string);
	const where = (given: Where<Row> = {}) =>
		Object.fromEntries(
			Object.entries(given).map(([column, value]) => [
				column,
				columns[column]?.sought && typeof value === 'string' && value !== '' ? { [Op.eq]: value, [Op.ne]: '' } : value
			])
		) as unknown as WhereOptions<Stored>;
	/** What the database calls a column. */
	const kept = Object.fromEntries(
		Object.keys(columns).map((column) => [column, `\`${model.rawAttributes[column]!.field}\``])
	);
	const select = `SELECT ${Object.entries(kept)
		.map(([column, field]) => (field === `\`${column}\`` ? field : `${field} AS \`${column}\``))
		.join(', ')} FROM \`${name}\``;
	/** A condition as the model itself would write it; with values, so that an index of a part of the rows is found. */
	const matches = (column: string, value: unknown): string => {
		const field = kept[column];
		if (field === undefined || value === undefined) throw new Error(`${name} is not sought by its ${column}.`);
		if (value === null) return `${field} IS NULL`;
		if (Array.isArray(value)) return `${field} IN (${value.map((one) => escape(one)).join(', ') || 'NULL'})`;
		const same = `${field} = ${escape(value)}`;
		return columns[column]?.sought && value !== '' ? `${same} AND ${field} <> ''` : same;
	};
	// reads are the most of what the server does: their statement is put together here, and run by the library
	const find: Table<Row>['find'] = async (given = {}, { order, limit, offset } = {}, tx) => {
		const conditions = Object.entries(given).map(([column, value]) => matches(column, value));
		const sql = [
			select,
			conditions.length ? `WHERE ${conditions.join(' AND ')}` : '',
			order?.length ? `ORDER BY ${order.map(([column, way]) => `${kept[column]} ${way}`).join(', ')}` : '',
			limit === undefined ? (offset === undefined ? '' : 'LIMIT -1') : `LIMIT ${Number(limit)}`,
			offset === undefined ? '' : `OFFSET ${Number(offset)}`
		];
		return (await sequelize().query(sql.filter(Boolean).join(' '), {
			type: QueryTypes.SELECT,
			transaction: tx
		})) as unknown as Row[];
	};
	const cleaners = Object.entries(columns).flatMap(([column, { clean }]) => (clean ? [[column, clean] as const] : []));
	/** What is written, with free texts made harmless. */
	const harmless = (row: Stored): Stored => {
		let clean = row;
		for (const [column, act] of cleaners) {
			const held = row[column];
			if (typeof held !== 'string') continue;
			const made = act(held);
			if (made !== held) clean = { ...clean, [column]: made };
		}
		return clean;
	};
	const insert: Table<Row>['insert'] = async (row, tx) =>
		(await model.create(harmless(row as Stored), { transaction: tx })).get({ plain: true }) as unknown as Row;
	const readers = Object.fromEntries(
		Object.entries(columns).flatMap(([column, { schema, empty = 'null' }]) =>
			schema ? [[column, (held: string) => schema.parse(JSON.parse(held || empty))]] : []
		)
	) as Readers<C>;
	return {
		model,
		json: readers,
		find,
		insert,
		one: async (given, tx) => (await find(given, { limit: 1 }, tx))[0],
		count: (given, tx) => model.count({ where: where(given), transaction: tx }),
		insertMany: async (rows, tx) => {
			if (rows.length)
				await model.bulkCreate(
					rows.map((row) => harmless(row as Stored)),
					{ transaction: tx }
				);
		},
		insertNew: async (rows, unique, tx) => {
			const added: Partial<Row>[] = [];
			for (const row of rows) {
				const known = Object.fromEntries(unique.map((column) => [column, row[column]])) as Where<Row>;
				if ((await find(known, { limit: 1 }, tx)).length) continue;
				await insert(row, tx);
				added.push(row);
			}
			return added;
		},
		update: async (given, changes, tx) =>
			(await model.update(harmless(changes as Stored), { where: where(given), transaction: tx }))[0],
		remove: (given, tx) => model.destroy({ where: where(given), transaction: tx })
	};
}
