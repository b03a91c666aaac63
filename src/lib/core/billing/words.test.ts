import { describe, expect, it } from 'vitest';
import {
	CHANNELS,
	checkTemplate,
	EVENT_FILL_INS,
	FILL_INS,
	fillIn,
	MESSAGE_EVENTS,
	openLanguage,
	type FillIn
} from './fillIns';
import { countingYear, numberText, quoteState, type NumberPattern } from './life';

describe('a template', () => {
	const bodyOf = (event: (typeof MESSAGE_EVENTS)[number]) =>
		`Dear {{payer.name}},\n${EVENT_FILL_INS[event].needs.map(([first]) => `{{${first}}}`).join('\n')}\nRegards`;
	it('that says what its event needs is right, by every channel', () => {
		for (const event of MESSAGE_EVENTS)
			for (const channel of CHANNELS)
				expect([event, channel, checkTemplate(event, 'Hello', bodyOf(event), channel)]).toEqual([event, channel, []]);
	});
	it('knows each fill-in with an example, and each event uses only those', () => {
		for (const event of MESSAGE_EVENTS) {
			const { can, needs } = EVENT_FILL_INS[event];
			expect(can.every((one) => one in FILL_INS)).toBe(true);
			expect(new Set(can).size).toBe(can.length);
			for (const wanted of needs) expect(wanted.every((one) => can.includes(one))).toBe(true);
		}
	});
	it('without what its event needs is told what that is', () => {
		expect(checkTemplate('invoice', 'Your invoice', 'Dear {{payer.name}}', 'mail')).toEqual([
			{ says: 'This message needs {{invoice.link}} or {{owed.link}}.' }
		]);
		expect(checkTemplate('invoice', 'Your invoice', 'All of it: {{owed.link}}', 'mail')).toEqual([]);
	});
	it('with a fill-in that does not exist, or not here, is told where, and which may be meant', () => {
		expect(checkTemplate('invoice', 'A', 'x\n  {{invoice.lnk}}\n{{invoice.link}}', 'mail')).toEqual([
			{ at: { line: 2, column: 3 }, says: 'There is no fill-in {{invoice.lnk}}; did you mean {{invoice.link}}?' }
		]);
		expect(checkTemplate('invoice', 'A', '{{invoice.link}} {{something.else.entirely}}', 'mail')).toEqual([
			{ at: { line: 1, column: 18 }, says: 'There is no fill-in {{something.else.entirely}}.' }
		]);
		expect(checkTemplate('quote', '{{quote.number}}: {{refund.amount}}', '{{quote.link}}', 'mail')).toEqual([
			{ at: { line: 1, column: 19 }, says: '{{refund.amount}} in the subject is not known when this message is sent.' }
		]);
	});
	it('with braces that do not close is told where', () => {
		expect(checkTemplate('invoice', 'A', '{{invoice.link}}\nand {{invoice.total', 'mail')).toEqual([
			{ at: { line: 2, column: 5 }, says: 'Braces in the text are not closed.' }
		]);
		expect(checkTemplate('invoice', 'A }}', '{{invoice.link}}', 'mail')[0]!.says).toBe(
			'Braces in the subject are not closed.'
		);
	});
	it('of a mail has a subject, and no message is empty', () => {
		expect(checkTemplate('method stored', ' ', ' ', 'mail').map((one) => one.says)).toEqual([
			'A mail needs a subject.',
			'The message is empty.'
		]);
		expect(checkTemplate('method stored', '', 'Stored.', 'text')).toEqual([]);
	});
});

describe('filling in', () => {
	const values: Partial<Record<FillIn, string>> = { 'payer.name': 'Ana', 'invoice.total': '640.05 EUR' };
	it('puts in what is known; a line of nothing else goes where it is not', () => {
		expect(fillIn('Dear {{payer.name}},\n{{payer.company}}\n\nPay {{ invoice.total }}.\n', values)).toBe(
			'Dear Ana,\n\nPay 640.05 EUR.'
		);
		expect(fillIn('To {{payer.company}}', values)).toBe('To');
	});
	it('never fills in twice what a payer is called by', () => {
		expect(fillIn('{{payer.name}}', { 'payer.name': '{{invoice.total}}' })).toBe('{{invoice.total}}');
		expect(fillIn('{{payer.name}}', { 'payer.name': '$& $1 \\' })).toBe('$& $1 \\');
	});
	it('leaves text without a fill-in as it was', () => {
		expect(fillIn('One { brace } and two.\nNext line', values)).toBe('One { brace } and two.\nNext line');
	});
});

describe('the language of a payer', () => {
	it('is told by its first two letters, in any case, or is none of ours', () => {
		expect(['nl', 'NL-be', 'fr-FR', 'de', 'en-GB', 'es', '', 'e'].map(openLanguage)).toEqual([
			'nl',
			'nl',
			'fr',
			'de',
			'en',
			undefined,
			undefined,
			undefined
		]);
	});
});

describe('a quote', () => {
	const facts = { isSent: false, isOpened: false, isAccepted: false, isDeclined: false, until: '2026-11-30' };
	it('expires at the end of its day, unless it was answered', () => {
		const of = (change: Partial<typeof facts>, today = '2026-11-30') => quoteState({ ...facts, ...change }, today);
		expect(of({})).toBe('draft');
		expect(of({ isSent: true })).toBe('sent');
		expect(of({ isSent: true, isOpened: true })).toBe('opened');
		expect(of({ isSent: true }, '2026-12-01')).toBe('expired');
		expect(of({ isSent: true, isAccepted: true }, '2026-12-01')).toBe('accepted');
		expect(of({ isSent: true, isDeclined: true }, '2026-12-01')).toBe('declined');
		expect(quoteState({ ...facts, isSent: true, until: null }, '2036-12-01')).toBe('sent');
	});
});

describe('numbers of a series', () => {
	const pattern = (year: NumberPattern['year'], digits = 4): NumberPattern => ({ prefix: 'INV-', year, digits });
	it('are written with their year as the series has it, and never cut', () => {
		expect(numberText(pattern('four digits'), '2026-11-30', 42)).toBe('INV-2026-0042');
		expect(numberText(pattern('two digits'), '2026-11-30', 42)).toBe('INV-26-0042');
		expect(numberText(pattern('none'), '2026-11-30', 42)).toBe('INV-0042');
		expect(numberText(pattern('none', 2), '2026-11-30', 12_345)).toBe('INV-12345');
	});
	it('are counted by the year they carry, or on for ever', () => {
		expect(countingYear(pattern('four digits'), '2026-12-31')).toBe('2026');
		expect(countingYear(pattern('two digits'), '2027-01-01')).toBe('2027');
		expect(countingYear(pattern('none'), '2027-01-01')).toBe('');
	});
});
