import { answer, methodName, type LineUp, type States } from '../../core/lineup';
import { audit, randomId } from '../access';
import { db, write, type PauseRow } from '../db';
import { tell } from '../signals/live';
import { contextOf } from './ask';
import { forgetSnapshot } from '../signals/freshness';
import { snapshot } from './snapshot';
import { lostBetween } from './coverage';
import { domainsOf } from './tills';
import { timeNow } from '../signals/clock';

export type PauseKind = PauseRow['kind'];

/** Pauses that hold now. */
export const openPauses = (): Promise<PauseRow[]> => db.pauses.find({ endedAt: null }, { order: [['at', 'DESC']] });

/** A thing that can be paused everywhere, by its kind. */
export async function pausable(): Promise<{ kind: PauseKind; value: string; name: string }[]> {
	const { states, tills, schemeNames } = await snapshot();
	const offers = [...tills.values()].flatMap((till) => till.published?.lineUp ?? []);
	const currencies = new Set([...tills.values()].flatMap((till) => till.currencies));
	const schemes = new Set(
		Object.values(states.connections).flatMap((one) =>
			one.abilities.flatMap((ability) =>
				ability.cardTypes && ability.cardTypes.schemes !== 'any' ? ability.cardTypes.schemes : []
			)
		)
	);
	return [
		...Object.values(states.connections).map((one) => ({
			kind: 'connection' as const,
			value: one.id,
			name: one.mode === 'test' ? `${one.name}, test` : one.name
		})),
		...[...new Set(offers.map((offer) => offer.method))].map((value) => ({
			kind: 'method' as const,
			value,
			name: methodName(value)
		})),
		...[...schemes].map((value) => ({ kind: 'scheme' as const, value, name: schemeNames[value] ?? value })),
		...[...currencies].map((value) => ({ kind: 'currency' as const, value, name: value }))
	];
}

/** The states as they would be with one more pause. */
export function withPause(states: States, kind: PauseKind, value: string): States {
	switch (kind) {
		case 'connection': {
			const one = states.connections[value];
			return one ? { ...states, connections: { ...states.connections, [value]: { ...one, paused: true } } } : states;
		}
		case 'method':
			return { ...states, pausedMethods: [...states.pausedMethods, value] };
		case 'scheme':
			return { ...states, pausedSchemes: [...(states.pausedSchemes ?? []), value] };
		case 'currency':
			return { ...states, pausedCurrencies: [...(states.pausedCurrencies ?? []), value] };
	}
}

/** What a pause does to one till. */
export interface PauseEffect {
	readonly till: string;
	readonly slug: string;
	/** what steps in for what, what is withheld, and where nothing is left */
	readonly says: readonly string[];
	readonly empty: boolean;
}

/** What every till would offer with a pause, against what it offers now: told before it is done. */
export async function effectsOf(kind: PauseKind, value: string): Promise<PauseEffect[]> {
	const held = await snapshot();
	const after = withPause(held.states, kind, value);
	const effects: PauseEffect[] = [];
	for (const till of held.tills.values()) {
		const lineUp: LineUp = till.published?.lineUp ?? [];
		if (!lineUp.length) continue;
		const says: string[] = [];
		const base = contextOf(till, { currency: till.currencies[0]!, minor: 1 }, held, new Date(timeNow()));
		for (const currency of till.currencies)
			for (const offer of lineUp) {
				// the amount does not matter here: routes and types are compared, whatever the limits
				const free = { ...offer, conditions: { amounts: [] } };
				const context = { ...base, currency, minor: 10_000 };
				const [was] = answer([free], context, held.states).offered;
				const [is] = answer([free], context, after).offered;
				if (!was) continue;
				if (!is) says.push(`${offer.name} in ${currency} is withheld.`);
				else if (is.carrier.id !== was.carrier.id)
					says.push(
						`${offer.name} in ${currency} goes through ${after.connections[is.carrier.id]?.name ?? held.offline.get(is.carrier.id)?.name ?? 'its standby'}, which stands by.`
					);
				else if (JSON.stringify(is.types) !== JSON.stringify(was.types))
					says.push(`${offer.name} in ${currency} takes fewer card types.`);
			}
		if (!says.length) continue;
		const { situations, notLooked } = await lostBetween(
			{ lineUp, states: held.states },
			{ lineUp, states: after },
			base,
			domainsOf(till.row)
		);
		const fresh = [...new Set(situations.map((one) => one.currency))];
		if (notLooked.length)
			says.push(
				`Whether some payers would meet nothing in ${notLooked.map((one) => one.currency).join(', ')} could not be looked at whole.`
			);
		if (fresh.length) says.push(`Some payers would meet nothing in ${fresh.join(', ')}.`);
		effects.push({ till: till.row.name, slug: till.row.slug, says: [...new Set(says)], empty: fresh.length > 0 });
	}
	return effects;
}

/** Pauses a connection, method, scheme or currency at every till, until a time or until it is resumed. */
export async function pause(
	kind: PauseKind,
	value: string,
	until: number | null,
	reason: string,
	by: string
): Promise<string | undefined> {
	const known = (await pausable()).find((one) => one.kind === kind && one.value === value);
	if (!known) return 'This is not in use at any till.';
	if (until !== null && until <= timeNow()) return 'The time until which it is paused has passed already.';
	const done = await write(async (tx) => {
		if (await db.pauses.one({ kind, value, endedAt: null }, tx)) return false;
		const id = randomId();
		await db.pauses.insert({ id, kind, value, until, reason, byUser: by, at: timeNow(), endedAt: null }, tx);
		await audit(
			{ by, kind: 'pause', id, name: known.name, act: 'paused everywhere', after: { kind, value, until, reason } },
			tx
		);
		return true;
	});
	forgetSnapshot();
	tell('tills');
	tell('connections');
	return done ? undefined : `${known.name} is paused already.`;
}

export async function resume(id: string, by: string): Promise<void> {
	await write(async (tx) => {
		const row = await db.pauses.one({ id, endedAt: null }, tx);
		if (!row) return;
		await db.pauses.update({ id }, { endedAt: timeNow() }, tx);
		await audit(
			{ by, kind: 'pause', id, name: `${row.kind} ${row.value}`, act: 'resumed everywhere', before: row },
			tx
		);
	});
	forgetSnapshot();
	tell('tills');
	tell('connections');
}

/** Ends the pauses whose time has come. */
export async function endPauses(now: number): Promise<void> {
	for (const row of await openPauses()) if (row.until !== null && row.until <= now) await resume(row.id, 'Just Purse');
}
