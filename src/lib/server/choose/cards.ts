import { checkCard, RateCard, sayPlace, type CardTrouble } from '../../core/fees';
import { methodName } from '../../core/lineup';
import { inZone } from '../../core/calendar';
import { forgetSnapshot } from '../accept/freshness';
import { audit } from '../access';
import { readAccount } from '../connect/account';
import { db, write, type ConnectionRow, type RateCardRow } from '../db';
import { tell } from '../live';

/** Reads a card that was typed, or says where it is wrong. */
export function readCardText(text: string): { card: RateCard } | { says: string[] } {
	let given: unknown;
	try {
		given = JSON.parse(text);
	} catch {
		return { says: ['The card is not JSON.'] };
	}
	const read = RateCard.safeParse(given);
	return read.success
		? { card: read.data }
		: { says: read.error.issues.map((issue) => `${sayPlace(issue.path, given as object)}: ${issue.message}`) };
}

/** What a check of a card found, in sentences: the kind of payment, and the lines between which it cannot choose. */
export function sayTroubles(troubles: readonly CardTrouble[]): string[] {
	const say = ({ kind }: CardTrouble) =>
		[methodName(kind.method).toLowerCase(), kind.scheme, kind.funding, kind.region, kind.currency, kind.entry]
			.filter((part) => part && part !== 'unknown')
			.join(', ');
	const line = (one: CardTrouble['lines'][number]) =>
		Object.values(one.when).filter(Boolean).join(' ') || 'everything else';
	return troubles.map((one) => {
		const where = one.tier ? `Tier ${one.tier}, ` : '';
		if (one.trouble === 'ambiguous')
			return `${where}${say(one)}: two lines fit equally well, “${one.lines.map(line).join('” and “')}”.`;
		if (one.trouble === 'uncovered') return `${where}${say(one)}: no line covers it.`;
		return `${say(one)}: the cost table has no entry.`;
	});
}

/** Checks a card against everything that an account can carry. */
export function checkFor(row: ConnectionRow, card: RateCard): CardTrouble[] {
	const { abilities } = readAccount(row.account);
	return checkCard(
		card,
		abilities.map((one) => ({
			method: one.method,
			currencies: one.currencies,
			entries: one.entries,
			schemes: one.cardTypes ? (one.cardTypes.schemes === 'any' ? [] : one.cardTypes.schemes) : []
		}))
	);
}

export const versionsOf = (connectionId: string): Promise<RateCardRow[]> =>
	db.rateCards.find({ connectionId }, { order: [['validFrom', 'DESC']] });

/** Keeps a version of a connection's card, valid from a day. @returns what is wrong, if anything */
export async function saveVersion(
	row: ConnectionRow,
	card: RateCard,
	validFrom: string,
	by: string
): Promise<string[]> {
	if (card.settlement !== row.settlement)
		return [`The account settles in ${row.settlement}, the card in ${card.settlement}.`];
	const troubles = sayTroubles(checkFor(row, card));
	if (troubles.length) return troubles.slice(0, 12);
	await write(async (tx) => {
		const before = await db.rateCards.one({ connectionId: row.id, validFrom }, tx);
		await db.rateCards.remove({ connectionId: row.id, validFrom }, tx);
		await db.rateCards.insert(
			{
				connectionId: row.id,
				validFrom,
				card: JSON.stringify(card),
				source: `typed by ${by}`,
				createdAt: Date.now(),
				confirmedAt: Date.now(),
				confirmedBy: by
			},
			tx
		);
		await audit(
			{
				by,
				kind: 'rate card',
				id: row.id,
				name: `${row.name}, from ${validFrom}`,
				act: before ? 'changed' : 'added',
				before: before && { card: before.card },
				after: { card }
			},
			tx
		);
	});
	forgetSnapshot();
	tell('connections');
	return [];
}
/** Says that a card that was read from the processor is the one agreed upon. */
export async function confirmVersion(row: ConnectionRow, validFrom: string, by: string): Promise<boolean> {
	const done = await write(async (tx) => {
		const changed = await db.rateCards.update(
			{ connectionId: row.id, validFrom, confirmedAt: null },
			{ confirmedAt: Date.now(), confirmedBy: by },
			tx
		);
		if (changed)
			await audit(
				{ by, kind: 'rate card', id: row.id, name: `${row.name}, from ${validFrom}`, act: 'confirmed as agreed' },
				tx
			);
		return changed > 0;
	});
	tell('connections');
	return done;
}
export const todayOf = (row: ConnectionRow): string => inZone(new Date(), row.timeZone).day;
