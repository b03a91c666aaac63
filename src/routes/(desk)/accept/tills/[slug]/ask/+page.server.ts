import { AmountError, isCurrency, localDecimal, plainAmount, readTypedAmount, type Amount } from '$lib/core/money';
import { methodName } from '$lib/core/lineup';
import { countriesIn } from '$lib/core/places';
import { answerWorking } from '$lib/server/accept/answerWorking';
import { askTill, groupNames, payerFacts, type Asking } from '$lib/server/accept/ask';
import { foundTill } from '$lib/server/accept/found';
import { lineUpsOf, type Version } from '$lib/server/accept/lineups';
import { signAddressOf } from '$lib/server/accept/addresses';
import { domainsOf } from '$lib/server/accept/tills';
import { draftChange, rippleOf, showChanges, suggestChanges } from '$lib/server/accept/leastChange';
import { DraftMoved } from '$lib/server/accept/lineups';
import { snapshot } from '$lib/server/accept/snapshot';
import { fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

type Till = Awaited<ReturnType<typeof foundTill>>;

interface FoundAsking {
	readonly asked: {
		readonly [
			K in
				| 'currency'
				| 'amount'
				| 'country'
				| 'payer'
				| 'goods'
				| 'delivery'
				| 'domain'
				| 'recurring'
				| 'ordered'
				| 'online'
				| 'which'
				| 'method'
		]: string;
	} & { readonly groups: string[] };
	readonly draft?: Version;
	readonly published?: Version;
	readonly lineUp?: Version;
	readonly wrong?: string;
	readonly payer?: Asking;
	readonly read?: { readonly amount: Amount; readonly readAs?: string };
}

/** What an address asks of a line-up: the payer, the order, and which line-up. */
async function readAsking(till: Till, url: URL, locale: string): Promise<FoundAsking> {
	const { draft, published } = await lineUpsOf(till.row.id);
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
		which: q('which') || (draft ? 'draft' : 'published'),
		// what would offer this one method, asked from the grid
		method: q('method')
	};
	const lineUp = asked.which === 'published' ? published : (draft ?? published);
	const found: FoundAsking = { asked, draft, published, lineUp };
	if (!url.searchParams.has('amount')) return found;
	if (!isCurrency(asked.currency)) return { ...found, wrong: `“${asked.currency}” is not a currency code.` };
	let read;
	try {
		read =
			q('minor') === 'yes' && /^\d{1,12}$/.test(asked.amount)
				? { amount: { minor: Number(asked.amount), currency: asked.currency }, readAs: undefined }
				: readTypedAmount(asked.amount, asked.currency, { locale });
	} catch (error) {
		if (error instanceof AmountError) return { ...found, wrong: error.message };
		throw error;
	}
	const named = asked.payer ? await payerFacts(asked.payer) : {};
	if (asked.payer && !named.groups) return { ...found, wrong: `No payer has the mail address “${asked.payer}”.` };
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
	return { ...found, payer, read };
}

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
	depends('live:tills', 'live:connections');
	const till = await foundTill(params.slug);
	const [{ asked, draft, published, lineUp, wrong, payer, read }, groups] = await Promise.all([
		readAsking(till, url, locals.locale),
		groupNames()
	]);
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
		revision: draft?.row.revision ?? 0,
		asked,
		groups,
		domains: domainsOf(till.row),
		countries: countriesIn(locals.locale),
		methodName: asked.method && methodName(asked.method as never).toLowerCase(),
		made: url.searchParams.has('made')
	};
	if (wrong || !payer || !read) return { ...common, wrong };
	const { answer, context } = await askTill(till, lineUp?.offers ?? [], payer);
	const standing = { lineUp: lineUp?.offers ?? [], context, states: (await snapshot()).states };
	const changes =
		answer.withheld.length || !answer.offered.length || asked.method
			? suggestChanges(till.row, standing, asked.method)
			: [];
	const ripples = Promise.all(changes.map((change) => rippleOf(till.row, standing, change, locals.locale)));
	ripples.catch(() => {});
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
		asked: { ...asked, amount: localDecimal(plainAmount(read.amount), locals.locale) },
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
		changes: await showChanges(till.row, lineUp?.offers ?? [], changes, locals.locale),
		ripples,
		// a change is made of what is shown: a draft beside it is not overwritten
		canDraft: asked.which !== 'published' || !draft,
		page:
			sample && 'address' in sample
				? `${sample.address}&preview=${lineUp?.row.state === 'draft' ? 'draft' : 'published'}${beside.size ? `&${beside}` : ''}`
				: undefined
	};
};

export const actions: Actions = {
	change: async ({ params, url, request, locals }) => {
		const till = await foundTill(params.slug);
		const form = await request.formData();
		const { asked, draft, lineUp, payer } = await readAsking(till, url, locals.locale);
		if (!payer || (asked.which === 'published' && draft))
			return fail(409, { changeWrong: 'There is a draft already. Ask the draft, and change that.' });
		const { context } = await askTill(till, lineUp?.offers ?? [], payer);
		const standing = { lineUp: lineUp?.offers ?? [], context, states: (await snapshot()).states };
		try {
			const wrong = await draftChange(
				till.row,
				standing,
				String(form.get('key') ?? ''),
				Number(form.get('revision') ?? 0),
				locals.user!.name,
				asked.method
			);
			if (wrong) return fail(409, { changeWrong: wrong });
		} catch (error) {
			if (!(error instanceof DraftMoved)) throw error;
			return fail(409, { changeWrong: error.message });
		}
		const query = new URLSearchParams(url.searchParams);
		query.delete('/change');
		query.set('which', 'draft');
		query.set('made', '1');
		redirect(303, `${url.pathname}?${query}`);
	}
};
