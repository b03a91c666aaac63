import { makeDues, planOf } from '../../core/billing';
import { formatDay } from '../../core/calendar';
import { formatAmount, formatNumber, localDecimal } from '../../core/money';
import { countryName } from '../../core/places';
import { inFours, transferCode } from '../../core/references';
import { theBusiness, today } from '../connect/business';
import { db, type InvoiceRow, type OfflineMethodRow } from '../db';
import { instructionsOf, invoiceAddress, languageOf } from '../messages';
import { makePdf, QUIET, type Pdf, type PdfCell } from '../pdf';
import { contentOf, sumsOf } from './drafts';
import { billSettings } from './settings';
import { documentWords } from './words';

/** The offline ways whose instructions a document carries: all of its till, or those of the payer's own way only. */
async function offlineWays(row: InvoiceRow): Promise<OfflineMethodRow[]> {
	if (!row.tillId || row.kind !== 'invoice') return [];
	const [settings, published, methods, payer] = await Promise.all([
		billSettings(),
		db.lineUps.one({ tillId: row.tillId, state: 'published' }),
		db.offlineMethods.find({ removedAt: null, paused: 0 }),
		row.payerId ? db.payers.one({ id: row.payerId }) : undefined
	]);
	if (settings.instructions === 'preferred' && payer?.prefers === 'online') return [];
	const offered = published
		? db.lineUps.json
				.offers(published.offers)
				.filter((offer) => offer.on)
				.flatMap((offer) => Object.values(offer.routes).flatMap((route) => [route.first, route.standby]))
				.flatMap((carrier) => (carrier?.kind === 'offline' ? [carrier.id] : []))
		: [];
	const ways = methods.filter(
		(one) => offered.includes(one.id) && db.offlineMethods.json.currencies(one.currencies).includes(row.currency)
	);
	return settings.instructions === 'preferred' && payer?.prefers !== 'offline'
		? ways.filter((one) => one.kind === 'credit-transfer')
		: ways;
}

/** Writes an invoice, a quote, a credit note or its draft as a PDF that one would send. */
export async function documentPdf(row: InvoiceRow): Promise<{ name: string; pdf: Buffer }> {
	const [business, settings, ways, payer, dues] = await Promise.all([
		theBusiness(),
		billSettings(),
		offlineWays(row),
		row.payerId ? db.payers.one({ id: row.payerId }) : undefined,
		db.invoiceDues.find({ invoiceId: row.id }, { order: [['n', 'ASC']] })
	]);
	const { language, locale } = languageOf(payer, business);
	const w = documentWords(language);
	const details = db.business.json.details(business.details);
	const content = contentOf(row);
	const told = sumsOf(row);
	const say = (minor: number) => formatNumber({ minor, currency: row.currency }, locale);
	const whole = (minor: number) => formatAmount({ minor, currency: row.currency }, locale);
	const accent = settings.accent || '#6b2d2a';
	const isDraft = row.state === 'draft';
	const day = row.day || (await today());
	const title = `${w[row.kind]} ${row.number || w.draft}`;
	const of = row.ofId === null ? undefined : await db.invoices.one({ id: row.ofId });
	const asked =
		dues.length || row.kind !== 'invoice' || 'problem' in told
			? dues
			: (() => {
					try {
						return makeDues(told.sums.total, planOf(content), day);
					} catch {
						return [];
					}
				})();
	const open = isDraft ? ('sums' in told ? told.sums.total : 0) : row.open;
	const next = dues.find((due) => due.open > 0);
	const transfer = ways.find((one) => one.kind === 'credit-transfer' && one.iban);
	const payMinor = next?.open ?? open;
	const transferText =
		transfer && transfer.transferCode && row.currency === 'EUR' && payMinor > 0 && row.creditorReference
			? transferCode({
					holder: transfer.holder,
					iban: transfer.iban,
					bic: transfer.bic,
					amount: { minor: payMinor, currency: 'EUR' },
					reference: row.creditorReference
				})
			: undefined;
	const link = invoiceAddress(row);
	const hasLink = open > 0 || row.kind === 'quote';
	const seller = [
		details.legalName || business.name,
		details.street,
		`${details.postcode} ${details.city}`.trim(),
		countryName(business.country, locale),
		details.taxNumber
	].filter(Boolean);
	const to = content.billTo;
	const buyer = [
		to.company || to.name,
		to.company && to.name,
		to.street,
		`${to.postcode} ${to.city}`.trim(),
		to.country ? countryName(to.country, locale) : '',
		to.taxNumber
	].filter(Boolean) as string[];
	const pdf = await makePdf(
		{
			title: `${title}, ${business.name}`,
			language: locale,
			foot: [
				business.name,
				details.legalName !== business.name ? details.legalName : '',
				details.taxNumber,
				details.mail,
				details.phone
			]
				.filter(Boolean)
				.join(' · ')
		},
		(out) => {
			head(out, settings.logo || '', business.name, accent);
			out.say('H1', title, { size: 20, bold: true, color: accent, gap: 6 });
			out.columns([
				{ head: w.from, lines: seller },
				{ head: w.to, lines: buyer },
				{
					head: w.about,
					lines: [
						`${w.day} ${formatDay(day, locale)}`,
						row.kind === 'quote' && row.until ? `${w.until} ${formatDay(row.until, locale)}` : '',
						row.outsideReference ? `${w.reference} ${row.outsideReference}` : '',
						of ? `${row.kind === 'credit note' ? w.corrects : w.madeOf} ${of.number}` : '',
						...content.fields.filter((one) => one.value).map((one) => `${one.name}: ${one.value}`)
					].filter(Boolean)
				}
			]);
			if (content.noteTop) out.say('P', content.noteTop, { gap: 8 });
			if ('problem' in told) {
				out.say('P', told.problem, {});
				return;
			}
			const { sums } = told;
			const number = (text: string): PdfCell => ({ text, right: true });
			out.table(
				[5, 1.2, 1.5, 1.1, 1.6],
				[
					[
						{ text: w.what, bold: true },
						{ text: w.quantity, right: true, bold: true },
						{ text: w.price, right: true, bold: true },
						{ text: w.taxRate, right: true, bold: true },
						{ text: w.sum, right: true, bold: true }
					],
					...content.lines.map((line, at): PdfCell[] => {
						const sum = sums.lines[at]!;
						return [
							{ text: sum.discount ? `${line.text}\n${w.less} ${say(sum.discount)}` : line.text },
							number(`${localDecimal(line.quantity, locale)}${line.unit ? ` ${line.unit}` : ''}`),
							number(localDecimal(line.price, locale)),
							number(line.rate ? `${localDecimal(String(line.rate / 10_000), locale)} %` : w.categories[line.category]),
							number(say(sum.sum))
						];
					}),
					...sums.discounts
						.filter((one) => one.minor > 0)
						.map((one): PdfCell[] => [{ text: one.name }, number(''), number(''), number(''), number(say(-one.minor))]),
					[{ text: w.net }, number(''), number(''), number(''), number(say(sums.net))],
					...sums.groups.map((group): PdfCell[] => [
						{
							text: `${w.tax} ${group.rate ? `${localDecimal(String(group.rate / 10_000), locale)} % ` : ''}(${w.categories[group.category]}), ${w.on} ${say(group.base)}`
						},
						number(''),
						number(''),
						number(''),
						number(say(group.tax))
					]),
					[
						{ text: `${w.total}, ${content.pricing === 'with tax' ? w.withTax : w.withoutTax}`, bold: true },
						number(''),
						number(''),
						number(''),
						{ text: whole(sums.total), right: true, bold: true, size: 10 }
					]
				]
			);
			out.gap(6);
			if (content.reason && content.lines.some((line) => ['exempt', 'reverse charge'].includes(line.category)))
				out.say('P', content.reason, { size: 8, color: QUIET });
			if (asked.length) {
				out.say('H2', w.toPay, { size: 11, bold: true, gap: 2 });
				for (const due of asked) {
					const standing = dues.find((one) => one.day === due.day && one.minor === due.minor);
					const paid = standing ? standing.paid + standing.credited : 0;
					out.say('P', `${formatDay(due.day, locale)}: ${whole(due.minor)}${paid ? `, ${w.paid} ${say(paid)}` : ''}`, {
						gap: 1
					});
				}
				out.gap(4);
			}
			if (!isDraft && row.kind === 'invoice' && row.open === 0)
				out.say('P', w.isPaid, { bold: true, color: '#476839' });
			if (ways.length && payMinor > 0 && row.kind === 'invoice') {
				out.say('H2', w.howToPay, { size: 11, bold: true, gap: 2 });
				for (const way of ways) {
					out.say('P', way.name, { bold: true, gap: 1 });
					out.say('P', instructionsOf(way, whole(payMinor), row.creditorReference || row.number), { gap: 5 });
				}
			}
			out.codes([
				...(transferText
					? [
							{
								code: transferText,
								text: `${w.scanTransfer}\n${inFours(transfer!.iban)}\n${inFours(row.creditorReference)}`
							}
						]
					: []),
				...(hasLink ? [{ code: link, text: `${row.kind === 'quote' ? w.answerAt : w.payAt}\n${link}`, link }] : [])
			]);
			if (content.noteFoot) out.say('P', content.noteFoot, { gap: 6 });
			if (content.terms) out.say('P', content.terms, { size: 8, color: QUIET });
		}
	);
	return { name: `${(row.number || 'draft').replace(/[^\w.-]+/g, '-')}.pdf`, pdf };
}

/** The letterhead: the logo, or the name in the accent colour. */
function head(out: Pdf, logo: string, name: string, accent: string): void {
	const picture = /^data:image\/(?:png|jpeg);base64,(.+)$/.exec(logo)?.[1];
	if (picture) out.logo(Buffer.from(picture, 'base64'), name);
	else out.say('P', name, { size: 13, bold: true, color: accent, gap: 10 });
}
