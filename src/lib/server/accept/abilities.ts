import { FUNDINGS, REGIONS } from '../../core/cards';
import { ENTRY_MODES } from '../../core/fees';
import { hasCard, methodName, ONLINE_METHODS, type Method } from '../../core/lineup';
import { formatNumber } from '../../core/money';
import type { Working, WorkingStep as Step } from '../../core/workings';
import { allTills } from './tills';
import { lineUpsOf } from './lineups';
import { connectorOf } from '../connectors';
import type { ConnectionRow } from '../db';
import { readAccount, type StoredAccount } from '../connectors/account';
import { allConnections } from '../connect/connections';

/** One cell: yes or no, a few words, and all that is behind it. */
export interface Cell {
	readonly is: boolean;
	readonly text: string;
	readonly working: Working;
}
export interface AbilityRow {
	readonly name: string;
	readonly cells: readonly Cell[];
}
export interface AbilityTable {
	readonly connections: readonly { id: string; name: string; mode: 'test' | 'live'; readAt: number }[];
	readonly methods: readonly { method: Method; name: string }[];
	readonly method: Method;
	readonly groups: readonly { name: string; rows: readonly AbilityRow[] }[];
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
	return rows.map((row) => ({
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
const SHORT = { 'not enabled': 'not enabled', country: 'not here', approval: 'approval awaited' } as const;
const shortWhy = (one: Held, method: Method): string => {
	const unable = one.account.unable.find((entry) => entry.method === method);
	return unable ? SHORT[unable.why] : 'not offered';
};
const title = ({ row }: Held, what: string) => `${row.name}: ${what}`;
const used = (one: Held, method: Method): Step[] => {
	const tills = one.uses.get(method);
	return [{ title: tills ? `Used by ${tills.join(', ')}` : 'No till uses it yet' }];
};
const no = (one: Held, method: Method, says: string, text = shortWhy(one, method)): Cell => ({
	is: false,
	text,
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
	const groups: { name: string; rows: AbilityRow[] }[] = [
		{
			name: 'Methods',
			rows: methods.map((which) => ({
				name: methodName(which),
				cells: all.map((one) => {
					const ability = abilityIn(one, which);
					if (!ability) return no(one, which, whyNot(one, which));
					return {
						is: true,
						text: one.uses.get(which) ? `in use` : 'yes',
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
			}))
		}
	];
	const row = (
		name: string,
		cell: (one: Held, ability: NonNullable<ReturnType<typeof abilityIn>>) => string | { not: string; text?: string }
	): AbilityRow => ({
		name,
		cells: all.map((one) => {
			const ability = abilityIn(one, method);
			if (!ability) return no(one, method, whyNot(one, method), '–');
			const told = cell(one, ability);
			if (typeof told !== 'string') return no(one, method, told.not, told.text ?? 'no');
			return {
				is: true,
				text: told,
				working: {
					title: title(one, `${methodName(method).toLowerCase()}, ${name}`),
					steps: [{ mark: 'yes', title: told === 'yes' ? `${name}: yes` : told }, ...used(one, method)]
				}
			};
		})
	});
	const currencies = [...new Set(all.flatMap((one) => abilityIn(one, method)?.currencies ?? []))].sort();
	groups.push({
		name: 'Currencies and limits',
		rows: currencies.map((code) =>
			row(code, ({ row: own }, { currencies: carried, limits }) => {
				if (!carried.includes(code))
					return { not: `${own.name} does not carry ${code}; it carries ${carried.join(', ')}.` };
				const limit = limits.find((one) => one.currency === code);
				return limit ? range(limit, code, locale) : 'any amount';
			})
		)
	});
	if (hasCard(method)) {
		const schemes = [
			...new Map(all.flatMap((one) => one.account.schemes.map((scheme) => [scheme.id, scheme.name] as const)))
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
		name: 'Around it',
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
					: { not: 'Only by a refund or a dispute.', text: 'no' }
			),
			row('pays out', ({ account }) => `${account.payout.bankDays} bank days`)
		]
	});
	return {
		connections: all.map(({ row: own }) => ({ id: own.id, name: own.name, mode: own.mode, readAt: own.accountReadAt })),
		methods: methods.map((one) => ({ method: one, name: methodName(one) })),
		method,
		groups
	};
}

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
