import { methodName } from '../lineup/methods';
import { formatDay } from '../calendar';
import { decimalOf, exponentOf, formatAmount, formatNumber, localDecimal, type Amount } from '../money';
import type { WorkingStep } from '../workings';
import type { FeePart, Priced, Unpriced } from './price';
import type { RateLine } from './rateCard';

/**
 * A percentage as people write it: 13,500 ppm is `1.35 %`.
 * @param locale BCP 47, for the decimal sign
 */
export const percent = (ppm: number, locale: string): string =>
	`${localDecimal(decimalOf({ top: BigInt(ppm), bottom: 1n }, 4, 0).replace(/\.?0+$/, '') || '0', locale)} %`;

/** What a line asks for, in words. */
export function sayLine({ when }: RateLine): string {
	const method = when.method && methodName(when.method).toLowerCase();
	const parts = [method, when.scheme, when.funding, when.region, when.currency, when.entry].filter(Boolean);
	return parts.length ? parts.join(', ') : 'everything else';
}

const NAMES: Record<FeePart['part'], string> = {
	percentage: 'Percentage',
	fixed: 'Fixed part',
	clamped: 'Up to the minimum, or down to the maximum',
	interchange: 'Interchange',
	'scheme fee': 'Scheme fee',
	conversion: 'Conversion',
	intermediary: 'Intermediary'
};

const ROUNDED = { 'half-up': 'halves up', 'half-even': 'halves to even', up: 'upwards' } as const;

/** The steps from a paid amount to its fee, each with what it was taken from. */
export function priceSteps(priced: Priced, paid: Amount, locale: string): WorkingStep[] {
	const { base, rate, parts, line, exact, rounding, mode, fee } = priced;
	const exponent = exponentOf(base.currency);
	const steps: WorkingStep[] = [{ title: 'Captured', sum: formatAmount(paid, locale) }];
	if (rate)
		steps.push({
			title: `Converted to ${base.currency}`,
			sub: `at ${rate.inverse ? '1 ÷ ' : ''}${localDecimal(rate.published.rate, locale)} of ${formatDay(rate.published.day, locale)} (${rate.published.source}), rounded half-even`,
			sum: formatNumber(base, locale)
		});
	for (const part of parts)
		steps.push({
			title: `${NAMES[part.part]}${part.ppm === undefined ? '' : ` ${percent(part.ppm, locale)}`}`,
			sub:
				part.part === 'percentage'
					? `line “${sayLine(line)}”`
					: part.ppm !== undefined
						? `of ${formatNumber(base, locale)}`
						: undefined,
			sum:
				rounding === 'each'
					? formatNumber({ minor: part.rounded!, currency: base.currency }, locale)
					: localDecimal(decimalOf(part.exact, exponent), locale)
		});
	steps.push({
		title: 'Expected fee',
		sub:
			rounding === 'total'
				? `${localDecimal(decimalOf(exact, exponent), locale)}, rounded once, ${ROUNDED[mode]}`
				: `each part rounded, ${ROUNDED[mode]}`,
		sum: formatAmount(fee, locale),
		total: true
	});
	return steps;
}

/** Why there is no expected fee. */
export const sayUnpriced = ({ reason }: Unpriced): string =>
	({
		'no line': 'No line of the rate card covers this kind of payment.',
		ambiguous: 'Two lines of the rate card fit this payment equally well.',
		'no rate': 'No exchange rate is known for the day of capture.',
		'no cost': 'The cost table has no entry for this card type.'
	})[reason];
