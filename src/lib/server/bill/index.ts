import { counted } from '../../core/counted';
import { formatAmount } from '../../core/money';
import type { Working } from '../../core/workings';
import { billCounts, db, owedSums, openByAge, unplacedSums } from '../db';
import { today } from '../connect/business';

/** The index of Bill, each line with its state; and what is worth knowing now. */
export async function billIndex(locale: string) {
	const many = (count: number, one: string, several?: string) => counted(count, one, locale, several);
	const day = await today();
	const [sums, ages, counts, payers, groups, items, links, codes] = await Promise.all([
		owedSums(),
		openByAge(day),
		billCounts(day),
		db.payers.count({ removedAt: null }),
		db.payerGroups.count(),
		db.priceItems.count({ removedAt: null }),
		db.payLinks.find({ closedAt: null }),
		db.discountCodes.count({ endedAt: null })
	]);
	const open = sums.filter((one) => one.open > 0);
	const overdue = ages.filter((one) => one.age > 0).reduce((all, one) => all + one.count, 0);
	const first = open[0] ? formatAmount({ minor: open[0].open, currency: open[0].currency }, locale) : 'nothing';
	const index = [
		{
			name: 'Bill',
			items: [
				{
					name: 'What is owed',
					href: '/bill',
					state: `${first}${open.length > 1 ? ' and more' : ''}${overdue ? `, ${overdue} overdue` : ''}`,
					bad: overdue > 0
				},
				{
					name: 'Invoices',
					href: '/bill/invoices',
					state: `${many(counts.invoices, 'invoice')}${counts.asked ? `, ${counts.asked} to approve` : counts.drafts ? `, ${many(counts.drafts, 'draft')}` : ''}`
				},
				{ name: 'Quotes', href: '/bill/quotes', state: `${counts.quotes} open` },
				{ name: 'Credit notes', href: '/bill/credit-notes', state: many(counts.credits, 'credit note') },
				{ name: 'Pay links', href: '/bill/links', state: many(links.length, 'link') },
				{ name: 'Discount codes', href: '/bill/codes', state: many(codes, 'code') }
			]
		},
		{
			name: 'Whom and what',
			items: [
				{ name: 'Payers', href: '/bill/payers', state: `${payers.toLocaleString(locale)} in ${many(groups, 'group')}` },
				{ name: 'Price list', href: '/bill/prices', state: many(items, 'thing') },
				{
					name: 'Messages',
					href: '/bill/messages',
					state: counts.unsent
						? `${counts.unsent} could not be sent`
						: counts.waiting
							? `${counts.waiting} waiting`
							: 'all sent',
					bad: counts.unsent > 0
				},
				{ name: 'Templates', href: '/bill/templates' },
				{ name: 'How we bill', href: '/bill/settings', state: 'numbers, terms, taxes, mail' }
			]
		}
	];
	return { index, worth: await worthOfBill(open, ages, counts, locale) };
}

async function worthOfBill(
	open: Awaited<ReturnType<typeof owedSums>>,
	ages: Awaited<ReturnType<typeof openByAge>>,
	counts: Awaited<ReturnType<typeof billCounts>>,
	locale: string
): Promise<Working> {
	const unplaced = await unplacedSums();
	return {
		title: 'Bill now',
		steps: [
			...open.slice(0, 5).map((one) => {
				const late = ages
					.filter((age) => age.currency === one.currency && age.age > 0)
					.reduce((all, age) => all + age.open, 0);
				return {
					title: `${one.currency} owed`,
					sub: late
						? `${formatAmount({ minor: late, currency: one.currency }, locale)} of it overdue`
						: 'none of it overdue',
					sum: formatAmount({ minor: one.open, currency: one.currency }, locale)
				};
			}),
			...(open.length
				? []
				: [{ title: 'Nothing is owed', link: { href: '/bill/invoices', label: 'Write an invoice' } }]),
			...(counts.asked
				? [
						{
							title: counted(counts.asked, 'invoice waits', locale, 'invoices wait'),
							sub: 'for approval',
							link: { href: '/bill/invoices?show=asked', label: 'Look at them' }
						}
					]
				: []),
			...unplaced.map((one) => ({
				title: `${one.currency} not placed`,
				sub: one.credit
					? `${formatAmount({ minor: one.credit, currency: one.currency }, locale)} of it is payers’ credit`
					: 'nobody claims it yet',
				sum: formatAmount({ minor: one.minor, currency: one.currency }, locale),
				link: { href: '/takings/unplaced', label: 'Place it' }
			}))
		]
	};
}
