import { addDays, inZone } from '$lib/core/calendar';
import { hasCard, offerText } from '$lib/core/lineup';
import { formatAmount, formatNumber, plainAmount } from '$lib/core/money';
import { inFours, orderQuery, transferCode } from '$lib/core/references';
import { snapshot } from '$lib/server/accept/snapshot';
import type { NextStep } from '$lib/server/connectors';
import { orderBehind, readTold, returnAddress } from '$lib/server/payments/orders';
import { askAfter } from '$lib/server/payments/charge';
import { readCard } from '$lib/server/payments/record';
import { paymentOfToken, requestOfPayment } from '$lib/server/payments/requests';
import { landingWords } from '$lib/server/bill/landing';
import { declineWord, languageFor, localeOf, payerWord, type Language } from '$lib/ui/payerWords';
import { error } from '@sveltejs/kit';
import QRCode from 'qrcode';
import type { PageServerLoad } from './$types';

/** Why a payment failed, where the payer's language has a word for it; in English as the processor gave it. */
function sayFailure(failure: string, language: Language): string {
	const word = failure ? declineWord(failure) : undefined;
	return word ? payerWord(language, word) : language === 'en' ? failure.replace(/\.$/, '') : '';
}

export const load: PageServerLoad = async ({ params, setHeaders, request, locals }) => {
	const found = await paymentOfToken(params.token);
	locals.language = languageFor(request.headers.get('accept-language') ?? '', ['en', 'nl', 'fr', 'de']);
	if (!found)
		error(404, {
			message: payerWord(locals.language as Language, 'noReceipt'),
			help: payerWord(locals.language as Language, 'cutShort')
		});
	const payment = await askAfter(found.payment, params.token, !!found.request.next);
	const begun = (await requestOfPayment(payment.id))!;
	setHeaders({ 'cache-control': 'no-store' });
	const held = await snapshot();
	const till = [...held.tills.values()].find((one) => one.row.id === payment.tillId)!;
	const { order, asking } = await orderBehind(payment);
	const offer = till.published?.lineUp.find((one) => one.id === begun.offerId);
	const amount = { minor: payment.minor, currency: payment.currency };
	const connection = payment.connectionId ? held.connections.get(payment.connectionId) : undefined;
	const method = payment.offlineId ? held.offline.get(payment.offlineId) : undefined;
	const card = readCard(payment);
	const next = begun.next ? (JSON.parse(begun.next) as NextStep) : undefined;
	const look = till.settings;
	const asked = request.headers.get('accept-language') ?? '';
	const wanted = readTold(order.more).language;
	const language = look.languages.find((one) => one === wanted) ?? languageFor(asked, look.languages);
	const locale = localeOf(language, asked);
	locals.language = language;
	const day = (ms: number) =>
		new Intl.DateTimeFormat(locale, { timeZone: held.business.timeZone, dateStyle: 'long' }).format(ms);
	const common = {
		shop: look.heading || held.business.name,
		logo: look.logo,
		language,
		landing: (await returnAddress(order)) ?? look.landing,
		colour: till.row.colour,
		test: payment.mode === 'test',
		sum: { number: formatNumber(amount, locale), currency: payment.currency, plain: plainAmount(amount) },
		reference: payment.reference,
		outside:
			look.tellsOutside === 'at once' || (look.tellsOutside === 'once it is paid' && order.paid >= order.minor)
				? order.outsideReference
				: '',
		purpose: order.purpose,
		stage: payment.stage,
		way: offer ? offerText(offer, language).name : begun.offerName,
		processor: connection?.name ?? '',
		descriptor: connection?.descriptor ?? '',
		isCard: hasCard(payment.method),
		next:
			next?.kind === 'code'
				? {
						kind: next.kind,
						address: next.address,
						picture: await QRCode.toDataURL(next.code, { errorCorrectionLevel: 'M', margin: 2, scale: 6 }),
						until: new Intl.DateTimeFormat(locale, {
							timeZone: held.business.timeZone,
							timeStyle: 'short'
						}).format(next.until)
					}
				: next?.kind === 'transfer'
					? { ...next, iban: inFours(next.iban.replace(/\s/g, '')) }
					: next,
		asking: !!asking,
		failure: sayFailure(payment.failure, language),
		day: day(payment.capturedAt ?? payment.createdAt),
		noteAfter: offer ? offerText(offer, language).noteAfter : '',
		gratuity: payment.gratuity ? formatAmount({ minor: payment.gratuity, currency: payment.currency }, locale) : '',
		landingText: await landingWords(order.id),
		refunded: payment.refunded ? formatAmount({ minor: payment.refunded, currency: payment.currency }, locale) : '',
		again: `/pay/${till.row.slug}?${orderQuery(till.row.slug, order.id, till.key)}${payment.trialId ? `&trial=${payment.trialId}` : ''}`,
		card:
			connection && card
				? {
						scheme: held.schemeNames[card.scheme] ?? card.scheme,
						last4: card.last4 ?? ''
					}
				: undefined
	};
	if (!method) return common;
	const left = Math.max(0, payment.minor - payment.taken);
	const reference = payment.creditorReference;
	const transfers = method.kind === 'credit-transfer';
	const picture = (text: string) => QRCode.toDataURL(text, { errorCorrectionLevel: 'M', margin: 2, scale: 6 });
	let code: string | undefined;
	if (method.transferCode && payment.currency === 'EUR' && left > 0)
		code = await picture(
			transferCode({
				holder: method.holder,
				iban: method.iban,
				bic: method.bic,
				amount: { minor: left, currency: 'EUR' },
				...(reference ? { reference } : { text: payment.reference })
			})
		);
	const created = inZone(new Date(payment.createdAt), held.business.timeZone).day;
	return {
		...common,
		offline: {
			name: begun.offerName,
			transfers,
			holder: method.holder,
			iban: inFours(method.iban),
			bic: method.bic,
			reference: method.referenceStyle === 'none' ? '' : reference ? inFours(reference) : payment.reference,
			instructions: method.instructions,
			afterNote: method.afterNote,
			until: method.termDays ? day(Date.parse(`${addDays(created, method.termDays)}T12:00:00Z`)) : '',
			came: payment.taken ? formatAmount({ minor: payment.taken, currency: payment.currency }, locale) : '',
			left: formatAmount({ minor: left, currency: payment.currency }, locale),
			leftPlain: plainAmount({ minor: left, currency: payment.currency }),
			isPaid: left === 0,
			code,
			picture: method.pictureCode ? await picture(method.pictureCode) : undefined
		}
	};
};
