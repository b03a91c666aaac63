import { askedFor } from '$lib/server/compare/asked';
import { compare } from '$lib/server/compare/compare';
import { comparisonPdf } from '$lib/server/compare/report';
import type { RequestHandler } from './$types';

/** The comparison of an address as PDF. */
export const GET: RequestHandler = async ({ url, locals }) => {
	const asked = await askedFor(url.searchParams, locals.locale);
	const compared = await compare(asked.chosen, asked.period, asked.capitalPpm);
	const page = new URL(url);
	page.pathname = page.pathname.replace(/\/pdf$/, '');
	const pdf = await comparisonPdf(asked, compared, locals.locale, page.href);
	return new Response(new Uint8Array(pdf), {
		headers: {
			'content-type': 'application/pdf',
			'content-disposition': `attachment; filename="side-by-side-${asked.period.from}-${asked.period.to}.pdf"`
		}
	});
};
