import { readList } from '$lib/server/bill/list';
import { beginPack } from '$lib/server/bill/packs';
import { error, redirect } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

const KINDS = ['invoice', 'quote', 'credit note'] as const;

/** Begins a file of PDFs: of the documents that were ticked, or of all that a list shows. */
export const POST: RequestHandler = async ({ request, locals, url }) => {
	const form = await request.formData();
	const ids = form.getAll('id').map(Number).filter(Number.isSafeInteger);
	const kind = KINDS.find((one) => one === form.get('kind')) ?? 'invoice';
	const list = new URL(`/bill?${String(form.get('query') ?? '')}`, url);
	const shown = form.get('open') ? ('open' as const) : undefined;
	const begun = await beginPack(
		ids.length ? { ids } : { filter: (await readList(list, kind, locals.locale, shown)).filter },
		locals.locale
	);
	if ('problem' in begun) error(409, begun.problem);
	redirect(303, `/bill/pdfs/${begun.key}`);
};
