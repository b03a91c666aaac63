import { z } from 'zod';
import type { Day } from '../calendar';
import { OffForm } from './content';
import { discountOf, type DocumentDiscount } from './sums';

/** A discount code: what it takes off, of which goods, from which total, between which days, for so many uses. */
export const CodeForm = z.object({
	code: z
		.string()
		.trim()
		.toUpperCase()
		.regex(/^[A-Z0-9-]{3,24}$/, '3 to 24 letters, digits or hyphens.'),
	name: z.string().trim().min(1, 'Say what the payer reads, such as Early bird.').max(80),
	off: OffForm,
	/** of a sum: the currency that it is in */
	currency: z.string().default(''),
	/** things that it is for; all where there is none */
	items: z.array(z.string()).default([]),
	/** the smallest total it is given for, in minor units, before it is taken off */
	least: z.number().int().min(0).default(0),
	from: z.string().default(''),
	until: z.string().default(''),
	/** uses in all, and of one payer; none where they are not counted */
	uses: z.number().int().min(1).nullable().default(null),
	usesEach: z.number().int().min(1).nullable().default(null)
});
export type CodeForm = z.infer<typeof CodeForm>;

export const CODE_PROBLEMS = [
	'unknown',
	'not yet',
	'over',
	'other currency',
	'other goods',
	'too small',
	'used up',
	'used by payer'
] as const;
export type CodeProblem = (typeof CODE_PROBLEMS)[number];

/**
 * Whether a code is good for an order. Both days count; the smallest total is that before the code.
 * @param order sums in minor units; uses that were counted so far, in all and by this payer
 */
export function checkCode(
	code: CodeForm,
	order: {
		readonly currency: string;
		readonly total: number;
		readonly items: readonly string[];
		readonly today: Day;
		readonly used: number;
		readonly usedByPayer: number;
	}
): { readonly problem: CodeProblem } | { readonly discount: DocumentDiscount } {
	if (code.from && order.today < code.from) return { problem: 'not yet' };
	if (code.until && order.today > code.until) return { problem: 'over' };
	if ((code.off.kind === 'sum' || code.least > 0) && code.currency !== order.currency)
		return { problem: 'other currency' };
	if (code.items.length && !code.items.some((item) => order.items.includes(item))) return { problem: 'other goods' };
	if (order.total < code.least) return { problem: 'too small' };
	if (code.uses !== null && order.used >= code.uses) return { problem: 'used up' };
	if (code.usesEach !== null && order.usedByPayer >= code.usesEach) return { problem: 'used by payer' };
	return {
		discount: { name: code.name, off: code.off, ...(code.items.length ? { items: code.items } : {}) }
	};
}

/** What a code takes of a total of all goods, at most: for showing it before it is used. */
export const mostOff = (code: Pick<CodeForm, 'off'>, total: number): number => discountOf(total, code.off);
