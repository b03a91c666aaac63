import { orders, payments, type OrderRow, type PaymentRow } from '../tables';
import { select, selectLong } from './select';

// The list of payments: any filters together, paged by key. What an index cannot answer is looked through a stretch at a
// time, so that a page takes no longer where there are more payments; how far it looked is told.

export const PAGE = 50;

/** Where a list goes on: the last payment that it showed or looked at. */
export interface PageKey {
	readonly day: string;
	readonly at: number;
	readonly id: number;
}
export interface PaymentFilter {
	/** the begin of a reference, a creditor reference, a processor's id, a mail address, of words of the payer's name, or a card's last four */
	readonly text?: string;
	readonly stages?: readonly string[];
	readonly tillId?: string;
	readonly method?: string;
	readonly connectionId?: string;
	readonly offlineId?: string;
	/** of a card, or `unknown` */
	readonly scheme?: string;
	readonly funding?: string;
	readonly currency?: string;
	/** minor units, both included, by the number of decimals that a currency has */
	readonly least?: Readonly<Record<number, number>>;
	readonly most?: Readonly<Record<number, number>>;
	/** currencies by the number of their decimals; only with bounds */
	readonly decimals?: Readonly<Record<number, readonly string[]>>;
	/** days of the business, both included: of the capture, or where there is none, of the request */
	readonly from?: string;
	readonly to?: string;
	/** a payer's mail address, whole */
	readonly payer?: string;
	/** fees that differ, events that contradict each other, outcomes that are not known, orders paid beyond their sum */
	readonly trouble?: Trouble;
	/** trial payments alone; they are no money and stand in no other list */
	readonly trials?: boolean;
	readonly before?: PageKey;
}
export const TROUBLES = ['fee', 'contradiction', 'unknown', 'overpaid'] as const;
export type Trouble = (typeof TROUBLES)[number];

/** Words of a search as FTS5 takes them: each must be there, and the last one may go on. */
const matchOf = (text: string): string => {
	const words = text.split(/[^\p{L}\p{N}]+/u);
	return words
		.map((word, at) => (word ? `"${word}"${at === words.length - 1 ? '*' : ''}` : ''))
		.filter(Boolean)
		.join(' ');
};

/** Ids that are found through indexes, the newest first: so many at most, and whether there are more. */
interface FoundIds {
	readonly ids: readonly number[];
	readonly isCut: boolean;
}
export const SEARCHED = 2_000;
const cutIds = (rows: readonly { id: number }[]): FoundIds => ({
	ids: rows.slice(0, SEARCHED).map((row) => row.id),
	isCut: rows.length > SEARCHED
});

/** Payments that a search means. */
async function searched(text: string): Promise<FoundIds> {
	const to = `${text}\u{10ffff}`;
	const upper = text.toUpperCase().replace(/\s+/g, '');
	const match = matchOf(text);
	const rows = await select<{ id: number }>(
		// ids of processors stand in one index with the account that they are of: each account is looked up by itself
		`WITH accounts AS (SELECT DISTINCT processor, mode, account_id FROM connections
			UNION SELECT DISTINCT processor, 'live', account_id FROM settlement_files)
		 SELECT id FROM payments WHERE reference >= :text AND reference < :to AND reference <> ''
		 UNION SELECT id FROM payments WHERE creditor_reference >= :upper AND creditor_reference < :upperTo AND creditor_reference <> ''
		 UNION SELECT p.id FROM orders o JOIN payments p ON p.order_id = o.id
			WHERE o.outside_reference >= :text AND o.outside_reference < :to AND o.outside_reference <> ''
		 UNION SELECT p.id FROM accounts owner CROSS JOIN payments p ON p.processor = owner.processor AND p.mode = owner.mode AND p.account_id = owner.account_id
			AND p.processor_id >= :text AND p.processor_id < :to AND p.processor_id IS NOT NULL
		 ${/^\d{4}$/.test(text) ? `UNION SELECT id FROM payments WHERE json_extract(card, '$.last4') = :text AND card IS NOT NULL` : ''}
		 ${match ? 'UNION SELECT rowid FROM payment_words WHERE payment_words MATCH :match' : ''}
		 ORDER BY id DESC LIMIT ${SEARCHED + 1}`,
		{ text, to, upper, upperTo: `${upper}\u{10ffff}`, match }
	);
	return cutIds(rows);
}

const idsOf = async (text: string, replacements: Record<string, unknown> = {}): Promise<FoundIds> =>
	cutIds(await select<{ id: number }>(`${text} LIMIT ${SEARCHED + 1}`, replacements));

/** A part of a condition, with the values in it. */
interface Part {
	readonly sql: string;
	readonly values?: Record<string, unknown>;
}
/** How a filter is looked up: the index that its payments are walked by, and what is looked at on the way. */
interface Plan {
	/** the condition that the index answers, and its name; without a name the ids are told */
	readonly index?: string;
	readonly lead: Part;
	readonly rest: readonly Part[];
	/** lists of days go by day first */
	readonly byDay: boolean;
	readonly values: Record<string, unknown>;
	/** whether more payments are found by words, payer or trouble than are looked at */
	readonly isCut?: boolean;
}

async function planOf(filter: PaymentFilter): Promise<Plan> {
	const rest: Part[] = [];
	const ids: FoundIds[] = [];
	if (filter.text) ids.push(await searched(filter.text));
	if (filter.payer)
		ids.push(
			await idsOf(`SELECT id FROM payments WHERE payer_mail = :payer AND payer_mail <> '' ORDER BY id DESC`, {
				payer: filter.payer
			})
		);
	if (filter.trouble === 'unknown')
		ids.push(
			await idsOf(
				`SELECT DISTINCT payment_id AS id FROM actions WHERE state IN ('planned', 'unknown', 'stuck') AND state <> 'planned' ORDER BY 1 DESC`
			)
		);
	if (filter.trouble === 'overpaid')
		ids.push(
			await idsOf(
				`SELECT p.id FROM orders o CROSS JOIN payments p ON p.order_id = o.id WHERE o.paid > o.minor AND p.taken > p.refunded ORDER BY 1 DESC`
			)
		);

	const equal: [column: string, value: string | undefined, index: string][] = [
		['offline_id', filter.offlineId, 'payments_offline'],
		['connection_id', filter.connectionId, 'payments_connection'],
		['till_id', filter.tillId, 'payments_till'],
		['method', filter.method, 'payments_method'],
		['stage', filter.stages?.length === 1 ? filter.stages[0] : undefined, 'payments_stage']
	];
	const told = equal.filter((one) => one[1] !== undefined);
	const asPart = ([column, value]: (typeof equal)[number]): Part => ({
		sql: `${column} = :${column}`,
		values: { [column]: value }
	});
	const days: Part | undefined =
		filter.from || filter.to
			? { sql: 'day >= :from AND day <= :until', values: { from: filter.from ?? '0000', until: filter.to ?? '9999' } }
			: undefined;

	if (filter.stages && filter.stages.length > 1)
		rest.push({ sql: 'stage IN (:stages)', values: { stages: filter.stages } });
	if (filter.currency) rest.push({ sql: 'currency = :currency', values: { currency: filter.currency } });
	if (filter.scheme || filter.funding) {
		const kinds = await select<{ id: number }>(
			`SELECT id FROM payment_kinds WHERE (:scheme = '' OR scheme = :scheme) AND (:funding = '' OR funding = :funding)`,
			{ scheme: filter.scheme ?? '', funding: filter.funding ?? '' }
		);
		rest.push({ sql: 'kind_id IN (:kinds)', values: { kinds: kinds.length ? kinds.map((one) => one.id) : [-1] } });
	}
	if (filter.decimals && (filter.least || filter.most)) {
		const values: Record<string, unknown> = {};
		const each = Object.entries(filter.decimals).map(([digits, currencies]) => {
			const n = Number(digits);
			values[`of${n}`] = currencies;
			const bounds = [`currency IN (:of${n})`];
			if (filter.least) bounds.push(`minor >= ${Math.trunc(filter.least[n]!)}`);
			if (filter.most) bounds.push(`minor <= ${Math.trunc(filter.most[n]!)}`);
			return `(${bounds.join(' AND ')})`;
		});
		rest.push({ sql: each.length ? `(${each.join(' OR ')})` : '0', values });
	}

	// the planner takes a partial index only where it sees the very condition, not a parameter
	const trial: Part = { sql: filter.trials ? 'trial_id IS NOT NULL' : 'trial_id IS NULL' };
	const plan = (index: string | undefined, lead: Part, more: readonly Part[], byDay = false): Plan => ({
		index,
		lead,
		rest: [...more, ...rest],
		byDay,
		values: Object.assign({}, lead.values, ...[...more, ...rest].map((one) => one.values))
	});
	const others = told.map(asPart);
	if (ids.length) {
		const [first, ...more] = ids;
		const sets = more.map((one) => new Set(one.ids));
		const found = first!.ids.filter((id) => sets.every((set) => set.has(id)));
		const isCut = ids.some((one) => one.isCut);
		const byIds = plan(undefined, { sql: 'id IN (:ids)', values: { ids: found.length ? found : [-1] } }, [
			trial,
			...others,
			...(days ? [days] : []),
			...(filter.trouble === 'fee' ? [{ sql: 'fee_difference <> 0' }] : []),
			...(filter.trouble === 'contradiction' ? [{ sql: `contradiction <> ''` }] : [])
		]);
		return { ...byIds, isCut };
	}
	const about: Part[] = [
		...(filter.trouble === 'fee' ? [{ sql: 'fee_difference <> 0' }] : []),
		...(filter.trouble === 'contradiction' ? [{ sql: `contradiction <> ''` }] : [])
	];
	const daysToo = days ? [days] : [];
	if (filter.trials) return plan('payments_trials', trial, [...others, ...daysToo, ...about]);
	if (about[0])
		return plan(filter.trouble === 'fee' ? 'payments_differs' : 'payments_contradiction', about[0], [
			trial,
			...others,
			...daysToo
		]);
	if (days) return plan('payments_day', days, [trial, ...others], true);
	const lead = told[0];
	if (!lead) return plan('payments_newest', { sql: '1' }, [trial]);
	const literal =
		lead[0] === 'offline_id'
			? { sql: 'offline_id = :offline_id AND offline_id IS NOT NULL', values: { offline_id: lead[1] } }
			: asPart(lead);
	return plan(lead[2], literal, [trial, ...told.slice(1).map(asPart)]);
}

/** So many payments are looked at for one page, in stretches of so many: some 60 ms on a machine of two cores. */
const LOOKED = 12_000;
const STRETCH = 3_000;

export interface PaymentPage {
	readonly rows: PaymentRow[];
	readonly more: boolean;
	/** where the next page begins */
	readonly next?: PageKey;
	/** how many payments were looked at, where not all of them were */
	readonly looked?: number;
	/** where more payments are found by words, payer or trouble than are looked at: how many of the newest are */
	readonly newestOnly?: number;
}

const KEYS = { newest: '(created_at, id)', byDay: '(day, created_at, id)' };
const keyOf = ({ day, at, id }: PageKey, byDay: boolean): string =>
	byDay
		? `('${day.replace(/[^\d-]/g, '')}', ${Math.trunc(at)}, ${Math.trunc(id)})`
		: `(${Math.trunc(at)}, ${Math.trunc(id)})`;

/** One page of payments, newest first. */
export async function pageOfPayments(filter: PaymentFilter, size = PAGE): Promise<PaymentPage> {
	const { index, lead, rest, byDay, values, isCut } = await planOf(filter);
	const from = index ? `payments INDEXED BY ${index}` : 'payments';
	const column = byDay ? KEYS.byDay : KEYS.newest;
	const order = byDay ? 'day DESC, created_at DESC, id DESC' : 'created_at DESC, id DESC';
	const found: PageKey[] = [];
	let key = filter.before;
	let looked = 0;
	let stopped: PageKey | undefined;
	// few are told by their ids, and where the index answers all there is nothing to look through
	const isBounded = index !== undefined && rest.some((one) => one.sql !== 'trial_id IS NULL');
	for (;;) {
		const after = key ? [`${column} < ${keyOf(key, byDay)}`] : [];
		let end: PageKey | undefined;
		if (isBounded) {
			[end] = await select<PageKey>(
				`SELECT day, created_at AS at, id FROM ${from} WHERE ${[lead.sql, ...after].join(' AND ')} ORDER BY ${order} LIMIT 1 OFFSET ${STRETCH - 1}`,
				values
			);
			looked += STRETCH;
		}
		const parts = [lead, ...rest].map((one) => one.sql);
		const until = end ? [`${column} >= ${keyOf(end, byDay)}`] : [];
		found.push(
			...(await select<PageKey>(
				`SELECT day, created_at AS at, id FROM ${from} WHERE ${[...parts, ...after, ...until].join(' AND ')} ORDER BY ${order} LIMIT ${size + 1 - found.length}`,
				values
			))
		);
		if (found.length > size || !end) break;
		key = end;
		if (looked >= LOOKED) {
			stopped = end;
			break;
		}
	}
	const shown = found.slice(0, size);
	const byId = new Map((await rowsOf(shown.map((one) => one.id))).map((row) => [row.id, row]));
	const more = found.length > size || !!stopped;
	return {
		rows: shown.map((one) => byId.get(one.id)!).filter(Boolean),
		more,
		...(more ? { next: found.length > size ? shown.at(-1) : stopped } : {}),
		...(stopped && found.length <= size ? { looked } : {}),
		...(isCut ? { newestOnly: SEARCHED } : {})
	};
}

const rowsOf = async (ids: readonly number[]): Promise<PaymentRow[]> => (ids.length ? payments.find({ id: ids }) : []);

/** Sums of one currency: minor units, but for the count. */
export interface PaymentSum {
	readonly currency: string;
	readonly count: number;
	readonly minor: number;
	readonly taken: number;
	readonly refunded: number;
	readonly disputed: number;
}

/** Whether the sums by day tell what a filter asks for. */
export const isSummedByDay = (filter: PaymentFilter): boolean =>
	!filter.text &&
	!filter.payer &&
	!filter.scheme &&
	!filter.funding &&
	!filter.least &&
	!filter.most &&
	!filter.trouble &&
	!filter.trials;

/** Sums per currency of what is filtered, from the sums by day. Live payments only: those of test mode are no money. */
export function sumsByDay(filter: PaymentFilter): Promise<PaymentSum[]> {
	const parts: Part[] = [{ sql: '1' }];
	const add = (sql: string, values: Record<string, unknown>) => parts.push({ sql, values });
	if (filter.stages?.length) add('stage IN (:stages)', { stages: filter.stages });
	if (filter.tillId) add('till_id = :till', { till: filter.tillId });
	if (filter.method) add('method = :method', { method: filter.method });
	if (filter.connectionId) add('carrier = :carrier', { carrier: filter.connectionId });
	if (filter.offlineId) add('carrier = :offline', { offline: filter.offlineId });
	if (filter.currency) add('currency = :currency', { currency: filter.currency });
	if (filter.from || filter.to)
		add('day >= :from AND day <= :until', { from: filter.from ?? '0000', until: filter.to ?? '9999' });
	return select<PaymentSum>(
		`SELECT currency, SUM(count) AS count, SUM(minor) AS minor, SUM(taken) AS taken, SUM(refunded) AS refunded, SUM(disputed) AS disputed
		 FROM day_sums WHERE ${parts.map((one) => one.sql).join(' AND ')} GROUP BY currency HAVING SUM(count) > 0 ORDER BY SUM(count) DESC`,
		Object.assign({}, ...parts.map((one) => one.values))
	);
}

/** The same, added up from the payments one by one, on the connection for long reads. */
export async function sumsOfPayments(filter: PaymentFilter): Promise<PaymentSum[]> {
	const { index, lead, rest, values } = await planOf(filter);
	const mode = filter.trials ? '1' : `mode = 'live'`;
	return selectLong<PaymentSum>(
		`SELECT currency, COUNT(*) AS count, SUM(minor) AS minor, SUM(taken) AS taken, SUM(refunded) AS refunded, SUM(disputed) AS disputed
		 FROM payments ${index ? `INDEXED BY ${index}` : ''} WHERE ${[lead, ...rest].map((one) => one.sql).join(' AND ')} AND ${mode}
		 GROUP BY currency ORDER BY COUNT(*) DESC`,
		values
	);
}

/** How many of the newest thousand test payments a filter shows: they are in no sum. */
export async function testPayments(filter: PaymentFilter): Promise<number> {
	if (filter.trials) return 0;
	const { lead, rest, values } = await planOf(filter);
	const [row] = await select<{ n: number }>(
		`SELECT COUNT(*) AS n FROM (SELECT * FROM payments INDEXED BY payments_test WHERE mode = 'test'
		 ORDER BY created_at DESC LIMIT 1000) WHERE ${[lead, ...rest].map((one) => one.sql).join(' AND ')}`,
		values
	);
	return row!.n;
}

/** Currencies that there are payments in. */
export const paidCurrencies = async (): Promise<string[]> =>
	(await select<{ currency: string }>(`SELECT DISTINCT currency FROM payment_kinds ORDER BY currency`, [])).map(
		(row) => row.currency
	);

/** Schemes and fundings that cards were known by, and methods that were paid with. */
export const paidKinds = (): Promise<{ method: string; scheme: string; funding: string }[]> =>
	select(`SELECT DISTINCT method, scheme, funding FROM payment_kinds`, []);

/** One page of orders, the newest first. @param cursor the last one of the page before */
export async function ordersPage(asked: {
	readonly tillIds: readonly string[];
	readonly reference?: string;
	readonly state?: string;
	readonly cursor?: number;
	readonly limit: number;
	readonly now: number;
}): Promise<OrderRow[]> {
	// what came for it, whatever went back since
	const came = `(SELECT COALESCE(SUM(taken), 0) FROM payments WHERE order_id = orders.id AND stage <> 'returned')`;
	const stands = 'replaced_by IS NULL AND cancelled_at IS NULL';
	const isOver = '(expires_at IS NOT NULL AND expires_at <= :now)';
	const STATES: Readonly<Record<string, string>> = {
		open: `${stands} AND paid = 0 AND ${came} < minor AND NOT ${isOver}`,
		'part paid': `${stands} AND paid > 0 AND paid < minor AND ${came} < minor`,
		paid: `${stands} AND paid >= minor`,
		'part refunded': `${stands} AND paid > 0 AND paid < minor AND ${came} >= minor`,
		refunded: `${stands} AND paid = 0 AND ${came} >= minor`,
		cancelled: 'replaced_by IS NULL AND cancelled_at IS NOT NULL',
		expired: `${stands} AND paid = 0 AND ${came} < minor AND ${isOver}`,
		replaced: 'replaced_by IS NOT NULL'
	};
	const parts = ['till_id IN (:tillIds)'];
	if (asked.reference) parts.push('reference = :reference');
	if (asked.state) parts.push(STATES[asked.state] ?? '0');
	if (asked.cursor !== undefined) parts.push('id < :cursor');
	const rows = await select<{ id: number }>(
		`SELECT id FROM orders WHERE ${parts.join(' AND ')} ORDER BY id DESC LIMIT ${Math.trunc(asked.limit)}`,
		{ ...asked }
	);
	return rows.length ? orders.find({ id: rows.map((row) => row.id) }, { order: [['id', 'DESC']] }) : [];
}

/** One page of payments by their number, the newest first. Trial payments are in none. */
export async function paymentsPage(asked: {
	readonly tillIds?: readonly string[];
	readonly mode?: string;
	readonly reference?: string;
	readonly stage?: string;
	readonly checkout?: number;
	readonly cursor?: number;
	readonly limit: number;
}): Promise<PaymentRow[]> {
	const parts = ['trial_id IS NULL'];
	if (asked.tillIds) parts.push('till_id IN (:tillIds)');
	if (asked.mode) parts.push('mode = :mode');
	if (asked.reference) parts.push(`reference = :reference AND reference <> ''`);
	if (asked.stage) parts.push('stage = :stage');
	if (asked.checkout !== undefined) parts.push('order_id = :checkout AND order_id IS NOT NULL');
	if (asked.cursor !== undefined) parts.push('id < :cursor');
	const rows = await select<{ id: number }>(
		`SELECT id FROM payments WHERE ${parts.join(' AND ')} ORDER BY id DESC LIMIT ${Math.trunc(asked.limit)}`,
		{ ...asked }
	);
	return rows.length ? payments.find({ id: rows.map((row) => row.id) }, { order: [['id', 'DESC']] }) : [];
}
