import {
	conditionsInWords,
	gridEntries,
	methodName,
	type Carrier,
	type GridEntry,
	type GridTill
} from '../../core/lineup';
import { exponentOf } from '../../core/money';
import { contextOf } from './ask';
import { snapshot, type Snapshot } from './snapshot';
import { timeNow } from '../signals/clock';

export const PIVOTS = ['till', 'currency', 'connection'] as const;
export type Pivot = (typeof PIVOTS)[number];

/** What one cell of the grid says: marks of what is accepted, and the words behind them. */
export interface GridCell {
	readonly marks: readonly {
		/** currency, or till, or both: what the row and the column do not say already */
		readonly text: string;
		/** what texts of one cell are told together under; empty where they need nothing above them */
		readonly under: string;
		readonly through: string;
		readonly conditions: boolean;
		readonly trouble: string;
		readonly standby: boolean;
		readonly href: string;
		readonly says: readonly string[];
	}[];
}
export interface GridView {
	readonly columns: readonly {
		key: string;
		name: string;
		sub: string;
		href: string;
		test: boolean;
		/** where it is asked what would offer a method here; METHOD stands for it */
		leastChange?: string;
	}[];
	/** a method, or card schemes of one; schemes that are taken alike at every column are one row */
	readonly rows: readonly { key: string; name: string; sub: string; under: string; cells: readonly GridCell[] }[];
	readonly tills: readonly { slug: string; name: string; mode: string; state: string; empty: boolean }[];
	readonly currencies: readonly string[];
	readonly methods: readonly { value: string; name: string }[];
	readonly connections: readonly { id: string; name: string }[];
	/** tills that take a currency and offer nothing in it now, each with the way to the least change */
	readonly nothing: readonly { till: string; name: string; currency: string; href: string }[];
}

const TROUBLE: Record<string, string> = {
	gone: 'its route is removed',
	unverified: 'its route is not verified',
	mode: 'its route is of the other mode',
	paused: 'its route is paused',
	failing: 'its route is failing',
	'paused everywhere': 'paused everywhere',
	'account cannot': 'its account cannot carry it'
};

async function read(query: URLSearchParams): Promise<{ held: Snapshot; tills: GridTill[]; entries: GridEntry[] }> {
	const held = await snapshot();
	const now = new Date(timeNow());
	const only = (name: string) => query.get(name) ?? '';
	const tills: GridTill[] = [...held.tills.values()]
		.filter((till) => !only('till') || till.row.slug === only('till'))
		.map((till) => ({
			slug: till.row.slug,
			name: till.row.name,
			currencies: till.currencies,
			lineUp: till.published?.lineUp ?? [],
			base: contextOf(till, { currency: till.currencies[0] ?? '', minor: 1 }, held, now)
		}));
	const entries = gridEntries(tills, held.states).filter(
		(one) =>
			(!only('currency') || one.currency === only('currency')) &&
			(!only('method') || one.method === only('method')) &&
			(!only('connection') || one.carrier.id === only('connection') || one.standby?.id === only('connection'))
	);
	return { held, tills, entries };
}

/** A usual amount, at which it is asked what would make something offered: 50 of the currency's major unit. */
const USUAL = 50;
const askFor = (slug: string, currency: string, method = ''): string =>
	`/accept/tills/${slug}/ask?${new URLSearchParams({
		currency,
		amount: String(USUAL * 10 ** exponentOf(currency)),
		minor: 'yes',
		which: 'published',
		...(method ? { method } : {})
	})}`;

const nameOf = (carrier: Carrier | undefined, held: Snapshot): string =>
	(carrier && (held.connections.get(carrier.id)?.name ?? held.offline.get(carrier.id)?.name)) ?? 'removed';

/** The grid: methods and card schemes down, tills, currencies or connections across. */
export async function gridView(across: Pivot, query: URLSearchParams, locale: string): Promise<GridView> {
	const { held, tills, entries } = await read(query);
	const till = new Map(tills.map((one) => [one.slug, one]));
	const currencies = [...new Set(tills.flatMap((one) => one.currencies))].filter(
		(code) => !query.get('currency') || code === query.get('currency')
	);
	const carriers = [...new Set(entries.map((one) => one.carrier.id))];
	const columns =
		across === 'till'
			? tills.map((one) => {
					const { row, published } = held.tills.get(one.slug)!;
					return {
						key: one.slug,
						name: one.name,
						sub: published ? `version ${published.number}` : 'not published',
						href: `/accept/tills/${one.slug}`,
						test: row.mode === 'test',
						leastChange: published && askFor(one.slug, one.currencies[0] ?? 'EUR', 'METHOD')
					};
				})
			: across === 'currency'
				? currencies.map((code) => ({ key: code, name: code, sub: '', href: '', test: false }))
				: carriers.map((id) => ({
						key: id,
						name: nameOf(entries.find((one) => one.carrier.id === id)!.carrier, held),
						sub: held.connections.has(id) ? '' : 'offline',
						href: held.connections.has(id) ? `/connect/connections/${id}` : `/connect/offline/${id}`,
						test: held.connections.get(id)?.mode === 'test'
					}));
	const keyOf = (one: GridEntry) =>
		across === 'till' ? one.till : across === 'currency' ? one.currency : one.carrier.id;
	const rows = new Map<string, { method: string; scheme: string; cells: Map<string, GridEntry[]> }>();
	for (const one of entries) {
		const key = `${one.method} ${one.scheme}`;
		let row = rows.get(key);
		if (!row) {
			row = { method: one.method, scheme: one.scheme ?? '', cells: new Map() };
			rows.set(key, row);
		}
		const cell = row.cells.get(keyOf(one));
		if (cell) cell.push(one);
		else row.cells.set(keyOf(one), [one]);
	}
	const words = new Map<string, string[]>();
	const wordsOf = (one: GridEntry): string[] => {
		const key = `${one.till} ${one.offerId}`;
		let says = words.get(key);
		if (!says) {
			const offer = till.get(one.till)!.lineUp.find((other) => other.id === one.offerId)!;
			says = conditionsInWords(offer, locale, held.schemeNames);
			words.set(key, says);
		}
		return says;
	};
	const text = (one: GridEntry) => (across === 'currency' ? till.get(one.till)!.name : one.currency);
	const nameOfScheme = (id: string) => held.schemeNames[id] ?? id;
	const cellsOf = (row: { cells: Map<string, GridEntry[]> }): GridCell[] =>
		columns.map((column) => ({
			marks: (row.cells.get(column.key) ?? []).map((one) => ({
				text: text(one),
				under: across === 'connection' ? till.get(one.till)!.name : '',
				through: nameOf(one.onStandby ? one.standby : one.carrier, held),
				conditions: one.conditions,
				trouble: one.trouble ? TROUBLE[one.trouble]! : '',
				standby: one.onStandby,
				href: `/accept/tills/${one.till}/offers/${one.offerId}`,
				says: [
					`${one.offerName}, through ${nameOf(one.carrier, held)}${one.standby ? `; ${nameOf(one.standby, held)} stands by` : ''}`,
					...wordsOf(one)
				]
			}))
		}));
	const order = (method: string) => (method === 'card' ? 0 : method === 'device-wallet' ? 1 : 2);
	const methods = [...new Set([...rows.values()].map((row) => row.method))].sort(
		(a, b) => order(a) - order(b) || methodName(a as never).localeCompare(methodName(b as never))
	);
	const folded = methods.flatMap((method) => {
		const name = methodName(method as never);
		const alike = new Map<string, { schemes: string[]; cells: GridCell[] }>();
		for (const row of rows.values()) {
			if (row.method !== method) continue;
			const cells = cellsOf(row);
			const key = JSON.stringify(cells);
			const known = alike.get(key);
			if (known) known.schemes.push(nameOfScheme(row.scheme));
			else alike.set(key, { schemes: [nameOfScheme(row.scheme)], cells });
		}
		const groups = [...alike.values()].map(({ schemes, cells }) => ({ schemes: schemes.sort(), cells }));
		const [only] = groups;
		if (groups.length === 1 && only)
			return [{ key: method, name, sub: only.schemes.filter(Boolean).join(', '), under: '', cells: only.cells }];
		return groups
			.sort((a, b) => a.schemes[0]!.localeCompare(b.schemes[0]!))
			.map(({ schemes, cells }) => ({
				key: `${method} ${schemes.join(' ')}`,
				name: schemes.join(', '),
				sub: '',
				under: name,
				cells
			}));
	});
	return {
		columns,
		rows: folded,
		tills: [...held.tills.values()].map((one) => ({
			slug: one.row.slug,
			name: one.row.name,
			mode: one.row.mode,
			state: one.published ? `version ${one.published.number}` : 'not published',
			empty: !one.published
		})),
		currencies: [...new Set([...held.tills.values()].flatMap((one) => one.currencies))],
		methods: [
			...new Set([...held.tills.values()].flatMap((one) => (one.published?.lineUp ?? []).map((o) => o.method)))
		].map((value) => ({ value, name: methodName(value) })),
		connections: [...held.connections.values()]
			.filter((row) => !row.removedAt)
			.map(({ id, name, mode }) => ({ id, name: mode === 'test' ? `${name}, test` : name })),
		nothing: [...till.values()].flatMap((one) =>
			held.tills.get(one.slug)!.published
				? one.currencies
						.filter(
							(code) =>
								currencies.includes(code) &&
								!entries.some((entry) => entry.till === one.slug && entry.currency === code && !entry.trouble)
						)
						.map((currency) => ({ till: one.slug, name: one.name, currency, href: askFor(one.slug, currency) }))
				: []
		)
	};
}

/** The same as lines of a table, for export. */
export async function gridRows(query: URLSearchParams): Promise<Record<string, string>[]> {
	const { held, tills, entries } = await read(query);
	const names = new Map(tills.map((one) => [one.slug, one]));
	return entries.map((one) => ({
		till: names.get(one.till)!.name,
		method: methodName(one.method),
		scheme: one.scheme ? (held.schemeNames[one.scheme] ?? one.scheme) : '',
		currency: one.currency,
		offer: one.offerName,
		through: nameOf(one.carrier, held),
		standby: one.standby ? nameOf(one.standby, held) : '',
		conditions: one.conditions
			? conditionsInWords(
					names.get(one.till)!.lineUp.find((offer) => offer.id === one.offerId)!,
					'en-GB',
					held.schemeNames
				).join('; ')
			: '',
		now: one.trouble ? TROUBLE[one.trouble]! : one.onStandby ? 'by its standby' : 'accepted'
	}));
}
