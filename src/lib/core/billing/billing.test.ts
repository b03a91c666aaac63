import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	approvalProblems,
	checkCode,
	CodeForm,
	EVENT_FILL_INS,
	FILL_INS,
	fillIn,
	gratuityOf,
	lifeOf,
	lineNets,
	makeDues,
	netOfDiscount,
	MESSAGE_EVENTS,
	numberText,
	partGratuity,
	placeOldestFirst,
	quoteState,
	roundToCoin,
	splitEvenly,
	splitInProportion,
	standOfDues,
	suggestPlaces,
	sumBill,
	sumsWorking,
	takeBackLatest,
	TAX_CATEGORIES,
	type BillInput,
	type BillLine,
	type OpenInvoice
} from '.';

const line = (quantity: string, price: string, rate = 210_000, more: Partial<BillLine> = {}): BillLine => ({
	text: 'Strings',
	quantity,
	unit: 'piece',
	price,
	category: rate === 210_000 ? 'standard' : rate ? 'reduced' : 'zero',
	rate,
	...more
});
const bill = (lines: BillLine[], more: Partial<BillInput> = {}): BillInput => ({
	currency: 'EUR',
	pricing: 'without tax',
	lines,
	...more
});
const percent = (ppm: number) => ({ kind: 'percentage' as const, ppm });

describe('the sums of an invoice', () => {
	it('without tax, with a discount over the document', () => {
		const sums = sumBill(
			bill([line('3', '12.35'), line('2', '4.99', 60_000)], { discounts: [{ name: 'Friends', off: percent(50_000) }] })
		);
		expect([sums.linesTotal, sums.discount]).toEqual([4_703, 235]);
		expect(sums.groups.map(({ discount, base, tax }) => [discount, base, tax])).toEqual([
			[185, 3_520, 739],
			[50, 948, 57]
		]);
		expect(sums.total).toBe(5_264);
		expect(gratuityOf(sums.total, 125_000)).toBe(658);
		expect(sumsWorking(sums, 'without tax', 'en-GB').steps.at(-1)).toMatchObject({ title: 'Total', sum: '52.64' });
	});
	it('with the tax in the prices', () => {
		const sums = sumBill(bill([line('3', '14.95'), line('2', '5.29', 60_000)], { pricing: 'with tax' }));
		expect(sums.groups.map(({ base, tax }) => [base, tax])).toEqual([
			[3_707, 778],
			[998, 60]
		]);
		expect([sums.net, sums.tax, sums.total]).toEqual([4_705, 838, 5_543]);
	});
	it('of hours, of a third of something, and of yen', () => {
		expect(sumBill(bill([line('1.75', '64.00')])).total).toBe(13_552);
		expect(sumBill(bill([line('0.333', '18.49', 0)])).total).toBe(616);
		const yen = sumBill({
			currency: 'JPY',
			pricing: 'without tax',
			lines: [line('1', '12345', 100_000)],
			discounts: [{ name: 'Dealer', off: percent(150_000) }]
		});
		expect([yen.discount, yen.net, yen.tax, yen.total]).toEqual([1_852, 10_493, 1_049, 11_542]);
	});
	it('take a line’s own discount first, and never more than there is', () => {
		expect(sumBill(bill([line('1', '10.00', 0, { discount: { kind: 'sum', minor: 5_000 } })])).total).toBe(0);
		expect(sumBill(bill([line('1', '10.01', 0, { discount: percent(500_000) })])).lines[0]!.sum).toBe(500);
		const over = sumBill(
			bill([line('1', '10.00', 0)], { discounts: [{ name: 'Gift', off: { kind: 'sum', minor: 9_999 } }] })
		);
		expect([over.discount, over.total]).toEqual([1_000, 0]);
	});
	it('take a code only of the goods that it names, after what was taken before', () => {
		const sums = sumBill(
			bill([line('1', '100.00', 210_000, { item: 'bow' }), line('1', '50.00', 60_000, { item: 'rosin' })], {
				discounts: [
					{ name: 'House', off: { kind: 'sum', minor: 3_000 } },
					{ name: 'ROSIN50', off: percent(500_000), items: ['rosin'] }
				]
			})
		);
		expect(sums.discounts).toEqual([
			{ name: 'House', minor: 3_000 },
			{ name: 'ROSIN50', minor: 2_000 }
		]);
		expect(sums.groups.map((group) => group.discount)).toEqual([2_000, 3_000]);
	});
	it.each([
		['no number', line('two', '1.00')],
		['nothing of it', line('0', '1.00')],
		['five places', line('1.00001', '1.00')],
		['a price below nothing', line('1', '-1.00')],
		['a tax where there is none', line('1', '1.00', 210_000, { category: 'exempt' })],
		['too much', line('1000000', '99999999.99')]
	])('are refused for %s', (_, one) => {
		expect(() => sumBill(bill([one]))).toThrow();
	});
	it('take a million of something', () => {
		expect(sumBill(bill([line('1000000', '0.01', 0)])).total).toBe(1_000_000);
	});
	it('are approved with a reason where the tax needs one, and what is outside its scope alone', () => {
		const of = (...categories: BillLine['category'][]) =>
			bill(categories.map((category) => line('1', '1.00', 0, { category })));
		expect(approvalProblems(bill([]))).toHaveLength(1);
		expect(approvalProblems(of('exempt'))).toHaveLength(1);
		expect(approvalProblems(of('exempt'), { reason: 'Lessons, article 44' })).toEqual([]);
		expect(approvalProblems(of('reverse charge'))).toHaveLength(1);
		expect(approvalProblems(of('outside scope', 'zero'))).toHaveLength(1);
		expect(approvalProblems(of('outside scope'))).toEqual([]);
	});
});

describe('a second, simple computation', () => {
	// fractions of whole numbers, written down as the rules read, sharing nothing with the core
	type F = [bigint, bigint];
	const dec = (text: string): F => {
		const [whole, part = ''] = text.split('.');
		return [BigInt(whole! + part), 10n ** BigInt(part.length)];
	};
	const halfUp = ([top, bottom]: F): bigint => (2n * top + bottom) / (2n * bottom);
	const simple = ({ pricing, lines, discounts = [] }: BillInput, exponent: number) => {
		const groups: { key: string; rate: bigint; sum: bigint; off: bigint }[] = [];
		for (const one of lines) {
			const [q, p] = [dec(one.quantity), dec(one.price)];
			const gross = halfUp([q[0] * p[0] * 10n ** BigInt(exponent), q[1] * p[1]]);
			let off = 0n;
			if (one.discount?.kind === 'percentage') off = halfUp([gross * BigInt(one.discount.ppm), 1_000_000n]);
			if (one.discount?.kind === 'sum') off = BigInt(one.discount.minor);
			if (off > gross) off = gross;
			const key = `${one.category}/${one.rate}`;
			let group = groups.find((each) => each.key === key);
			if (!group) groups.push((group = { key, rate: BigInt(one.rate), sum: 0n, off: 0n }));
			group.sum += gross - off;
		}
		for (const { off } of discounts) {
			const open = groups.map((group) => group.sum - group.off);
			const all = open.reduce((a, b) => a + b, 0n);
			let whole = off.kind === 'sum' ? BigInt(off.minor) : halfUp([all * BigInt(off.ppm), 1_000_000n]);
			if (whole > all) whole = all;
			if (all === 0n) continue;
			const floors = open.map((one) => (whole * one) / all);
			let left = whole - floors.reduce((a, b) => a + b, 0n);
			const order = open
				.map((one, at) => ({ at, rest: (whole * one) % all }))
				.sort((a, b) => Number(b.rest - a.rest) || a.at - b.at);
			for (const { at } of order) {
				if (left === 0n) break;
				floors[at]! += 1n;
				left -= 1n;
			}
			floors.forEach((part, at) => (groups[at]!.off += part));
		}
		let total = 0n;
		for (const { sum, off, rate } of groups) {
			const left = sum - off;
			total += pricing === 'without tax' ? left + halfUp([left * rate, 1_000_000n]) : left;
		}
		return Number(total);
	};
	const money = (most: number, places: number) =>
		fc.integer({ min: 0, max: most * 10 ** places }).map((n) => {
			const text = String(n).padStart(places + 1, '0');
			return places ? `${text.slice(0, -places)}.${text.slice(-places)}` : text;
		});
	const discount = fc.oneof(
		fc.record({ kind: fc.constant('percentage' as const), ppm: fc.integer({ min: 0, max: 1_000_000 }) }),
		fc.record({ kind: fc.constant('sum' as const), minor: fc.integer({ min: 0, max: 20_000 }) })
	);
	const anyLine = fc.record({
		text: fc.constant('x'),
		quantity: money(50, 3).filter((text) => Number(text) > 0),
		unit: fc.constant('piece'),
		price: money(400, 4),
		discount: fc.option(discount, { nil: undefined }),
		tax: fc.constantFrom<[BillLine['category'], number]>(
			['standard', 210_000],
			['reduced', 60_000],
			['zero', 0],
			['standard', 81_000]
		)
	});
	const anyBill = fc.record({
		pricing: fc.constantFrom('without tax' as const, 'with tax' as const),
		lines: fc.array(anyLine, { minLength: 1, maxLength: 8 }),
		discounts: fc.array(
			discount.map((off) => ({ name: 'off', off })),
			{ maxLength: 2 }
		)
	});
	it('agrees over a hundred thousand invoices: sums, groups, discounts, nets of lines', { timeout: 120_000 }, () => {
		fc.assert(
			fc.property(anyBill, ({ pricing, lines, discounts }) => {
				const input: BillInput = {
					currency: 'EUR',
					pricing,
					discounts,
					lines: lines.map(({ tax: [category, rate], ...one }) => ({ ...one, category, rate }))
				};
				const sums = sumBill(input);
				const nets = lineNets(sums, pricing);
				const net = sums.groups.reduce((all, group) => all + group.base + netOfDiscount(group, pricing), 0);
				return (
					sums.total === simple(input, 2) &&
					sums.net + sums.tax === sums.total &&
					sums.linesTotal - sums.discount === (pricing === 'with tax' ? sums.total : sums.net) &&
					sums.groups.every((group) => group.base >= 0 && group.tax >= 0) &&
					nets.reduce((all, one) => all + one, 0) === net
				);
			}),
			{ numRuns: 100_000 }
		);
	});
	it('splits by the largest remainder: parts add up, and none is off by a unit or more', () => {
		fc.assert(
			fc.property(fc.nat(1_000_000), fc.array(fc.nat(10_000), { minLength: 1, maxLength: 12 }), (total, weights) => {
				const parts = splitInProportion(total, weights);
				const all = weights.reduce((a, b) => a + b, 0);
				return (
					parts.reduce((a, b) => a + b, 0) === total &&
					(all === 0 || parts.every((part, at) => Math.abs(part - (total * weights[at]!) / all) < 1))
				);
			})
		);
		expect(splitEvenly(100_000, 3)).toEqual([33_334, 33_333, 33_333]);
	});
});

describe('dues', () => {
	it('are a deposit and the rest, or instalments with the larger parts first, and add up', () => {
		expect(makeDues(64_005, { kind: 'deposit', deposit: { ppm: 300_000 }, days: 0, rest: 30 }, '2026-11-01')).toEqual([
			{ day: '2026-11-01', minor: 19_202 },
			{ day: '2026-12-01', minor: 44_803 }
		]);
		expect(
			makeDues(100_000, { kind: 'instalments', count: 3, days: 10, every: 30 }, '2026-11-01').map((due) => due.minor)
		).toEqual([33_334, 33_333, 33_333]);
		expect(() => makeDues(100, { kind: 'by hand', dues: [{ day: '2026-11-01', minor: 99 }] }, '2026-11-01')).toThrow(
			/add up/
		);
		expect(() => makeDues(100, { kind: 'deposit', deposit: { minor: 101 }, days: 0, rest: 1 }, '2026-11-01')).toThrow(
			/more than the total/
		);
	});
	it('are filled by day, and a credit note takes from the last first', () => {
		const dues = makeDues(100_000, { kind: 'instalments', count: 3, days: 0, every: 30 }, '2026-11-01');
		const standing = standOfDues(dues, 40_000, 50_000);
		expect(standing.dues.map(({ credited, paid, open }) => [credited, paid, open])).toEqual([
			[0, 33_334, 0],
			[16_667, 6_666, 10_000],
			[33_333, 0, 0]
		]);
		expect([standing.open, standing.surplus]).toEqual([10_000, 0]);
	});
	it('hold: open is total less placed less credited, and what is too much is the payer’s credit', () => {
		fc.assert(
			fc.property(
				fc.array(fc.record({ day: fc.constantFrom('2026-11-01', '2026-11-02', '2026-12-01'), minor: fc.nat(5_000) }), {
					minLength: 1,
					maxLength: 6
				}),
				fc.nat(20_000),
				fc.nat(20_000),
				(dues, placed, credited) => {
					const { total, open, surplus } = standOfDues(dues, placed, credited);
					return open - surplus === total - placed - credited && open >= 0 && surplus >= 0;
				}
			)
		);
	});
});

describe('the life of an invoice and of a quote', () => {
	const facts = { isApproved: true, isSent: true, isVoid: false, isWrittenOff: false, placed: 0, promised: 0 };
	const dues = [
		{ day: '2026-11-20', minor: 5_000 },
		{ day: '2026-12-20', minor: 5_000 }
	];
	it('follows from dues, money and the day', () => {
		const at = (more: Partial<typeof facts>, placed = 0, credited = 0, today = '2026-11-27') =>
			lifeOf({ ...facts, ...more, placed }, standOfDues(dues, placed, credited), today);
		expect(at({ isApproved: false }).state).toBe('draft');
		expect(at({ isSent: false }).state).toBe('approved');
		expect(at({})).toMatchObject({
			state: 'sent',
			isOverdue: true,
			daysOver: 7,
			next: { day: '2026-11-20', minor: 5_000 }
		});
		expect(at({}, 0, 0, '2026-11-20').isOverdue).toBe(false);
		expect(at({}, 5_000)).toMatchObject({ state: 'part paid', isOverdue: false, next: { day: '2026-12-20' } });
		expect(at({ promised: 5_000 }).isPromised).toBe(true);
		expect(at({}, 5_000, 5_000)).toMatchObject({ state: 'paid', isOverdue: false });
		expect(at({ isVoid: true })).toMatchObject({ state: 'void', isOverdue: false });
		expect(at({ isWrittenOff: true }).state).toBe('written off');
	});
	it('a quote expires after its day, unless it was answered', () => {
		const quote = { isSent: true, isOpened: false, isAccepted: false, isDeclined: false, until: '2026-11-28' };
		expect(quoteState(quote, '2026-11-28')).toBe('sent');
		expect(quoteState(quote, '2026-11-29')).toBe('expired');
		expect(quoteState({ ...quote, isAccepted: true }, '2026-11-29')).toBe('accepted');
		expect(quoteState({ ...quote, isOpened: true }, '2026-11-27')).toBe('opened');
	});
	it('numbers are written as their series says', () => {
		const of = (year: 'none' | 'two digits' | 'four digits') =>
			numberText({ prefix: 'INV-', year, digits: 4 }, '2026-11-27', 42);
		expect([of('none'), of('two digits'), of('four digits')]).toEqual(['INV-0042', 'INV-26-0042', 'INV-2026-0042']);
	});
	it('cash is rounded to the coin, halves away from zero', () => {
		expect([4_733, 4_732, -4_733, 4_735].map((minor) => roundToCoin(minor, 5))).toEqual([4_735, 4_730, -4_735, 4_735]);
		expect([5, 15, -5].map((minor) => roundToCoin(minor, 10))).toEqual([10, 20, -10]);
	});
	it('knows every tax category', () => {
		expect(TAX_CATEGORIES).toHaveLength(6);
	});
});

describe('placing money', () => {
	const due = (invoice: string, day: string, open: number) => ({ invoice, number: invoice, day, open });
	it('fills the oldest due first, then by number, and no more than is open', () => {
		const dues = [due('B', '2026-11-10', 300), due('A', '2026-11-10', 200), due('C', '2026-10-01', 100)];
		expect(placeOldestFirst(450, dues)).toEqual({
			parts: [
				{ invoice: 'C', minor: 100 },
				{ invoice: 'A', minor: 200 },
				{ invoice: 'B', minor: 150 }
			],
			left: 0
		});
		expect(placeOldestFirst(1_000, dues).left).toBe(400);
	});
	it('is taken back the latest first, and never more than was placed', () => {
		const placed = [
			{ invoice: 'A', minor: 100 },
			{ invoice: 'B', minor: 50 }
		];
		expect(takeBackLatest(70, placed)).toEqual({
			taken: [
				{ at: 1, minor: 50 },
				{ at: 0, minor: 20 }
			],
			left: 0
		});
		expect(takeBackLatest(500, placed).left).toBe(350);
		fc.assert(
			fc.property(fc.nat(1_000), fc.array(fc.nat(300), { maxLength: 6 }), (minor, sums) => {
				const { taken, left } = takeBackLatest(
					minor,
					sums.map((one) => ({ invoice: 'x', minor: one }))
				);
				return (
					taken.reduce((all, one) => all + one.minor, 0) + left === minor &&
					taken.every((one) => one.minor <= sums[one.at]!)
				);
			})
		);
	});
	const invoice = (more: Partial<OpenInvoice>): OpenInvoice => ({
		invoice: 'i1',
		number: 'INV-2026-0042',
		creditorReference: 'RF18539007547034',
		payer: 'p1',
		payerName: 'Bram Peeters',
		ibans: [],
		currency: 'EUR',
		open: 5_000,
		day: '2026-11-20',
		...more
	});
	const money = {
		currency: 'EUR',
		minor: 5_000,
		day: '2026-11-27',
		text: '',
		creditorReference: '',
		payerName: '',
		iban: ''
	};
	it('is sure by a creditor reference alone', () => {
		const [best] = suggestPlaces({ ...money, creditorReference: 'RF18539007547034', minor: 4_000 }, [
			invoice({}),
			invoice({ invoice: 'i2', creditorReference: 'RF02WAS202600417' })
		]);
		expect(best).toMatchObject({ isSure: true, parts: [{ invoice: 'i1', minor: 4_000 }] });
	});
	it('gives its reasons, the likeliest first, and nothing for a near day alone', () => {
		const list = [
			invoice({}),
			invoice({ invoice: 'i2', number: 'INV-2026-0043', payer: 'p2', payerName: 'Ana Müller', open: 7_000 }),
			invoice({
				invoice: 'i3',
				number: 'INV-2026-0044',
				payer: 'p3',
				payerName: 'Noor Claes',
				open: 1_200,
				currency: 'CHF'
			})
		];
		const found = suggestPlaces({ ...money, text: 'invoice inv 2026 0043 thanks', payerName: 'MULLER ANA' }, list);
		expect(found[0]).toMatchObject({ parts: [{ invoice: 'i2', minor: 5_000 }], isSure: false });
		expect(found[0]!.reasons).toEqual(expect.arrayContaining(['its number stands in the text', 'the payer’s name']));
		expect(found[1]!.reasons[0]).toBe('exactly what is open');
		expect(suggestPlaces({ ...money, minor: 123 }, list)).toEqual([]);
	});
	it('finds several invoices of one payer that add up to it', () => {
		const list = [1_000, 2_500, 1_500, 4_000].map((open, at) =>
			invoice({ invoice: `i${at}`, number: `N-${at}`, open, creditorReference: '' })
		);
		const [best] = suggestPlaces({ ...money, minor: 4_000 + 1_000, payerName: 'Peeters Bram' }, list);
		expect(best!.parts.reduce((all, one) => all + one.minor, 0)).toBe(5_000);
		expect(best!.reasons[0]).toMatch(/add up to it/);
	});
});

describe('a number in a text', () => {
	const one: OpenInvoice = {
		invoice: '1',
		number: 'INV-2026-0042',
		creditorReference: '',
		payer: 'p',
		payerName: 'Somebody Else',
		ibans: [],
		currency: 'EUR',
		open: 5_000,
		day: '2026-11-30'
	};
	const money = { currency: 'EUR', minor: 1_000, day: '2026-11-30', creditorReference: '', payerName: '', iban: '' };
	it('is known without the letters that it begins with, and not within another', () => {
		const reasons = (text: string) => suggestPlaces({ ...money, text }, [one]).flatMap((found) => found.reasons);
		expect(reasons('payment 2026-0042')).toContain('its number stands in the text');
		expect(reasons('INV 2026 0042')).toContain('its number stands in the text');
		expect(reasons('payment 2026-00421')).toEqual([]);
		expect(reasons('0042')).toEqual([]);
	});
	it('what is exactly open comes before an account that is known', () => {
		const exact = { ...one, invoice: '2', number: 'INV-2026-0043', open: 1_000 };
		const known = { ...one, ibans: ['BE68539007547034'] };
		const [best] = suggestPlaces({ ...money, iban: 'BE68539007547034', text: '' }, [known, exact]);
		expect(best!.parts).toEqual([{ invoice: '2', minor: 1_000 }]);
	});
});

describe('what came, and its gratuity', () => {
	it('fills what was asked first, and goes back from it first: the gratuity last', () => {
		const of = (taken: number, gone: number) => partGratuity({ minor: 5_922, gratuity: 658, taken, gone });
		expect(of(5_922, 0)).toEqual({ goods: 5_264, gratuity: 658 });
		expect(of(5_264, 0)).toEqual({ goods: 5_264, gratuity: 0 });
		expect(of(5_922, 1_000)).toEqual({ goods: 4_264, gratuity: 658 });
		expect(of(5_922, 5_500)).toEqual({ goods: 0, gratuity: 422 });
		expect(of(5_922, 5_922)).toEqual({ goods: 0, gratuity: 0 });
		expect(of(0, 0)).toEqual({ goods: 0, gratuity: 0 });
	});
});

describe('a discount code', () => {
	const code = CodeForm.parse({
		code: 'early',
		name: 'Early bird',
		off: { kind: 'percentage', ppm: 100_000 },
		currency: 'EUR',
		least: 5_000,
		from: '2026-11-01',
		until: '2026-11-30',
		uses: 2,
		usesEach: 1,
		items: ['a']
	});
	const order = { currency: 'EUR', total: 5_000, items: ['a', 'b'], today: '2026-11-30', used: 0, usedByPayer: 0 };
	it('is good on both its days, from its smallest total, for its goods, so often', () => {
		const problem = (more: object) => {
			const answer = checkCode(code, { ...order, ...more });
			return 'problem' in answer ? answer.problem : '';
		};
		expect(['2026-10-31', '2026-11-01', '2026-11-30', '2026-12-01'].map((today) => problem({ today }))).toEqual([
			'not yet',
			'',
			'',
			'over'
		]);
		expect(problem({ total: 4_999 })).toBe('too small');
		expect(problem({ items: ['b'] })).toBe('other goods');
		expect(problem({ currency: 'GBP' })).toBe('other currency');
		expect([problem({ used: 2 }), problem({ usedByPayer: 1 })]).toEqual(['used up', 'used by payer']);
	});
});

describe('a message', () => {
	it('is filled in; a line that holds nothing but what is not known goes', () => {
		expect(
			fillIn('Dear {{payer.name}},\n{{payer.company}}\nPay {{invoice.total}}', {
				'payer.name': 'Ana',
				'invoice.total': '5.00 EUR'
			})
		).toBe('Dear Ana,\nPay 5.00 EUR');
	});
	it('can say in every language what it begins with', () => {
		for (const event of MESSAGE_EVENTS) expect(EVENT_FILL_INS[event].can.every((name) => name in FILL_INS)).toBe(true);
	});
});
