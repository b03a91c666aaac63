import { REGIONS, type Region } from '../cards';
import { exponentOf, localDecimal, plainAmount, PPM } from '../money';
import type { RateCard, RateLine } from './rateCard';

/** A rate card as a person edits it: percentages and sums as texts, conditions by name. */
export interface CardForm {
	settlement: string;
	rounding: 'total' | 'each';
	mode: 'half-up' | 'half-even' | 'up';
	areas: string;
	lines: LineForm[];
	tierWay: 'band' | 'whole';
	tiers: { from: string; lines: LineForm[] }[];
	/** one row a scheme and funding, with what each region costs */
	costs: CostForm[];
	conversion: string;
	intermediary: string;
	monthlyFee: string;
	monthlyMinimum: string;
	keeps: 'all' | 'fixed' | 'nothing';
	refundFee: string;
	disputeFee: string;
	disputeReturned: boolean;
	declined: string;
	payout: string;
}
export interface LineForm {
	method: string;
	scheme: string;
	funding: string;
	region: string;
	currency: string;
	entry: string;
	percentage: string;
	fixed: string;
	minimum: string;
	maximum: string;
}

/** Percentages of one cell of the cost table; a cell without both is no cost. */
export interface CostCell {
	interchange: string;
	schemeFee: string;
}
export interface CostForm {
	scheme: string;
	funding: string;
	regions: Record<Region, CostCell>;
}
export const blankCost = (scheme = '', funding = ''): CostForm => ({
	scheme,
	funding,
	regions: {
		domestic: { interchange: '', schemeFee: '' },
		regional: { interchange: '', schemeFee: '' },
		international: { interchange: '', schemeFee: '' }
	}
});
const isFilled = (cell: CostCell) => cell.interchange.trim() !== '' || cell.schemeFee.trim() !== '';

/** Puts a cost into its row, or into a new one where its place is taken already. */
export function addCost(
	rows: CostForm[],
	{ scheme, funding, region, ...cell }: CostCell & { scheme: string; funding: string; region: Region }
): void {
	let row = rows.find((one) => one.scheme === scheme && one.funding === funding && !isFilled(one.regions[region]));
	if (!row) rows.push((row = blankCost(scheme, funding)));
	row.regions[region] = cell;
}
/** The filled cells of a cost table, row by row. */
export const costsOf = (rows: readonly CostForm[]) =>
	rows.flatMap(({ scheme, funding, regions }) =>
		REGIONS.filter((region) => isFilled(regions[region])).map((region) => ({
			scheme: scheme.trim(),
			funding: funding.trim(),
			region,
			...regions[region]
		}))
	);

const trimZeros = (text: string) => (text.includes('.') ? text.replace(/0+$/, '').replace(/\.$/, '') : text);
/** 13,500 ppm as `1.35`. */
export const percentText = (ppm: number): string => trimZeros((ppm / 10_000).toFixed(4));
/** How figures are written into boxes: with the decimal sign of a locale, or with a point where it is for a file. */
interface Pen {
	percent(ppm: number): string;
	sum(minor: number, currency: string): string;
}
const penOf = (locale: string): Pen => {
	const write = (text: string) => (locale ? localDecimal(text, locale) : text);
	return {
		percent: (ppm) => write(percentText(ppm)),
		sum: (minor, currency) => write(plainAmount({ minor, currency }))
	};
};

/** A text that is no number is told apart by the schema: it becomes one that no price can be. */
const NONE = -1;
function ppmIn(text: string): number {
	const match = /^(\d{1,3})(?:[.,](\d{1,4}))?$/.exec(text.trim());
	if (!match) return NONE;
	const ppm = Number(match[1]! + (match[2] ?? '').padEnd(4, '0'));
	return ppm > PPM ? NONE : ppm;
}
function minorIn(text: string, currency: string): number {
	const exponent = exponentOf(currency);
	const match = /^(\d{1,9})(?:[.,](\d+))?$/.exec(text.trim());
	if (!match || (match[2] ?? '').length > exponent) return NONE;
	return Number(match[1]! + (match[2] ?? '').padEnd(exponent, '0'));
}

const lineForm = ({ when, percentage, fixed, minimum, maximum }: RateLine, currency: string, pen: Pen): LineForm => ({
	method: when.method ?? '',
	scheme: when.scheme ?? '',
	funding: when.funding ?? '',
	region: when.region ?? '',
	currency: when.currency ?? '',
	entry: when.entry ?? '',
	percentage: pen.percent(percentage),
	fixed: pen.sum(fixed, currency),
	minimum: minimum === undefined ? '' : pen.sum(minimum, currency),
	maximum: maximum === undefined ? '' : pen.sum(maximum, currency)
});
export const blankLine = (): LineForm => ({
	method: '',
	scheme: '',
	funding: '',
	region: '',
	currency: '',
	entry: '',
	percentage: '',
	fixed: '',
	minimum: '',
	maximum: ''
});

/**
 * A rate card as the boxes of its form.
 * @param locale BCP 47, for the decimal sign; with a point where it is empty, as files carry it
 */
export function cardForm(card: RateCard, locale = ''): CardForm {
	const { settlement } = card;
	const pen = penOf(locale);
	const costs: CostForm[] = [];
	for (const { interchange, schemeFee, ...place } of card.costs ?? [])
		addCost(costs, { ...place, interchange: pen.percent(interchange), schemeFee: pen.percent(schemeFee) });
	return {
		settlement,
		rounding: card.rounding,
		mode: card.mode,
		areas: card.areas.map((area) => area.join(' ')).join('; '),
		lines: card.lines.map((line) => lineForm(line, settlement, pen)),
		tierWay: card.tiers?.way ?? 'band',
		tiers: (card.tiers?.steps ?? []).map((step) => ({
			from: pen.sum(step.from, settlement),
			lines: step.lines.map((line) => lineForm(line, settlement, pen))
		})),
		costs,
		conversion: pen.percent(card.conversion),
		intermediary: pen.percent(card.intermediary),
		monthlyFee: pen.sum(card.monthly.fee, settlement),
		monthlyMinimum: pen.sum(card.monthly.minimum, settlement),
		keeps: card.refund.keeps,
		refundFee: pen.sum(card.refund.fee, settlement),
		disputeFee: pen.sum(card.dispute.fee, settlement),
		disputeReturned: card.dispute.returnedWhenWon,
		declined: pen.sum(card.declined, settlement),
		payout: pen.sum(card.payout, settlement)
	};
}

/** What was typed, as the schema of rate cards reads it. What is no number stands as −1, which the schema refuses by its place. */
export function cardInput(form: CardForm): object {
	const { settlement } = form;
	const sum = (text: string) => minorIn(text || '0', settlement);
	const line = (one: LineForm) => ({
		when: Object.fromEntries(
			(['method', 'scheme', 'funding', 'region', 'currency', 'entry'] as const)
				.filter((part) => one[part])
				.map((part) => [part, one[part]])
		),
		percentage: ppmIn(one.percentage || '0'),
		fixed: sum(one.fixed),
		...(one.minimum ? { minimum: sum(one.minimum) } : {}),
		...(one.maximum ? { maximum: sum(one.maximum) } : {})
	});
	const costs = costsOf(form.costs).map((one) => ({
		...one,
		interchange: ppmIn(one.interchange || '0'),
		schemeFee: ppmIn(one.schemeFee || '0')
	}));
	return {
		settlement,
		rounding: form.rounding,
		mode: form.mode,
		areas: form.areas
			.split(';')
			.map((area) =>
				area
					.toUpperCase()
					.split(/[^A-Z]+/)
					.filter(Boolean)
			)
			.filter((area) => area.length),
		lines: form.lines.map(line),
		...(form.tiers.length
			? {
					tiers: {
						way: form.tierWay,
						steps: form.tiers.map((one) => ({ from: sum(one.from), lines: one.lines.map(line) }))
					}
				}
			: {}),
		...(costs.length ? { costs } : {}),
		conversion: ppmIn(form.conversion || '0'),
		intermediary: ppmIn(form.intermediary || '0'),
		monthly: { fee: sum(form.monthlyFee), minimum: sum(form.monthlyMinimum) },
		refund: { keeps: form.keeps, fee: sum(form.refundFee) },
		dispute: { fee: sum(form.disputeFee), returnedWhenWon: form.disputeReturned },
		declined: sum(form.declined),
		payout: sum(form.payout)
	};
}

/**
 * Where in a card something is wrong, in the words of the form.
 * @param card what was read, to name the row of its cost table
 */
export function sayPlace(path: readonly PropertyKey[], card?: object): string {
	const [first, second, third, fourth, fifth] = path.map(String);
	const number = (text: string | undefined) => Number(text ?? 0) + 1;
	if (first === 'lines' && second === undefined) return 'The lines';
	if (first === 'lines') return `Line ${number(second)}${third ? `, ${third === 'when' ? fourth : third}` : ''}`;
	if (first === 'tiers' && second === 'steps')
		return `Tier ${number(third)}${fourth === 'lines' ? `, line ${number(fifth)}` : fourth ? `, ${fourth}` : ''}`;
	if (first === 'costs') {
		const { costs = [] } = (card ?? {}) as { costs?: { scheme: string; funding: string; region: string }[] };
		const cost = costs[Number(second)];
		const what = { interchange: 'interchange', schemeFee: 'scheme fee' }[third ?? ''] ?? third;
		const row = cost ? `${cost.scheme || 'no scheme'} ${cost.funding}, ${cost.region}` : `line ${number(second)}`;
		return `Cost table, ${row}${what ? `, ${what}` : ''}`;
	}
	return path.map(String).join(', ') || 'The card';
}
