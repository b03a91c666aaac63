import { readPrefilled, type PrefilledValues } from '$lib/core/billing';
import { AmountError, formatAmount, readTypedAmount } from '$lib/core/money';
import { countriesIn } from '$lib/core/places';
import { SESSION_COOKIE, whoIs } from '$lib/server/access';
import { linkEnd, noteVisit, orderByLink } from '$lib/server/bill/linkOrders';
import { linkPage } from '$lib/server/bill/linkPage';
import { linkBySlug, linkSettings, signPrefilled } from '$lib/server/bill/links';
import { lookOf } from '$lib/server/bill/payerDoc';
import { theBusiness, today } from '$lib/server/connect/business';
import { billWord, type BillWord } from '$lib/ui/billWords';
import { languageFor, localeOf, type Language } from '$lib/ui/payerWords';
import { error, fail, redirect, type RequestEvent } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

async function found({
	params,
	request,
	locals,
	url
}: Pick<RequestEvent, 'request' | 'locals' | 'url'> & { params: { slug: string } }) {
	const asked = request.headers.get('accept-language') ?? '';
	const row = await linkBySlug(params.slug);
	const all = languageFor(asked, ['en', 'nl', 'fr', 'de']);
	locals.language = all;
	if (!row) error(404, { message: billWord(all, 'gone'), help: billWord(all, 'goneHelp') });
	const look = await lookOf(row.tillId);
	const language = languageFor(asked, look.languages) as Language;
	locals.language = language;
	const settings = linkSettings(row);
	// fields of an outside program's template come unsigned: only where the payer names the sum anyway
	const query = [...url.search.slice(1).split('&')].filter((pair) => !/^(\/|preview|x-sveltekit)/.test(pair)).join('&');
	const read = readPrefilled(
		row.slug,
		query,
		(text, sign) => signPrefilled(text) === sign,
		settings.asksFor === 'free sum'
	);
	if ('problem' in read) error(400, { message: billWord(language, 'altered') });
	return { row, look, settings, language, locale: localeOf(language, asked), values: read.values as PrefilledValues };
}

export const load: PageServerLoad = async ({ params, request, locals, url, cookies, setHeaders }) => {
	const { row, look, settings, language, locale, values } = await found({ params, request, locals, url });
	setHeaders({ 'cache-control': 'no-store' });
	const isDesk = !!(await whoIs(cookies.get(SESSION_COOKIE)));
	if (!isDesk) await noteVisit(row);
	return {
		...look,
		colour: settings.colour || look.colour,
		language,
		end: await linkEnd(row, await today()),
		countries: settings.asksAddress === 'no' ? [] : countriesIn(locale),
		country: (await theBusiness()).country,
		link: await linkPage(row, settings, values, locale)
	};
};

const SAYS = {
	missing: 'fillIn',
	'no number': 'noNumber',
	'no date': 'noDate',
	'no choice': 'noChoice',
	'bad mail': 'badMail',
	'bad phone': 'badPhone'
} as const;

export const actions: Actions = {
	default: async ({ params, request, locals, url }) => {
		const { row, settings, language, locale, values } = await found({ params, request, locals, url });
		const t = (word: BillWord, ...fill: string[]) => billWord(language, word, ...fill);
		const form = await request.formData();
		const of = (name: string, most = 300) => String(form.get(name) ?? '').slice(0, most);
		const typed = Object.fromEntries([...form].filter((pair): pair is [string, string] => typeof pair[1] === 'string'));
		const quantities: Record<string, number> = {};
		for (const { item, most } of settings.goods) {
			const given = of(`quantity-${item}`, 12).trim();
			const chosen = !settings.several && form.get('chosen') === item ? '1' : '';
			const count = Number(given || chosen || 0);
			if (!Number.isInteger(count) || count < 0 || count > most) return fail(400, { says: t('too many'), typed });
			if (count) quantities[item] = count;
		}
		let minor: number | undefined;
		if (settings.asksFor === 'free sum') {
			const text = of('sum', 40).trim() || of('suggested', 40).trim();
			if (text)
				try {
					minor = readTypedAmount(text, settings.currency, { locale }).amount.minor;
				} catch (wrong) {
					if (!(wrong instanceof AmountError)) throw wrong;
					return fail(400, { says: language === 'en' ? wrong.message : t('no sum'), typed });
				}
		}
		const ordered = await orderByLink(row, {
			choice: {
				quantities,
				minor,
				fields: Object.fromEntries(settings.fields.map((field) => [field.id, of(`field-${field.id}`)]))
			},
			name: of('name', 100),
			mail: of('mail', 200),
			phone: of('phone', 40),
			taxNumber: of('taxNumber', 40),
			address: {
				name: of('name', 120),
				street: of('street', 160),
				postcode: of('postcode', 20),
				city: of('city', 80),
				country: of('country', 2)
			},
			code: of('code', 24),
			language,
			reference: values.reference ?? ''
		});
		if ('address' in ordered) redirect(303, ordered.address);
		if ('end' in ordered) return fail(409, { says: t(ordered.end), typed });
		if ('code' in ordered)
			return fail(409, { says: t(`code ${ordered.code}`), errors: { code: t(`code ${ordered.code}`) }, typed });
		if ('errors' in ordered)
			return fail(400, {
				says: '',
				errors: Object.fromEntries(Object.entries(ordered.errors).map(([name, wrong]) => [name, t(SAYS[wrong])])),
				typed
			});
		const bound =
			ordered.bound === undefined ? '' : formatAmount({ minor: ordered.bound, currency: settings.currency }, locale);
		return fail(400, { says: t(ordered.problem, bound), typed });
	}
};
