import { AmountError, isCurrency, plainAmount, readTypedAmount } from '$lib/core/money';
import { countriesIn } from '$lib/core/places';
import { answerWorking } from '$lib/server/accept/answerWorking';
import { askTill, groupNames, payerFacts, type Asking } from '$lib/server/accept/ask';
import { foundTill } from '$lib/server/accept/found';
import { lineUpsOf } from '$lib/server/accept/lineups';
import { signAddressOf } from '$lib/server/accept/addresses';
import { domainsOf } from '$lib/server/accept/tills';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
	depends('live:tills', 'live:connections');
	const till = await foundTill(params.slug);
	const [{ draft, published }, groups] = await Promise.all([lineUpsOf(till.row.id), groupNames()]);
	const q = (name: string) => url.searchParams.get(name) ?? '';
	const asked = {
		currency: q('currency') || till.currencies[0]!,
		amount: q('amount'),
		country: q('country'),
		payer: q('payer'),
		groups: url.searchParams
			.getAll('groups')
			.flatMap((one) => one.split(','))
			.filter(Boolean),
		goods: q('goods'),
		delivery: q('delivery'),
		domain: q('domain'),
		recurring: q('recurring'),
		ordered: q('ordered'),
		online: q('online'),
		which: q('which') || (draft ? 'draft' : 'published')
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
		groups,
		domains: domainsOf(till.row),
		countries: countriesIn(locals.locale)
	};
	if (!url.searchParams.has('amount')) return { ...common };
	if (!isCurrency(asked.currency)) return { ...common, wrong: `“${asked.currency}” is not a currency code.` };
	let read;
	try {
		read =
			q('minor') === 'yes' && /^\d{1,12}$/.test(asked.amount)
				? { amount: { minor: Number(asked.amount), currency: asked.currency }, readAs: undefined }
				: readTypedAmount(asked.amount, asked.currency, { locale: locals.locale });
	} catch (error) {
		if (error instanceof AmountError) return { ...common, wrong: error.message };
		throw error;
	}
	const named = asked.payer ? await payerFacts(asked.payer) : {};
	if (asked.payer && !named.groups) return { ...common, wrong: `No payer has the mail address “${asked.payer}”.` };
	const payer: Asking = {
		...named,
		currency: asked.currency,
		minor: read.amount.minor,
		country: asked.country || named.country,
		...(asked.groups.length ? { groups: asked.groups.includes('none') ? [] : asked.groups } : {}),
		goods: asked.goods || undefined,
		delivery: asked.delivery || undefined,
		domain: asked.domain || undefined,
		...(asked.recurring ? { recurring: asked.recurring === 'yes' } : {}),
		orderedBy: asked.ordered === 'interface' ? 'interface' : 'page',
		...(asked.online ? { hasOnlineMethod: asked.online === 'yes' } : {})
	};
	const { answer, context } = await askTill(till, lineUp?.offers ?? [], payer);
	const sample = till.currencies.includes(asked.currency)
		? signAddressOf(till.row, {
				amount: plainAmount(read.amount),
				currency: asked.currency,
				reference: 'SAMPLE',
				name: '',
				mail: asked.payer,
				country: payer.country ?? '',
				purpose: 'As a payer would see it',
				goods: asked.goods,
				delivery: asked.delivery,
				domain: asked.domain,
				recurring: context.recurring ? 'yes' : '',
				ordered: asked.ordered === 'interface' ? 'interface' : ''
			})
		: undefined;
	// groups and the online method come from the payer that is named; a preview of others carries them beside the address
	const beside = new URLSearchParams();
	if (payer.groups) beside.set('groups', payer.groups.join(','));
	if (payer.hasOnlineMethod !== undefined) beside.set('online', payer.hasOnlineMethod ? 'yes' : 'no');
	return {
		...common,
		asked: { ...asked, amount: plainAmount(read.amount) },
		readAs: read.readAs,
		working: await answerWorking(
			answer,
			till.row.slug,
			payer,
			lineUp?.row.state === 'draft' ? 'draft' : `version ${lineUp?.row.number ?? '—'}`,
			locals.locale
		),
		offered: answer.offered.map((one) => ({ name: one.offer.name, note: one.offer.note })),
		withheld: answer.withheld.length,
		page:
			sample && 'address' in sample
				? `${sample.address}&preview=${lineUp?.row.state === 'draft' ? 'draft' : 'published'}${beside.size ? `&${beside}` : ''}`
				: undefined
	};
};
