import {
	conditionsInWords,
	isOnLineUp,
	isOutside,
	leastChanges,
	methodName,
	saySituation,
	type Act,
	type LeastChange,
	type LineUp,
	type Standing,
	type States
} from '../../core/lineup';
import { formatAmount } from '../../core/money';
import { randomId } from '../access';
import type { TillRow } from '../db';
import { groupNames } from './ask';
import { baseOf, lostBetween } from './coverage';
import { changeDraft } from './lineups';
import { snapshot } from './snapshot';
import { domainsOf } from './tills';

/** One act in words, and where it is done. */
export interface ShownAct {
	readonly says: string;
	readonly where: 'in the draft' | 'elsewhere' | 'at the processor or the domain';
	readonly link?: { readonly href: string; readonly label: string };
}
/** A change that would make something offered, as it is shown. */
export interface ShownChange {
	/** the acts as they are pressed: what the draft is given is what was shown */
	readonly key: string;
	readonly name: string;
	readonly acts: readonly ShownAct[];
	/** whether the draft carries at least a part of it */
	readonly isDraft: boolean;
}
/** Situations that a change opens or closes, beside the one that was asked. */
export interface Ripple {
	readonly opens: readonly string[];
	readonly closes: readonly string[];
	readonly notLooked: boolean;
}

/** Ids of offers to be added: the same ones while a page is shown and pressed. */
const ids = new Map<string, string>();
function idFor(tillId: string, method: string): string {
	const key = `${tillId} ${method}`;
	if (!ids.has(key)) {
		if (ids.size > 500) ids.clear();
		ids.set(key, randomId());
	}
	return ids.get(key)!;
}

/**
 * The smallest changes for a payer who was asked for at a till.
 * @param method of this method alone; empty for any
 */
export const suggestChanges = (till: TillRow, standing: Standing, method = ''): LeastChange[] =>
	leastChanges(standing, (made) => idFor(till.id, made), method ? { method } : {});

const keyOf = (acts: readonly Act[]): string =>
	JSON.stringify(acts.map((act) => (act.kind === 'add offer' ? { ...act, made: { ...act.made, id: '' } } : act)));

/** Acts in words, with where each is done. */
export async function showChanges(
	till: TillRow,
	lineUp: LineUp,
	changes: readonly LeastChange[],
	locale: string
): Promise<ShownChange[]> {
	const [held, groups] = await Promise.all([snapshot(), groupNames()]);
	const names = new Map(lineUp.map((offer) => [offer.id, offer.name]));
	const nameOf = (id: string) => held.connections.get(id)?.name ?? held.offline.get(id)?.name ?? 'a removed route';
	const show = (act: Act): ShownAct => {
		const where = isOnLineUp(act) ? 'in the draft' : isOutside(act) ? 'at the processor or the domain' : 'elsewhere';
		const offer = 'offer' in act ? (names.get(act.offer) ?? 'the new offer') : '';
		switch (act.kind) {
			case 'switch on':
				return { where, says: `Switch ${offer} on.` };
			case 'add route':
				return { where, says: `Let ${offer} take ${act.currency}, through ${nameOf(act.carrier.id)}.` };
			case 'change route':
				return { where, says: `Carry ${offer} in ${act.currency} through ${nameOf(act.carrier.id)} instead.` };
			case 'set limit':
				return {
					where,
					says: `Offer ${offer} ${act.side === 'minimum' ? 'from' : 'up to'} ${formatAmount({ minor: act.minor, currency: act.currency }, locale)}.`
				};
			case 'include': {
				const made = lineUp.find((one) => one.id === act.offer)?.conditions[act.list];
				const value = groups[act.value] ?? act.value;
				return {
					where,
					says:
						made?.rule === 'except'
							? `Offer ${offer} to ${value} too.`
							: `Add ${value} to those that ${offer} is offered to.`
				};
			}
			case 'drop condition':
				return { where, says: `Offer ${offer} without its condition on ${CONDITIONS[act.condition]}.` };
			case 'take all cards':
				return { where, says: `Let ${offer} take every card that its account can take.` };
			case 'rename':
				return { where, says: `Call ${offer} “${act.name}”, so that two ways are not called the same.` };
			case 'add offer': {
				const [currency] = Object.keys(act.made.routes);
				return {
					where,
					says: `Add ${methodName(act.made.method).toLowerCase()} as “${act.made.name}”, in ${currency}, through ${nameOf(act.made.routes[currency!]!.first.id)}. ${conditionsInWords(act.made, locale).join(', ')}`.trim()
				};
			}
			case 'take currency':
				return {
					where,
					says: `Let the till take ${act.currency}.`,
					link: { href: `/accept/tills/${till.slug}/settings`, label: 'Change the till’s currencies' }
				};
			case 'resume':
				return {
					where,
					says: `End the pause of ${act.what === 'method' ? methodName(act.value).toLowerCase() : act.what === 'scheme' ? (held.schemeNames[act.value] ?? act.value) : act.what === 'currency' ? act.value : nameOf(act.value)}.`,
					link: { href: '/accept/pauses', label: 'See what is paused' }
				};
			case 'set threshold':
				return {
					where,
					says: `Take ${act.common ? 'offline methods' : nameOf(act.offline)} from ${formatAmount({ minor: act.minor, currency: act.currency }, locale)}.`,
					link: { href: `/connect/offline/${act.offline}`, label: 'Change the offline method' }
				};
			case 'add offline currency':
				return {
					where,
					says: `Let ${nameOf(act.offline)} take ${act.currency}.`,
					link: { href: `/connect/offline/${act.offline}`, label: 'Change the offline method' }
				};
			case 'verify':
				return {
					where,
					says: `${nameOf(act.connection)} must be verified again.`,
					link: { href: `/connect/connections/${act.connection}`, label: 'See the connection' }
				};
			case 'be sound':
				return {
					where,
					says: `${nameOf(act.connection)} is failing; it is offered again once it answers.`,
					link: { href: `/connect/connections/${act.connection}`, label: 'See the connection' }
				};
			case 'prove domain':
				return {
					where,
					says: `Prove ${act.domain} for ${nameOf(act.connection)}.`,
					link: { href: '/connect/domains', label: 'See the domains' }
				};
			case 'page code':
				return {
					where,
					says: `Put the page code of ${nameOf(act.connection)} on ${act.domain}.`,
					link: { href: '/connect/domains', label: 'See the domains' }
				};
		}
	};
	return changes.map((change) => ({
		key: keyOf(change.acts),
		name: change.name,
		acts: change.acts.map(show),
		isDraft: change.acts.some(isOnLineUp)
	}));
}
const CONDITIONS: Readonly<Record<string, string>> = {
	countries: 'the payer’s country',
	groups: 'groups',
	goods: 'goods',
	delivery: 'delivery',
	domains: 'the web domain',
	recurrence: 'how often it is paid',
	orderedBy: 'how it is ordered',
	withoutOnlineMethod: 'an online method'
};

/** The part of a change that a draft carries. */
const draftOf = (change: LeastChange): { lineUp: LineUp } => ({ lineUp: change.after.lineUp });

/** What else changes by the draft of a change: situations that are empty on one side only. */
export async function rippleOf(till: TillRow, before: Standing, change: LeastChange, locale: string): Promise<Ripple> {
	const [names, held] = await Promise.all([groupNames(), snapshot()]);
	const side = (lineUp: LineUp, states: States) => ({ lineUp, states });
	const base = baseOf(till, held);
	const [now, then] = [side(before.lineUp, before.states), side(draftOf(change).lineUp, before.states)];
	const domains = domainsOf(till);
	const [opened, closed] = await Promise.all([
		lostBetween(then, now, base, domains),
		lostBetween(now, then, base, domains)
	]);
	const say = (list: typeof opened.situations) => [...new Set(list.map((one) => saySituation(one, locale, names)))];
	return {
		opens: say(opened.situations),
		closes: say(closed.situations),
		notLooked: opened.notLooked.length > 0 || closed.notLooked.length > 0
	};
}

/**
 * Makes the draft of a change that was shown. It is worked out anew: where it is not what was shown any more, nothing is done.
 * @returns what is wrong, if anything is
 */
export async function draftChange(
	till: TillRow,
	standing: Standing,
	key: string,
	revision: number,
	by: string,
	method = ''
): Promise<string | undefined> {
	const change = suggestChanges(till, standing, method).find((one) => keyOf(one.acts) === key);
	if (!change || !change.acts.some(isOnLineUp))
		return 'Something changed since this was shown. Nothing was done: look at the suggestions as they are now.';
	await changeDraft(
		till,
		revision,
		() => [...draftOf(change).lineUp],
		by,
		`made the least change that offers ${change.name}`
	);
	return undefined;
}
