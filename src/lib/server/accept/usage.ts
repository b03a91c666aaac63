import { methodName, type Ability, type Carrier, type Offer } from '../../core/lineup';
import { formatAmount } from '../../core/money';
import { lineUpsOf } from './lineups';
import { allTills, tillCurrencies } from './tills';
import { addDays, inZone } from '../../core/calendar';
import { db, openOutcomes, sumsAwaited, sumsOfCarrier, type TillRow } from '../db';
import { timeNow } from '../signals/clock';
import { theBusiness } from '../connect/business';

/** One offer that something carries, at one till. */
export interface Use {
	readonly till: TillRow;
	readonly offer: Offer;
	readonly published: boolean;
	readonly as: 'route' | 'standby';
	readonly currencies: readonly string[];
	/** what carries the same offer where this does not */
	readonly other: boolean;
}

/** Every offer of a published line-up or a draft that a carrier is the route or the standby of. */
export async function usesOf(carrier: Carrier): Promise<Use[]> {
	const uses: Use[] = [];
	const is = (one: Carrier | undefined) => one?.kind === carrier.kind && one.id === carrier.id;
	for (const till of await allTills()) {
		const { draft, published } = await lineUpsOf(till.id);
		for (const [version, isPublished] of [
			[published, true],
			[draft, false]
		] as const)
			for (const offer of version?.offers ?? [])
				for (const as of ['route', 'standby'] as const) {
					const currencies = Object.entries(offer.routes)
						.filter(([, route]) => is(as === 'route' ? route.first : route.standby))
						.map(([currency]) => currency);
					if (currencies.length)
						uses.push({
							till,
							offer,
							published: isPublished,
							as,
							currencies,
							other: currencies.every((one) => (as === 'route' ? offer.routes[one]!.standby : offer.routes[one]!.first))
						});
				}
	}
	return uses;
}

/** What came through a carrier in the last so many days of the business, by method and currency. */
export async function takenBy(carrier: string, days: number): ReturnType<typeof sumsOfCarrier> {
	const { timeZone } = await theBusiness();
	const { day } = inZone(new Date(timeNow()), timeZone);
	return sumsOfCarrier(carrier, addDays(day, -days), day);
}

/** Which methods of a connection are in use: routed to it from a till, else all that it can carry. */
export async function methodsInUse(connectionId: string, able: readonly string[]): Promise<string[]> {
	const uses = await usesOf({ kind: 'connection', id: connectionId });
	const used = [...new Set(uses.map((one) => one.offer.method as string))];
	return used.length ? used : [...able];
}

/** What would be hurt if a connection ended: tills, and payments whose end is still awaited; in sentences. */
export async function hurtBy(connectionId: string, locale: string): Promise<string[]> {
	const [uses, awaited, open, stored] = await Promise.all([
		usesOf({ kind: 'connection', id: connectionId }),
		sumsAwaited(connectionId),
		openOutcomes(connectionId),
		db.storedMethods.count({ connectionId, state: ['active', 'suspended'] })
	]);
	const says = uses.map(({ till, offer, published, as, currencies, other }) => {
		const what = `“${offer.name}” (${currencies.join(', ')})`;
		if (!published) return `${till.name}: the draft’s ${what} would have to be changed before it can be published.`;
		if (as === 'standby') return `${till.name}: ${what} would lose its standby.`;
		return other
			? `${till.name}: ${what} would go to its standby.`
			: `${till.name}: ${what} would be offered to nobody.`;
	});
	for (const { stage, count, sums } of awaited)
		says.push(
			`${count} payment${count === 1 ? '' : 's'} ${stage === 'authorised' ? 'held and not yet taken' : stage === 'pending' ? 'under way' : `${stage}, not paid out yet`}: ${sums
				.map((sum) => formatAmount(sum, locale))
				.join(', ')}. We would not hear what becomes of them, and could not refund them.`
		);
	if (open)
		says.push(
			`${open} charge${open === 1 ? '' : 's'} or refund${open === 1 ? '' : 's'} whose outcome is still being asked.`
		);
	if (stored)
		says.push(
			`${stored === 1 ? 'A card or mandate' : `${stored} cards and mandates`} that payers let it keep: nobody could pay by ${stored === 1 ? 'it' : 'them'} until this account is connected again.`
		);
	return says;
}

/** What other abilities would do to the tills that use a connection, in sentences; empty when nothing would change. */
export async function consequences(connectionId: string, abilities: readonly Ability[]): Promise<string[]> {
	const says: string[] = [];
	for (const { till, offer, published, currencies, as } of await usesOf({ kind: 'connection', id: connectionId })) {
		const where = `${till.name}${published ? '' : ' (draft)'}: “${offer.name}”${as === 'standby' ? ' as standby' : ''}`;
		const ability = abilities.find((one) => one.method === offer.method);
		if (!ability) {
			says.push(`${where} could not be carried any more: no ${methodName(offer.method).toLowerCase()} there.`);
			continue;
		}
		const gone = currencies.filter((one) => tillCurrencies(till).includes(one) && !ability.currencies.includes(one));
		if (gone.length) says.push(`${where} would lose ${gone.join(', ')}.`);
	}
	return says;
}
