import { z } from 'zod';

/** One card scheme of the catalogue. Schemes are data: an administrator can extend the file. */
export const Scheme = z.object({
	id: z.string().regex(/^[a-z][a-z0-9-]{1,30}$/),
	name: z.string().min(1),
	/** inclusive ranges of leading digits, all bounds of one length */
	leading: z.array(z.tuple([z.string().regex(/^\d{2,8}$/), z.string().regex(/^\d{2,8}$/)])).min(1),
	lengths: z.array(z.number().int().min(12).max(19)).min(1)
});
export type Scheme = z.infer<typeof Scheme>;
export const SchemeCatalogue = z.array(Scheme);

/** The scheme whose leading digits a number starts with, or undefined. Spaces are ignored. */
export function schemeOf(number: string, catalogue: readonly Scheme[]): Scheme | undefined {
	const digits = number.replace(/\D/g, '');
	return catalogue.find(({ leading }) =>
		leading.some(([from, to]) => {
			const head = digits.slice(0, from.length);
			return head.length === from.length && head >= from && head <= to;
		})
	);
}
