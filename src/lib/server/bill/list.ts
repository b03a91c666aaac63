import { formatDay, readDay, dayPattern, inZone } from '../../core/calendar';
import { counted } from '../../core/counted';
import { INVOICE_STATES } from '../../core/billing';
import { formatAmount, formatNumber, isCurrency } from '../../core/money';
import type { Verdict, Working } from '../../core/workings';
import { allTills } from '../accept/tills';
import { theBusiness, today } from '../connect/business';
import {
	AGES,
	db,
	isByDue,
	openByAge,
	owedByPayer,
	owedSums,
	pageOfInvoices,
	proofSums,
	sumsOfInvoices,
	type InvoiceFilter,
	type InvoiceRow,
	type OwedSum
} from '../db';
import { timeNow } from '../signals/clock';
import { stateOfQuote } from './quotes';

export type { InvoiceFilter };

/** What a list can be narrowed to, as its address names it. */
export const FILTER_NAMES = ['q', 'show', 'state', 'payer', 'till', 'currency', 'from', 'to'] as const;
export const SHOWN = {
	open: 'open',
	overdue: 'overdue',
	promised: 'on its way',
	unsent: 'not sent yet',
	asked: 'waiting for approval',
	held: 'held',
	debit: 'bank debit announced',
	undebited: 'bank debit not made'
} as const;
export type Shown = keyof typeof SHOWN;

export interface ReadList {
	readonly filter: InvoiceFilter;
	readonly chips: readonly { readonly name: string; readonly says: string; readonly without: string }[];
	readonly wrong: Readonly<Record<string, string>>;
	readonly typed: Readonly<Record<string, string>>;
	readonly query: string;
	readonly columns?: readonly string[];
}

/** Reads the filter that an address of a list carries. What cannot be read is told and left out; what was typed stays. */
export async function readList(url: URL, kind: InvoiceRow['kind'], locale: string, shown?: Shown): Promise<ReadList> {
	const given = new URLSearchParams();
	for (const name of FILTER_NAMES) {
		const value = url.searchParams.get(name)?.trim().slice(0, 100);
		if (value) given.set(name, value);
	}
	const wrong: Record<string, string> = {};
	const filter: { -readonly [K in keyof InvoiceFilter]: InvoiceFilter[K] } = { kind };
	const chips: { name: string; says: string; without: string }[] = [];
	const chip = (name: string, says: string) => {
		const rest = new URLSearchParams([...given].filter(([key]) => key !== name));
		chips.push({ name, says, without: rest.size ? `?${rest}` : url.pathname });
	};
	const day = await today();
	const show = (given.get('show') ?? shown) as Shown | undefined;
	if (show && show in SHOWN) {
		if (show === 'open') filter.isOpen = true;
		if (show === 'overdue') filter.overdueBefore = day;
		if (show === 'promised') [filter.isPromised, filter.isOpen] = [true, true];
		if (show === 'unsent') filter.isUnsent = true;
		if (show === 'asked') filter.isAsked = true;
		if (show === 'held') filter.isHeld = true;
		if (show === 'debit') filter.debit = { state: 'announced', now: timeNow() };
		if (show === 'undebited') filter.debit = { state: 'not made', now: timeNow() };
		if (given.has('show')) chip('show', SHOWN[show]);
	}
	const state = given.get('state');
	if (state && ((INVOICE_STATES as readonly string[]).includes(state) || kind === 'quote')) {
		filter.states = [state];
		chip('state', state);
	}
	const text = given.get('q');
	if (text) chip('q', `“${(filter.text = text)}”`);
	const payer = given.get('payer');
	if (payer) {
		const row = await db.payers.one({ id: payer });
		if (row) chip('payer', row.company || row.name);
		filter.payerId = payer;
	}
	const slug = given.get('till');
	if (slug) {
		const till = (await allTills()).find((one) => one.slug === slug);
		if (till) {
			filter.tillId = till.id;
			chip('till', till.name);
		} else wrong.till = 'There is no such till.';
	}
	const currency = given.get('currency');
	if (currency && isCurrency(currency)) chip('currency', (filter.currency = currency));
	else if (currency) wrong.currency = `“${currency}” is no currency code.`;
	for (const name of ['from', 'to'] as const) {
		const typed = given.get(name);
		if (!typed) continue;
		const read = readDay(typed, locale);
		if (!read) {
			wrong[name] = `“${typed}” is no day. Write it as ${dayPattern(locale)}.`;
			continue;
		}
		filter[name] = read;
		given.set(name, read);
		chip(name, `${name} ${formatDay(read, locale)}`);
	}
	const after = /^(\d{4}-\d{2}-\d{2})?_(\d{1,15})$/.exec(url.searchParams.get('after') ?? '');
	if (after) filter.after = { key: after[1] ?? '', id: Number(after[2]) };
	const columns = url.searchParams.get('cols');
	return {
		filter,
		chips,
		wrong,
		typed: Object.fromEntries(given),
		query: given.size ? `?${given}` : '',
		columns: columns === null ? undefined : columns.split(',')
	};
}

/** Columns that a list of invoices can show beside number, payer and sums. */
export const LIST_COLUMNS = {
	state: 'State',
	due: 'Next due',
	coming: 'On its way',
	sent: 'Sent',
	opened: 'Opened',
	message: 'Last message',
	till: 'Till',
	outside: 'Outside reference'
} as const;
export type ListColumn = keyof typeof LIST_COLUMNS;
export const USUAL_COLUMNS: readonly ListColumn[] = ['state', 'due', 'sent', 'opened'];

/** One page of invoices, quotes or credit notes, as it is shown. */
export async function invoiceLines(filter: InvoiceFilter, locale: string) {
	const [{ rows, next }, business, tills, day] = await Promise.all([
		pageOfInvoices(filter),
		theBusiness(),
		allTills(),
		today()
	]);
	const names = new Map(tills.map((till) => [till.id, till]));
	const dayOf = (at: number | null) =>
		at === null ? '' : formatDay(inZone(new Date(at), business.timeZone).day, locale);
	return {
		next: next && `${next.key}_${next.id}`,
		byDue: isByDue(filter),
		lines: rows.map((row) => {
			const say = (minor: number) => formatNumber({ minor, currency: row.currency }, locale);
			const late = row.open > 0 && row.nextDue && row.nextDue < day ? daysFrom(row.nextDue, day) : 0;
			const till = names.get(row.tillId ?? '');
			return {
				id: row.id,
				kind: row.kind,
				number: row.number,
				payer: row.payerName,
				payerId: row.payerId ?? '',
				currency: row.currency,
				total: say(row.total),
				open: row.kind === 'invoice' && row.approvedAt !== null ? say(row.open) : '',
				coming: row.promised ? say(row.promised) : '',
				state:
					row.kind === 'quote'
						? stateOfQuote(row, day)
						: row.askedAt !== null && row.state === 'draft'
							? 'waits for approval'
							: row.state,
				late,
				due: row.nextDue ? formatDay(row.nextDue, locale) : '',
				day: row.day ? formatDay(row.day, locale) : '',
				until: row.until ? formatDay(row.until, locale) : '',
				sent: dayOf(row.sentAt),
				opened: dayOf(row.openedAt),
				message: dayOf(row.messageAt),
				till: till?.name ?? '',
				test: till?.mode === 'test',
				outside: row.outsideReference,
				held: row.heldAt !== null,
				revision: row.revision
			};
		})
	};
}
const daysFrom = (from: string, to: string) => Math.round((Date.parse(to) - Date.parse(from)) / 86_400_000);
export type InvoiceLine = Awaited<ReturnType<typeof invoiceLines>>['lines'][number];

/** How open came about, for one currency. */
function openWorking(one: OwedSum, locale: string): Working {
	const say = (minor: number) => formatNumber({ minor, currency: one.currency }, locale);
	return {
		title: `Open in ${one.currency}`,
		about: `${counted(one.count, 'invoice', locale)} that stand, void ones left out`,
		steps: [
			{ title: 'Asked', sum: say(one.total) },
			{ title: 'Placed', sub: 'money that came for them', sum: say(-one.placed) },
			{ title: 'Credited', sub: 'by credit notes', sum: say(-one.credited) },
			...(one.writtenOff ? [{ title: 'Written off', sum: say(-one.writtenOff) }] : []),
			{
				title: 'Open',
				sub: one.promised ? `of it ${say(one.promised)} is on its way` : undefined,
				sum: say(one.open),
				total: true
			}
		],
		end:
			one.total - one.placed - one.credited - one.writtenOff === one.open
				? { tone: 'moss', text: 'It adds up.' }
				: { tone: 'clay', text: 'It does not add up: tell whoever looks after Just Purse.' }
	};
}

/** Sums per currency of a list, with how they came about. */
export async function listSums(filter: InvoiceFilter, locale: string) {
	return (await sumsOfInvoices(filter)).map((one) => {
		const say = (minor: number) => formatNumber({ minor, currency: one.currency }, locale);
		return {
			currency: one.currency,
			count: one.count.toLocaleString(locale),
			asked: say(one.total),
			placed: say(one.placed),
			credited: say(one.credited),
			coming: say(one.promised),
			open: say(one.open),
			adds: one.total - one.placed - one.credited - one.writtenOff === one.open,
			working: openWorking(one, locale)
		};
	});
}

/** Whether what is owed adds up from every side: invoices, payers, dues, money placed. */
export async function proveOwed(locale: string): Promise<{ agrees: boolean; working: Working }> {
	const rows = await proofSums();
	const currencies = [...new Set(rows.map((row) => row.currency))].sort();
	const of = (side: string, currency: string) =>
		rows.find((row) => row.side === side && row.currency === currency)?.minor ?? 0;
	let agrees = true;
	const steps = currencies.flatMap((currency) => {
		const say = (minor: number) => formatNumber({ minor, currency }, locale);
		const open = of('invoices', currency);
		const sides = [
			['by payers', of('payers', currency)],
			['by dues', of('dues', currency)],
			['by days', of('days', currency)],
			['asked less placed and credited', of('rest', currency)]
		] as const;
		const isRight = sides.every(([, minor]) => minor === open) && of('placed', currency) === of('placed on', currency);
		agrees &&= isRight;
		return [
			{
				title: `Open in ${currency}`,
				sub: 'by invoices',
				sum: say(open),
				mark: (isRight ? 'yes' : 'no') as 'yes' | 'no'
			},
			...sides.map(([title, minor]) => ({ title, sum: say(minor) })),
			{ title: 'Money placed, step by step', sub: 'and as the invoices have it', sum: say(of('placed', currency)) }
		];
	});
	return {
		agrees,
		working: {
			title: 'What is owed, added up from every side',
			steps,
			end: agrees
				? { tone: 'moss', text: 'All sides agree, to the cent.' }
				: { tone: 'clay', text: 'The sides differ: tell whoever looks after Just Purse.' }
		}
	};
}

/** What is open by age and by payer, and the answer of the screen in a sentence. */
export async function owedOverview(locale: string) {
	const [sums, day, business] = await Promise.all([owedSums(), today(), theBusiness()]);
	const ages = await openByAge(day);
	const open = sums.filter((one) => one.open > 0);
	const say = (minor: number, currency: string) => formatAmount({ minor, currency }, locale);
	const lateOf = (currency: string) => ages.filter((one) => one.currency === currency && one.age > 0);
	const main = open.find((one) => one.currency === business.homeCurrency) ?? open[0];
	const payers = main ? await owedByPayer(main.currency, 8, 0) : [];
	const names = new Map(
		(payers.length ? await db.payers.find({ id: payers.map((one) => one.payerId) }) : []).map((row) => [
			row.id,
			row.company || row.name
		])
	);
	return {
		verdict: owedVerdict(open, ages, locale),
		ages: open.map((one) => ({
			currency: one.currency,
			open: say(one.open, one.currency),
			parts: AGES.map((name, age) => {
				const found = ages.find((part) => part.currency === one.currency && part.age === age);
				return {
					name,
					count: found?.count ?? 0,
					minor: found?.open ?? 0,
					sum: formatNumber({ minor: found?.open ?? 0, currency: one.currency }, locale),
					share: one.open ? (found?.open ?? 0) / one.open : 0
				};
			}),
			late: say(
				lateOf(one.currency).reduce((all, part) => all + part.open, 0),
				one.currency
			)
		})),
		payers: payers.map((one) => ({
			id: one.payerId,
			name: names.get(one.payerId) ?? 'no payer',
			count: one.count,
			open: say(one.open, one.currency)
		}))
	};
}

function owedVerdict(
	open: readonly OwedSum[],
	ages: readonly { currency: string; age: number; count: number; open: number }[],
	locale: string
): Verdict {
	if (!open.length) return [{ text: 'Nothing is owed just now.' }];
	const say = (minor: number, currency: string) => formatAmount({ minor, currency }, locale);
	const parts: { text: string; working?: Working; tone?: 'clay' | 'moss'; href?: string }[] = [];
	open.slice(0, 4).forEach((one, at) => {
		if (at) parts.push({ text: at === Math.min(open.length, 4) - 1 ? ' and ' : ', ' });
		parts.push({ text: say(one.open, one.currency), working: openWorking(one, locale) });
	});
	if (open.length > 4) parts.push({ text: ` and ${open.length - 4} more currencies` });
	parts.push({ text: ' is owed. ' });
	const late = ages.filter((one) => one.age > 0);
	if (!late.length) parts.push({ text: 'None of it is overdue.' });
	else {
		const byCurrency = new Map<string, { minor: number; count: number }>();
		for (const one of late) {
			const before = byCurrency.get(one.currency) ?? { minor: 0, count: 0 };
			byCurrency.set(one.currency, { minor: before.minor + one.open, count: before.count + one.count });
		}
		const [[currency, first]] = [...byCurrency] as [[string, { minor: number; count: number }]];
		parts.push({ text: `${say(first.minor, currency)} is overdue`, tone: 'clay' });
		if (byCurrency.size > 1) parts.push({ text: `, and more in ${[...byCurrency.keys()].slice(1).join(', ')}` });
		parts.push({ text: ': ' }, { text: 'see what is overdue', href: '/bill?show=overdue' }, { text: '.' });
	}
	return parts;
}

/** Invoices, quotes and credit notes whose number or outside reference begins like a text. */
export { findInvoices } from '../db';
