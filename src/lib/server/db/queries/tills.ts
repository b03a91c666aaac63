import { Op, QueryTypes } from 'sequelize';
import { open, type Tx } from '../open';
import {
	audit,
	payerMemberships,
	payers,
	unmet,
	type AuditRow,
	type PayerMembershipRow,
	type PayerRow,
	type UnmetRow
} from '../tables';
import { PAGE } from './paymentList';

export async function pageOfAudit(filter: {
	objectKind?: string;
	objectId?: string;
	/** whose changes */
	userName?: string;
	/** only what was changed before a moment, in milliseconds since 1970 */
	until?: number;
	before?: number;
}): Promise<{ rows: AuditRow[]; more: boolean }> {
	const where: Record<string, unknown> = {};
	let { before } = filter;
	if (filter.until !== undefined) {
		// the last one of before that moment is found by its index; from there on it goes by number
		const last = (await audit.model.findOne({
			where: { at: { [Op.lt]: filter.until } },
			order: [['at', 'DESC']],
			raw: true
		})) as unknown as AuditRow | null;
		before = Math.min(before ?? Infinity, last ? last.id + 1 : 0);
	}
	if (before !== undefined) where.id = { [Op.lt]: before };
	if (filter.userName) where.userName = filter.userName;
	if (filter.objectKind) where.objectKind = filter.objectKind;
	if (filter.objectId) where.objectId = filter.objectId;
	const rows = (await audit.model.findAll({
		where,
		order: [['id', 'DESC']],
		limit: PAGE + 1,
		raw: true
	})) as unknown as AuditRow[];
	return { rows: rows.slice(0, PAGE), more: rows.length > PAGE };
}

/** Sums per currency of what payers came for and were not offered. */
export async function unmetSums(
	tillId: string,
	since: number
): Promise<{ kind: string; currency: string; count: number; minor: number }[]> {
	return (await open()).query(
		'SELECT kind, currency, COUNT(*) AS count, SUM(minor) AS minor FROM unmet WHERE till_id = :tillId AND at >= :since GROUP BY kind, currency ORDER BY kind, currency',
		{ replacements: { tillId, since }, type: QueryTypes.SELECT }
	);
}

/** What payers who met nothing in a currency asked for most often, the latest of those alike. */
export async function commonestUnmet(
	tillId: string,
	currency: string,
	since: number
): Promise<{ minor: number; context: string } | undefined> {
	const [row] = (await (
		await open()
	).query(
		`SELECT minor, context, COUNT(*) AS n, MAX(at) AS last FROM unmet
		 WHERE till_id = :tillId AND kind = 'nothing offered' AND currency = :currency AND at >= :since
		 GROUP BY minor, context ORDER BY n DESC, last DESC LIMIT 1`,
		{ replacements: { tillId, currency, since }, type: QueryTypes.SELECT }
	)) as { minor: number; context: string }[];
	return row;
}

/** Everyone who wanted to pay at a till since a moment, alike ones together: those who did, and those who met nothing. */
export async function pastPayers(
	tillId: string,
	since: number
): Promise<{ currency: string; minor: number; country: string; count: number; met: number }[]> {
	return (await open()).query(
		`SELECT p.currency, p.minor, k.issuer AS country, COUNT(*) AS count, 0 AS met
		 FROM payments p JOIN payment_kinds k ON k.id = p.kind_id
		 WHERE p.till_id = :tillId AND p.created_at >= :since AND p.trial_id IS NULL AND p.mode = 'live'
		 GROUP BY 1, 2, 3
		 UNION ALL SELECT currency, minor, COALESCE(json_extract(context, '$.country'), ''), COUNT(*), COUNT(*)
		 FROM unmet WHERE till_id = :tillId AND at >= :since AND kind = 'nothing offered' GROUP BY 1, 2, 3 LIMIT 20000`,
		{ replacements: { tillId, since }, type: QueryTypes.SELECT }
	);
}

/** Notes that a payer met nothing, or had a card refused; the same visit counts once. */
export async function addUnmet(row: Omit<UnmetRow, 'id'>, tx: Tx): Promise<void> {
	await (
		await open()
	).query(
		`INSERT INTO unmet (till_id, at, kind, currency, minor, reference, context)
		 VALUES (:tillId, :at, :kind, :currency, :minor, :reference, :context)
		 ON CONFLICT (till_id, kind, reference, currency, minor, context) DO NOTHING`,
		{ replacements: row, transaction: tx }
	);
}

/** One page of payers by name, paged by key; those whose name or mail holds a text. */
export async function pageOfPayers(
	text: string,
	after: { name: string; id: string } | undefined
): Promise<{ rows: PayerRow[]; more: boolean }> {
	const parts: unknown[] = [{ removedAt: null }];
	if (text) {
		const part = `%${text.replace(/[\\%_]/g, '\\$&')}%`;
		parts.push({
			[Op.or]: [
				{ name: { [Op.like]: part } },
				{ mail: { [Op.like]: part } },
				{ company: { [Op.like]: part } },
				{ number: { [Op.like]: part } }
			]
		});
	}
	if (after)
		parts.push({
			[Op.or]: [{ name: { [Op.gt]: after.name } }, { name: after.name, id: { [Op.gt]: after.id } }]
		});
	const rows = (await payers.model.findAll({
		where: { [Op.and]: parts } as never,
		order: [
			['name', 'ASC'],
			['id', 'ASC']
		],
		limit: PAGE + 1,
		raw: true
	})) as unknown as PayerRow[];
	return { rows: rows.slice(0, PAGE), more: rows.length > PAGE };
}

/** The groups of payers, by the payer's id. */
export async function membershipsOf(ids: readonly string[]): Promise<Map<string, string[]>> {
	const found = new Map<string, string[]>();
	if (!ids.length) return found;
	const rows = (await payerMemberships.model.findAll({
		where: { payerId: [...ids] },
		raw: true
	})) as unknown as PayerMembershipRow[];
	for (const row of rows) found.set(row.payerId, [...(found.get(row.payerId) ?? []), row.groupId]);
	return found;
}

/** How many payers each group has. */
export async function groupSizes(): Promise<Map<string, number>> {
	const db = await open();
	const rows = (await db.query(`SELECT group_id AS id, COUNT(*) AS n FROM payer_memberships GROUP BY group_id`, {
		type: QueryTypes.SELECT
	})) as { id: string; n: number }[];
	return new Map(rows.map((row) => [row.id, row.n]));
}

/** Recorded empty answers and refused cards of a till, the latest first. */
export const unmetSince = async (tillId: string, since: number): Promise<UnmetRow[]> =>
	(await unmet.model.findAll({
		where: { tillId, at: { [Op.gte]: since } },
		order: [['at', 'DESC']],
		limit: 20_000,
		raw: true
	})) as unknown as UnmetRow[];

/** Removes sessions whose time is over. */
export async function removeOldSessions(now: number, tx: Tx): Promise<void> {
	await (await open()).query('DELETE FROM sessions WHERE expires_at < ?', { replacements: [now], transaction: tx });
}
