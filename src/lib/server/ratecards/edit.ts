import { cardDifferences, checkCard, RateCard, sayPlace, type CardTrouble } from '../../core/fees';
import { methodName } from '../../core/lineup';
import { inZone } from '../../core/calendar';
import { forgetSnapshot } from '../signals/freshness';
import { audit } from '../access';
import { readAccount } from '../connectors/account';
import { db, write, type ConnectionRow } from '../db';
import { tell } from '../signals/live';
import { wake } from '../signals/wake';
import { confirmProposal, declineProposal, keepContract } from '.';
import { timeNow } from '../signals/clock';

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

/** Keeps a contract of a connection's, valid from a day. @returns what is wrong, if anything */
export async function saveContract(
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
		const before = await keepContract(row.id, JSON.stringify(card), validFrom, `typed by ${by}`, by, tx);
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
	changed();
	return [];
}

/** Says that what the processor proposes is what was agreed upon, or that it is not. */
export async function decideProposal(
	row: ConnectionRow,
	validFrom: string,
	decision: 'confirm' | 'decline',
	by: string
): Promise<boolean> {
	const done = await write(async (tx) => {
		const decided = await (decision === 'confirm' ? confirmProposal : declineProposal)(row.id, validFrom, by, tx);
		if (decided)
			await audit(
				{
					by,
					kind: 'rate card',
					id: row.id,
					name: `${row.name}, from ${validFrom}`,
					act: decision === 'confirm' ? 'confirmed as agreed' : 'declined: the contract stays'
				},
				tx
			);
		return decided;
	});
	changed();
	return done;
}

function changed(): void {
	forgetSnapshot();
	tell('connections');
	wake();
}

export const todayOf = (row: ConnectionRow): string => inZone(new Date(timeNow()), row.timeZone).day;

/** What the sheet of a connection's rate cards shows: its contracts, what the processor proposes, and one of them whole. */
export async function shownRateCards(row: ConnectionRow, wanted: string, locale: string) {
	const all = (await db.rateCards.find({ connectionId: row.id }, { order: [['validFrom', 'DESC']] })).map((one) => ({
		...one,
		key: one.role === 'contract' ? one.validFrom : `proposal-${one.validFrom}`,
		isOpen: one.role === 'proposal' && one.confirmedAt === null
	}));
	const listed = all.filter((one) => one.role === 'contract' || one.isOpen);
	const shown = listed.find((one) => one.key === wanted) ?? listed.find((one) => one.isOpen) ?? listed[0] ?? undefined;
	if (!shown) return undefined;
	const card = db.rateCards.json.card(shown.card);
	const contracts = listed.filter((one) => one.role === 'contract');
	// a proposal is held against the contract of its day, a contract against the one before it
	const before = contracts.find((one) =>
		shown.role === 'contract' ? one.validFrom < shown.validFrom : one.validFrom <= shown.validFrom
	);
	return {
		versions: listed.map(({ key, validFrom, source, role }) => ({ key, validFrom, source, role })),
		shown: { key: shown.key, validFrom: shown.validFrom, isProposal: shown.isOpen },
		hasContract: contracts.length > 0,
		confirmed: shown.confirmedAt ? { at: shown.confirmedAt, by: shown.confirmedBy } : undefined,
		source: shown.source,
		differs: before ? cardDifferences(db.rateCards.json.card(before.card), card, locale) : [],
		before: before?.validFrom,
		beforeCard: before && db.rateCards.json.card(before.card),
		card,
		troubles: sayTroubles(checkFor(row, card)).slice(0, 12),
		today: todayOf(row)
	};
}
