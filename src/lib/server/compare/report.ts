import pdfmake from 'pdfmake';
import roboto from 'pdfmake/fonts/Roboto.js';
import type { TDocumentDefinitions } from 'pdfmake/interfaces';
import { formatDay } from '../../core/calendar';
import { sumAround } from '../../core/fees';
import { formatNumber } from '../../core/money';
import { theBusiness } from '../connect/business';
import type { Asked } from './asked';
import type { Compared } from './compare';
import { sayVerdict } from './verdict';

const INK = '#2B2320';
const QUIET = '#6F635B';
const RULE = '#E2D9CB';
const CLAY = '#A9482A';

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
	const head = (text: string) => ({ text, bold: true, alignment: 'right' as const });
	const row = (title: string, cells: readonly { text: string; sub?: string; bad?: string }[], bold = false) => [
		{ text: title, bold },
		...cells.map(({ text, sub, bad }) => ({
			alignment: 'right' as const,
			stack: [
				{ text, bold },
				...(sub ? [{ text: sub, color: QUIET, fontSize: 7 }] : []),
				...(bad ? [{ text: bad, color: CLAY, fontSize: 7 }] : [])
			]
		}))
	];
	const term = (title: string, part: keyof Asked['chosen'][number]['terms']) => [
		title,
		...chosen.map((side) => ({ text: side.terms[part], fontSize: 7, alignment: 'right' as const }))
	];
	const sum = (part: 'fixed' | 'conversion' | 'monthly' | 'waiting') =>
		chosen.map((side) => compared.sides[side.id]![part]);
	const around = chosen.map((side) => compared.sides[side.id]!.around);
	const happened = compared.happened;
	const count = (list: readonly { count: number }[]) =>
		list.reduce((all, one) => all + one.count, 0).toLocaleString(locale);
	const definition: TDocumentDefinitions = {
		info: { title: `Side by side, ${name}`, creator: 'Just Purse' },
		pageSize: 'A4',
		pageOrientation: 'landscape',
		pageMargins: [36, 36, 36, 40],
		defaultStyle: { font: 'Roboto', fontSize: 8, color: INK },
		footer: (page: number, pages: number) => ({
			margin: [36, 10, 36, 0],
			columns: [
				{ text: address, color: QUIET, fontSize: 6.5 },
				{ text: `${page} of ${pages}`, alignment: 'right', color: QUIET, width: 60 }
			]
		}),
		content: [
			{ text: 'Side by side', fontSize: 18, bold: true },
			{
				text: sayVerdict(asked, compared, locale)
					.map((part) => part.text)
					.join(''),
				fontSize: 10,
				margin: [0, 4, 0, 2]
			},
			{
				text: `${name}: ${compared.count.toLocaleString(locale)} captured payments, ${formatDay(period.from, locale)} to ${formatDay(period.to, locale)}, through each rate card. Beside them: ${count(happened.refunds)} refunds, ${count(happened.disputes)} disputes, ${count(happened.declined)} declined attempts. Sums in ${homeCurrency}; waiting at ${capital} % a year.`,
				color: QUIET,
				margin: [0, 2, 0, 10]
			},
			{
				layout: {
					hLineWidth: () => 0.5,
					vLineWidth: () => 0,
					hLineColor: () => RULE
				},
				table: {
					headerRows: 1,
					widths: [92, ...chosen.map(() => '*' as const)],
					body: [
						['', ...chosen.map((side) => head(`${side.name}${side.kind === 'candidate' ? ' (candidate)' : ''}`))],
						...compared.methods.map((method) =>
							row(
								`${method.name}, ${method.count.toLocaleString(locale)} payments`,
								chosen.map((side) => {
									const cost = method.costs[side.id]!;
									if (!cost.count)
										return { text: '–', bad: `cannot carry them: ${say(cost.leftOutHome)}, ${cost.holeWhy}` };
									return {
										text: say(cost.cost),
										sub: `${bps(cost.cost, cost.base)}${cost.rank ? `, no. ${cost.rank}` : ''}`,
										bad: cost.holes
											? `leaves out ${cost.holes.toLocaleString(locale)} of ${say(cost.leftOutHome)}: ${cost.holeWhy}`
											: undefined
									};
								})
							)
						),
						row(
							'of it fixed parts',
							sum('fixed').map((minor) => ({ text: say(minor) }))
						),
						row(
							'of it conversion',
							sum('conversion').map((minor) => ({ text: say(minor) }))
						),
						row(
							'of it refunds, disputes, declined attempts',
							around.map((one) => ({ text: say(sumAround(one) - one.payouts.fee) }))
						),
						row(
							'Payouts',
							around.map((one) => ({ text: say(one.payouts.fee) }))
						),
						row(
							'Monthly',
							sum('monthly').map((minor) => ({ text: say(minor) }))
						),
						row(
							'Waiting',
							sum('waiting').map((minor) => ({ text: say(minor) }))
						),
						row(
							'In all',
							chosen.map((side) => {
								const one = compared.sides[side.id]!;
								return { text: say(one.total), sub: bps(one.total, one.base) };
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
				}
			},
			{
				text: 'A processor is ranked within a method, over the payments that all of those ranked can carry. What one cannot carry is left out of its sum; how much that is stands beside it.',
				color: QUIET,
				fontSize: 7,
				margin: [0, 8, 0, 0]
			}
		]
	};
	pdfmake.addFonts(roboto);
	pdfmake.setUrlAccessPolicy(() => false);
	return pdfmake.createPdf(definition).getBuffer();
}
