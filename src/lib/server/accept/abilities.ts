import { FUNDINGS, REGIONS } from '../../core/cards';
import { ENTRY_MODES } from '../../core/fees';
import { hasCard, methodName, ONLINE_METHODS, type Method } from '../../core/lineup';
import { formatNumber } from '../../core/money';
import type { Verdict, Working, WorkingStep as Step } from '../../core/workings';
import { allTills, tillCurrencies } from './tills';
import { lineUpsOf } from './lineups';
import { connectorOf } from '../connectors';
import type { ConnectionRow } from '../db';
import { readAccount, type StoredAccount } from '../connectors/account';
import { allConnections } from '../connect/connections';

/** What a cell says by its mark: used by a till, could be, a switch or an approval is missing there, or not at all. */
export type AbilityMark = 'used' | 'can' | 'there' | 'no';
/** One cell: its mark, a few words where the mark does not say all, and all that is behind it. */
export interface Cell {
	readonly mark: AbilityMark;
	readonly text?: string;
	readonly working: Working;
}
export interface AbilityRow {
	readonly name: string;
	readonly cells: readonly Cell[];
}
interface AbilityColumn {
	readonly id: string;
	readonly name: string;
	readonly mode: 'test' | 'live';
	readonly readAt: number;
}
export interface AbilityTable {
	readonly connections: readonly AbilityColumn[];
	readonly methods: readonly { method: Method; name: string }[];
	readonly method: Method;
	/** methods by connection */
	readonly rows: readonly AbilityRow[];
	/** what those that carry the method can do with it */
	readonly able: readonly AbilityColumn[];
	readonly groups: readonly { name: string; rows: readonly AbilityRow[] }[];
	/** what cannot be taken today though an account could */
	readonly verdict: Verdict;
}

interface Held {
	readonly row: ConnectionRow;
	readonly account: StoredAccount;
	readonly offers: readonly Method[];
	/** method → names of tills that use it here */
	readonly uses: ReadonlyMap<string, readonly string[]>;
}

/** Which tills use which method of which connection, read once for all cells. */
async function tillsByMethod(): Promise<Map<string, Map<string, string[]>>> {
	const uses = new Map<string, Map<string, string[]>>();
	for (const till of await allTills()) {
		const { draft, published } = await lineUpsOf(till.id);
		for (const [version, suffix] of [
			[published, ''],
			[draft, ' (draft)']
		] as const)
			for (const offer of version?.offers ?? [])
				for (const route of Object.values(offer.routes))
					for (const carrier of [route.first, route.standby])
						if (carrier?.kind === 'connection') {
							const mine = uses.get(carrier.id) ?? new Map<string, string[]>();
							const names = mine.get(offer.method) ?? [];
							const name = till.name + suffix;
							if (!names.includes(name) && !(suffix && names.includes(till.name))) names.push(name);
							mine.set(offer.method, names);
							uses.set(carrier.id, mine);
						}
	}
	return uses;
}

async function held(): Promise<Held[]> {
	const [rows, uses] = await Promise.all([allConnections(), tillsByMethod()]);
	// what is test stands beside what is live at the same processor
	const sorted = [...rows].sort((a, b) => a.name.localeCompare(b.name) || a.mode.localeCompare(b.mode));
	return sorted.map((row) => ({
		row,
		account: readAccount(row.account),
		offers: connectorOf(row.processor).about.methods,
		uses: uses.get(row.id) ?? new Map<string, string[]>()
	}));
}

/** Why a connection cannot carry a method; empty when it can. */
function whyNot({ row, account, offers }: Held, method: Method): string {
	if (account.abilities.some((one) => one.method === method)) return '';
	const unable = account.unable.find((one) => one.method === method);
	if (unable) return unable.says;
	if (!offers.includes(method)) return `${row.name} does not offer it.`;
	return 'This account cannot carry it.';
}
const title = ({ row }: Held, what: string) => `${row.name}: ${what}`;
const used = (one: Held, method: Method): Step[] => {
	const tills = one.uses.get(method);
	return [{ title: tills ? `Used by ${tills.join(', ')}` : 'No till uses it yet' }];
};
const no = (one: Held, method: Method, says: string): Cell => ({
	mark: one.account.unable.some((entry) => entry.method === method) ? 'there' : 'no',
	working: { title: title(one, methodName(method).toLowerCase()), steps: [{ mark: 'no', title: says }] }
});
const range = ({ minimum, maximum }: { minimum?: number; maximum?: number }, currency: string, locale: string) => {
	const say = (minor: number) => formatNumber({ minor, currency }, locale);
	if (minimum === undefined && maximum === undefined) return 'any amount';
	if (maximum === undefined) return `from ${say(minimum!)}`;
	return `${minimum === undefined ? 'up to' : `${say(minimum)} to`} ${say(maximum)}`;
};

/** The table of what every connection can do, with the reason behind every no. */
export async function abilityTable(wanted: string, locale: string): Promise<AbilityTable> {
	const all = await held();
	const methods = ONLINE_METHODS.filter((method) =>
		all.some((one) => one.offers.includes(method) || one.account.abilities.some((ability) => ability.method === method))
	);
	const method = methods.find((one) => one === wanted) ?? methods[0] ?? 'card';
	const abilityIn = (one: Held, which: Method) => one.account.abilities.find((ability) => ability.method === which);
	const rows = methods.map((which) => ({
		name: methodName(which),
		cells: all.map((one): Cell => {
			const ability = abilityIn(one, which);
			if (!ability) return no(one, which, whyNot(one, which));
			return {
				mark: one.uses.get(which) ? 'used' : 'can',
				working: {
					title: title(one, methodName(which).toLowerCase()),
					about: `Read from ${one.row.name}, account ${one.row.accountId}.`,
					steps: [
						...ability.limits.map((limit) => ({
							mark: 'yes' as const,
							title: limit.currency,
							sub: range(limit, limit.currency, locale)
						})),
						{ title: `Entry: ${ability.entries.join(', ')}` },
						...(ability.wantsDomainProof ? [{ title: 'Each web domain must be proven first' }] : []),
						...(ability.wantsPageCode ? [{ title: 'Wants its code on the shop’s page' }] : []),
						...used(one, which)
					]
				}
			};
		})
	}));
	const able = all.filter((one) => abilityIn(one, method));
	const groups: { name: string; rows: AbilityRow[] }[] = [];
	const row = (
		name: string,
		cell: (one: Held, ability: NonNullable<ReturnType<typeof abilityIn>>) => string | { not: string }
	): AbilityRow => ({
		name,
		cells: able.map((one): Cell => {
			const told = cell(one, abilityIn(one, method)!);
			if (typeof told !== 'string')
				return {
					mark: 'no',
					working: { title: title(one, name), steps: [{ mark: 'no', title: told.not }] }
				};
			return {
				mark: one.uses.get(method) ? 'used' : 'can',
				...(told === 'yes' ? {} : { text: told }),
				working: {
					title: title(one, `${methodName(method).toLowerCase()}, ${name}`),
					steps: [{ mark: 'yes', title: told === 'yes' ? `${name}: yes` : told }, ...used(one, method)]
				}
			};
		})
	});
	const currencies = [...new Set(able.flatMap((one) => abilityIn(one, method)!.currencies))].sort();
	groups.push({
		name: 'Currencies and limits',
		rows: currencies.map((code) =>
			row(code, ({ row: own }, { currencies: carried, limits }) => {
				if (!carried.includes(code))
					return { not: `${own.name} does not carry ${code}; it carries ${carried.join(', ')}.` };
				const limit = limits.find((one) => one.currency === code);
				return limit && (limit.minimum !== undefined || limit.maximum !== undefined)
					? range(limit, code, locale)
					: 'yes';
			})
		)
	});
	if (hasCard(method)) {
		const schemes = [
			...new Map(able.flatMap((one) => one.account.schemes.map((scheme) => [scheme.id, scheme.name] as const)))
		];
		const part = (name: string, id: string, of: 'schemes' | 'fundings' | 'regions') =>
			row(name, ({ row: own }, { cardTypes }) => {
				const list = cardTypes?.[of] ?? 'any';
				return list === 'any' || (list as readonly string[]).includes(id)
					? 'yes'
					: { not: `${own.name} takes ${list.join(', ')}, not ${id}.` };
			});
		groups.push(
			{ name: 'Card schemes', rows: schemes.map(([id, name]) => part(name, id, 'schemes')) },
			{ name: 'Funding', rows: FUNDINGS.map((id) => part(id, id, 'fundings')) },
			{ name: 'Region', rows: REGIONS.map((id) => part(id, id, 'regions')) }
		);
	}
	groups.push({
		name: 'Entry',
		rows: ENTRY_MODES.map((entry) =>
			row(entry, ({ row: own }, { entries }) =>
				entries.includes(entry) ? 'yes' : { not: `${own.name} carries ${entries.join(', ')} payments only.` }
			)
		)
	});
	groups.push({
		name: 'Time and refunds',
		rows: [
			row('capture later', ({ account, row: own }) =>
				connectorOf(own.processor).capture && account.authorisationDays
					? `${account.authorisationDays} days`
					: { not: 'Money is taken at once; it cannot be held first.' }
			),
			row('refunds', ({ account }) => `${account.refundDays} days`),
			row('can come back', ({ account }) =>
				account.returns && method === 'bank-debit'
					? `${account.returns.weeks} weeks`
					: { not: 'Only by a refund or a dispute.' }
			),
			row('pays out', ({ account }) => `${account.payout.bankDays} bank days`)
		]
	});
	const column = ({ row: own }: Held) => ({ id: own.id, name: own.name, mode: own.mode, readAt: own.accountReadAt });
	return {
		connections: all.map(column),
		methods: methods.map((one) => ({ method: one, name: methodName(one) })),
		method,
		rows,
		able: able.map(column),
		groups,
		verdict: await unusedVerdict(all)
	};
}

/** So many are named in the sentence; the rest stands in the workings. */
const NAMED = 3;

/** What cannot be taken today at any live till, though a live account could carry it: by method and currency. */
async function unusedVerdict(all: readonly Held[]): Promise<Verdict> {
	const live = all.filter((one) => one.row.mode === 'live' && one.row.verified);
	if (!live.length)
		return [
			{ text: 'No verdict: no live account is connected, so nothing can be taken yet. ' },
			{ text: 'Connect a processor', href: '/connect/processors' }
		];
	const taken = new Set<string>();
	for (const till of await allTills()) {
		if (till.mode !== 'live') continue;
		const { published } = await lineUpsOf(till.id);
		for (const offer of published?.offers ?? [])
			if (offer.on)
				for (const currency of tillCurrencies(till))
					if (offer.routes[currency]) taken.add(`${offer.method} ${currency}`);
	}
	const could = new Map<string, { method: Method; currency: string; names: string[] }>();
	for (const { row, account } of live)
		for (const { method, currencies } of account.abilities)
			for (const currency of currencies) {
				const key = `${method} ${currency}`;
				if (taken.has(key)) continue;
				const one = could.get(key) ?? { method, currency, names: [] };
				one.names.push(row.name);
				could.set(key, one);
			}
	if (!could.size)
		return [
			{ text: 'Your tills take every method in every currency that your live accounts can carry.', tone: 'moss' }
		];
	const byMethod = new Map<Method, string[]>();
	for (const { method, currency } of could.values()) byMethod.set(method, [...(byMethod.get(method) ?? []), currency]);
	const says = [...byMethod].map(
		([method, currencies]) => `${methodName(method).toLowerCase()} in ${inWords(currencies)}`
	);
	return [
		{ text: 'No till takes ' },
		{
			text: `${could.size} way${could.size === 1 ? '' : 's'} to pay that your accounts could`,
			working: {
				title: 'Could be taken, and is not',
				about:
					'A method in a currency that a live account carries, and that no published line-up of a live till routes.',
				steps: [...could.values()].map(({ method, currency, names }) => ({
					title: `${methodName(method)}, ${currency}`,
					sub: `by ${inWords(names)}`
				})),
				end: {
					tone: 'blue',
					text: 'To take one, add an offer for it to a till’s line-up, or take its currency in the till’s settings.'
				}
			}
		},
		{
			text: `: ${says.slice(0, NAMED).join('; ')}${says.length > NAMED ? ` and ${says.length - NAMED} more methods` : ''}. `
		},
		{ text: 'Open the line-ups', href: '/accept' }
	];
}
const inWords = (list: readonly string[]): string =>
	list.length > 1 ? `${list.slice(0, -1).join(', ')} and ${list.at(-1)}` : (list[0] ?? '');

/** The whole table as lines: one per connection, method, currency and card type, or per reason why not. */
export async function abilityLines(): Promise<Record<string, string>[]> {
	const lines: Record<string, string>[] = [];
	for (const one of await held()) {
		const base = {
			connection: one.row.name,
			processor: one.row.processor,
			mode: one.row.mode,
			account: one.row.accountId
		};
		const blank = {
			currency: '',
			from_minor: '',
			to_minor: '',
			scheme: '',
			funding: '',
			region: '',
			entry: '',
			used_by: ''
		};
		const methods = new Set<Method>([...one.offers, ...one.account.abilities.map((ability) => ability.method)]);
		for (const method of methods) {
			const ability = one.account.abilities.find((entry) => entry.method === method);
			if (!ability) {
				lines.push({ ...base, method, can: 'no', why: whyNot(one, method), ...blank });
				continue;
			}
			const types = ability.cardTypes;
			const list = (values: readonly string[] | 'any' | undefined) =>
				values === undefined || values === 'any' ? [''] : values;
			for (const currency of ability.currencies)
				for (const scheme of list(types?.schemes))
					for (const funding of list(types?.fundings))
						for (const region of list(types?.regions)) {
							const limit = ability.limits.find((entry) => entry.currency === currency);
							lines.push({
								...base,
								method,
								can: 'yes',
								why: '',
								currency,
								from_minor: String(limit?.minimum ?? ''),
								to_minor: String(limit?.maximum ?? ''),
								scheme,
								funding,
								region,
								entry: ability.entries.join(' '),
								used_by: one.uses.get(method)?.join('; ') ?? ''
							});
						}
		}
	}
	return lines;
}
