import { hasCard, methodName, offerText } from '$lib/core/lineup';
import { countriesIn } from '$lib/core/places';
import { gratuityOf, gratuityShares } from '$lib/core/billing';
import { AmountError, formatNumber, localDecimal, readTypedAmount } from '$lib/core/money';
import { ownAddress } from '$lib/server/connect/connections';
import { readGiven } from '$lib/server/speak/credentials';
import { connectorOf, type NextStep } from '$lib/server/connectors';
import { requestOfPayment } from '$lib/server/payments/requests';
import { storedWays, type StoredWay } from '$lib/server/accept/storedWays';
import { mandateOf, usableOf } from '$lib/server/payments/stored';
import { timeNow } from '$lib/server/signals/clock';
import { PAYER_COOKIE, payerOfSession } from '$lib/server/bill/payerAccess';
import { CONSENT_VERSION, lastDayOfMonth } from '$lib/core/billing';
import { formatDay, sayDays } from '$lib/core/calendar';
import { billSettings } from '$lib/server/bill/settings';
import { noteUnmet, paidAlready, visit, type Preview, type Visit } from '$lib/server/accept/visit';
import { chooseOffline, payThrough, type Chosen as ChosenWay } from '$lib/server/payments/charge';
import { SESSION_COOKIE, whoIs } from '$lib/server/access';
import {
	declineWord,
	hasPayerWord,
	languageFor,
	localeOf,
	payerWord,
	type Language,
	type PayerWord
} from '$lib/ui/payerWords';
import { maskCardNumbers } from '$lib/core/cards';
import { error, fail, redirect, type RequestEvent } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

/**
 * What an administrator looks at as a payer would: the draft, or a payer of certain groups. Only who is signed in at the
 * desk sees anything but what is published.
 */
async function previewOf(url: URL, cookies: RequestEvent['cookies']): Promise<Preview | undefined> {
	const q = url.searchParams;
	const trial = q.get('trial');
	if (trial) return { trial };
	if (!q.has('preview') || !(await whoIs(cookies.get(SESSION_COOKIE)))) return undefined;
	return {
		draft: q.get('preview') === 'draft',
		...(q.has('groups') ? { groups: (q.get('groups') ?? '').split(',').filter(Boolean) } : {}),
		...(q.get('online') ? { hasOnlineMethod: q.get('online') === 'yes' } : {})
	};
}

/** The payer's visit, or a clear page that says what is wrong with the address. */
async function visited({
	params,
	url,
	cookies,
	locals,
	request
}: Pick<RequestEvent, 'url' | 'cookies' | 'locals' | 'request'> & { params: { till: string } }): Promise<Visit> {
	const arrival = await visit(params.till, url.search.slice(1), await previewOf(url, cookies));
	const language = languageFor(request.headers.get('accept-language') ?? '', ALL_LANGUAGES);
	locals.language = language;
	if ('unknownTill' in arrival)
		error(404, { message: payerWord(language, 'noTill'), help: payerWord(language, 'cutShort') });
	if ('problems' in arrival)
		error(400, {
			message:
				language === 'en' ? arrival.problems.map((one) => one.says).join(' ') : payerWord(language, 'badAddress'),
			help: payerWord(language, 'askNew')
		});
	locals.language = languageOf(arrival.visit, request.headers.get('accept-language') ?? '');
	return arrival.visit;
}
const ALL_LANGUAGES: readonly Language[] = ['en', 'nl', 'fr', 'de'];

/** The way that a payer chose before for an order: it is open again when they come back. */
const WAY_COOKIE = 'purse_way';
const keepWay = (cookies: RequestEvent['cookies'], till: string, reference: string, way: string) =>
	cookies.set(WAY_COOKIE, `${reference}~${way}`, { path: `/pay/${till}`, maxAge: 86_400, sameSite: 'lax' });
const keptWay = (cookies: RequestEvent['cookies'], reference: string): string | undefined => {
	const kept = cookies.get(WAY_COOKIE) ?? '';
	return kept.startsWith(`${reference}~`) ? kept.slice(reference.length + 1) : undefined;
};

/** The language of a page: the one that the shop told of its order where the till speaks it, else the browser's. */
function languageOf({ told, till }: Visit, browser: string) {
	const { languages } = till.settings;
	const asked = languages.find((one) => one === told.language);
	return asked ?? languageFor(browser, languages);
}

/** Who is signed in at their own page, and what they stored; nobody where an administrator looks, or tries. */
async function signedIn(seen: Visit, { url, cookies }: Pick<RequestEvent, 'url' | 'cookies'>) {
	if (seen.trial || url.searchParams.has('preview')) return undefined;
	const payer = await payerOfSession(cookies.get(PAYER_COOKIE));
	return payer && { payer, ...(await storedWays(seen, payer.id)) };
}
const STORED = 'stored-';

/** The words by which a payer agrees that a processor keeps what they pay by. */
const keepWords = (
	language: Language,
	method: string,
	{ shop, processor, noticeDays }: { shop: string; processor: string; noticeDays: number }
): string =>
	method === 'bank-debit'
		? payerWord(language, 'keepDebit', processor, shop, sayDays(noticeDays, language))
		: payerWord(language, 'keepCard', shop, processor);

const WHY: Record<string, PayerWord> = { scheme: 'brand', funding: 'funding', region: 'region' };

export const load: PageServerLoad = async ({ params, url, locals, setHeaders, cookies, request }) => {
	const seen = await visited({ params, url, cookies, locals, request });
	const { till, ask, offered, held } = seen;
	setHeaders({ 'cache-control': 'no-store' });
	const paid = await paidAlready(seen);
	if (paid) redirect(303, `/paid/${(await requestOfPayment(paid.id))?.token ?? ''}`);
	// an administrator who looks at the page is no payer who met nothing
	if (!offered.length && !url.searchParams.has('preview') && !seen.trial) await noteUnmet(seen, 'nothing offered');
	const look = till.settings;
	const asked = request.headers.get('accept-language') ?? '';
	const language = languageOf(seen, asked);
	const locale = localeOf(language, asked);
	const { lines = [], address, phone, cancelTo } = seen.told;
	const chosen = url.searchParams.get('way');
	if (chosen && offered.some((one) => one.offer.id === chosen)) keepWay(cookies, params.till, ask.reference, chosen);
	const who = await signedIn(seen, { url, cookies });
	const storedAll = who?.ways ?? [];
	const wanted = chosen ?? keptWay(cookies, ask.reference);
	const wantedStored = storedAll.find(({ stored }) => `${STORED}${stored.id}` === wanted);
	// what a payer stored stands first, until they choose something else
	const openStored = wantedStored ?? (offered.some((one) => one.offer.id === wanted) ? undefined : storedAll[0]);
	const open = openStored ? undefined : (offered.find((one) => one.offer.id === wanted) ?? offered[0]);
	const origin = ownAddress();
	const shopName = look.heading || held.business.name;
	const { noticeDays } = await billSettings();
	const asStored = ({ stored, offered: one, name }: StoredWay) => {
		const connection = held.connections.get(one.carrier.id)!;
		const mandate = mandateOf(stored);
		const processor = connectorOf(connection.processor).name;
		return {
			id: `${STORED}${stored.id}`,
			name,
			note: '',
			stored: true,
			takes: mandate
				? payerWord(language, 'storedDebit', mandate.reference, processor)
				: stored.expires
					? payerWord(language, 'storedCard', processor, formatDay(lastDayOfMonth(stored.expires), locale))
					: processor,
			method: one.offer.method,
			offline: false,
			schemes: '',
			processor: connection.name,
			descriptor: connection.descriptor,
			fields: undefined,
			keep: ''
		};
	};
	const ways = offered.map((one) => {
		const connection = one.carrier.kind === 'connection' ? held.connections.get(one.carrier.id) : undefined;
		const fields =
			connection && one === open && hasCard(one.offer.method)
				? connectorOf(connection.processor).frame?.(readGiven(connection.given), one.offer.method, seen.mode, origin)
				: undefined;
		if (fields) locals.frames.push(fields.origin);
		else if (connection) locals.goes.push(new URL(connectorOf(connection.processor).console).origin);
		const schemes =
			one.types && one.types.schemes !== 'any'
				? one.types.schemes.map((id) => held.schemeNames[id] ?? id).join(', ')
				: '';
		const text = offerText(one.offer, language);
		const takes = `takes-${one.offer.method}`;
		const stores =
			one.offer.storing && connection && connectorOf(connection.processor).stores?.includes(one.offer.method);
		return {
			id: one.offer.id,
			name: text.name,
			note: text.note,
			takes: hasPayerWord(takes) ? payerWord(language, takes, connection?.name ?? '') : '',
			method: one.offer.method,
			offline: !connection,
			schemes,
			processor: connection?.name,
			descriptor: connection?.descriptor,
			fields,
			stored: false,
			keep:
				who && stores && connection
					? keepWords(language, one.offer.method, {
							shop: shopName,
							processor: connectorOf(connection.processor).name,
							noticeDays
						})
					: '',
			canKeep: stores === true
		};
	});
	return {
		shop: shopName,
		colour: till.row.colour,
		language,
		test: seen.mode === 'test',
		logo: look.logo,
		button: look.button,
		// what the shop told already is not asked again
		asks: {
			address: address ? 'no' : look.asksAddress,
			phone: phone ? 'no' : look.asksPhone,
			note: look.asksNote
		} as Record<'address' | 'phone' | 'note', 'no' | 'may' | 'must'>,
		countries: look.asksAddress !== 'no' && !address ? countriesIn(locale) : [],
		// where the order says no country, the business's own is chosen first
		country: ask.country || held.business.country,
		gratuity: {
			shares: gratuityShares(look.gratuityShares).map((ppm) => {
				const minor = gratuityOf(ask.amount.minor, ppm);
				return {
					ppm,
					percent: `${localDecimal(String(ppm / 10_000), locale)} %`,
					sum: formatNumber({ minor, currency: ask.amount.currency }, locale)
				};
			}),
			own: look.gratuityOwn
		},
		lines: lines.map((line) => ({
			name: line.name,
			quantity: line.quantity,
			sum: formatNumber({ minor: line.amountMinor, currency: ask.amount.currency }, locale)
		})),
		deliverTo: address ? addressLine(address) : '',
		cancelTo: cancelTo ?? '',
		sum: { number: formatNumber(ask.amount, locale), currency: ask.amount.currency },
		reference: ask.reference,
		purpose: ask.purpose,
		name: ask.name,
		mail: ask.mail,
		query: url.search.slice(1).replace(/(^|&)way=[^&]*/g, ''),
		// what is known of whoever is signed in is not typed again
		known: who && {
			name: who.payer.company || who.payer.name,
			street: who.payer.street,
			postcode: who.payer.postcode,
			city: who.payer.city,
			country: who.payer.country,
			phone: who.payer.phone
		},
		signedInAs: who ? who.payer.company || who.payer.name : '',
		elsewhere: who?.elsewhere ?? [],
		mayStore: !who && !seen.trial && ways.some((one) => one.canKeep),
		back: `${url.pathname}${url.search}`,
		open: openStored ? `${STORED}${openStored.stored.id}` : open?.offer.id,
		ways: [...storedAll.map(asStored), ...ways]
	};
};

/** Six digits at least, with what people write between them. */
const isPhone = (text: string): boolean => /^\+?[\d\s()./-]{6,30}$/.test(text) && text.replace(/\D/g, '').length >= 6;

const addressLine = (one: { name: string; street: string; postcode: string; city: string; country: string }): string =>
	[one.name, one.street, `${one.postcode} ${one.city}`.trim(), one.country].filter(Boolean).join(', ');

/** Why it was declined, in the payer's language; in English a reason that is not known is given as the processor gave it. */
function sayDecline(failure: string, language: Language): string {
	if (!failure) return '';
	const word = declineWord(failure);
	if (word) return `: ${payerWord(language, word)}`;
	return language === 'en' ? `: ${failure.replace(/\.$/, '')}` : '';
}

const told = (most: number) => z.string().trim().max(most).default('').transform(maskCardNumbers);
const Chosen = z.object({
	way: z.string().min(1).max(60),
	token: z.string().max(200).default(''),
	keep: z.string().max(10).default(''),
	told_name: told(120),
	told_street: told(160),
	told_postcode: told(20),
	told_city: told(80),
	told_country: z.string().trim().max(2).default(''),
	told_phone: z.string().trim().max(40).default(''),
	told_note: told(300),
	/** a share in parts per million, `own`, or nothing */
	gratuity: z.string().max(20).default(''),
	gratuity_own: z.string().max(40).default('')
});

/** What the payer adds for whoever served them, in minor units; undefined where what was typed is no sum. */
function gratuityOfForm(
	{ gratuity, gratuity_own: own }: z.infer<typeof Chosen>,
	{ ask, till }: Visit,
	locale: string
): number | undefined {
	const shares = gratuityShares(till.settings.gratuityShares);
	if (gratuity && gratuity !== 'own')
		return shares.includes(Number(gratuity)) ? gratuityOf(ask.amount.minor, Number(gratuity)) : 0;
	if (!till.settings.gratuityOwn || !own.trim()) return 0;
	try {
		const { minor } = readTypedAmount(own, ask.amount.currency, { locale, zero: true }).amount;
		// more than was asked is a slip of the hand
		return minor <= ask.amount.minor ? minor : undefined;
	} catch (error) {
		if (!(error instanceof AmountError)) throw error;
		return undefined;
	}
}

export const actions: Actions = {
	default: async ({ request, params, url, cookies, locals, getClientAddress }) => {
		const seen = await visited({ params, url, cookies, locals, request });
		const language = languageOf(seen, request.headers.get('accept-language') ?? '');
		const t = (word: PayerWord, ...fill: string[]) => payerWord(language, word, ...fill);
		if (url.searchParams.has('preview')) return fail(400, { says: t('preview') });
		const read = Chosen.safeParse(Object.fromEntries(await request.formData()));
		if (!read.success) return fail(400, { says: t('incomplete') });
		const { way, token } = read.data;
		const gratuity = gratuityOfForm(read.data, seen, localeOf(language, request.headers.get('accept-language') ?? ''));
		if (gratuity === undefined) return fail(400, { says: t('badGratuity') });
		keepWay(cookies, params.till, seen.ask.reference, way);
		const who = await signedIn(seen, { url, cookies });
		const byStored = who?.ways.find((one) => `${STORED}${one.stored.id}` === way);
		const offered = byStored?.offered ?? seen.offered.find((one) => one.offer.id === way);
		if (!offered)
			return fail(409, {
				says: t('gone')
			});
		if (!byStored && offered.carrier.kind === 'connection' && hasCard(offered.offer.method) && !token)
			return fail(400, { says: t('noCard') });
		const { asksAddress, asksPhone, asksNote } = seen.till.settings;
		const { address, phone } = seen.told;
		const given = address ?? {
			name: read.data.told_name,
			street: read.data.told_street,
			postcode: read.data.told_postcode,
			city: read.data.told_city,
			country: read.data.told_country
		};
		// a country alone is what the list begins with, and no address
		const hasAddress = !!(given.name || given.street || given.postcode || given.city);
		const details = {
			address: hasAddress ? addressLine(given) : '',
			phone: phone || read.data.told_phone,
			note: read.data.told_note
		};
		const errors: Record<string, string> = {};
		if (!address && (asksAddress === 'must' || hasAddress))
			for (const name of ['name', 'street', 'postcode', 'city', 'country'] as const)
				if (!given[name] && asksAddress !== 'no') errors[`told_${name}`] = t('pleaseFill');
		if (!phone && asksPhone !== 'no') {
			if (!details.phone && asksPhone === 'must') errors.told_phone = t('pleaseFill');
			else if (details.phone && !isPhone(details.phone)) errors.told_phone = t('badPhone');
		}
		if (asksNote === 'must' && !details.note) errors.told_note = t('pleaseFill');
		if (Object.keys(errors).length) return fail(400, { says: t('someMissing'), errors });
		const connection =
			offered.carrier.kind === 'connection' ? seen.held.connections.get(offered.carrier.id)! : undefined;
		const connector = connection && connectorOf(connection.processor);
		const keeps =
			who &&
			!byStored &&
			offered.offer.storing &&
			read.data.keep === 'yes' &&
			connector?.stores?.includes(offered.offer.method) === true;
		const { noticeDays } = await billSettings();
		const chosen: ChosenWay = {
			till: seen.till.row,
			timeZone: seen.held.business.timeZone,
			mode: seen.mode,
			ask: seen.ask,
			sign: seen.sign,
			version: seen.till.published?.number ?? 0,
			trial: seen.trial,
			offered,
			details,
			creditorReference: seen.told.creditorReference,
			gratuity,
			...(keeps
				? {
						keep: {
							payerId: who.payer.id,
							consent: {
								words: keepWords(language, offered.offer.method, {
									shop: seen.till.settings.heading || seen.held.business.name,
									processor: connector.name,
									noticeDays
								}),
								...(offered.offer.method === 'bank-debit' ? { noticeDays } : {}),
								version: CONSENT_VERSION,
								language,
								at: timeNow(),
								address: getClientAddress()
							}
						}
					}
				: {})
		};
		const choice = connection
			? await payThrough(
					chosen,
					connection,
					byStored ? { stored: byStored.stored } : { token },
					seen.held.states.pausedSchemes ?? [],
					(mine) => `${ownAddress()}/paid/${mine}`
				)
			: await chooseOffline(chosen, seen.held.offline.get(offered.carrier.id));
		if ('trouble' in choice) {
			if (choice.trouble === 'silent') return fail(502, { says: t('silent', choice.processor) });
			if (choice.trouble === 'stored over') return fail(409, { says: t('storedOver', byStored?.name ?? '') });
			if (choice.trouble === 'too long') return fail(502, { says: t('tooLong') });
			return fail(409, { says: t(choice.trouble) });
		}
		if ('notTaken' in choice) {
			await noteUnmet(seen, 'card type', choice.notTaken);
			const scheme = seen.held.schemeNames[choice.notTaken.scheme] ?? choice.notTaken.scheme;
			return fail(422, {
				says: t(
					'notTaken',
					seen.till.row.name,
					choice.parts.map((part) => t(WHY[part]!)).join(t('nor')),
					[
						scheme,
						...(choice.notTaken.funding === 'unknown' ? [] : [t(choice.notTaken.funding)]),
						...(choice.notTaken.last4 ? [t('ending', choice.notTaken.last4)] : [])
					].join(', ')
				)
			});
		}
		const { payment } = choice;
		if (
			payment.stage === 'failed' &&
			byStored &&
			!(await usableOf(who!.payer.id, seen.mode, seen.held.business.timeZone)).some(
				(one) => one.id === byStored.stored.id
			)
		)
			return fail(402, { says: t('storedOver', byStored.name) });
		if (payment.stage === 'failed')
			return fail(402, {
				says: t(
					'declined',
					byStored?.name ?? (language === 'en' ? methodName(payment.method) : offerText(offered.offer, language).name),
					sayDecline(payment.failure, language),
					hasCard(payment.method) ? t('anotherCard') : t('again')
				)
			});
		const begun = (await requestOfPayment(payment.id))!;
		const next = begun.next ? (JSON.parse(begun.next) as NextStep) : undefined;
		redirect(303, next?.kind === 'page' ? next.address : `/paid/${begun.token}`);
	}
};
