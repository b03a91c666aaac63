import { AmountError, isCurrency, readTypedAmount } from '$lib/core/money';
import { countriesIn } from '$lib/core/places';
import { answerWorking } from '$lib/server/accept/answerWorking';
import { askTill } from '$lib/server/accept/ask';
import { foundTill } from '$lib/server/accept/found';
import { lineUpsOf } from '$lib/server/accept/lineups';
import { buildAddress } from '$lib/server/accept/tills';
import { plainAmount } from '$lib/core/money';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
	depends('live:tills', 'live:connections');
	const till = await foundTill(params.slug);
	const { draft, published } = await lineUpsOf(till.row.id);
	const home = till.currencies[0]!;
	const asked = {
		currency: url.searchParams.get('currency') ?? home,
		amount: url.searchParams.get('amount') ?? '',
		country: url.searchParams.get('country') ?? '',
		which: url.searchParams.get('which') ?? (draft ? 'draft' : 'published')
	};
	const lineUp = asked.which === 'published' ? published : (draft ?? published);
	const common = {
		till: {
			slug: till.row.slug,
			name: till.row.name,
			mode: till.row.mode,
			currencies: till.currencies,
			colour: till.row.colour
		},
		hasDraft: !!draft,
		hasPublished: !!published,
		asked,
		countries: countriesIn(locals.locale)
	};
	if (!url.searchParams.has('amount')) return { ...common };
	if (!isCurrency(asked.currency)) return { ...common, wrong: `“${asked.currency}” is not a currency code.` };
	let read;
	try {
		read = readTypedAmount(asked.amount, asked.currency);
	} catch (error) {
		if (error instanceof AmountError) return { ...common, wrong: error.message };
		throw error;
	}
	const payer = { currency: asked.currency, minor: read.amount.minor, country: asked.country };
	const { answer } = await askTill(till, lineUp?.offers ?? [], payer);
	const sample =
		published && till.currencies.includes(asked.currency)
			? buildAddress(till.row, {
					amount: plainAmount(read.amount),
					currency: asked.currency,
					reference: 'SAMPLE',
					name: '',
					mail: '',
					country: asked.country,
					purpose: 'As a payer would see it'
				})
			: undefined;
	return {
		...common,
		readAs: read.readAs,
		working: await answerWorking(
			answer,
			till.row.slug,
			payer,
			lineUp?.row.state === 'draft' ? 'draft' : `version ${lineUp?.row.number ?? '—'}`,
			locals.locale
		),
		offered: answer.offered.map((one) => ({ name: one.offer.name, note: one.offer.note })),
		page: sample && 'address' in sample ? `${sample.address}&preview` : undefined
	};
};
