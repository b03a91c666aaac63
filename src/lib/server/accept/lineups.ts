import {
	clashingSituations,
	differences,
	sayNotLooked,
	LineUp,
	nameKey,
	rulerDifferences,
	saySituation,
	type ConnectionState,
	OFFER_LANGUAGES,
	offerText
} from '../../core/lineup';
import { audit } from '../access';
import { readAccount } from '../connectors/account';
import { db, write, type LineUpRow, type TillRow, type Tx } from '../db';
import { tell } from '../signals/live';
import { groupNames } from './ask';
import { baseOf, coverageOf, lostBetween } from './coverage';
import { forgetSnapshot } from '../signals/freshness';
import { snapshot } from './snapshot';
import { domainsOf, tillCurrencies, LANGUAGES } from './tills';
import { timeNow } from '../signals/clock';

export interface Version {
	readonly row: LineUpRow;
	readonly offers: LineUp;
}

/** A change met a draft that somebody else had changed since it was shown. */
export class DraftMoved extends Error {
	constructor() {
		super(
			'Somebody changed this draft since you opened it. Nothing was overwritten: look at it as it is now, then make your change again.'
		);
	}
}

const asVersion = (row: LineUpRow | undefined): Version | undefined =>
	row && { row, offers: db.lineUps.json.offers(row.offers) };

export async function lineUpsOf(tillId: string): Promise<{ draft?: Version; published?: Version }> {
	const rows = await db.lineUps.find({ tillId, state: ['draft', 'published'] });
	return {
		draft: asVersion(rows.find((row) => row.state === 'draft')),
		published: asVersion(rows.find((row) => row.state === 'published'))
	};
}

export const historyOf = async (tillId: string): Promise<Version[]> =>
	(await db.lineUps.find({ tillId, state: ['published', 'replaced'] }, { order: [['number', 'DESC']] })).map((row) =>
		asVersion(row)!
	);

/**
 * Changes the draft of a till; one begins from the published version where there is none.
 * @param revision the revision that was shown; 0 where there was no draft
 * @throws DraftMoved when the draft is not at that revision any more
 */
export async function changeDraft(
	till: TillRow,
	revision: number,
	change: (offers: LineUp) => LineUp,
	by: string,
	act: string
): Promise<void> {
	await write(async (tx) => {
		const rows = await db.lineUps.find({ tillId: till.id, state: ['draft', 'published'] }, {}, tx);
		const draft = rows.find((row) => row.state === 'draft');
		const published = rows.find((row) => row.state === 'published');
		if ((draft?.revision ?? 0) !== revision) throw new DraftMoved();
		const before = db.lineUps.json.offers(draft?.offers ?? published?.offers ?? '[]');
		const after = LineUp.parse(change(before));
		const offers = JSON.stringify(after);
		if (draft)
			await db.lineUps.update(
				{ id: draft.id },
				{ offers, revision: draft.revision + 1, byUser: by, at: timeNow() },
				tx
			);
		else
			await db.lineUps.insert(
				{
					tillId: till.id,
					number: null,
					state: 'draft',
					offers,
					basedOn: published?.number ?? null,
					revision: 1,
					byUser: by,
					at: timeNow(),
					reason: ''
				},
				tx
			);
		await audit(
			{ by, kind: 'line-up', id: till.id, name: till.name, act, before: { offers: before }, after: { offers: after } },
			tx
		);
	});
	tell('tills');
}

/** Throws the draft away; what is published stays. */
export async function discardDraft(till: TillRow, revision: number, by: string): Promise<void> {
	await write(async (tx) => {
		const draft = await db.lineUps.one({ tillId: till.id, state: 'draft' }, tx);
		if (!draft) return;
		if (draft.revision !== revision) throw new DraftMoved();
		await db.lineUps.remove({ id: draft.id }, tx);
		await audit(
			{
				by,
				kind: 'line-up',
				id: till.id,
				name: till.name,
				act: 'threw the draft away',
				before: { offers: db.lineUps.json.offers(draft.offers) }
			},
			tx
		);
	});
	tell('tills');
}

/** What keeps a line-up from being published, in words. */
export async function publishProblems(till: TillRow, offers: LineUp, locale = 'en-GB'): Promise<string[]> {
	const { connections, offline, states } = await snapshot();
	const problems: string[] = [];
	if (!offers.some((offer) => offer.on)) problems.push('No offer is on: every payer would meet an empty checkout.');
	const inUse = new Map<string, ConnectionState>();
	for (const offer of offers) {
		if (Object.keys(offer.routes).length === 0) problems.push(`${offer.name} takes no currency.`);
		for (const [code, { first, standby }] of Object.entries(offer.routes))
			for (const carrier of [first, standby]) {
				if (!carrier) continue;
				const row = carrier.kind === 'connection' ? connections.get(carrier.id) : offline.get(carrier.id);
				if (!row || row.removedAt) problems.push(`${offer.name} in ${code}: its route is not connected any more.`);
				else if ('mode' in row && row.mode !== till.mode)
					problems.push(
						`${offer.name} in ${code}: ${row.name} is a ${row.mode} connection, and this till is ${till.mode}.`
					);
				const state = states.connections[carrier.id];
				if (state && offer.on && carrier === first) inUse.set(state.id, state);
				if (offer.capture === 'later' && row && 'account' in row && !readAccount(row.account).authorisationDays)
					problems.push(`${offer.name}: ${row.name} cannot take money later than at once.`);
			}
	}
	const used = [...inUse.values()];
	used.forEach((one, at) => {
		const other = used
			.slice(at + 1)
			.find((two) => one.excludes.includes(two.processor) || two.excludes.includes(one.processor));
		if (other) problems.push(`${one.name} and ${other.name} may not stand at one till.`);
	});
	for (const language of OFFER_LANGUAGES) {
		const named = new Map<string, string>();
		for (const offer of offers) {
			const { name } = offerText(offer, language);
			const other = named.get(nameKey(name));
			// the same name in the first language is told with the situation in which it would meet
			if (other !== undefined && nameKey(other) !== nameKey(offer.name))
				problems.push(
					`${other} and ${offer.name} are both called “${name}” in ${LANGUAGES[language]}. Give one another name.`
				);
			named.set(nameKey(name), offer.name);
		}
	}
	// names that meet are told with the situation in which they would
	if (offers.some((offer, at) => offers.slice(0, at).some((other) => nameKey(other.name) === nameKey(offer.name)))) {
		const names = await groupNames();
		const told = new Set<string>();
		for (const situation of clashingSituations((await coverageOf(till, offers)).situations))
			for (const { name, why } of situation.beaten) {
				if (why !== 'same-name' || told.has(nameKey(name))) continue;
				told.add(nameKey(name));
				problems.push(
					`Two offers are called “${name}” and could meet: ${saySituation(situation, locale, names)}. Give one another name.`
				);
			}
	}
	return [...new Set(problems)];
}

/** What does no harm in a line-up and does nothing either, in words: currencies that the till does not take. */
export function idleParts(till: TillRow, offers: LineUp): string[] {
	const currencies = tillCurrencies(till);
	return offers.flatMap((offer) => {
		const idle = [
			...new Set([...Object.keys(offer.routes), ...offer.conditions.amounts.map((one) => one.currency)])
		].filter((code) => !currencies.includes(code));
		return idle.length
			? [`${offer.name} names ${idle.join(', ')}, which ${till.name} does not take: it counts for nothing there.`]
			: [];
	});
}

export interface NewlyEmpty {
	/** situations in words */
	readonly empty: readonly string[];
	/** what could not be looked at, in sentences */
	readonly notProven: readonly string[];
}

/**
 * Situations in which nothing would be offered that are not empty by what is in force, told by currency and amount, and
 * currencies in which that could not be proven: publishing it so needs a reason.
 */
export async function newlyEmpty(till: TillRow, offers: LineUp, before: LineUp, locale: string): Promise<NewlyEmpty> {
	const barren = tillCurrencies(till)
		.filter((code) => !offers.some((offer) => offer.on && code in offer.routes))
		.map((code) => `${code}, any amount`);
	// where nothing was in force, nothing becomes empty; a currency that no offer takes is told all the same
	if (!before.length) return { empty: barren, notProven: [] };
	const [names, held] = await Promise.all([groupNames(), snapshot()]);
	const base = baseOf(till, held);
	const { states } = held;
	const { situations: lost, notLooked } = await lostBetween(
		{ lineUp: before, states },
		{ lineUp: offers, states },
		base,
		domainsOf(till)
	);
	const empty = lost
		.filter((one) => !barren.includes(`${one.currency}, any amount`))
		.map((one) => saySituation(one, locale, names));
	return {
		empty: [...new Set([...barren, ...empty])],
		notProven: notLooked.map((one) => sayNotLooked(one, locale))
	};
}

async function putInForce(
	till: TillRow,
	offers: LineUp,
	by: string,
	reason: string,
	tx: Tx
): Promise<{ before?: LineUpRow; number: number }> {
	const rows = await db.lineUps.find(
		{ tillId: till.id, state: ['published', 'replaced'] },
		{ order: [['number', 'DESC']], limit: 1 },
		tx
	);
	const before = await db.lineUps.one({ tillId: till.id, state: 'published' }, tx);
	const number = (rows[0]?.number ?? 0) + 1;
	if (before) await db.lineUps.update({ id: before.id }, { state: 'replaced' }, tx);
	await db.lineUps.insert(
		{
			tillId: till.id,
			number,
			state: 'published',
			offers: JSON.stringify(offers),
			basedOn: before?.number ?? null,
			revision: 1,
			byUser: by,
			at: timeNow(),
			reason
		},
		tx
	);
	return { before, number };
}

export type Published = { readonly number: number } | { readonly problems: string[] };

/** Puts the draft in force as a new version. */
export async function publish(
	till: TillRow,
	revision: number,
	reason: string,
	by: string,
	locale = 'en-GB'
): Promise<Published> {
	const { draft, published } = await lineUpsOf(till.id);
	if (!draft || draft.row.revision !== revision) throw new DraftMoved();
	const problems = await publishProblems(till, draft.offers, locale);
	const { empty, notProven } = problems.length
		? { empty: [], notProven: [] }
		: await newlyEmpty(till, draft.offers, published?.offers ?? [], locale);
	if (empty.length && !reason.trim())
		problems.push(
			`Nothing would be offered in: ${empty.slice(0, 4).join(' · ')}${empty.length > 4 ? ` · and ${empty.length - 4} more` : ''}. Say why that is meant, or add a route.`
		);
	if (notProven.length && !reason.trim())
		problems.push(
			`It is not proven that every payer is offered something. ${notProven.join(' ')} Say why you publish it all the same.`
		);
	if (problems.length) return { problems };
	const number = await write(async (tx) => {
		const current = await db.lineUps.one({ tillId: till.id, state: 'draft' }, tx);
		if (!current || current.revision !== revision) throw new DraftMoved();
		await db.lineUps.remove({ id: current.id }, tx);
		const { before, number } = await putInForce(till, draft.offers, by, reason.trim(), tx);
		await audit(
			{
				by,
				kind: 'line-up',
				id: till.id,
				name: till.name,
				act: `published version ${number}`,
				before: { offers: before ? db.lineUps.json.offers(before.offers) : [] },
				after: { offers: draft.offers, ...(empty.length ? { empty } : {}), ...(notProven.length ? { notProven } : {}) }
			},
			tx
		);
		return number;
	});
	forgetSnapshot();
	tell('tills');
	return { number };
}

/** Puts an earlier version in force again, as a new one. */
export async function takeBack(till: TillRow, number: number, by: string): Promise<Published> {
	const version = asVersion(await db.lineUps.one({ tillId: till.id, number }));
	if (!version) return { problems: [`There is no version ${number}.`] };
	const problems = await publishProblems(till, version.offers);
	if (problems.length) return { problems };
	const made = await write(async (tx) => {
		const { before, number: next } = await putInForce(till, version.offers, by, `Back to version ${number}`, tx);
		await audit(
			{
				by,
				kind: 'line-up',
				id: till.id,
				name: till.name,
				act: `went back to version ${number}, as version ${next}`,
				before: { offers: before ? db.lineUps.json.offers(before.offers) : [] },
				after: { offers: version.offers }
			},
			tx
		);
		return next;
	});
	forgetSnapshot();
	tell('tills');
	return { number: made };
}

/** What one line-up changes against another, in sentences: what payers meet first, then the offers. */
export async function sayDifferences(before: LineUp, after: LineUp, locale: string, till?: TillRow): Promise<string[]> {
	const held = await snapshot();
	const names = Object.fromEntries([...held.connections, ...held.offline].map(([id, row]) => [id, row.name]));
	const says = differences(before, after, names, locale);
	if (!till || !before.length) return says;
	const base = baseOf(till, held);
	return [...rulerDifferences(before, after, base, held.states, till.name, locale), ...says];
}

/** Begins a draft from given offers: of a template, a file, or another till. Says which version it was begun from. */
export const replaceDraft = (till: TillRow, revision: number, offers: LineUp, by: string, act: string): Promise<void> =>
	changeDraft(till, revision, () => offers, by, act);
