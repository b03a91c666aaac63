import { exponentOf, PPM } from '../money';
import type { RateCard, RateLine } from './rateCard';

/** A rate card as a person edits it: percentages and sums as texts, conditions by name, the cost table as CSV. */
export interface CardForm {
	settlement: string;
	rounding: 'total' | 'each';
	mode: 'half-up' | 'half-even' | 'up';
	areas: string;
	lines: LineForm[];
	tierWay: 'band' | 'whole';
	tiers: { from: string; lines: LineForm[] }[];
	costs: string;
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

const trimZeros = (text: string) => (text.includes('.') ? text.replace(/0+$/, '').replace(/\.$/, '') : text);
/** 13,500 ppm as `1.35`. */
export const percentText = (ppm: number): string => trimZeros((ppm / 10_000).toFixed(4));
const sumText = (minor: number, currency: string) => (minor / 10 ** exponentOf(currency)).toFixed(exponentOf(currency));

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

const lineForm = ({ when, percentage, fixed, minimum, maximum }: RateLine, currency: string): LineForm => ({
	method: when.method ?? '',
	scheme: when.scheme ?? '',
	funding: when.funding ?? '',
	region: when.region ?? '',
	currency: when.currency ?? '',
	entry: when.entry ?? '',
	percentage: percentText(percentage),
	fixed: sumText(fixed, currency),
	minimum: minimum === undefined ? '' : sumText(minimum, currency),
	maximum: maximum === undefined ? '' : sumText(maximum, currency)
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

export function cardForm(card: RateCard): CardForm {
	const { settlement } = card;
	return {
		settlement,
		rounding: card.rounding,
		mode: card.mode,
		areas: card.areas.map((area) => area.join(' ')).join('; '),
		lines: card.lines.map((line) => lineForm(line, settlement)),
		tierWay: card.tiers?.way ?? 'band',
		tiers: (card.tiers?.steps ?? []).map((step) => ({
			from: sumText(step.from, settlement),
			lines: step.lines.map((line) => lineForm(line, settlement))
		})),
		costs: (card.costs ?? [])
			.map(
				(one) =>
					`${one.scheme},${one.funding},${one.region},${percentText(one.interchange)},${percentText(one.schemeFee)}`
			)
			.join('\n'),
		conversion: percentText(card.conversion),
		intermediary: percentText(card.intermediary),
		monthlyFee: sumText(card.monthly.fee, settlement),
		monthlyMinimum: sumText(card.monthly.minimum, settlement),
		keeps: card.refund.keeps,
		refundFee: sumText(card.refund.fee, settlement),
		disputeFee: sumText(card.dispute.fee, settlement),
		disputeReturned: card.dispute.returnedWhenWon,
		declined: sumText(card.declined, settlement),
		payout: sumText(card.payout, settlement)
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
	const costs = form.costs
		.split(/\r?\n/)
		.map((text) => text.trim())
		.filter(Boolean)
		.map((text) => {
			const [scheme = '', funding = '', region = '', interchange = '', schemeFee = ''] = text
				.split(/[,;\t]/)
				.map((one) => one.trim());
			return { scheme, funding, region, interchange: ppmIn(interchange), schemeFee: ppmIn(schemeFee) };
		});
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

/** Where in a card something is wrong, in the words of the form. */
export function sayPlace(path: readonly PropertyKey[]): string {
	const [first, second, third, fourth, fifth] = path.map(String);
	const number = (text: string | undefined) => Number(text ?? 0) + 1;
	if (first === 'lines' && second === undefined) return 'The lines';
	if (first === 'lines') return `Line ${number(second)}${third ? `, ${third === 'when' ? fourth : third}` : ''}`;
	if (first === 'tiers' && second === 'steps')
		return `Tier ${number(third)}${fourth === 'lines' ? `, line ${number(fifth)}` : fourth ? `, ${fourth}` : ''}`;
	if (first === 'costs') return `Cost table, line ${number(second)}${third ? `, ${third}` : ''}`;
	return path.map(String).join(', ') || 'The card';
}
