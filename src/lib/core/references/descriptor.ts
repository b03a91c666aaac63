/** What a processor declares about the line on a payer's statement. */
export interface DescriptorLimits {
	readonly min: number;
	readonly max: number;
	/** signs that the processor refuses, as one string */
	readonly forbidden: string;
}

const PLAIN = /^[A-Za-z0-9 .,&'+\-/*#()]*$/;

/**
 * What is wrong with a statement descriptor; empty when it may be used.
 * Latin letters, digits and plain punctuation, a letter among them, within the processor's limits.
 */
export function descriptorProblems(text: string, { min, max, forbidden }: DescriptorLimits): string[] {
	const problems: string[] = [];
	if (text !== text.trim()) problems.push('It begins or ends with a space.');
	if (text.length < min) problems.push(`It has ${text.length} characters; at least ${min} are asked for.`);
	if (text.length > max) problems.push(`It has ${text.length} characters; at most ${max} fit.`);
	const bad = [...new Set([...text].filter((sign) => !PLAIN.test(sign) || forbidden.includes(sign)))];
	if (bad.length) problems.push(`Not taken on a statement: ${bad.map((sign) => `“${sign}”`).join(' ')}.`);
	if (!/[A-Za-z]/.test(text)) problems.push('It needs a letter, so that it is not read as a number.');
	return problems;
}

/** A descriptor made of a business name within the limits, to start from. */
export const suggestDescriptor = (name: string, { max, forbidden }: DescriptorLimits): string =>
	[...name.normalize('NFKD').replace(/&/g, ' ')]
		.filter((sign) => PLAIN.test(sign) && !forbidden.includes(sign))
		.join('')
		.replace(/\s+/g, ' ')
		.toUpperCase()
		.slice(0, max)
		.trim();
