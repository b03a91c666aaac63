import { describe, expect, it } from 'vitest';
import { addDays } from '../calendar';
import {
	explainGroup,
	feeUnder,
	givenBack,
	kindOf,
	RateCard,
	type ContractVersion,
	type DifferingGroup,
	type DifferingPayment,
	type Kind
} from '.';
import { found, generator, randomCard, RATES, rounded, simple } from '../../../../tests/world/simplePricing';

type Random = ReturnType<typeof generator>;
const FIRST = '2026-03-01';

/** A fee by the second, simple pricing, less what refunds give back by the text of the rule alone. */
function simpleFee(card: RateCard, kind: Kind, minor: number, refunded: number, before: number): number | undefined {
	const priced = simple(card, kind, minor, RATES[kind.currency], before);
	if (!priced) return undefined;
	const part = BigInt(Math.min(refunded, minor));
	const [top, bottom] = priced.share;
	const back =
		card.refund.keeps === 'all' || !refunded
			? 0n
			: card.refund.keeps === 'nothing'
				? rounded([priced.fee * part, BigInt(minor)], card.mode)
				: rounded([top * part, bottom * BigInt(minor)], card.mode);
	return Number(priced.fee - back);
}

interface Planted {
	readonly cause: string;
	readonly parameter: string;
	/** what the processor does instead */
	readonly card: RateCard;
	readonly kind: Kind;
}
/** Something that a processor could do instead of what was agreed. */
function plant(random: Random, card: RateCard, kind: Kind, other: ContractVersion): Planted {
	const every = (change: (line: RateCard['lines'][number]) => RateCard['lines'][number]): RateCard => ({
		...card,
		lines: card.lines.map(change),
		...(card.tiers
			? { tiers: { ...card.tiers, steps: card.tiers.steps.map((one) => ({ ...one, lines: one.lines.map(change) })) } }
			: {})
	});
	const same = { card, kind };
	const region = kind.region === 'regional' ? 'domestic' : 'regional';
	const funding = kind.funding === 'debit' ? 'credit' : 'debit';
	const conversion = 100 * random.whole(1, 600);
	const rounding = random.pick(['total', 'each'] as const);
	const mode = random.pick(['half-up', 'half-even', 'up'] as const);
	const keeps = random.pick(['all', 'fixed', 'nothing'] as const);
	return random.pick<Planted>([
		{ ...same, cause: 'another line', parameter: `region ${region}`, kind: { ...kind, region } },
		{ ...same, cause: 'another line', parameter: `funding ${funding}`, kind: { ...kind, funding } },
		{ ...same, cause: 'another version', parameter: other.validFrom, card: other.card },
		{ ...same, cause: 'fixed part', parameter: 'missing', card: every((line) => ({ ...line, fixed: 0 })) },
		{ ...same, cause: 'fixed part', parameter: 'doubled', card: every((line) => ({ ...line, fixed: line.fixed * 2 })) },
		{ ...same, cause: 'rounding', parameter: `${rounding} ${mode}`, card: { ...card, rounding, mode } },
		{ ...same, cause: 'conversion', parameter: String(conversion), card: { ...card, conversion } },
		{ ...same, cause: 'refund', parameter: `keeps ${keeps}`, card: { ...card, refund: { ...card.refund, keeps } } }
	]);
}

/** A history of one kind under one contract, in which a mistake begins on a day and ends on another. */
function history(random: Random, faults: (card: RateCard, kind: Kind, other: ContractVersion) => readonly Planted[]) {
	const card = RateCard.parse({
		...randomCard(random),
		refund: { keeps: random.pick(['all', 'fixed', 'nothing']), fee: 0 }
	});
	const other = { id: 2, validFrom: '2025-01-01', card: RateCard.parse({ ...randomCard(random) }) };
	const version = { id: 1, validFrom: '2026-01-01', card };
	const currency = random.pick(['EUR', 'EUR', 'USD', 'JPY']);
	const kind = kindOf({
		method: 'card',
		currency,
		scheme: random.pick(['corvid', 'mainsail']),
		funding: random.pick(['debit', 'credit']),
		region: random.pick(['domestic', 'regional'])
	});
	const planted = faults(card, kind, other);
	const days = 60;
	const [from, to] = [random.whole(0, 30), random.whole(30, days)];
	const all: (DifferingPayment & { wrong: boolean })[] = [];
	let id = 0;
	for (let day = 0; day < days; day++)
		for (let n = random.whole(0, 4); n > 0; n--) {
			const minor = random.whole(100, 60_000);
			const refunded = random.chance(0.2) ? (random.chance(0.5) ? minor : random.whole(1, minor)) : 0;
			const before = random.whole(0, 300_000);
			const expected = simpleFee(card, kind, minor, refunded, before);
			if (expected === undefined) continue;
			const isIn = day >= from && day <= to;
			const fault = isIn
				? planted[Math.min(planted.length - 1, Math.floor(((day - from) / (to - from + 1)) * planted.length))]
				: undefined;
			const charged = fault ? simpleFee(fault.card, fault.kind, minor, refunded, before) : expected;
			if (charged === undefined) return undefined;
			all.push({
				id: ++id,
				day: addDays(FIRST, day),
				paid: { minor, currency },
				refunded,
				rate: found(currency),
				before,
				expected,
				charged,
				wrong: !!fault
			});
		}
	const payments = all.filter((one) => one.charged !== one.expected);
	const group: DifferingGroup = { kind, version, payments };
	return { group, versions: [version, other], planted, all };
}

describe('the fee check over random histories', () => {
	it('expects what the simple pricing expects, so that nothing differs where nothing was planted', () => {
		const random = generator(31);
		let compared = 0;
		for (let round = 0; round < 1_000; round++) {
			const made = history(random, () => []);
			if (!made) continue;
			expect(made.group.payments).toEqual([]);
			expect(explainGroup(made.group, made.versions)).toEqual([]);
			for (const one of made.all) {
				expect(feeUnder(made.group.version.card, made.group.kind, one)).toBe(one.expected);
				compared++;
			}
		}
		expect(compared).toBeGreaterThan(50_000);
	});
	it('finds one planted mistake with its parameter, its days and its sum, in a thousand histories', () => {
		const random = generator(2_026);
		const named = new Map<string, number>();
		let [checked, alone] = [0, 0];
		for (let round = 0; checked < 1_000; round++) {
			const made = history(random, (card, kind, other) => [plant(random, card, kind, other)]);
			if (!made?.group.payments.length) continue;
			const { group, versions, planted } = made;
			const [{ cause, parameter, card, kind }] = planted as [Planted];
			const spans = explainGroup(group, versions);
			const { payments } = group;
			const sum = (sign: 1 | -1) =>
				payments.reduce((all, one) => all + Math.max(0, sign * (one.charged - one.expected)), 0);
			checked++;
			if (cause === 'conversion' && payments.length < 2) {
				// one payment cannot tell a margin: it may only be said to be something else that fits, or nothing
				alone++;
				continue;
			}
			expect([round, spans.length]).toEqual([round, 1]);
			const [span] = spans as [(typeof spans)[0]];
			expect([span.first, span.last]).toEqual([payments[0]!.day, payments.at(-1)!.day]);
			expect([span.over, span.under]).toEqual([sum(1), sum(-1)]);
			if (span.cause === cause && span.parameter === parameter) {
				named.set(cause, (named.get(cause) ?? 0) + 1);
				continue;
			}
			// another name is right only where it comes to the same, to the minor unit, for every payment
			expect([round, cause, parameter, span.cause]).not.toEqual([round, cause, parameter, 'not explained']);
			const said = underNamed(span.cause, span.parameter, group, versions);
			for (const one of payments)
				expect([round, cause, parameter, span.cause, span.parameter, feeUnder(said.card, said.kind, one)]).toEqual([
					round,
					cause,
					parameter,
					span.cause,
					span.parameter,
					simpleFee(card, kind, one.paid.minor, one.refunded, one.before)
				]);
		}
		for (const cause of ['another line', 'another version', 'fixed part', 'rounding', 'conversion', 'refund'])
			expect([cause, (named.get(cause) ?? 0) > 20]).toEqual([cause, true]);
		expect(alone).toBeLessThan(50);
	}, 180_000);
	it('tells two mistakes in one group both, or honestly what it does not explain', () => {
		const random = generator(555);
		let [both, none, checked] = [0, 0, 0];
		while (checked < 300) {
			const made = history(random, (card, kind, other) => [
				plant(random, card, kind, other),
				plant(random, card, kind, other)
			]);
			if (!made || made.group.payments.length < 8) continue;
			checked++;
			const { group, versions } = made;
			const spans = explainGroup(group, versions);
			// every payment stands in one span, and every named span is true to the minor unit
			expect(spans.flatMap((one) => one.payments.map((payment) => payment.id)).sort((a, b) => a - b)).toEqual(
				group.payments.map((one) => one.id)
			);
			const named = spans.filter((one) => one.cause !== 'not explained');
			expect(spans.length - named.length).toBeLessThan(2);
			for (const span of named) {
				const said = underNamed(span.cause, span.parameter, group, versions);
				for (const one of span.payments) expect(feeUnder(said.card, said.kind, one)).toBe(one.charged);
			}
			if (named.length < spans.length) {
				none++;
				continue;
			}
			both++;
		}
		expect(both).toBeGreaterThan(150);
		expect(both + none).toBe(300);
	}, 180_000);
	it('names nothing for sums that follow no rule', () => {
		const random = generator(9);
		let checked = 0;
		while (checked < 300) {
			const made = history(random, () => []);
			if (!made || made.all.length < 20) continue;
			checked++;
			const payments = made.all.map((one) => ({ ...one, charged: one.expected + random.whole(1, 900) }));
			const spans = explainGroup({ ...made.group, payments }, made.versions);
			expect(spans.map((one) => one.cause)).toEqual(['not explained']);
		}
	}, 180_000);
});

/** The card and the kind that a named cause says were used. */
function underNamed(
	cause: string,
	parameter: string,
	{ kind, version: { card } }: DifferingGroup,
	versions: readonly ContractVersion[]
) {
	const [first, second] = parameter.split(' ');
	const times = (n: number) => (line: RateCard['lines'][number]) => ({ ...line, fixed: line.fixed * n });
	const all = (change: (line: RateCard['lines'][number]) => RateCard['lines'][number]): RateCard => ({
		...card,
		lines: card.lines.map(change),
		...(card.tiers
			? { tiers: { ...card.tiers, steps: card.tiers.steps.map((one) => ({ ...one, lines: one.lines.map(change) })) } }
			: {})
	});
	switch (cause) {
		case 'another line':
			return { card, kind: { ...kind, [first!]: second! } };
		case 'another version':
			return { card: versions.find((one) => one.validFrom === parameter)!.card, kind };
		case 'fixed part':
			return { card: all(times(parameter === 'missing' ? 0 : 2)), kind };
		case 'rounding':
			return { card: { ...card, rounding: first as 'total', mode: second as 'up' }, kind };
		case 'conversion':
			return { card: { ...card, conversion: Number(parameter) }, kind };
		default:
			return { card: { ...card, refund: { ...card.refund, keeps: second as 'all' } }, kind };
	}
}

const CARD = RateCard.parse({
	settlement: 'EUR',
	rounding: 'total',
	mode: 'half-up',
	lines: [
		{ when: {}, percentage: 13_500, fixed: 18 },
		{ when: { region: 'international' }, percentage: 28_900, fixed: 18 },
		{ when: { funding: 'commercial' }, percentage: 21_000, fixed: 18 }
	],
	conversion: 20_000,
	refund: { keeps: 'fixed', fee: 0 }
});
const KIND = kindOf({ method: 'card', currency: 'EUR', scheme: 'mainsail', funding: 'debit', region: 'regional' });
const paid = (
	id: number,
	day: string,
	minor: number,
	charged: (card: RateCard, kind: Kind) => number,
	refunded = 0
): DifferingPayment => {
	const bare = { id, day, paid: { minor, currency: 'EUR' }, refunded, before: 0 };
	return { ...bare, expected: feeUnder(CARD, KIND, bare)!, charged: charged(CARD, KIND) };
};
const version: ContractVersion = { id: 1, validFrom: '2026-01-01', card: CARD };
const explained = (payments: readonly DifferingPayment[], versions: readonly ContractVersion[] = [version]) =>
	explainGroup({ kind: KIND, version, payments }, versions).map(
		({ cause, parameter, first, last, payments: own, over, under }) => ({
			cause,
			parameter,
			first,
			last,
			count: own.length,
			over,
			under
		})
	);

describe('a group of payments that were charged otherwise', () => {
	it('regional cards priced as international: 84.50 at 2.89 % in the place of 1.35 %', () => {
		const day = (n: number) => addDays('2026-10-20', n);
		const list = [8_450, 2_000, 12_345].map((minor, n) =>
			paid(n, day(n), minor, () =>
				feeUnder(
					CARD,
					{ ...KIND, region: 'international' },
					{ id: n, day: day(n), paid: { minor, currency: 'EUR' }, refunded: 0, before: 0 }
				)!
			)
		);
		expect(list.map((one) => [one.expected, one.charged])).toEqual([
			[132, 262],
			[45, 76],
			[185, 375]
		]);
		expect(explained(list)).toEqual([
			{
				cause: 'another line',
				parameter: 'region international',
				first: '2026-10-20',
				last: '2026-10-22',
				count: 3,
				over: 351,
				under: 0
			}
		]);
	});
	it('one mistake after another on the next day: two spans, each with its own days and sum', () => {
		const under = (n: number, minor: number, kind: Kind) =>
			feeUnder(CARD, kind, { id: n, day: '', paid: { minor, currency: 'EUR' }, refunded: 0, before: 0 })!;
		const list = Array.from({ length: 8 }, (_, n) => {
			const minor = 3_000 + 777 * n;
			return paid(n, addDays('2026-10-01', n), minor, () =>
				n < 4 ? under(n, minor, { ...KIND, region: 'international' }) : under(n, minor, KIND) + 18
			);
		});
		expect(
			explained(list).map(({ cause, parameter, first, last, count }) => [cause, parameter, first, last, count])
		).toEqual([
			['another line', 'region international', '2026-10-01', '2026-10-04', 4],
			['fixed part', 'doubled', '2026-10-05', '2026-10-08', 4]
		]);
	});
	it('one payment that fits nothing does not hide a mistake that began after it', () => {
		const under = (n: number, minor: number) =>
			feeUnder(
				CARD,
				{ ...KIND, region: 'international' },
				{ id: n, day: '', paid: { minor, currency: 'EUR' }, refunded: 0, before: 0 }
			)!;
		const list = [
			paid(0, '2026-10-01', 8_450, () => 77),
			...[1, 2, 3].map((n) => paid(n, addDays('2026-10-01', n), 3_000 + 777 * n, () => under(n, 3_000 + 777 * n))),
			paid(4, '2026-10-09', 5_000, () => 1)
		];
		expect(explained(list).map(({ cause, first, last, count }) => [cause, first, last, count])).toEqual([
			['another line', '2026-10-02', '2026-10-04', 3],
			['not explained', '2026-10-01', '2026-10-09', 2]
		]);
	});
	it('two mistakes within one day stay unexplained: days are not cut', () => {
		const list = Array.from({ length: 6 }, (_, n) => {
			const minor = 3_000 + 777 * n;
			const other = feeUnder(
				CARD,
				{ ...KIND, region: 'international' },
				{ id: n, day: '', paid: { minor, currency: 'EUR' }, refunded: 0, before: 0 }
			)!;
			return paid(n, '2026-10-01', minor, () =>
				n % 2
					? other
					: feeUnder(CARD, KIND, { id: n, day: '', paid: { minor, currency: 'EUR' }, refunded: 0, before: 0 })! + 18
			);
		});
		expect(explained(list)).toMatchObject([{ cause: 'not explained', parameter: '', count: 6 }]);
	});
	it('a version that was replaced is named by its day, the nearest first', () => {
		const older: ContractVersion = {
			id: 2,
			validFrom: '2025-01-01',
			card: RateCard.parse({ ...CARD, lines: [{ when: {}, percentage: 15_000, fixed: 20 }] })
		};
		const list = [8_450, 5_000].map((minor, n) =>
			paid(n, '2026-02-01', minor, () =>
				feeUnder(older.card, KIND, { id: n, day: '', paid: { minor, currency: 'EUR' }, refunded: 0, before: 0 })!
			)
		);
		expect(explained(list, [version, older])).toMatchObject([{ cause: 'another version', parameter: '2025-01-01' }]);
	});
	it('a refund that kept the whole fee is told as that, and only payments that were refunded are in it', () => {
		const list = [8_450, 5_000, 4_000].map((minor, n) =>
			paid(
				n,
				'2026-02-01',
				minor,
				() => feeUnder(CARD, KIND, { id: n, day: '', paid: { minor, currency: 'EUR' }, refunded: 0, before: 0 })!,
				minor
			)
		);
		expect(
			givenBack(CARD, { percentagePart: { top: 114_075n, bottom: 1000n }, fee: 132, captured: 8_450, refunded: 8_450 })
		).toBe(114);
		expect(list[0]).toMatchObject({ expected: 18, charged: 132 });
		expect(explained(list)).toMatchObject([{ cause: 'refund', parameter: 'keeps all', over: 114 + 68 + 54 }]);
	});
	it('one payment alone names no margin', () => {
		const kind = { ...KIND, currency: 'USD' };
		const bare = {
			id: 1,
			day: '2026-02-01',
			paid: { minor: 8_450, currency: 'USD' },
			refunded: 0,
			before: 0,
			rate: found('USD')
		};
		const expected = feeUnder(CARD, kind, bare)!;
		const group = { kind, version, payments: [{ ...bare, expected, charged: expected + 117 }] };
		expect(explainGroup(group, [version])).toMatchObject([{ cause: 'not explained' }]);
	});
	it('a margin of 3.5 % in the place of 2 % is found from what was charged alone', () => {
		const kind = { ...KIND, currency: 'USD' };
		const list = [8_450, 12_000, 33_000, 2_500].map((minor, id) => {
			const bare = {
				id,
				day: addDays('2026-02-01', id),
				paid: { minor, currency: 'USD' },
				refunded: 0,
				before: 0,
				rate: found('USD')
			};
			return {
				...bare,
				expected: feeUnder(CARD, kind, bare)!,
				charged: feeUnder({ ...CARD, conversion: 35_000 }, kind, bare)!
			};
		});
		expect(explainGroup({ kind, version, payments: list }, [version])).toMatchObject([
			{ cause: 'conversion', parameter: '35000' }
		]);
	});
});
