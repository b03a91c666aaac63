import { EEA } from '../../core/cards';
import { cardDifferences, RateCard } from '../../core/fees';
import type { Connector } from '../connectors';
import { db, markRepricing, type RateCardRow, type Tx } from '../db';
import { timeNow } from '../signals/clock';

// Two things are called a rate card. The contract is what somebody confirmed: fees are held against it. The proposal is what
// the processor says: shown as a difference until it is confirmed or turned down, and never expected of anything.

/** A card with its row. */
export interface KeptCard {
	readonly id: number;
	readonly validFrom: string;
	readonly source: string;
	readonly body: RateCard;
}
const kept = (row: RateCardRow): KeptCard => ({
	id: row.id,
	validFrom: row.validFrom,
	source: row.source,
	body: db.rateCards.json.card(row.card)
});

/** Confirmed cards of a connection, the newest first. */
export const contractsOf = async (connectionId: string, tx?: Tx): Promise<KeptCard[]> =>
	(await db.rateCards.find({ connectionId, role: 'contract' }, { order: [['validFrom', 'DESC']] }, tx)).map(kept);

/** What the processor says and nobody has confirmed or turned down, the newest first. */
export const proposalsOf = (connectionId: string, tx?: Tx): Promise<RateCardRow[]> =>
	db.rateCards.find({ connectionId, role: 'proposal', confirmedAt: null }, { order: [['validFrom', 'DESC']] }, tx);

/** Every proposal that waits for a decision, at any connection. */
export const openProposals = (): Promise<RateCardRow[]> =>
	db.rateCards.find({ role: 'proposal', confirmedAt: null }, { order: [['validFrom', 'DESC']] });

/**
 * The contract of a connection on a day in its account's time zone: the one way to the card that fees are held against.
 * @param day `YYYY-MM-DD`
 */
export const cardAt = async (connectionId: string, day: string, tx?: Tx): Promise<KeptCard | undefined> =>
	(await contractsOf(connectionId, tx)).find((one) => one.validFrom <= day);

/** The card to compare a connection by: its newest contract, or what its processor proposes where there is none. */
export async function newestCard(
	connectionId: string
): Promise<(KeptCard & { readonly isConfirmed: boolean }) | undefined> {
	const contract = (await contractsOf(connectionId))[0];
	if (contract) return { ...contract, isConfirmed: true };
	const proposal = (await proposalsOf(connectionId))[0];
	return proposal && { ...kept(proposal), isConfirmed: false };
}

/** The areas within which a connection's rate card counts another country as regional. */
export async function areasOf(connectionId: string): Promise<string[][]> {
	const areas = (await newestCard(connectionId))?.body.areas ?? [];
	return areas.length ? areas : [[...EEA]];
}

/**
 * Keeps what a processor says its prices are, where that is new: neither the contract of that day nor proposed before.
 * @returns the day from which it is said to be valid and what differs, in sentences; undefined where nothing is new
 */
export async function keepProposal(
	connectionId: string,
	read: Awaited<ReturnType<Connector['rateCard']>>,
	source: string,
	tx: Tx
): Promise<{ validFrom: string; says: string[] } | undefined> {
	const { validFrom } = read;
	const card = JSON.stringify(read.card);
	const contracts = await contractsOf(connectionId, tx);
	const contract = contracts.find((one) => one.validFrom <= validFrom);
	const before = await db.rateCards.one({ connectionId, role: 'proposal', validFrom }, tx);
	// also one that was turned down is not told again
	if (before?.card === card) return undefined;
	if (before) await db.rateCards.remove({ id: before.id }, tx);
	const isAgreed = contract && JSON.stringify(contract.body) === card;
	if (isAgreed) return undefined;
	const rest = { source, createdAt: timeNow(), confirmedBy: '' };
	const others = before ? [before] : await proposalsOf(connectionId, tx);
	await db.rateCards.insert({ connectionId, role: 'proposal', validFrom, card, ...rest }, tx);
	const against = contract?.body ?? (others[0] && db.rateCards.json.card(others[0].card));
	return against ? { validFrom, says: cardDifferences(against, read.card, 'en-GB') } : undefined;
}

/** Makes a card the contract from a day on, in the place of what stood for that day; payments since are priced anew. */
export async function keepContract(
	connectionId: string,
	card: string,
	validFrom: string,
	source: string,
	by: string,
	tx: Tx
): Promise<RateCardRow | undefined> {
	const before = await db.rateCards.one({ connectionId, role: 'contract', validFrom }, tx);
	const at = timeNow();
	await db.rateCards.remove({ connectionId, role: 'contract', validFrom }, tx);
	await db.rateCards.insert(
		{ connectionId, role: 'contract', validFrom, card, source, createdAt: at, confirmedAt: at, confirmedBy: by },
		tx
	);
	await markRepricing(connectionId, validFrom, tx);
	return before;
}

/** Confirms what the processor says as what was agreed upon. @returns false where there is no such proposal */
export async function confirmProposal(connectionId: string, validFrom: string, by: string, tx: Tx): Promise<boolean> {
	const proposal = await db.rateCards.one({ connectionId, role: 'proposal', validFrom, confirmedAt: null }, tx);
	if (!proposal) return false;
	await keepContract(connectionId, proposal.card, validFrom, proposal.source, by, tx);
	await db.rateCards.remove({ id: proposal.id }, tx);
	return true;
}

/** Turns a proposal down: the contract stays, and the same proposal is not told again. */
export const declineProposal = async (connectionId: string, validFrom: string, by: string, tx: Tx): Promise<boolean> =>
	(await db.rateCards.update(
		{ connectionId, role: 'proposal', validFrom, confirmedAt: null },
		{ confirmedAt: timeNow(), confirmedBy: by },
		tx
	)) > 0;
