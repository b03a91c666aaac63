import { formatDay } from '../../core/calendar';
import { formatAmount, formatNumber } from '../../core/money';
import { theBusiness, today } from '../connect/business';
import { db } from '../db';
import { makePdf, QUIET, type PdfCell } from '../pdf';
import { contractsOf } from '../ratecards';
import { evidenceFor, readDiscrepancy, remaining } from './view';
import { schemeName } from './words';

/** So many payments stand in the letter; the CSV holds all. */
const IN_LETTER = 200;

/** A discrepancy as a letter to the processor, in the business's name: what was agreed, what was charged, and for which payments. */
export async function letterPdf(id: number): Promise<{ name: string; pdf: Buffer } | undefined> {
	const row = Number.isSafeInteger(id) ? await db.discrepancies.one({ id }) : undefined;
	if (!row) return undefined;
	const locale = 'en-GB';
	const [shown, business, contracts, evidence, day, connection] = await Promise.all([
		readDiscrepancy(id, locale),
		theBusiness(),
		contractsOf(row.connectionId),
		evidenceFor(row, undefined, IN_LETTER),
		today(),
		db.connections.one({ id: row.connectionId })
	]);
	if (!shown || !connection) return undefined;
	const details = db.business.json.details(business.details);
	const contract = contracts.find((one) => one.id === row.rateCardId);
	const say = (minor: number) => formatAmount({ minor, currency: row.currency }, locale);
	const figure = (minor: number) => formatNumber({ minor, currency: row.currency }, locale);
	const left = remaining(row);
	const sender = details.legalName || business.name;
	const right = (text: string, bold = false): PdfCell => ({ text, right: true, bold });
	const title = `Charges that differ from our contract, reference D-${row.id}`;
	const pdf = await makePdf(
		{ title, language: locale, foot: [sender, details.mail, details.phone].filter(Boolean).join(' · ') },
		(out) => {
			out.say('P', sender, { size: 13, bold: true, gap: 2 });
			out.say(
				'P',
				[details.street, `${details.postcode} ${details.city}`.trim(), details.taxNumber].filter(Boolean).join(', '),
				{ color: QUIET, gap: 16 }
			);
			out.say('P', `To ${connection.name}${connection.accountId ? `, merchant account ${connection.accountId}` : ''}`, {
				gap: 2
			});
			out.say('P', formatDay(day, locale), { gap: 14 });
			out.say('H1', title, { size: 15, bold: true, gap: 8 });
			out.say(
				'P',
				`From ${shown.first} to ${shown.last} you charged ${shown.isOfAccount ? `our account ${shown.count === 1 ? 'once' : `${shown.count.toLocaleString(locale)} times`}` : shown.counted} otherwise than agreed in the rate card of ${contract ? formatDay(contract.validFrom, locale) : 'our contract'}.`,
				{ size: 10, gap: 4 }
			);
			out.say('P', `What we found: ${[shown.cause, shown.kinds.join(', ')].filter(Boolean).join('. ')}.`, {
				size: 10,
				gap: 4
			});
			if (shown.lines)
				out.say('P', `Agreed is the line ${shown.lines.agreed}. You charged by the line ${shown.lines.charged}.`, {
					size: 10,
					gap: 4
				});
			out.say(
				'P',
				left >= 0
					? `Please give back ${say(left)}, and charge ${shown.isOfAccount ? 'our account' : 'these payments'} as agreed from now on.`
					: `You charged ${say(-left)} too little. Please tell us how you want to settle it.`,
				{ size: 10, bold: true, gap: 10 }
			);
			out.table(
				[4, 2],
				[
					[{ text: 'Sums', bold: true }, right(row.currency, true)],
					[{ text: 'Charged above what was agreed' }, right(figure(row.over))],
					...(row.under ? [[{ text: 'Charged below it' }, right(figure(-row.under))]] : []),
					...(row.corrected ? [[{ text: 'Corrected so far' }, right(figure(-row.corrected))]] : []),
					[{ text: left >= 0 ? 'To be given back' : 'Charged too little', bold: true }, right(figure(left), true)]
				]
			);
			out.gap(10);
			out.say(
				'H2',
				`${shown.isOfAccount ? 'Charges' : 'Payments'}${row.count > IN_LETTER ? `, the first ${IN_LETTER} of ${row.count}; the list as CSV holds all` : ''}`,
				{
					size: 11,
					bold: true
				}
			);
			out.table(
				[2.6, 1.4, 2.2, 1.7, 1.2, 1.2, 1.2],
				[
					[
						'Your id',
						'Day',
						shown.isOfAccount ? '' : 'Card',
						shown.isOfAccount ? '' : 'Amount',
						'Agreed',
						'Charged',
						'Difference'
					].map((text, at) => ({
						text,
						bold: true,
						right: at > 2
					})),
					...evidence.map((one): PdfCell[] => [
						{ text: one.processorId },
						{ text: formatDay(one.day, locale) },
						{
							text: [schemeName(one.scheme), one.funding, one.issuer]
								.filter((part) => part && !/^unknown$/i.test(part))
								.join(', ')
						},
						right(one.taken ? formatAmount({ minor: one.taken, currency: one.currency }, locale) : ''),
						right(figure(one.expected)),
						right(figure(one.charged)),
						right(figure(one.charged - one.expected))
					])
				]
			);
			out.gap(14);
			out.say('P', 'Kind regards,', { size: 10, gap: 2 });
			out.say('P', sender, { size: 10 });
		}
	);
	return { name: `discrepancy-D-${row.id}.pdf`, pdf };
}
