import { daysBetween } from '../../core/calendar';
import { judgeSides, type JudgedSide } from '../../core/fees';
import { methodName } from '../../core/lineup';
import { formatAmount, formatNumber } from '../../core/money';
import type { Verdict, Working } from '../../core/workings';
import type { Asked } from './asked';
import type { Compared } from './compare';

/** The verdict of a comparison in words: who is cheapest for what is taken, by how much a year, and what it leaves out. */
export function sayVerdict({ chosen, period, homeCurrency }: Asked, compared: Compared, locale: string): Verdict {
	const days = daysBetween(period.from, period.to) + 1;
	const found = judgeSides(compared.methods, compared.sides, days);
	const nameOf = (id: string) => chosen.find((side) => side.id === id)?.name ?? id;
	const many = (count: number) => count.toLocaleString(locale);
	const say = (minor: number) => formatNumber({ minor, currency: homeCurrency }, locale);
	const inHome = (minor: number) => formatAmount({ minor, currency: homeCurrency }, locale);
	if (found.is === 'no payments')
		return [
			{ text: 'No verdict: there are no captured payments in this time to price. ' },
			{ text: 'Import settlement files', href: '/connect/files' },
			{ text: ', choose other days, or set a mix by hand.' }
		];
	const method = methodName(found.method as never).toLowerCase();
	if (found.is === 'alone')
		return [
			{ text: `No verdict: only ${nameOf(found.id)} can carry what you take by ${method}. ` },
			{ text: 'Add a candidate', href: '/connect/candidates/new' },
			{ text: ' to hold it against.' }
		];
	if (found.is === 'nothing shared')
		return [
			{
				text: `No verdict: no kind of ${method} payment that you took can be carried by all of these, so their costs cannot be held against each other. Choose fewer of them.`
			}
		];
	const [best, next] = found.sides as [JudgedSide, JudgedSide, ...JudgedSide[]];
	const working: Working = {
		title: `Cheapest for ${method}`,
		about: `Over the ${many(found.shared)} of ${many(found.count)} ${method} payments that all of these can carry, with what each account costs by the month. The ranks in the table leave the monthly fees out.`,
		steps: [
			...found.sides.map((one) => ({
				title: nameOf(one.id),
				sub: `${say(one.cost)} for the payments${one.monthly ? `, ${say(one.monthly)} by the month` : ''}, in ${many(days)} days`,
				sum: say(one.cost + one.monthly)
			})),
			...(days === 365
				? []
				: [
						{ title: `${nameOf(best.id)} in 365 days`, sum: say(best.yearly) },
						{ title: `${nameOf(next.id)} in 365 days`, sum: say(next.yearly) }
					]),
			{ title: 'Less in a year', sub: homeCurrency, sum: say(found.saves), total: true }
		]
	};
	const leftOut: Working = {
		title: `What ${nameOf(best.id)} leaves out`,
		steps: [
			{
				title: `${many(found.leftOut.count)} of ${many(found.count)} ${method} payments`,
				sub: 'it cannot carry them; the table tells why',
				sum: inHome(found.leftOut.minor)
			}
		]
	};
	const rest: Verdict = found.leftOut.count
		? [
				{ text: ' It ' },
				{ text: `cannot carry ${many(found.leftOut.count)} of them`, working: leftOut, tone: 'clay' },
				{ text: '.' }
			]
		: [];
	return found.saves
		? [
				{ text: `For what you take by ${method}, ${nameOf(best.id)} is cheapest: ` },
				{ text: `${inHome(found.saves)} a year less`, working, tone: 'moss' },
				{ text: ` than ${nameOf(next.id)}, the next.` },
				...rest
			]
		: [
				{ text: `For what you take by ${method}, ${nameOf(best.id)} and ${nameOf(next.id)} ` },
				{ text: 'cost the same', working },
				{ text: '.' },
				...rest
			];
}
