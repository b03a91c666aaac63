import type { z } from 'zod';
import { LinkSettings, type PrefilledValues } from '../../core/billing';
import { allTills } from '../accept/tills';
import { linkAddress, linkById, linkSettings, prefilledAddress, saveLink, setLinkClosed } from '../bill/links';
import { priceList } from '../bill/prices';
import { countLinkOrders, db, linkTotals, type PayLinkRow } from '../db';
import { timeNow } from '../signals/clock';
import { notFound, Problem } from './problem';
import type * as schemas from './schemas';

type Shown = z.output<typeof schemas.PayLink>;
type Given = z.output<typeof schemas.PayLinkPut>;
const wrong = (pointer: string, detail: string) => new Problem(422, 'Not as described', detail, [{ pointer, detail }]);

async function show(row: PayLinkRow): Promise<Shown> {
	const [days, totals, used, tills, items] = await Promise.all([
		db.payLinkDays.find({ linkId: row.id }),
		linkTotals(row.id),
		countLinkOrders(row.id, timeNow()),
		allTills(),
		priceList()
	]);
	const of = linkSettings(row);
	const codes = new Map(items.map((one) => [one.id, one.code]));
	const sum = (values: readonly number[]) => values.reduce((all, one) => all + one, 0);
	return {
		link: row.id,
		address: linkAddress(row),
		revision: row.revision,
		title: of.title,
		about: of.about,
		till: tills.find((one) => one.id === row.tillId)?.slug ?? '',
		currency: of.currency,
		asksFor: of.asksFor,
		fixedMinor: of.fixed,
		free: { leastMinor: of.free.least, mostMinor: of.free.most, suggestedMinor: of.free.suggested },
		goods: of.goods.map(({ item, most, fixed }) => ({ code: codes.get(item) ?? '', most, isFixed: fixed })),
		several: of.several,
		ways: of.ways,
		fields: of.fields,
		asksName: of.asksName,
		asksMail: of.asksMail,
		asksPhone: of.asksPhone,
		asksAddress: of.asksAddress,
		asksTaxNumber: of.asksTaxNumber,
		takesCodes: of.takesCodes,
		button: of.button,
		ownButton: of.ownButton,
		until: of.until || null,
		cap: of.cap,
		holdMinutes: of.holdMinutes,
		landing: of.landing,
		landingText: of.landingText,
		landingAddress: of.landingAddress,
		sendsReceipt: of.sendsReceipt,
		tellsBusiness: of.tellsBusiness,
		isClosed: row.closedAt !== null,
		visits: sum(days.map((one) => one.visits)),
		starts: sum(days.map((one) => one.starts)),
		orders: sum(totals.map((one) => one.orders)),
		paid: sum(totals.map((one) => one.paid)),
		left: of.cap === null ? null : Math.max(0, of.cap - used),
		takenMinor: Object.fromEntries(totals.filter((one) => one.taken > 0).map((one) => [one.currency, one.taken]))
	};
}

/** Pay links, the one changed last first. */
export async function listPayLinks(): Promise<z.output<typeof schemas.PayLinks>> {
	const rows = await db.payLinks.find({}, { order: [['changedAt', 'DESC']] });
	return { links: await Promise.all(rows.map(show)) };
}

async function found(id: string | undefined): Promise<PayLinkRow> {
	const row = await linkById(id ?? '');
	if (!row) throw notFound('There is no such pay link.');
	return row;
}
/** One pay link. @throws Problem 404 */
export const readPayLink = async (id: string | undefined): Promise<Shown> => show(await found(id));

/** Where a fault of a link's settings stands in what was sent. */
const POINTERS: Readonly<Record<string, string>> = {
	tillId: '/till',
	fixed: '/fixedMinor',
	free: '/free',
	goods: '/goods'
};

/**
 * Makes a pay link, or changes what the address of one shows. What is left out takes its usual value; what the interface
 * does not name (picture, colour, conditions of goods and delivery) stays as it was.
 * @throws Problem 404, 409 where it was changed meanwhile, 422 for what cannot be
 */
export async function putPayLink(given: Given, id: string | undefined, by: string): Promise<Shown> {
	const before = id === undefined ? undefined : await found(id);
	if (before && given.revision !== undefined && given.revision !== before.revision)
		throw new Problem(409, 'Changed meanwhile', `The link is at revision ${before.revision} now. Read it again.`);
	const [tills, items] = await Promise.all([allTills(), priceList()]);
	const till = tills.find((one) => one.slug === given.till);
	if (!till) throw wrong('/till', 'There is no such till.');
	const kept: Partial<LinkSettings> = before ? linkSettings(before) : {};
	const goods = (given.goods ?? []).map(({ code, most, isFixed }, at) => {
		const item = items.find((one) => one.code === code);
		if (!item) throw wrong(`/goods/${at}/code`, `Nothing on the price list has the code ${code}.`);
		if (!item.prices.some((one) => one.currency === given.currency))
			throw wrong(`/goods/${at}/code`, `${item.name} has no price in ${given.currency}.`);
		return { item: item.id, most, fixed: isFixed ?? false };
	});
	const { revision: _revision, till: _till, fixedMinor, free, until, cap, fields, ...same } = given;
	const read = LinkSettings.safeParse({
		...same,
		goods,
		fields: fields ?? [],
		fixed: fixedMinor ?? 0,
		free: {
			least: free?.leastMinor ?? 0,
			most: free?.mostMinor ?? 0,
			suggested: free?.suggestedMinor ?? []
		},
		until: until ?? '',
		cap: cap ?? null,
		picture: kept.picture,
		colour: kept.colour,
		goodsKind: kept.goodsKind,
		delivery: kept.delivery
	});
	if (!read.success) {
		const faults = read.error.issues.map((one) => ({ pointer: `/${one.path.join('/')}`, detail: one.message }));
		throw new Problem(422, 'Not as described', faults[0]!.detail, faults);
	}
	const saved = await saveLink(
		{ tillId: till.id, settings: read.data, ...(before ? { revision: before.revision } : {}) },
		before?.id,
		by
	);
	if ('wrong' in saved) {
		const faults = Object.entries(saved.wrong).map(([box, detail]) => ({
			pointer: POINTERS[box] ?? `/${box}`,
			detail
		}));
		throw new Problem(422, 'Not as described', faults[0]!.detail, faults);
	}
	return readPayLink(saved.id);
}

/** Closes a link, or opens it again. @throws Problem 404 */
export async function closePayLink(id: string | undefined, isClosed: boolean, by: string): Promise<Shown> {
	const row = await found(id);
	if ((row.closedAt !== null) !== isClosed) await setLinkClosed(row.id, isClosed, by);
	return readPayLink(row.id);
}

/** An address of a link that fills in fields, signed. @throws Problem 404, 422 for a field that the link does not have */
export async function makePrefilledAddress(
	id: string | undefined,
	given: z.output<typeof schemas.PrefilledPost>
): Promise<z.output<typeof schemas.PrefilledAddress>> {
	const row = await found(id);
	const own = linkSettings(row).fields.map((one) => one.id);
	for (const name of Object.keys(given.fields ?? {}))
		if (!own.includes(name)) throw wrong(`/fields/${name}`, 'The link has no such field.');
	const values: PrefilledValues = {
		...given.values,
		...Object.fromEntries(Object.entries(given.fields ?? {}).map(([name, value]) => [`field.${name}`, value]))
	};
	return { address: Object.keys(values).length ? prefilledAddress(row, values) : linkAddress(row) };
}
