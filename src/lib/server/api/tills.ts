import type { z } from 'zod';
import { failedChecks, fromFile, sayFact, type LineUpFile } from '../../core/lineup';
import { addressQuery, checkAsk, valuesOf } from '../../core/references';
import { randomId, unseal } from '../access';
import { askTill, groupNames, payerFacts, type Asking } from '../accept/ask';
import { allGroups } from '../accept/payers';
import { carrierBook, exportLineUp } from '../accept/exchange';
import { changeDraft, DraftMoved, lineUpsOf, publish, sayDifferences } from '../accept/lineups';
import { snapshot } from '../accept/snapshot';
import { allTills, tillBySlug, tillCurrencies } from '../accept/tills';
import { ownAddress } from '../connect/connections';
import { write, type TillRow } from '../db';
import { askingOf } from '../accept/visit';
import { addressOfOrder, sayConflict } from '../accept/addresses';
import { openOrder } from '../payments/orders';
import { notFound, Problem } from './problem';
import type * as schemas from './schemas';

const LOCALE = 'en-GB';

/** The till of a path, or a problem. */
export async function tillAt(slug: string | undefined): Promise<TillRow> {
	const row = slug ? await tillBySlug(slug) : undefined;
	if (!row) throw notFound(`There is no till “${slug ?? ''}”.`);
	return row;
}

async function summary(row: TillRow): Promise<z.output<typeof schemas.TillSummary>> {
	const { draft, published } = await lineUpsOf(row.id);
	return {
		till: row.slug,
		name: row.name,
		kind: row.kind,
		mode: row.mode,
		currencies: tillCurrencies(row),
		published: published
			? { version: published.row.number!, at: new Date(published.row.at).toISOString(), by: published.row.byUser }
			: null,
		draft: draft ? { revision: draft.row.revision, basedOn: draft.row.basedOn } : null
	};
}

export const listTills = async (): Promise<z.output<typeof schemas.Tills>> => ({
	tills: await Promise.all((await allTills()).map(summary))
});

export async function readTill(row: TillRow): Promise<z.output<typeof schemas.TillDetail>> {
	const told = await summary(row);
	return {
		...told,
		lineUp: told.published ? await exportLineUp(row, 'published') : null,
		draftLineUp: told.draft ? await exportLineUp(row, 'draft') : null
	};
}

/** Replaces the draft by a line-up of a file's form. */
export async function writeDraft(
	row: TillRow,
	{ revision, lineUp }: { revision: number; lineUp: LineUpFile },
	by: string
): Promise<z.output<typeof schemas.DraftPutAnswer>> {
	const read = fromFile(lineUp, row.mode, await carrierBook(), randomId, await groupNames());
	if ('faults' in read)
		throw new Problem(
			422,
			'Not as described',
			'The line-up cannot be taken as it is.',
			read.faults.map((one) => ({ pointer: `/lineUp${one.pointer}`, detail: one.says }))
		);
	try {
		await changeDraft(row, revision, () => read.lineUp, by, 'replaced the draft through the interface');
	} catch (error) {
		if (error instanceof DraftMoved) throw new Problem(409, 'Changed meanwhile', error.message);
		throw error;
	}
	const { draft, published } = await lineUpsOf(row.id);
	return {
		revision: draft!.row.revision,
		changes: await sayDifferences(published?.offers ?? [], draft!.offers, LOCALE, row)
	};
}

export async function publishDraft(
	row: TillRow,
	{ revision, reason }: { revision: number; reason: string },
	by: string
): Promise<z.output<typeof schemas.Published>> {
	try {
		const result = await publish(row, revision, reason, by, LOCALE);
		if ('problems' in result)
			throw new Problem(
				409,
				'Not to be published as it is',
				result.problems.join(' '),
				result.problems.map((detail) => ({ pointer: '', detail }))
			);
		return { version: result.number };
	} catch (error) {
		if (error instanceof DraftMoved) throw new Problem(409, 'Changed meanwhile', error.message);
		throw error;
	}
}

/** What one payer is offered and what is withheld: by the function that answers at the payer's page. */
export async function answerFor(
	row: TillRow,
	asked: z.output<typeof schemas.Asked>
): Promise<z.output<typeof schemas.Answered>> {
	const { draft, published } = await lineUpsOf(row.id);
	const shown = asked.lineUp === 'draft' ? (draft ?? published) : published;
	const groups = await allGroups();
	const unknown = asked.groups?.filter((name) => !groups.some((one) => one.name === name)) ?? [];
	if (unknown.length)
		throw new Problem(422, 'Not as described', `There is no group called ${unknown.join(', ')}.`, [
			{ pointer: '/groups', detail: `unknown: ${unknown.join(', ')}` }
		]);
	const facts = asked.payerMail ? await payerFacts(asked.payerMail) : {};
	const asking: Asking = {
		...facts,
		currency: asked.currency,
		minor: asked.amountMinor,
		country: asked.country ?? facts.country,
		...(asked.groups ? { groups: groups.filter((one) => asked.groups!.includes(one.name)).map((one) => one.id) } : {}),
		goods: asked.goods,
		delivery: asked.delivery,
		domain: asked.domain,
		...(asked.recurring === undefined ? {} : { recurring: asked.recurring }),
		orderedBy: asked.orderedBy,
		...(asked.hasOnlineMethod === undefined ? {} : { hasOnlineMethod: asked.hasOnlineMethod })
	};
	const held = await snapshot();
	const { answer } = await askTill({ row, currencies: tillCurrencies(row) }, shown?.offers ?? [], asking);
	const name = (id: string) => held.connections.get(id)?.name ?? held.offline.get(id)?.name ?? '';
	return {
		till: row.slug,
		version: asked.lineUp === 'draft' && draft ? null : (published?.row.number ?? null),
		offered: answer.offered.map(({ offer, carrier, standby, types }) => ({
			offer: offer.id,
			name: offer.name,
			note: offer.note,
			method: offer.method,
			place: offer.place,
			storing: offer.storing,
			through: name(carrier.id),
			standby,
			...(types ? { cardTypes: types } : {})
		})),
		withheld: answer.withheld.map(({ offer, checks }) => ({
			offer: offer.id,
			name: offer.name,
			reasons: failedChecks(checks).map((check) => ({ check: check.rule, says: sayFact(check.fact, LOCALE) }))
		}))
	};
}

/** Where the body of a request tells a field of an order's address. */
const POINTERS: Readonly<Record<string, string>> = { amount: 'amountMinor' };

/** Makes a checkout for an order; the same order again gives the same one. */
export async function makeCheckout(
	order: z.output<typeof schemas.CheckoutPost>
): Promise<{ answer: z.output<typeof schemas.Checkout>; isNew: boolean }> {
	const row = await tillAt(order.till);
	const currencies = tillCurrencies(row);
	if (!currencies.includes(order.currency))
		throw new Problem(422, 'Not as described', `${row.name} takes ${currencies.join(', ')}, not ${order.currency}.`, [
			{ pointer: '/currency', detail: `one of ${currencies.join(', ')}` }
		]);
	const ask = {
		till: row.slug,
		amount: { minor: order.amountMinor, currency: order.currency },
		reference: order.reference,
		name: order.name,
		mail: order.mail,
		country: order.country,
		purpose: order.purpose,
		...(order.goods ? { goods: order.goods } : {}),
		...(order.delivery ? { delivery: order.delivery } : {}),
		...(order.domain ? { domain: order.domain } : {}),
		...(order.recurring ? { recurring: true } : {}),
		ordered: 'interface' as const
	};
	// what is accepted here is accepted by the address, too
	const { problems } = checkAsk(row.slug, valuesOf(ask));
	if (problems.length)
		throw new Problem(
			422,
			'Not as described',
			problems.map((one) => one.says).join(' '),
			problems.map(({ field, says }) => ({ pointer: `/${POINTERS[field] ?? field}`, detail: says }))
		);
	const query = addressQuery(ask, unseal(row.signingKeySealed, `till ${row.id}`));
	const sign = new URLSearchParams(query).get('sign')!;
	// all that may fail comes before the write: an answer that says that nothing was changed is true
	const { published } = await lineUpsOf(row.id);
	const { answer } = await askTill({ row, currencies }, published?.offers ?? [], await askingOf(ask));
	const opened = await write((tx) => openOrder(row.id, ask, sign, order.replace, tx));
	if ('replaced' in opened)
		throw new Problem(409, 'Order replaced', `The order ${ask.reference} was replaced by a later one.`);
	if ('conflict' in opened)
		throw new Problem(409, 'Another order', sayConflict(opened.conflict, opened.isBusy, LOCALE), [
			{ pointer: '/reference', detail: 'stands for another order at this till' }
		]);
	const { order: made, isNew } = opened;
	return {
		answer: {
			checkout: made.id,
			address: made.sign === sign ? `${ownAddress()}/pay/${row.slug}?${query}` : addressOfOrder(row, made),
			offered: answer.offered.length
		},
		isNew
	};
}
