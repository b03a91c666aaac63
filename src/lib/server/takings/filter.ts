import { z } from 'zod';
import type { PaymentFilter } from '../db';

export type { PaymentFilter };

const Query = z.object({
	q: z
		.string()
		.trim()
		.max(100)
		.transform((text) => text || undefined)
		.optional()
		.catch(undefined),
	before: z
		.string()
		.regex(/^\d{1,15}-\d{1,15}$/)
		.transform((text) => {
			const [at, id] = text.split('-').map(Number);
			return { at: at!, id: id! };
		})
		.optional()
		.catch(undefined)
});

/** The filter that an address of the list carries; what cannot be read is left out. */
export function readFilter(url: URL): Pick<PaymentFilter, 'text' | 'before'> {
	const { q, before } = Query.parse({
		q: url.searchParams.get('q') ?? undefined,
		before: url.searchParams.get('before') ?? undefined
	});
	return { text: q, before };
}
