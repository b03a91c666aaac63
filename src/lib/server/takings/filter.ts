import { formatDay, dayPattern, readDay } from '../../core/calendar';
import { FUNDINGS } from '../../core/cards';
import { METHODS, methodName } from '../../core/lineup';
import { AmountError, exponentOf, isCurrency, readTypedAmount } from '../../core/money';
import { STAGES } from '../../core/stages';
import { snapshot } from '../accept/snapshot';
import { allTills } from '../accept/tills';
import { paidCurrencies, paidKinds, TROUBLES, type PageKey, type PaymentFilter, type Trouble } from '../db';

export type { PaymentFilter };

/** Troubles of a payment, in words. */
export const TROUBLE_NAMES: Readonly<Record<Trouble, string>> = {
	fee: 'fee differs from the rate card',
	contradiction: 'events contradict each other',
	unknown: 'outcome not known',
	overpaid: 'order paid more than asked'
};

/** What a filter is made of, as the address of the list names it. */
export const FILTER_NAMES = [
	'q',
	'stage',
	'till',
	'method',
	'via',
	'scheme',
	'funding',
	'currency',
	'least',
	'most',
	'from',
	'to',
	'payer',
	'trouble',
	'trials'
] as const;
export type FilterName = (typeof FILTER_NAMES)[number];

/** One condition of a filter, in words, and the address without it. */
export interface FilterChip {
	readonly name: string;
	readonly says: string;
	readonly without: string;
}
export interface ReadFilter {
	readonly filter: PaymentFilter;
	readonly chips: readonly FilterChip[];
	/** what was typed and could not be read, by the name of its box */
	readonly wrong: Readonly<Partial<Record<FilterName, string>>>;
	/** the columns that are chosen, where some are */
	readonly columns?: readonly string[];
	/** what the boxes hold */
	readonly typed: Readonly<Partial<Record<FilterName, string>>>;
	/** the address of this list, without where its page begins */
	readonly query: string;
}

const KEY = /^(\d{4}-\d{2}-\d{2})_(\d{1,15})-(\d{1,15})$/;
export const writeKey = ({ day, at, id }: PageKey): string => `${day}_${at}-${id}`;
const readKey = (text: string): PageKey | undefined => {
	const [, day, at, id] = KEY.exec(text) ?? [];
	return day ? { day, at: Number(at), id: Number(id) } : undefined;
};

/**
 * Reads the filter that an address of the list carries. What cannot be read is told and left out; what was typed stays.
 */
export async function readFilter(url: URL, locale: string): Promise<ReadFilter> {
	const given = new URLSearchParams();
	for (const [name, value] of url.searchParams)
		if ((FILTER_NAMES as readonly string[]).includes(name) && value.trim())
			given.append(name, value.trim().slice(0, 100));
	const one = (name: FilterName) => given.get(name) ?? undefined;
	const wrong: Partial<Record<FilterName, string>> = {};
	const filter: { -readonly [K in keyof PaymentFilter]: PaymentFilter[K] } = {};
	const chips: FilterChip[] = [];
	const chip = (name: FilterName, says: string, value?: string) => {
		const rest = new URLSearchParams(
			[...given].filter(([key, held]) => key !== name || (value !== undefined && held !== value))
		);
		chips.push({ name: `${name} ${value ?? ''}`, says, without: rest.size ? `?${rest}` : '' });
	};
	const [held, tills] = await Promise.all([snapshot(), allTills()]);

	const text = one('q');
	if (text) chip('q', `“${(filter.text = text)}”`);
	const stages = [...new Set(given.getAll('stage'))].filter((stage) => (STAGES as readonly string[]).includes(stage));
	if (stages.length) filter.stages = stages;
	for (const stage of stages) chip('stage', stage, stage);
	const slug = one('till');
	const till = slug && tills.find((row) => row.slug === slug);
	if (till) {
		filter.tillId = till.id;
		chip('till', till.name);
	} else if (slug) wrong.till = 'There is no such till.';
	const method = one('method');
	if (method && (METHODS as readonly string[]).includes(method)) chip('method', methodName((filter.method = method)));
	const via = one('via');
	if (via && held.connections.has(via))
		chip('via', `through ${held.connections.get((filter.connectionId = via))!.name}`);
	else if (via && held.offline.has(via)) chip('via', `by ${held.offline.get((filter.offlineId = via))!.name}`);
	else if (via) wrong.via = 'There is no such connection or offline method.';
	const scheme = one('scheme');
	if (scheme) chip('scheme', `${held.schemeNames[(filter.scheme = scheme)] ?? scheme} cards`);
	const funding = one('funding');
	if (funding) chip('funding', `${(filter.funding = funding)} cards`);
	const currency = one('currency');
	if (currency && isCurrency(currency)) chip('currency', (filter.currency = currency));
	else if (currency) wrong.currency = `“${currency}” is no currency code.`;

	const [least, most] = [one('least'), one('most')];
	if (least || most) {
		const currencies = filter.currency ? [filter.currency] : await paidCurrencies();
		const decimals: Record<number, string[]> = {};
		for (const code of currencies) (decimals[exponentOf(code)] ??= []).push(code);
		const bounds = (typed: string | undefined, name: 'least' | 'most') => {
			if (!typed) return undefined;
			const by: Record<number, number> = {};
			try {
				for (const digits of Object.keys(decimals)) {
					const code = decimals[Number(digits)]![0]!;
					by[Number(digits)] = boundIn(typed, code, locale, name);
				}
			} catch (error) {
				if (!(error instanceof AmountError)) throw error;
				wrong[name] = error.message;
				return undefined;
			}
			return by;
		};
		const [from, to] = [bounds(least, 'least'), bounds(most, 'most')];
		if (from || to) filter.decimals = decimals;
		if (from) {
			filter.least = from;
			chip('least', `from ${least}`);
		}
		if (to) {
			filter.most = to;
			chip('most', `up to ${most}`);
		}
	}
	for (const name of ['from', 'to'] as const) {
		const typed = one(name);
		if (!typed) continue;
		const day = readDay(typed, locale);
		if (!day) {
			wrong[name] = `“${typed}” is no day. Write it as ${dayPattern(locale)}.`;
			continue;
		}
		filter[name] = day;
		given.set(name, day);
	}
	if (filter.from && filter.from === filter.to) chip('from', `on ${formatDay(filter.from, locale)}`);
	else if (filter.from) chip('from', `from ${formatDay(filter.from, locale)}`);
	if (filter.to && filter.from !== filter.to) chip('to', `to ${formatDay(filter.to, locale)}`);
	const payer = one('payer');
	if (payer) chip('payer', `payer ${(filter.payer = payer)}`);
	const trouble = one('trouble');
	if (trouble && (TROUBLES as readonly string[]).includes(trouble))
		chip('trouble', TROUBLE_NAMES[(filter.trouble = trouble as Trouble)]);
	if (one('trials')) {
		filter.trials = true;
		chip('trials', 'trial payments');
	}
	const columns = url.searchParams.get('cols');
	if (columns !== null) given.set('cols', columns.slice(0, 200));
	const before = readKey(url.searchParams.get('before') ?? '');
	if (before) filter.before = before;
	return {
		filter,
		chips,
		wrong,
		columns: columns === null ? undefined : columns.split(','),
		typed: Object.fromEntries(given) as ReadFilter['typed'],
		query: given.size ? `?${given}` : ''
	};
}

/** A bound typed without a currency, in minor units of one; decimals that the currency lacks are cut towards what the bound keeps in. */
function boundIn(typed: string, currency: string, locale: string, name: 'least' | 'most'): number {
	try {
		return readTypedAmount(typed, currency, { locale }).amount.minor;
	} catch (error) {
		if (!(error instanceof AmountError)) throw error;
		// 0.49 is no sum of a currency without decimals: from 0.49 up is from 1 up
		const thousandths = readTypedAmount(typed, 'KWD', { locale }).amount.minor;
		const scaled = thousandths / 10 ** (3 - exponentOf(currency));
		return name === 'least' ? Math.ceil(scaled) : Math.floor(scaled);
	}
}

/** What the boxes of the filter offer. */
export async function filterChoices() {
	const [held, tills, currencies, kinds] = await Promise.all([snapshot(), allTills(), paidCurrencies(), paidKinds()]);
	const distinct = (values: readonly string[]) => [...new Set(values)].filter(Boolean).sort();
	return {
		stages: [...STAGES],
		tills: tills.map((till) => ({ value: till.slug, name: till.name })),
		methods: distinct(kinds.map((kind) => kind.method)).map((value) => ({ value, name: methodName(value) })),
		via: [
			...[...held.connections.values()].map((row) => ({
				value: row.id,
				name: row.mode === 'test' ? `${row.name} (test)` : row.name
			})),
			...[...held.offline.values()].map((row) => ({ value: row.id, name: row.name }))
		],
		schemes: distinct(kinds.map((kind) => kind.scheme)).map((value) => ({
			value,
			name: held.schemeNames[value] ?? value
		})),
		fundings: FUNDINGS.filter((funding) => kinds.some((kind) => kind.funding === funding)).map((value) => ({
			value,
			name: value
		})),
		currencies: currencies.map((value) => ({ value, name: value })),
		troubles: TROUBLES.map((value) => ({ value, name: TROUBLE_NAMES[value] }))
	};
}
