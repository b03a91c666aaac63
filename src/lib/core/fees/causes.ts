import { formatDay } from '../calendar';
import type { NamedCause } from './feeCheck';
import { percent } from './words';

const ROUNDED: Readonly<Record<string, string>> = {
	'half-up': 'halves up',
	'half-even': 'halves to even',
	up: 'always upwards'
};

/**
 * What was done, as a sentence without its full stop: `Charged as international cards`.
 * @param schemeName the name of a card scheme by its id
 * @param agreedMargin parts per million, where the contract has a conversion
 */
export function sayCause(
	{ cause, parameter }: NamedCause,
	locale: string,
	schemeName: (id: string) => string = (id) => id,
	agreedMargin?: number
): string {
	const [first = '', second = ''] = parameter.split(' ');
	switch (cause) {
		case 'another line':
			return `Charged as ${first === 'scheme' ? schemeName(second) : second} cards`;
		case 'another version':
			return `Charged by the rate card of ${formatDay(parameter, locale)}`;
		case 'fixed part':
			return parameter === 'missing' ? 'The fixed part was left out' : 'The fixed part was charged twice';
		case 'rounding':
			return `Rounded otherwise: ${first === 'each' ? 'each part' : 'the sum'}, ${ROUNDED[second] ?? second}`;
		case 'conversion':
			return `Conversion at ${percent(Number(parameter), locale)}${agreedMargin === undefined ? '' : `, agreed is ${percent(agreedMargin, locale)}`}`;
		case 'refund':
			return second === 'all'
				? 'Refunds gave nothing of the fee back'
				: second === 'fixed'
					? 'Refunds kept the fixed part'
					: 'Refunds gave the whole fee back';
		case 'monthly charge':
		case 'payout charge':
		case 'refund charge':
		case 'dispute charge':
			return sayCharge(CHARGES[cause], first, second, locale);
		case 'not explained':
			return 'Nothing that is known explains it';
	}
}
const CHARGES = {
	'monthly charge': 'monthly charge',
	'payout charge': 'charge for a payout',
	'refund charge': 'charge for a refund',
	'dispute charge': 'charge for a dispute'
} as const;
function sayCharge(what: string, parameter: string, day: string, locale: string): string {
	switch (parameter) {
		case 'missing':
			return `The ${what} was left out`;
		case 'twice':
			return `The ${what} was made twice`;
		case 'not':
			return `A ${what} that was not agreed`;
		case 'from':
			return `The ${what} by the rate card of ${formatDay(day, locale)}`;
		default:
			return `Another ${what} than agreed`;
	}
}
/** Whether a cause is about charges of the account, not about fees of payments. */
export const isAccountCause = (cause: string): boolean => cause in CHARGES;

/** Why a cause was named, for whoever doubts it. */
export const whyCause = ({ cause }: NamedCause): string =>
	isAccountCause(cause)
		? `What the processor charged the account is held against what the contract of that day says it may charge.${cause === 'monthly charge' ? ' A charge until the tenth of a month is for the month before.' : ''}`
		: cause === 'not explained'
			? 'Another line of the contract, another version of it, the fixed part, rounding, conversion and refunds were tried; none of them explains all of these payments to the minor unit.'
			: 'With this one change, the contract comes to what was charged for every one of these payments, to the minor unit.';
