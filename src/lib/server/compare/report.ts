import { formatDay } from '../../core/calendar';
import { counted } from '../../core/counted';
import { sumAround } from '../../core/fees';
import { formatNumber } from '../../core/money';
import { theBusiness } from '../connect/business';
import { makePdf, QUIET, type PdfCell } from '../pdf';
import type { Asked } from './asked';
import type { Compared } from './compare';
import { sayVerdict } from './verdict';

/** A comparison as a PDF of one or more landscape pages, to hand to a partner. */
export async function comparisonPdf(
	asked: Asked,
	compared: Compared,
	locale: string,
	address: string
): Promise<Buffer> {
	const { chosen, period, capital, homeCurrency } = asked;
	const { name } = await theBusiness();
	const say = (minor: number) => formatNumber({ minor, currency: homeCurrency }, locale);
	const bps = (fee: number, base: number) => (base ? `${((fee * 10_000) / base).toFixed(0)} bps` : '');
	const row = (title: string, texts: readonly string[], bold = false): PdfCell[] => [
		{ text: title, bold },
		...texts.map((text) => ({ text, right: true, bold }))
	];
	const term = (title: string, part: keyof Asked['chosen'][number]['terms']): PdfCell[] => [
		{ text: title },
		...chosen.map((side) => ({ text: side.terms[part], right: true, size: 7 }))
	];
	const sums = (part: 'fixed' | 'conversion' | 'monthly' | 'waiting') =>
		chosen.map((side) => say(compared.sides[side.id]![part]));
	const around = chosen.map((side) => compared.sides[side.id]!.around);
	const { refunds, disputes, declined } = compared.happened;
	const all = (list: readonly { count: number }[]) => list.reduce((sum, one) => sum + one.count, 0);
	return makePdf({ title: `Side by side, ${name}`, language: 'en', landscape: true, foot: address }, (pdf) => {
		pdf.say('H1', 'Side by side', { size: 18, bold: true, gap: 2 });
		pdf.say(
			'P',
			sayVerdict(asked, compared, locale)
				.map((part) => part.text)
				.join(''),
			{ size: 10 }
		);
		pdf.say(
			'P',
			`${name}: ${counted(compared.count, 'captured payment', locale)}, ${formatDay(period.from, locale)} to ${formatDay(period.to, locale)}, through each rate card${asked.cards === 'then' ? ', as it was on its day' : ''}. Beside them: ${counted(all(refunds), 'refund', locale)}, ${counted(all(disputes), 'dispute', locale)}, ${counted(all(declined), 'declined attempt', locale)}. Sums in ${homeCurrency}; waiting at ${capital} % a year.`,
			{ size: 8, color: QUIET, gap: 8 }
		);
		pdf.table(
			[1.6, ...chosen.map(() => 1)],
			[
				[
					{ text: 'Method' },
					...chosen.map((side) => ({
						text: `${side.name}${side.kind === 'candidate' ? ' (candidate)' : ''}`,
						bold: true,
						right: true
					}))
				],
				...compared.methods.map((method) =>
					row(
						`${method.name}, ${counted(method.count, 'payment', locale)}`,
						chosen.map((side) => {
							const cost = method.costs[side.id]!;
							if (!cost.count) return `– cannot carry them: ${say(cost.leftOutHome)}, ${cost.holeWhy}`;
							return [
								say(cost.cost),
								`${bps(cost.cost, cost.base)}${cost.rank ? `, no. ${cost.rank}` : ''}`,
								cost.holes
									? `leaves out ${cost.holes.toLocaleString(locale)} of ${say(cost.leftOutHome)}: ${cost.holeWhy}`
									: ''
							]
								.filter(Boolean)
								.join('\n');
						})
					)
				),
				row('of it fixed parts', sums('fixed')),
				row('of it conversion', sums('conversion')),
				row(
					'of it refunds, disputes, declined attempts',
					around.map((one) => say(sumAround(one) - one.payouts.fee))
				),
				row(
					'Payouts',
					around.map((one) => say(one.payouts.fee))
				),
				row('Monthly', sums('monthly')),
				row('Waiting', sums('waiting')),
				row(
					'In all',
					chosen.map((side) => {
						const one = compared.sides[side.id]!;
						return `${say(one.total)}\n${bps(one.total, one.base)}`;
					}),
					true
				),
				term('Carries', 'carries'),
				term('Currencies', 'currencies'),
				term('Connects by', 'connects'),
				term('To the bank', 'bankDays'),
				term('A refund', 'refunds'),
				term('A dispute', 'disputes'),
				term('A declined attempt', 'declined'),
				term('Notifications', 'hooks')
			]
		);
		pdf.gap(8);
		pdf.say(
			'P',
			'A processor is ranked within a method, over the payments that all of those ranked can carry. What one cannot carry is left out of its sum; how much that is stands beside it.',
			{ size: 7, color: QUIET }
		);
	});
}
