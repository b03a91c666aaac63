import { QueryTypes } from 'sequelize';
import { open, type Tx } from './open';

// A settlement file has up to millions of lines: they go into the database as JSON lists of lists, a few thousand at once,
// which it takes apart itself. The first two values of each are the line of the file and the processor's id.

const SETTLED = [
	'processor_id',
	'source',
	'captured_at',
	'method',
	'currency',
	'minor',
	'entry',
	'scheme',
	'funding',
	'issuer',
	'fee_currency',
	'fee',
	'base',
	'refunded',
	'disputed',
	'ordered_at'
] as const;
const DECLINED = [
	'processor_id',
	'source',
	'at',
	'method',
	'currency',
	'minor',
	'entry',
	'scheme',
	'funding',
	'issuer',
	'fee_currency',
	'fee',
	'reason'
] as const;

async function add(
	table: string,
	columns: readonly string[],
	fileId: number,
	processor: string,
	chunk: string,
	transaction: Tx
): Promise<number> {
	const db = await open();
	const values = columns.map((_, at) => `value ->> ${at + 1}`).join(', ');
	await db.query(
		`INSERT INTO ${table} (file_id, processor, ${columns.join(', ')})
		 SELECT $2, $3, ${values} FROM json_each($1) WHERE true
		 ON CONFLICT (processor, processor_id) DO NOTHING`,
		{ bind: [chunk, fileId, processor], transaction }
	);
	const [told] = (await db.query('SELECT changes() AS n', { type: QueryTypes.SELECT, transaction })) as { n: number }[];
	return told!.n;
}

/** Adds captured payments; those whose ids are known stay as they are. @returns how many were added */
export const addSettled = (fileId: number, processor: string, chunk: string, tx: Tx): Promise<number> =>
	add('settled_payments', SETTLED, fileId, processor, chunk, tx);
/** The same of declined attempts. */
export const addDeclined = (fileId: number, processor: string, chunk: string, tx: Tx): Promise<number> =>
	add('declined_attempts', DECLINED, fileId, processor, chunk, tx);

/** Lines of a chunk that are known with another amount, currency or fee, or as the other of captured and declined. */
export async function knownOtherwise(
	processor: string,
	kind: 'captured' | 'declined',
	chunk: string,
	transaction: Tx
): Promise<{ line: number; payment: string; turned: 0 | 1 }[]> {
	const [same, other] =
		kind === 'captured' ? ['settled_payments', 'declined_attempts'] : ['declined_attempts', 'settled_payments'];
	const db = await open();
	// a cross join keeps the order: each line is looked up, not every known payment
	return (await db.query(
		`WITH told AS (
			SELECT value ->> 0 AS line, value ->> 1 AS id, value ->> 5 AS currency, value ->> 6 AS minor, value ->> 12 AS fee
			FROM json_each($1)
		)
		SELECT told.line AS line, told.id AS payment, 0 AS turned FROM told CROSS JOIN ${same} AS known
			ON known.processor = $2 AND known.processor_id = told.id
			WHERE known.minor <> told.minor OR known.currency <> told.currency OR known.fee <> told.fee
		UNION ALL
		SELECT told.line, told.id, 1 FROM told CROSS JOIN ${other} AS known ON known.processor = $2 AND known.processor_id = told.id
		ORDER BY line LIMIT 50`,
		{ bind: [chunk, processor], type: QueryTypes.SELECT, transaction }
	)) as { line: number; payment: string; turned: 0 | 1 }[];
}
