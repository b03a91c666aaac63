import type { BillContent, BillTo } from './content';
import type { DuePlan } from './dues';
import type { BillInput } from './sums';

// What follows from what a document says; apart from the schemas, so that a page need not carry them.

/** What is summed of a document. */
export const inputOf = (
	content: Pick<BillContent, 'pricing' | 'lines' | 'discounts'>,
	currency: string
): BillInput => ({
	currency,
	pricing: content.pricing,
	lines: content.lines,
	discounts: content.discounts
});
export const planOf = (content: Pick<BillContent, 'dues'>): DuePlan => content.dues;

const MORE = { en: 'and {} more', nl: 'en nog {}', fr: 'et {} autres', de: 'und {} weitere' } as const;
/** What a bill says in one line: its first thing, and how many more. */
export function purposeOf(lines: readonly { readonly text: string }[], language: keyof typeof MORE = 'en'): string {
	const [first, ...more] = lines.map((one) => one.text.split('\n')[0]!);
	if (!first) return '';
	return more.length ? `${first} ${MORE[language].replace('{}', String(more.length))}` : first;
}

/** Whether the address is whole enough for a tax invoice: somebody, a place, a country. */
export const hasAddress = (to: Pick<BillTo, 'name' | 'company' | 'street' | 'city' | 'country'>): boolean =>
	!!((to.name || to.company) && to.street && to.city && to.country);
