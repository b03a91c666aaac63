import { LinkSettings, linkProblems, prefilledQuery, type PrefilledValues } from '../../core/billing';
import { formatAmount } from '../../core/money';
import { audit, macOf, randomId } from '../access';
import { ownAddress } from '../connect/connections';
import { countLinkOrders, db, linkTotals, unmetOfLink, write, type PayLinkRow } from '../db';
import { timeNow } from '../signals/clock';
import { tell } from '../signals/live';

export const linkSettings = (row: Pick<PayLinkRow, 'settings'>): LinkSettings =>
	db.payLinks.json.settings(row.settings);
export const linkAddress = (row: Pick<PayLinkRow, 'slug'>): string => `${ownAddress()}/link/${row.slug}`;
/** Signs the fields that an address of a link fills in. */
export const signPrefilled = (text: string): string => macOf(text, 'pay link');
export const prefilledAddress = (row: Pick<PayLinkRow, 'slug'>, values: PrefilledValues): string =>
	`${linkAddress(row)}?${prefilledQuery(row.slug, values, signPrefilled)}`;

export const linkBySlug = (slug: string): Promise<PayLinkRow | undefined> => db.payLinks.one({ slug });
export const linkById = (id: string): Promise<PayLinkRow | undefined> => db.payLinks.one({ id });

const slugOf = (name: string): string =>
	name
		.normalize('NFKD')
		.toLowerCase()
		.replace(/[^a-z0-9]+/g, '-')
		.replace(/^-+|-+$/g, '')
		.slice(0, 40) || 'link';

/** Makes a link, or changes what the same address shows; every change is kept. */
export async function saveLink(
	given: { readonly tillId: string; readonly settings: LinkSettings; readonly revision?: number },
	id: string | undefined,
	by: string
): Promise<{ wrong: Record<string, string> } | { id: string }> {
	const wrong = linkProblems(given.settings);
	const till = await db.tills.one({ id: given.tillId });
	if (!till) wrong.tillId = 'Choose the till whose line-up it uses.';
	else if (!db.tills.json.currencies(till.currencies).includes(given.settings.currency))
		wrong.currency = `${till.name} does not take ${given.settings.currency}.`;
	if (Object.keys(wrong).length) return { wrong };
	const answer = await write(async (tx): Promise<{ wrong: Record<string, string> } | { id: string }> => {
		const at = timeNow();
		const settings = JSON.stringify(given.settings);
		const before = id ? await db.payLinks.one({ id }, tx) : undefined;
		if (id && !before) return { wrong: { title: 'This link is gone.' } };
		if (before && given.revision !== undefined && given.revision !== before.revision)
			return { wrong: { title: 'Somebody else changed this link meanwhile. Open it again to see how it is now.' } };
		if (before && before.settings === settings && before.tillId === given.tillId) return { id: before.id };
		const kept = id ?? randomId();
		const revision = (before?.revision ?? 0) + 1;
		if (before)
			await db.payLinks.update(
				{ id: kept },
				{ name: given.settings.title, tillId: given.tillId, settings, revision, changedAt: at },
				tx
			);
		else {
			const taken = new Set((await db.payLinks.find({}, {}, tx)).map((row) => row.slug));
			let slug = slugOf(given.settings.title);
			for (let n = 2; taken.has(slug); n++) slug = `${slugOf(given.settings.title)}-${n}`;
			await db.payLinks.insert(
				{
					id: kept,
					slug,
					name: given.settings.title,
					tillId: given.tillId,
					settings,
					revision,
					createdAt: at,
					changedAt: at
				},
				tx
			);
		}
		await db.payLinkVersions.insert({ linkId: kept, revision, settings, byUser: by, at }, tx);
		await audit(
			{ by, kind: 'pay link', id: kept, name: given.settings.title, act: before ? `changed, ${revision}` : 'made' },
			tx
		);
		return { id: kept };
	});
	tell('bill');
	return answer;
}

/** Closes a link, or opens it again. Its address stays. */
export async function setLinkClosed(id: string, isClosed: boolean, by: string): Promise<void> {
	await write(async (tx) => {
		const row = await db.payLinks.one({ id }, tx);
		if (!row) return;
		await db.payLinks.update({ id }, { closedAt: isClosed ? timeNow() : null }, tx);
		await audit({ by, kind: 'pay link', id, name: row.name, act: isClosed ? 'closed' : 'opened again' }, tx);
	});
	tell('bill');
}

/** Where links stand and what they have brought. */
export async function allLinks(locale: string) {
	const rows = await db.payLinks.find({}, { order: [['changedAt', 'DESC']] });
	return Promise.all(rows.map((row) => linkStand(row, locale)));
}

/** Where a link stands: visits, starts, payments, sums, places left, what payers met when nothing could be offered. */
export async function linkStand(row: PayLinkRow, locale: string) {
	const settings = linkSettings(row);
	const [days, totals, unmet, used, till] = await Promise.all([
		db.payLinkDays.find({ linkId: row.id }, { order: [['day', 'DESC']] }),
		linkTotals(row.id),
		unmetOfLink(row.id),
		countLinkOrders(row.id, timeNow()),
		db.tills.one({ id: row.tillId })
	]);
	const sum = (pick: (one: (typeof days)[number]) => number) => days.reduce((all, one) => all + pick(one), 0);
	return {
		id: row.id,
		slug: row.slug,
		name: row.name,
		address: linkAddress(row),
		till: till?.name ?? '',
		tillSlug: till?.slug ?? '',
		test: till?.mode === 'test',
		asksFor: settings.asksFor,
		currency: settings.currency,
		isClosed: row.closedAt !== null,
		revision: row.revision,
		visits: sum((one) => one.visits),
		starts: sum((one) => one.starts),
		orders: totals.reduce((all, one) => all + one.orders, 0),
		paid: totals.reduce((all, one) => all + one.paid, 0),
		sums: totals
			.filter((one) => one.taken > 0)
			.map((one) => formatAmount({ minor: one.taken, currency: one.currency }, locale)),
		cap: settings.cap,
		left: settings.cap === null ? null : Math.max(0, settings.cap - used),
		until: settings.until,
		unmet: unmet.map((one) => ({
			count: one.count,
			sum: formatAmount({ minor: one.minor, currency: one.currency }, locale)
		}))
	};
}
