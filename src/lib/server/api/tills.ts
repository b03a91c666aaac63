import type { z } from 'zod';
import { failedChecks, fromFile, sayFact, type FailedCode, type LineUpFile } from '../../core/lineup';
import { mayUseTill, randomId } from '../access';
import { askTill, groupNames, payerFacts, type Asking } from '../accept/ask';
import { allGroups } from '../bill/payers';
import { carrierBook, exportLineUp } from '../accept/exchange';
import { changeDraft, discardDraft, DraftMoved, lineUpsOf, publish, sayDifferences, takeBack } from '../accept/lineups';
import { snapshot } from '../accept/snapshot';
import { allTills, tillBySlug, tillCurrencies } from '../accept/tills';
import type { TillRow, TokenRow } from '../db';
import { notFound, Problem } from './problem';
import type * as schemas from './schemas';

const LOCALE = 'en-GB';

/** The till of a path, or a problem. */
export async function tillAt(slug: string | undefined, token?: TokenRow): Promise<TillRow> {
	const row = slug ? await tillBySlug(slug) : undefined;
	if (!row || (token && !mayUseTill(token, row))) throw notFound(`There is no till “${slug ?? ''}”.`);
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

export const listTills = async (token: TokenRow): Promise<z.output<typeof schemas.Tills>> => ({
	tills: await Promise.all((await allTills()).filter((till) => mayUseTill(token, till)).map(summary))
});

/**
 * The revision of a draft that a write was made for: by `If-Match` (RFC 9110, section 13.1.1), or in the body.
 * @throws Problem 412 where the draft is at another one, 428 where none is told
 */
export async function revisionAsked(row: TillRow, match: string | null, told: number | undefined): Promise<number> {
	if (match === null) {
		if (told === undefined)
			throw new Problem(428, 'Precondition required', 'Send If-Match with the ETag of the till that you read.');
		return told;
	}
	const { draft } = await lineUpsOf(row.id);
	const now = draft?.row.revision ?? 0;
	if (!match.split(',').some((one) => one.trim().replace(/^W\//, '') === `"${now}"`))
		throw new Problem(412, 'Changed meanwhile', `The draft is at revision ${now} by now. Read the till again.`);
	return now;
}

/** Throws the draft away. */
export async function discardDraftOf(row: TillRow, revision: number, by: string): Promise<void> {
	try {
		await discardDraft(row, revision, by);
	} catch (error) {
		if (error instanceof DraftMoved) throw new Problem(409, 'Changed meanwhile', error.message);
		throw error;
	}
}

/** Puts an earlier version in force again, as a new one. */
export async function restoreVersion(
	row: TillRow,
	version: string | undefined,
	by: string
): Promise<z.output<typeof schemas.Published>> {
	if (!/^\d{1,9}$/.test(version ?? '')) throw notFound('There is no such version.');
	const result = await takeBack(row, Number(version), by);
	if ('problems' in result)
		throw new Problem(
			409,
			'Not to be published as it is',
			result.problems.join(' '),
			result.problems.map((detail) => ({ pointer: '', detail }))
		);
	return { version: result.number };
}

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
		await changeDraft(row, revision, () => read.lineUp, by, 'replaced the draft through the API');
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
	const mail = asked.mail ?? asked.payerMail;
	const facts = mail ? await payerFacts(mail) : {};
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
			reasons: failedChecks(checks).map((check) => ({
				check: check.rule,
				code: check.fact.code as FailedCode,
				says: sayFact(check.fact, LOCALE)
			}))
		}))
	};
}
