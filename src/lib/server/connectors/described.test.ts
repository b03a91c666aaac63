import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EVENT_KINDS } from '../../core/stages';
import type { CredentialForm } from './described';
import { factsOf, inspectBy, problemOf, reportsOf, settledAs } from './described';

describe('what became of a key', () => {
	const answer = settledAs('STUB', { done: 'DONE', working: 'BUSY', never: 'NO' }, { status: 'CODE', answer: 'BODY' });
	it('is read by the processor’s own words and names', () => {
		expect(answer.parse({ STUB: 'DONE', CODE: 201, BODY: { id: 'x' } })).toEqual({
			became: 'done',
			status: 201,
			answer: { id: 'x' }
		});
		expect(answer.parse({ STUB: 'BUSY' })).toMatchObject({ became: 'under way' });
		expect(answer.parse({ STUB: 'NO' })).toMatchObject({ became: 'never came' });
	});
	it.each([{ STUB: 'done' }, { STUB: '' }, { STUB: 'constructor' }, {}, { STUB: 'DONE', CODE: 2.5 }, 'DONE', null])(
		'is never guessed from %j',
		(told) => expect(answer.safeParse(told).success).toBe(false)
	);
});

describe('facts', () => {
	it('come in the order in which they are told, each with its own object where it has one', () => {
		expect(
			factsOf('P', {
				captured: { at: 10, minor: 8_450 },
				refunded: [
					{ at: 20, minor: 100, object: 'R1' },
					{ at: 30, minor: 200, object: 'R2' }
				],
				failed: { at: 5, says: 'no money' },
				'paid out': { at: 40, object: 'O' }
			})
		).toEqual([
			{ kind: 'captured', at: 10, minor: 8_450, object: 'P' },
			{ kind: 'refunded', at: 20, minor: 100, object: 'R1' },
			{ kind: 'refunded', at: 30, minor: 200, object: 'R2' },
			{ kind: 'failed', at: 5, object: 'P', says: 'no money' },
			{ kind: 'paid out', at: 40, object: 'O' }
		]);
	});
	it('leave out what has no time, and nothing else: not the first moment of 1970, not a sum of nothing', () => {
		expect(
			factsOf('P', {
				authorised: { at: undefined, minor: 1 },
				captured: { at: 0, minor: 0 },
				refunded: [],
				disputed: undefined,
				voided: false,
				'paid out': { at: undefined, object: 'O' }
			})
		).toEqual([{ kind: 'captured', at: 0, minor: 0, object: 'P' }]);
	});
	it('are as many as were told with a time, of known kinds', () => {
		const happened = fc.record({ at: fc.option(fc.nat(), { nil: undefined }), minor: fc.nat(), object: fc.string() });
		fc.assert(
			fc.property(fc.dictionary(fc.constantFrom(...EVENT_KINDS), fc.array(happened)), (told) => {
				const facts = factsOf('P', told);
				expect(facts.length).toBe(
					Object.values(told)
						.flat()
						.filter((one) => one.at !== undefined).length
				);
				for (const { kind } of facts) expect(EVENT_KINDS).toContain(kind);
			}),
			{ seed: 5, numRuns: 300 }
		);
	});
});

describe('a notification', () => {
	const report = { processorId: 'P', ours: 'o', facts: [] };
	it('tells of its payment, else of every payment of its payout', () => {
		expect(reportsOf(report, undefined)).toEqual([report]);
		expect(
			reportsOf(undefined, {
				id: 'O',
				at: 7,
				payments: [
					['P1', 'a'],
					['P2', '']
				]
			})
		).toEqual([
			{ processorId: 'P1', ours: 'a', facts: [{ kind: 'paid out', at: 7, object: 'O' }] },
			{ processorId: 'P2', ours: '', facts: [{ kind: 'paid out', at: 7, object: 'O' }] }
		]);
	});
	it('tells of nothing where it names neither', () => {
		expect(reportsOf(undefined, undefined)).toEqual([]);
		expect(reportsOf(undefined, { id: 'O', at: 7, payments: [] })).toEqual([]);
	});
});

describe('credentials', () => {
	const FORMS: CredentialForm[] = [
		{
			field: 'open',
			called: 'open key',
			empty: 'Paste the open key.',
			form: /^OP(?<mode>[LT])-(?<body>[0-9]*)$/,
			unlike: 'An open key begins with OPL- or OPT-.',
			swapped: { looks: /^SE[LT]-/, called: 'sealed key' },
			length: { signs: 6, where: 'digits at its end' },
			check: { fits: (body) => body.endsWith('7'), says: 'Its last digit does not fit.' },
			modeOf: (told) => (told === 'L' ? 'live' : 'test')
		},
		{ field: 'number', called: 'number', empty: 'Type the number.', form: /^\d+$/, unlike: 'A number has digits.' }
	];
	const problems = (open: string, mode: 'live' | 'test' = 'live', number = '12') =>
		inspectBy(FORMS, { open, number }, mode).map(({ code, field, says }) => `${code} ${field}: ${says}`);
	it.each([
		['', 'empty open: Paste the open key.'],
		['SEL-123457', 'swapped open: This is a sealed key, in the box for the open key. The two are swapped.'],
		['open-sesame', 'unknown open: An open key begins with OPL- or OPT-.'],
		[
			'OPL-12345',
			'truncated open: The open key has 6 digits at its end; this has 5. Copy the whole of it, and nothing else.'
		],
		[
			'OPL-1234567',
			'truncated open: The open key has 6 digits at its end; this has 7. Copy the whole of it, and nothing else.'
		],
		['OPL-123456', 'truncated open: Its last digit does not fit.'],
		[
			'OPT-123457',
			'mode open: This is a test open key, and you are connecting for live. No real money would ever come.'
		]
	])('“%s” is told as what it is', (value, says) => expect(problems(value)).toEqual([says]));
	it('are sound where every form fits, in either mode', () => {
		expect(problems('OPL-123457')).toEqual([]);
		expect(problems('OPT-123457', 'test')).toEqual([]);
		expect(problems('OPL-123457', 'test')[0]).toMatch(/Real money would be taken/);
	});
	it('are looked at box by box: each has one problem at most', () => {
		expect(problems('', 'live', '').length).toBe(2);
		expect(problems('OPL-123457', 'live', 'x')).toEqual(['unknown number: A number has digits.']);
		expect(inspectBy(FORMS, {}, 'live').map((one) => one.code)).toEqual(['empty', 'empty']);
	});
});

describe('a refusal', () => {
	const table = { E1: ['revoked', 'token', 'It was ended.'] } as const;
	it('is what its code means, or what was said, at the box that is meant then', () => {
		expect(problemOf('House', table, 'number', { code: 'E1', text: 'x' })).toEqual({
			code: 'revoked',
			field: 'token',
			says: 'It was ended.'
		});
		for (const code of ['E9', '', 'toString', '__proto__'])
			expect(problemOf('House', table, 'number', { code, text: 'Go away.' })).toEqual({
				code: 'unknown',
				field: 'number',
				says: 'House refused: Go away.'
			});
	});
});
