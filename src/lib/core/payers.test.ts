import { describe, expect, it } from 'vitest';
import { MOST_GROUPS, PAYER_COLUMNS, PAYER_HEADER, PAYER_LANGUAGES, PayerForm, readPayers } from './payers';

const records = (lines: readonly (readonly string[])[]) => lines.map((cells, at) => ({ cells, line: at + 1 }));
const read = (...lines: (readonly string[])[]) => readPayers(records(lines));
const faultsOf = (...lines: (readonly string[])[]): string[] => {
	const told = read(...lines);
	return 'faults' in told ? told.faults : [];
};
const payersOf = (...lines: (readonly string[])[]) => {
	const told = read(...lines);
	if ('faults' in told) throw new Error(told.faults.join(' '));
	return told.payers;
};

describe('a payer as somebody types one', () => {
	it('needs a name and nothing else; what is left out is empty', () => {
		const form = PayerForm.parse({ name: '  Ana Müller ' });
		expect(form).toMatchObject({ name: 'Ana Müller', mail: '', country: '', online: '', channel: 'mail', groups: [] });
		expect(PayerForm.safeParse({ name: '   ' }).error?.issues[0]?.message).toBe('Give the payer’s name.');
	});
	it('has a mail address in small letters, and a country that exists, in capitals', () => {
		expect(PayerForm.parse({ name: 'A', mail: ' Ana@Payer.EXAMPLE ', country: 'be' })).toMatchObject({
			mail: 'ana@payer.example',
			country: 'BE'
		});
		for (const mail of ['ana', 'ana@', '@payer.example', 'a b@payer.example'])
			expect([mail, PayerForm.safeParse({ name: 'A', mail }).success]).toEqual([mail, false]);
		for (const country of ['Belgium', 'XX', 'B', '12'])
			expect([country, PayerForm.safeParse({ name: 'A', country }).success]).toEqual([country, false]);
	});
	it('has a telephone number of digits and the usual marks', () => {
		for (const phone of ['+32 9 555 01 70', '(09) 555-01.70', '0495/55 01 70', ''])
			expect([phone, PayerForm.safeParse({ name: 'A', phone }).success]).toEqual([phone, true]);
		for (const phone of ['12', 'call me', '+32 9 555 01 70 ext. 4', '+'.repeat(8)])
			expect([phone, PayerForm.safeParse({ name: 'A', phone }).success]).toEqual([phone, false]);
	});
	it('speaks one of the languages that bills are written in, or none is known', () => {
		for (const language of ['', ...PAYER_LANGUAGES])
			expect(PayerForm.parse({ name: 'A', language }).language).toBe(language);
		expect(PayerForm.safeParse({ name: 'A', language: 'xx' }).error?.issues[0]?.message).toBe(
			'en, nl, fr, de, or empty.'
		);
	});
	it('has bounds for every text', () => {
		const most = {
			name: 100,
			number: 40,
			company: 120,
			street: 160,
			postcode: 20,
			city: 80,
			taxNumber: 40,
			notes: 2_000
		};
		for (const [field, length] of Object.entries(most)) {
			const of = (value: string) => PayerForm.safeParse({ name: 'A', [field]: value }).success;
			expect([field, of('x'.repeat(length)), of('x'.repeat(length + 1))]).toEqual([field, true, false]);
		}
	});
});

describe('a file of payers', () => {
	it('names its columns in any order and any case; what it leaves out is empty', () => {
		const [ana] = payersOf(['Mail', ' NAME ', 'city'], ['ana@payer.example', 'Ana', 'Ghent']);
		expect(ana).toMatchObject({ name: 'Ana', mail: 'ana@payer.example', city: 'Ghent', country: '', channel: 'mail' });
	});
	it('tells which columns it had, so that what it left out stays as it was', () => {
		const told = read(['name', 'mail', 'notes'], ['Ana', 'ana@payer.example', '']);
		expect('columns' in told && told.columns).toEqual(['name', 'mail', 'notes']);
	});
	it('reads every column', () => {
		const cells: Record<(typeof PAYER_COLUMNS)[number], string> = {
			name: 'Ana Müller',
			mail: 'ana@payer.example',
			country: 'be',
			online: 'YES',
			groups: 'Class 4; Strings ;',
			number: 'P-17',
			company: 'Müller Music',
			phone: '+32 9 555 01 70',
			street: 'Rope Walk 4',
			postcode: '9000',
			city: 'Ghent',
			language: 'NL',
			tax_number: 'BE 0123',
			notes: 'Rings twice',
			prefers: 'Offline',
			channel: 'Text',
			template: 'school'
		};
		expect(
			payersOf(
				[...PAYER_COLUMNS],
				PAYER_COLUMNS.map((column) => cells[column])
			)
		).toEqual([
			{
				name: 'Ana Müller',
				mail: 'ana@payer.example',
				country: 'BE',
				online: 'yes',
				groups: ['Class 4', 'Strings'],
				number: 'P-17',
				company: 'Müller Music',
				phone: '+32 9 555 01 70',
				street: 'Rope Walk 4',
				postcode: '9000',
				city: 'Ghent',
				language: 'nl',
				taxNumber: 'BE 0123',
				notes: 'Rings twice',
				prefers: 'offline',
				channel: 'text',
				template: 'school'
			}
		]);
	});
	it('must name the name, and the mail or the number by which somebody is known again', () => {
		const must = `The first line must name the columns ${PAYER_HEADER};`;
		expect(faultsOf(['mail'], ['ana@payer.example'])).toEqual([`${must} name is missing.`]);
		expect(faultsOf(['name'], ['Ana'])).toEqual([`${must} mail is missing.`]);
		expect(faultsOf(['city'], ['Ghent'])).toEqual([`${must} name and mail is missing.`]);
		expect(payersOf(['name', 'number'], ['Ana', 'P-1'])).toHaveLength(1);
	});
	it('tells each fault with its line and its column, and takes nothing then', () => {
		expect(
			faultsOf(
				['name', 'mail', 'country'],
				['Ana', 'ana@payer.example', 'BE'],
				['', 'bo@payer.example', 'BE'],
				['Cas', 'cas', 'Belgium']
			)
		).toEqual([
			'Line 3, name: Give the payer’s name.',
			'Line 4, mail: This is not a mail address.',
			'Line 4, country: No such country; a code of two letters, such as BE.'
		]);
	});
	it('holds nobody twice, by mail in any case, or by number', () => {
		expect(
			faultsOf(
				['name', 'mail', 'number'],
				['Ana', 'ana@payer.example', 'P-1'],
				['Bo', 'ANA@payer.example', 'P-2'],
				['Cas', '', 'P-2'],
				['Dora', '', '']
			)
		).toEqual([
			'Line 3: ana@payer.example stands in line 2 already.',
			'Line 4: number P-2 stands in line 3 already.',
			'Line 5: a mail address or a number, so that the payer is known again.'
		]);
	});
	it('of nobody is told as such', () => {
		expect(faultsOf(['name', 'mail'])).toEqual(['There is no payer in it.']);
		expect(faultsOf()).toEqual(['There is no payer in it.']);
	});
	it('is read no further once fifty things are wrong', () => {
		let looked = 0;
		function* many() {
			yield { cells: ['name', 'mail'], line: 1 };
			for (let line = 2; line < 10_000; line++) {
				looked++;
				yield { cells: ['', `p${line}@payer.example`], line };
			}
		}
		const told = readPayers(many());
		expect('faults' in told && told.faults).toHaveLength(50);
		expect(looked).toBe(50);
	});
	it('has groups with names of forty letters, and no more of them than one can look at', () => {
		expect(faultsOf(['name', 'mail', 'groups'], ['Ana', 'ana@payer.example', 'x'.repeat(41)])).toEqual([
			'Line 2: a group’s name has at most 40 characters.'
		]);
		const groups = (count: number) => Array.from({ length: count }, (_, n) => `g${n}`).join(';');
		expect(
			payersOf(['name', 'mail', 'groups'], ['Ana', 'ana@payer.example', groups(MOST_GROUPS)])[0]!.groups
		).toHaveLength(MOST_GROUPS);
		expect(faultsOf(['name', 'mail', 'groups'], ['Ana', 'ana@payer.example', groups(MOST_GROUPS + 1)])).toEqual([
			`Line 2: these are more than ${MOST_GROUPS} groups.`
		]);
		// the same group in another case is one
		expect(
			payersOf(
				['name', 'mail', 'groups'],
				['Ana', 'ana@payer.example', groups(MOST_GROUPS)],
				['Bo', 'bo@payer.example', 'G1;G2']
			)
		).toHaveLength(2);
	});
});
