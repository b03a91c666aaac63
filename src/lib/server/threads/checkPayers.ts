import { parse } from 'csv-parse/sync';
import { readPayers } from '../../core/payers';

/** Reads a file of payers and checks every line of it. */
export function checkPayers(text: string): ReturnType<typeof readPayers> {
	let records: { record: string[]; info: { lines: number } }[];
	try {
		records = parse(text, {
			bom: true,
			info: true,
			relax_column_count: true,
			skip_empty_lines: true,
			max_record_size: 20_000
		}) as unknown as typeof records;
	} catch (error) {
		return { faults: [`It is not CSV: ${(error as Error).message}`] };
	}
	return readPayers(records.map(({ record, info }) => ({ cells: record, line: info.lines })));
}
