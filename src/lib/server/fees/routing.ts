import { createHash } from 'node:crypto';
import { addDays, inZone, readDay } from '../../core/calendar';
import { countKinds, kindAt, type PastAround } from '../../core/fees';
import { domainTroubles, type LineUp } from '../../core/lineup';
import type { FoundRate } from '../../core/money';
import { audit } from '../access';
import { changeDraft, DraftMoved, lineUpsOf } from '../accept/lineups';
import { snapshot } from '../accept/snapshot';
import { pastKind, rangeOf, spanOf } from '../compare/compare';
import { rateFinder, shiftDay, type Period } from '../compare/kinds';
import { allSides, type ShownSide } from '../compare/sides';
import { readAccount } from '../connectors/account';
import {
	db,
	declinedWithin,
	disputesWithin,
	lastCapture,
	pastCount,
	pastStamp,
	write,
	type KindCount,
	type TillRow
} from '../db';
import { carriedOnly, kindKey, ownHistory } from '../history/columns';
import { Jobs, type Job } from '../jobs';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';
import { inThread, plainKind, type FoundRouting } from '../threads';

/** What the address of cheapest routing asks for. */
export interface RoutingQuestion {
	readonly period: Period;
	/** so many connections are kept at most; none where there is no limit */
	readonly most?: number;
}

/** One till × method × currency that is routed. */
export interface RoutedGroup {
	readonly till: string;
	readonly method: string;
	readonly currency: string;
	readonly today: number;
	/** minor units of its currency */
	readonly taken: number;
	/** several offers of the method go different ways: the first counts */
	readonly isMixed: boolean;
	/** places of sides that it may not go to, and why */
	readonly barred: readonly {
		readonly side: number;
		readonly why: 'refused' | 'domain' | 'capture' | 'limits' | 'paused';
	}[];
}
export interface RoutingResult extends FoundRouting {
	readonly period: Period;
	readonly currency: string;
	readonly groups: readonly RoutedGroup[];
	readonly connections: readonly { readonly id: string; readonly name: string }[];
	/** payments that are in no group, by why */
	readonly leftOut: readonly { readonly why: 'no till' | 'not offered' | 'not carried'; readonly count: number }[];
	/** connections that cannot be held against the others: their fees are in another currency */
	readonly apartByCurrency: readonly string[];
}

const KEPT = 4;
const MANY = 100_000;
const HEAD_START_MS = 400;
const jobs = new Jobs<RoutingResult>('a search for the cheapest routing', KEPT);
export const routingAt = (key: string): Job<RoutingResult> | undefined => jobs.at(key);

/** Reads the question; the last 365 days with payments where the address says nothing. */
export async function readRoutingQuestion(query: URLSearchParams, locale: string): Promise<RoutingQuestion> {
	const { business } = await snapshot();
	const last = inZone(new Date((await lastCapture()) ?? timeNow()), business.timeZone).day;
	const [from, to] = ['from', 'to'].map((name) => readDay(query.get(name) ?? '', locale));
	const end = to ?? last;
	const period = { from: from ?? addDays(end, -364), to: end };
	if (period.from > period.to) [period.from, period.to] = [period.to, period.from];
	const most = Number(query.get('most'));
	return { period, ...(Number.isInteger(most) && most > 0 ? { most } : {}) };
}

const groupKey = (till: string, method: string, currency: string) => `${till} ${method} ${currency}`;

/** Begins the search, or gives what was found before and is the same still. */
export async function beginRouting(question: RoutingQuestion): Promise<Job<RoutingResult>> {
	const [sides, held, refused] = await Promise.all([allSides(), snapshot(), db.refusedMoves.find()]);
	const key = createHash('sha256')
		.update(
			JSON.stringify([
				question,
				await pastStamp(),
				sides.map(({ id, card, bankDays, terms, country }) => [
					id,
					card,
					bankDays,
					terms.carries,
					terms.currencies,
					country
				]),
				[...held.tills.values()].map(({ row, published }) => [row.id, row.domain, published]),
				[...held.connections.values()].map(({ id, account }) => [id, account]),
				Object.values(held.states.connections).map(({ id, verified, paused }) => [id, verified, paused]),
				held.states.provenDomains,
				held.states.pageCodes,
				refused.map(({ tillId, method, currency, connectionId }) => [tillId, method, currency, connectionId])
			])
		)
		.digest('base64url')
		.slice(0, 20);
	return jobs.begin(key, async ({ progress, breathe }) => {
		if ((await pastCount()) > MANY) await new Promise((next) => setTimeout(next, HEAD_START_MS));
		const controller = new AbortController();
		// the search in the other thread hears of a stop while it runs
		const watch = setInterval(() => void breathe().catch(() => controller.abort()), 200);
		try {
			return await work(question, sides, controller.signal, (done, of) => {
				progress.done = done;
				progress.of = of;
			});
		} catch (error) {
			await breathe();
			throw error;
		} finally {
			clearInterval(watch);
		}
	});
}

async function work(
	{ period, most }: RoutingQuestion,
	all: readonly ShownSide[],
	stopped: AbortSignal,
	step: (done: number, of: number) => void
): Promise<RoutingResult> {
	const held = await snapshot();
	const { timeZone, homeCurrency } = held.business;
	const ours = all.filter((side) => side.kind === 'connection');
	const sides = ours.filter((side) => side.card.settlement === homeCurrency);
	// a routing ends at the thread once more than the sides are priced: the search itself is the last step
	step(0, sides.length + 1);
	const history = carriedOnly(await ownHistory(timeZone));
	const range = rangeOf(history, period);
	const counted = countKinds(history.kinds.length, history, range);
	const tillOf = new Map([...held.tills.values()].map((one) => [one.row.id, one]));
	const placeOf = new Map(sides.map((side, at) => [side.id, at]));
	const refused = await db.refusedMoves.find();
	const groups: (RoutedGroup & { taken: number })[] = [];
	const index = new Map<string, number>();
	const leftOut = { 'no till': 0, 'not offered': 0, 'not carried': 0 };
	const bounds = amountBounds(history, range);
	const groupOf = history.kinds.map((kind, k) => {
		if (!counted.counts[k]) return -1;
		const till = tillOf.get(kind.till);
		if (!till) {
			leftOut['no till'] += counted.counts[k]!;
			return -1;
		}
		const { routes, capture } = routesOf(till.published?.lineUp ?? [], kind.method, kind.currency);
		const today = placeOf.get(routes[0] ?? '');
		if (today === undefined) {
			leftOut['not offered'] += counted.counts[k]!;
			return -1;
		}
		const side = sides[today]!;
		if (!side.carries(kindAt(pastKind(kind), side.card, side.country))) {
			leftOut['not carried'] += counted.counts[k]!;
			return -1;
		}
		const key = groupKey(kind.till, kind.method, kind.currency);
		let at = index.get(key);
		if (at === undefined) {
			at = groups.length;
			index.set(key, at);
			groups.push({
				till: kind.till,
				method: kind.method,
				currency: kind.currency,
				today,
				taken: 0,
				isMixed: new Set(routes).size > 1,
				barred: sides.flatMap((one, place): RoutedGroup['barred'] => {
					const bar = (why: RoutedGroup['barred'][number]['why']) => [{ side: place, why }];
					if (place === today) return [];
					if (
						refused.some(
							(row) =>
								row.tillId === kind.till &&
								row.method === kind.method &&
								row.currency === kind.currency &&
								row.connectionId === one.id
						)
					)
						return bar('refused');
					const state = held.states.connections[one.id];
					if (!state?.verified || state.paused) return bar('paused');
					const ability = state.abilities.find((can) => can.method === kind.method);
					const context = { domain: till.row.domain || undefined } as Parameters<typeof domainTroubles>[2];
					if (domainTroubles(ability, state, context, held.states).length) return bar('domain');
					if (capture === 'later' && !readAccount(held.connections.get(one.id)!.account).authorisationDays)
						return bar('capture');
					const span = bounds.get(key);
					const limit = ability?.limits.find((own) => own.currency === kind.currency);
					if (span && limit && (span[0] < (limit.minimum ?? 0) || span[1] > (limit.maximum ?? Infinity)))
						return bar('limits');
					return [];
				})
			});
		}
		groups[at]!.taken += counted.volumes[k]!;
		return at;
	});
	const finder = await rateFinder(shiftDay(period.from, -12));
	const past = {
		count: history.count,
		kinds: history.kinds.map(pastKind),
		kind: history.kind,
		minor: history.minor,
		day: history.day,
		month: history.month,
		days: history.days,
		refunded: history.refunded
	};
	const used = range[1] > range[0] ? past.days.slice(past.day[range[0]]!, past.day[range[1] - 1]! + 1) : [];
	const currencies = [...new Set(history.kinds.map((one) => one.currency))].filter((one) => one !== homeCurrency);
	const rates = sides.map((side) => {
		const rateOf = finder(side.name, homeCurrency);
		const known = new Map<string, FoundRate>();
		for (const currency of currencies)
			for (const day of used) {
				const found = rateOf(currency, day);
				if (found) known.set(`${currency} ${day}`, found);
			}
		return known;
	});
	const excludes = sides.map((side) => held.states.connections[side.id]?.excludes ?? []);
	const processors = sides.map((side) => held.states.connections[side.id]?.processor ?? '');
	const apart = sides.flatMap((_, a) =>
		sides.flatMap((__, b) =>
			b > a && (excludes[a]!.includes(processors[b]!) || excludes[b]!.includes(processors[a]!)) ? [[a, b] as const] : []
		)
	);
	const found = await inThread(
		'findRouting',
		{
			past,
			range,
			groupOf,
			groups: groups.map(({ till, method, currency, today, barred }) => ({
				key: groupKey(till, method, currency),
				till,
				today,
				barred: barred.map((one) => one.side)
			})),
			methods: groups.map((one) => one.method),
			currencies: groups.map((one) => one.currency),
			sides: sides.map(({ id, card, country, bankDays, rhythm, carries }) => ({
				id,
				card,
				country,
				bankDays,
				rhythm,
				carried: [
					...new Set(
						past.kinds
							.map((one) => kindAt(one, card, country))
							.filter(carries)
							.map(plainKind)
					)
				]
			})),
			rates,
			apart,
			...(most === undefined ? {} : { most }),
			happened: await happenedAround(history.kinds, spanOf(period, timeZone))
		},
		async (done) => step(done, sides.length + 1),
		stopped
	);
	step(sides.length + 1, sides.length + 1);
	return {
		...found,
		period,
		currency: homeCurrency,
		groups,
		connections: sides.map(({ id, name }) => ({ id, name })),
		leftOut: (['no till', 'not offered', 'not carried'] as const)
			.map((why) => ({ why, count: leftOut[why] }))
			.filter((one) => one.count > 0),
		apartByCurrency: ours.filter((side) => side.card.settlement !== homeCurrency).map((side) => side.name)
	};
}

/** Connections of all offers of a method in a currency, in the line-up's order, and whether any captures later. */
function routesOf(
	lineUp: LineUp,
	method: string,
	currency: string
): { routes: string[]; capture: 'later' | 'at once' } {
	const offers = lineUp.filter((one) => one.on && one.method === method && Object.hasOwn(one.routes, currency));
	return {
		routes: offers.flatMap((one) => {
			const { first } = one.routes[currency]!;
			return first.kind === 'connection' ? [first.id] : [];
		}),
		capture: offers.some((one) => one.capture === 'later') ? 'later' : 'at once'
	};
}

/** The least and the largest amount of each group, in minor units of its currency. */
function amountBounds(
	history: Awaited<ReturnType<typeof ownHistory>>,
	[from, to]: readonly [number, number]
): Map<string, [number, number]> {
	const least = history.kinds.map(() => Infinity);
	const most = history.kinds.map(() => 0);
	for (let n = from; n < to; n++) {
		const k = history.kind[n]!;
		const minor = history.minor[n]!;
		if (minor < least[k]!) least[k] = minor;
		if (minor > most[k]!) most[k] = minor;
	}
	const spans = new Map<string, [number, number]>();
	history.kinds.forEach((kind, k) => {
		if (!most[k]) return;
		const key = groupKey(kind.till, kind.method, kind.currency);
		const [low, high] = spans.get(key) ?? [Infinity, 0];
		spans.set(key, [Math.min(low, least[k]!), Math.max(high, most[k]!)]);
	});
	return spans;
}

async function happenedAround(
	kinds: readonly Parameters<typeof kindKey>[0][],
	span: ReturnType<typeof spanOf>
): Promise<PastAround> {
	const [disputes, declined] = await Promise.all([disputesWithin(span), declinedWithin(span)]);
	const index = new Map(kinds.map((kind, k) => [kindKey(kind), k]));
	const count = (list: readonly KindCount[]) => {
		const counts: number[] = kinds.map(() => 0);
		for (const one of list) {
			const k = index.get(kindKey(one));
			// attempts of a kind that was never paid are in no group
			if (k !== undefined) counts[k]! += one.count;
		}
		return counts;
	};
	return { disputes: count(disputes), declined: count(declined) };
}

export interface Move {
	readonly tillId: string;
	readonly method: string;
	readonly currency: string;
	readonly connectionId: string;
}

/** Keeps a move out of all searches from now on, or lets it in again. */
export async function refuseMove(move: Move, isRefused: boolean, by: string): Promise<void> {
	const { tillId, method, currency, connectionId } = move;
	await write(async (tx) => {
		const [till, connection] = await Promise.all([
			db.tills.one({ id: tillId }, tx),
			db.connections.one({ id: connectionId }, tx)
		]);
		if (!till || !connection) return;
		const known = await db.refusedMoves.one({ tillId, method, currency, connectionId }, tx);
		if (!!known === isRefused) return;
		if (isRefused)
			await db.refusedMoves.insert({ tillId, method, currency, connectionId, byUser: by, at: timeNow() }, tx);
		else await db.refusedMoves.remove({ tillId, method, currency, connectionId }, tx);
		await audit(
			{
				by,
				kind: 'line-up',
				id: tillId,
				name: till.name,
				act: `${isRefused ? 'refused' : 'allowed'} the move of ${method} in ${currency} to ${connection.name}`
			},
			tx
		);
	});
	tell('fees');
}

export type DraftsMade = { readonly tills: readonly { slug: string; name: string }[] } | { readonly problem: string };

/**
 * Makes drafts of the moves of a result at the tills concerned, and keeps what each promised.
 * @param chosen places of groups whose moves are wanted
 */
export async function draftMoves(result: RoutingResult, chosen: readonly number[], by: string): Promise<DraftsMade> {
	const moves = result.moves.filter((one) => chosen.includes(one.group));
	if (!moves.length) return { problem: 'Choose at least one move.' };
	const tills = new Map<string, typeof moves>();
	for (const move of moves) {
		const { till } = result.groups[move.group]!;
		tills.set(till, [...(tills.get(till) ?? []), move]);
	}
	const made: { slug: string; name: string }[] = [];
	for (const [tillId, list] of tills) {
		const till = (await db.tills.one({ id: tillId })) as TillRow | undefined;
		if (!till) continue;
		const { draft } = await lineUpsOf(tillId);
		const change = (offers: LineUp): LineUp =>
			offers.map((offer) => {
				const routes = { ...offer.routes };
				for (const { group, to } of list) {
					const { method, currency } = result.groups[group]!;
					const route = Object.hasOwn(routes, currency) ? routes[currency] : undefined;
					if (offer.method !== method || !route || route.first.kind !== 'connection') continue;
					const first = { kind: 'connection' as const, id: result.connections[to]!.id };
					// where the new one stood by for the old one, they change places
					const standby = route.standby?.id === first.id ? route.first : route.standby;
					routes[currency] = standby ? { first, standby } : { first };
				}
				return { ...offer, routes };
			});
		try {
			await changeDraft(till, draft?.row.revision ?? 0, change, by, 'draft of the cheapest routing');
		} catch (error) {
			if (!(error instanceof DraftMoved)) throw error;
			return { problem: `Somebody else changed the draft of ${till.name} meanwhile. Try once more.` };
		}
		await write(async (tx) => {
			for (const { group, from, to, saves } of list) {
				const { method, currency } = result.groups[group]!;
				await db.promisedMoves.insert(
					{
						tillId,
						method,
						currency,
						fromId: result.connections[from]!.id,
						toId: result.connections[to]!.id,
						firstDay: result.period.from,
						lastDay: result.period.to,
						saves,
						payments: result.counts[group]!,
						byUser: by,
						at: timeNow()
					},
					tx
				);
			}
		});
		made.push({ slug: till.slug, name: till.name });
	}
	tell('fees');
	return { tills: made };
}
