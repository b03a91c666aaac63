import { createHash } from 'node:crypto';
import { formatDay, inZone, readDay } from '../../core/calendar';
import { counted } from '../../core/counted';
import {
	ACCOUNT_CHARGES,
	kindAt,
	sayCause,
	type ContractVersion,
	type DifferingGroup,
	type FeeCause,
	type PastKind
} from '../../core/fees';
import { methodName } from '../../core/lineup';
import { formatAmount } from '../../core/money';
import type { Verdict, Working } from '../../core/workings';
import { snapshot } from '../accept/snapshot';
import {
	db,
	discrepanciesOfCharge,
	discrepanciesOfPayment,
	feeReach,
	lastCapture,
	pastStamp,
	type ConnectionRow
} from '../db';
import { Jobs, type Job, type Work } from '../jobs';
import { priceMonthsOf } from '../payments/reprice';
import { contractsOf } from '../ratecards';
import { timeNow } from '../signals/clock';
import { inThread } from '../threads';
import { differingOfAccount } from './account';
import { monthsBetween } from './overTime';
import { schemeName } from './words';

// The fee check over a stretch of days at will: every payment is priced anew by the contract of its day, and every charge of the
// accounts is held against it. It writes nothing; what was found before is told with where it stands.

/** One cause in the days that were checked. Sums are minor units of `currency`. */
export interface CheckedCause {
	readonly connection: string;
	readonly currency: string;
	readonly cause: FeeCause;
	readonly parameter: string;
	/** parts per million, of a conversion that was agreed otherwise */
	readonly agreedMargin?: number;
	readonly kinds: string;
	readonly first: string;
	readonly last: string;
	/** payments, or charges of the account */
	readonly count: number;
	readonly isOfAccount: boolean;
	readonly over: number;
	readonly under: number;
	/** the discrepancy that holds it, and how far that has come */
	readonly discrepancy?: { readonly id: number; readonly state: string };
}
/** What of a connection was checked, in one currency. */
export interface CheckedConnection {
	readonly connection: string;
	readonly connectionId: string;
	readonly currency: string;
	/** payments and charges */
	readonly payments: number;
	readonly charges: number;
	/** told by the processor and priced by a contract */
	readonly checked: number;
	/** no contract has a price for them */
	readonly unpriced: number;
	/** their processor has told no fee yet */
	readonly untold: number;
	readonly expected: number;
	readonly charged: number;
	readonly differing: number;
}
export interface CheckedPeriod {
	readonly from: string;
	readonly to: string;
	readonly causes: readonly CheckedCause[];
	readonly connections: readonly CheckedConnection[];
	/** payments whose kept expectation is another than what they are priced at now: they are about to be priced anew */
	readonly stale: number;
}

const KEPT = 4;
const jobs = new Jobs<CheckedPeriod>('a fee check', KEPT);
export const checkAt = (key: string): Job<CheckedPeriod> | undefined => jobs.at(key);

/** Reads the days to check: the last month of captures where the address says nothing. */
export async function readDaysAsked(query: URLSearchParams, locale: string): Promise<{ from: string; to: string }> {
	const { business } = await snapshot();
	const last = inZone(new Date((await lastCapture()) ?? timeNow()), business.timeZone).day;
	const [from, to] = ['from', 'to'].map((name) => readDay(query.get(name) ?? '', locale));
	const end = to ?? last;
	const begin = from ?? `${end.slice(0, 7)}-01`;
	return begin <= end ? { from: begin, to: end } : { from: end, to: begin };
}

/** Begins the check, or gives what was found before and is the same still. */
export async function beginCheck(asked: { from: string; to: string }): Promise<Job<CheckedPeriod>> {
	const cards = await db.rateCards.find({ role: 'contract' });
	const key = createHash('sha256')
		.update(
			JSON.stringify([
				asked,
				await pastStamp(),
				cards.map(({ id, validFrom, card }) => [id, validFrom, card]),
				await db.accountCharges.count({}),
				(await db.discrepancies.find({})).map(({ id, state, count }) => [id, state, count])
			])
		)
		.digest('base64url')
		.slice(0, 20);
	return jobs.begin(key, (told) => check(asked, told));
}

interface Sums {
	payments: number;
	charges: number;
	checked: number;
	unpriced: number;
	untold: number;
	expected: number;
	charged: number;
	differing: number;
}
const none = (): Sums => ({
	payments: 0,
	charges: 0,
	checked: 0,
	unpriced: 0,
	untold: 0,
	expected: 0,
	charged: 0,
	differing: 0
});

async function check(asked: { from: string; to: string }, { progress, breathe }: Work): Promise<CheckedPeriod> {
	const { from, to } = asked;
	const reach = await feeReach();
	// months in which nothing was captured are not gone through
	const months =
		reach && from.slice(0, 7) <= reach.to && to.slice(0, 7) >= reach.from
			? monthsBetween(
					from.slice(0, 7) > reach.from ? from.slice(0, 7) : reach.from,
					to.slice(0, 7) < reach.to ? to.slice(0, 7) : reach.to
				)
			: [];
	const connections = await db.connections.find({ mode: 'live' });
	progress.of = connections.length * (months.length + 1);
	const causes: CheckedCause[] = [];
	const sums: CheckedConnection[] = [];
	let stale = 0;
	for (const connection of connections) {
		const versions = (await contractsOf(connection.id)).map(({ id, validFrom, body }) => ({
			id,
			validFrom,
			card: body
		}));
		const byCurrency = new Map<string, Sums>();
		const sumOf = (currency: string) => {
			const known = byCurrency.get(currency) ?? none();
			byCurrency.set(currency, known);
			return known;
		};
		const groups = new Map<
			string,
			{ kindId: number; version: ContractVersion; payments: DifferingGroup['payments'][number][] }
		>();
		const begun = progress.done;
		const gone = new Set<string>();
		for await (const priced of priceMonthsOf(connection, months)) {
			await breathe();
			gone.add(priced[0]!.row.accountDay.slice(0, 7));
			progress.done = begun + gone.size - 1;
			for (const { row, contract, rate, before, expected } of priced) {
				if (row.accountDay < from || row.accountDay > to) continue;
				const sum = sumOf(contract?.body.settlement ?? row.feeCurrency ?? row.currency);
				sum.payments++;
				if (expected !== row.expected) stale++;
				if (expected === null) {
					sum.unpriced++;
					continue;
				}
				if (row.charged === null) {
					sum.untold++;
					continue;
				}
				sum.checked++;
				sum.expected += expected;
				sum.charged += row.charged;
				if (row.charged === expected) continue;
				sum.differing++;
				const key = `${row.kindId} ${contract!.id}`;
				const group = groups.get(key) ?? {
					kindId: row.kindId,
					version: versions.find((one) => one.id === contract!.id)!,
					payments: []
				};
				groups.set(key, group);
				group.payments.push({
					id: row.id,
					day: row.accountDay,
					paid: { minor: row.taken, currency: row.currency },
					refunded: row.refunded,
					rate,
					before,
					expected,
					charged: row.charged
				});
			}
		}
		progress.done = begun + months.length;
		await breathe();
		causes.push(...(await nameCauses(connection, [...groups.values()], versions)));
		causes.push(...(await accountCauses(connection, from, to, sumOf)));
		for (const [currency, sum] of byCurrency)
			sums.push({ connection: connection.name, connectionId: connection.id, currency, ...sum });
		progress.done++;
	}
	causes.sort((a, b) => Math.abs(b.over - b.under) - Math.abs(a.over - a.under));
	return { from, to, causes, connections: sums, stale };
}

async function nameCauses(
	connection: ConnectionRow,
	found: readonly { kindId: number; version: ContractVersion; payments: DifferingGroup['payments'][number][] }[],
	versions: readonly ContractVersion[]
): Promise<CheckedCause[]> {
	if (!found.length) return [];
	const kinds = new Map(
		(await db.paymentKinds.find({ id: found.map((one) => one.kindId) })).map((row) => [row.id, row])
	);
	const groups = found.map(({ kindId, version, payments }): DifferingGroup => ({
		kind: kindAt(kinds.get(kindId) as unknown as PastKind, version.card, connection.accountCountry),
		version,
		payments: payments.sort((a, b) => (a.day < b.day ? -1 : a.day > b.day ? 1 : a.id - b.id))
	}));
	// one cause of several kinds is one line, as among the discrepancies
	const merged = new Map<string, CheckedCause & { kindIds: Set<number> }>();
	for (const { group, cause, parameter, first, last, payments, over, under } of await inThread('explainFees', {
		groups,
		versions
	})) {
		const { kindId, version } = found[group]!;
		const key = `${cause} ${parameter} ${version.id} ${cause === 'not explained' ? kindId : ''}`;
		const known = merged.get(key);
		if (known) {
			known.kindIds.add(kindId);
			merged.set(key, {
				...known,
				first: first < known.first ? first : known.first,
				last: last > known.last ? last : known.last,
				count: known.count + payments.length,
				over: known.over + over,
				under: known.under + under
			});
			continue;
		}
		const [discrepancy] = await discrepanciesOfPayment(payments[0]!);
		merged.set(key, {
			connection: connection.name,
			currency: version.card.settlement,
			cause,
			parameter,
			...(cause === 'conversion' ? { agreedMargin: version.card.conversion } : {}),
			kinds: '',
			kindIds: new Set([kindId]),
			first,
			last,
			count: payments.length,
			isOfAccount: false,
			over,
			under,
			...(discrepancy ? { discrepancy } : {})
		});
	}
	return [...merged.values()].map(({ kindIds, ...one }) => ({
		...one,
		kinds: [
			...new Set(
				[...kindIds].map((id) => {
					const { method, scheme, funding, issuer } = kinds.get(id)!;
					return [
						methodName(method as never),
						...[scheme && schemeName(scheme), funding, issuer].filter((part) => part && !/^unknown$/i.test(part))
					].join(' ');
				})
			)
		].join('; ')
	}));
}

async function accountCauses(
	connection: ConnectionRow,
	from: string,
	to: string,
	sumOf: (currency: string) => Sums
): Promise<CheckedCause[]> {
	for (const row of await db.accountCharges.find({ connectionId: connection.id, kind: [...ACCOUNT_CHARGES] })) {
		if (row.day >= from && row.day <= to) sumOf(row.currency).charges++;
	}
	const merged = new Map<string, CheckedCause>();
	for (const one of await differingOfAccount(connection.id)) {
		if (one.day < from || one.day > to) continue;
		const key = `${one.cause} ${one.parameter} ${one.versionId}`;
		const more = one.charged - one.expected;
		const known = merged.get(key);
		const [discrepancy] = known ? [] : await discrepanciesOfCharge(connection.id, one.key);
		merged.set(key, {
			connection: connection.name,
			currency: one.currency,
			cause: one.cause,
			parameter: one.parameter,
			kinds: '',
			isOfAccount: true,
			first: known && known.first < one.day ? known.first : one.day,
			last: known && known.last > one.day ? known.last : one.day,
			count: (known?.count ?? 0) + 1,
			over: (known?.over ?? 0) + Math.max(0, more),
			under: (known?.under ?? 0) + Math.max(0, -more),
			...(known?.discrepancy ? { discrepancy: known.discrepancy } : discrepancy ? { discrepancy } : {})
		});
	}
	return [...merged.values()];
}

/** What was found, for the screen. */
export function showCheck({ from, to, causes, connections, stale }: CheckedPeriod, locale: string) {
	const say = (minor: number, currency: string) => formatAmount({ minor, currency }, locale);
	const all = (pick: (one: CheckedConnection) => number) => connections.reduce((sum, one) => sum + pick(one), 0);
	const span =
		from === to ? `On ${formatDay(from, locale)}` : `From ${formatDay(from, locale)} to ${formatDay(to, locale)}`;
	const [checked, charges] = [all((one) => one.checked), all((one) => one.charges)];
	const what = `${counted(checked, 'payment', locale)}${charges ? ` and ${counted(charges, 'charge', locale)} of accounts` : ''}`;
	const differ = causes.reduce((sum, one) => sum + one.count, 0);
	const left = new Map<string, number>();
	for (const one of causes) left.set(one.currency, (left.get(one.currency) ?? 0) + one.over - one.under);
	const verdict: Verdict =
		!all((one) => one.payments) && !charges
			? [{ text: `${span}, no processor captured or charged anything.` }]
			: !checked && !charges
				? [
						{
							text: `${span}, ${counted(
								all((one) => one.payments),
								'payment',
								locale
							)} came, and none could be checked: no contract prices them, or no fee was told.`
						}
					]
				: [
						{ text: `${span}, ${what} were held against the contracts of their days: ` },
						...(differ
							? [
									{ text: differ === 1 ? 'one differs, ' : `${differ.toLocaleString(locale)} differ, ` },
									...[...left].flatMap(([currency, minor], at) => [
										...(at ? [{ text: ' and ' }] : []),
										{
											text: `${say(Math.abs(minor), currency)} too ${minor < 0 ? 'little' : 'much'}`,
											tone: 'clay' as const,
											working: workingOf(currency, causes, locale)
										}
									]),
									{ text: '.' }
								]
							: [{ text: 'every one is as agreed.' }])
					];
	return {
		verdict,
		stale,
		causes: causes.map((one, at) => ({
			at,
			says: sayCause(one, locale, schemeName, one.agreedMargin),
			kinds: one.kinds,
			connection: one.connection,
			first: formatDay(one.first, locale),
			last: formatDay(one.last, locale),
			count: counted(one.count, one.isOfAccount ? 'charge' : 'payment', locale),
			over: one.over ? say(one.over, one.currency) : '',
			under: one.under ? say(one.under, one.currency) : '',
			difference: say(one.over - one.under, one.currency),
			...(one.discrepancy ? { href: `/watch/discrepancies/${one.discrepancy.id}`, state: one.discrepancy.state } : {})
		})),
		connections: connections.map((one) => ({
			id: `${one.connectionId} ${one.currency}`,
			connection: one.connection,
			href: `/connect/connections/${one.connectionId}/rates`,
			payments: one.payments.toLocaleString(locale),
			charges: one.charges ? one.charges.toLocaleString(locale) : '',
			unpriced: one.unpriced ? one.unpriced.toLocaleString(locale) : '',
			untold: one.untold ? one.untold.toLocaleString(locale) : '',
			expected: say(one.expected, one.currency),
			charged: say(one.charged, one.currency),
			difference: say(one.charged - one.expected, one.currency)
		}))
	};
}

function workingOf(currency: string, causes: readonly CheckedCause[], locale: string): Working {
	const mine = causes.filter((one) => one.currency === currency);
	const say = (minor: number) => formatAmount({ minor, currency }, locale);
	return {
		title: `Charged otherwise, in ${currency}`,
		steps: [
			...mine.map((one) => ({
				title: sayCause(one, locale, schemeName, one.agreedMargin),
				sub: `${one.connection}, ${counted(one.count, one.isOfAccount ? 'charge' : 'payment', locale)}`,
				sum: say(one.over - one.under)
			})),
			{ title: 'In all', sum: say(mine.reduce((sum, one) => sum + one.over - one.under, 0)), total: true }
		]
	};
}
