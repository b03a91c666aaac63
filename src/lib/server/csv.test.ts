import { parse } from 'csv-parse/sync';
import { describe, expect, it } from 'vitest';
import { csvFile, csvText } from './csv';

describe('CSV for spreadsheets', () => {
	const rows = [
		{ what: '=HYPERLINK("x")', sum: '-12.30' },
		{ what: '@sum, and "quotes"', sum: 4 },
		{ what: '-2+3', sum: '-7' },
		{ what: 'Brackwater\nAcquiring', sum: '' }
	];
	it('keeps numbers as numbers, also below zero, and lets no text be worked out', () => {
		expect(parse(csvText(rows), { bom: true })).toEqual([
			['what', 'sum'],
			[`'=HYPERLINK("x")`, '-12.30'],
			[`'@sum, and "quotes"`, '4'],
			[`'-2+3`, '-7'],
			['Brackwater\nAcquiring', '']
		]);
	});
	it('is a file to keep, in UTF-8 with a mark that says so', async () => {
		const answer = csvFile('some.csv', rows);
		expect(answer.headers.get('content-disposition')).toBe('attachment; filename="some.csv"');
		expect([...new Uint8Array(await answer.arrayBuffer())].slice(0, 3)).toEqual([0xef, 0xbb, 0xbf]);
	});
});
