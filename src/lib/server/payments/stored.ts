import {
	addMonths,
	isUsable,
	MANDATE_MONTHS,
	renewalMonths,
	whyOver,
	byUse,
	type StoredFacts
} from '../../core/billing';
import { inZone, instantIn } from '../../core/calendar';
import type { Method } from '../../core/lineup';
import { audit, macOf, seal, unseal } from '../access';
import { ConnectorError, type Report } from '../connectors';
import {
	db,
	endingCards,
	expiredCards,
	unforgottenMethods,
	unusedMandates,
	write,
	type PaymentRow,
	type StoredMethodRow,
	type Tx
} from '../db';
import { recordEvent } from '../events';
import { speak } from '../speak/speak';
import { timeNow } from '../signals/clock';
import { tell } from '../signals/live';
import { wake } from '../signals/wake';

// Methods that payers let a processor keep: they come with the payment at which the payer agreed, are paid by at the same
// account alone, and end here first, then there.

const PURPOSE = 'stored method';
const tokenHash = (token: string): string => macOf(token, PURPOSE);
/** The processor's token of a stored method. It is used for a charge, and for nothing else. */
export const tokenOf = (row: StoredMethodRow): string => unseal(row.tokenSealed, PURPOSE).toString();

export const cardOf = (row: StoredMethodRow) =>
	row.card ? (db.storedMethods.json.card(row.card) ?? undefined) : undefined;
export const mandateOf = (row: StoredMethodRow) =>
	row.mandate ? (db.storedMethods.json.mandate(row.mandate) ?? undefined) : undefined;

/** What decides whether it can be paid by. @param zone of the business, whose days count */
export const factsOfStored = (row: StoredMethodRow, zone: string): StoredFacts => ({
	method: row.method as Method,
	state: row.state,
	expires: row.expires,
	lastUsed: inZone(new Date(row.usedAt), zone).day
});

const zoneOf = async (tx?: Tx): Promise<string> => (await db.business.one({ id: 1 }, tx))!.timeZone;

/** What is told of a stored method, in events. */
function toldOf(row: StoredMethodRow): Record<string, unknown> {
	const card = cardOf(row);
	const mandate = mandateOf(row);
	return {
		payer: row.payerId,
		connection: row.connectionId,
		mode: row.mode,
		method: row.method,
		...(card?.scheme ? { scheme: card.scheme } : {}),
		...((card?.last4 ?? mandate?.last4) ? { last4: card?.last4 ?? mandate?.last4 } : {}),
		...(row.expires ? { expires: row.expires } : {}),
		...(mandate ? { mandate: mandate.reference } : {})
	};
}

/**
 * Keeps what a processor tells that it keeps, where the payer agreed to it at this payment; and the mandate of a bank
 * debit, whoever uses it again. The same card or account stored anew takes the place of the older one.
 */
export async function keepStored(payment: PaymentRow, report: Report, tx: Tx): Promise<void> {
	if (!report.stored && !report.mandate) return;
	const request = await db.paymentRequests.one({ paymentId: payment.id }, tx);
	if (!request) return;
	if (report.mandate && !request.mandate)
		await db.paymentRequests.update({ paymentId: payment.id }, { mandate: JSON.stringify(report.mandate) }, tx);
	if (!request.keep || !request.keepPayer || !report.stored || payment.connectionId === null) return;
	const owner = await db.payers.one({ id: request.keepPayer, removedAt: null }, tx);
	if (!owner) return;
	const { processor, accountId, connectionId, mode, method } = payment;
	const hash = tokenHash(report.stored);
	if (await db.storedMethods.one({ processor, accountId, tokenHash: hash }, tx)) return;
	const card = report.card ?? null;
	const expires = card?.expiry ?? '';
	const before = await db.storedMethods.find({ payerId: owner.id, state: ['active', 'suspended'] }, {}, tx);
	const same = before.filter((one) => {
		if (one.processor !== processor || one.accountId !== accountId || one.method !== method) return false;
		const known = cardOf(one);
		const signed = mandateOf(one);
		return card
			? known?.scheme === card.scheme && known.last4 === card.last4 && known.last4 !== undefined
			: !!signed?.last4 && signed.last4 === report.mandate?.last4 && signed.bank === report.mandate.bank;
	});
	for (const one of same) await endWithin(one, { by: 'itself', why: 'kept again' }, tx);
	const at = timeNow();
	const row = await db.storedMethods.insert(
		{
			payerId: owner.id,
			connectionId,
			processor,
			accountId,
			mode,
			method,
			tokenHash: hash,
			tokenSealed: seal(report.stored, PURPOSE),
			card: card ? JSON.stringify(card) : null,
			mandate: report.mandate ? JSON.stringify(report.mandate) : null,
			expires,
			state: 'active',
			isDefault: Number(before.length === same.length || same.some((one) => one.isDefault === 1)),
			consent: request.keep,
			paymentId: payment.id,
			usedAt: at,
			createdAt: at
		},
		tx
	);
	await recordEvent(
		{
			kind: 'stored_method.stored',
			object: 'stored_method',
			id: row.id,
			payload: { ...toldOf(row), payment: payment.id }
		},
		tx
	);
	tx.afterCommit(() => tell('bill'));
}

async function endWithin(
	row: StoredMethodRow,
	{ by, why }: { readonly by: string; readonly why: string },
	tx: Tx
): Promise<void> {
	if (row.state === 'ended') return;
	await db.storedMethods.update(
		{ id: row.id },
		{ state: 'ended', isDefault: 0, endedAt: timeNow(), endedBy: by, endedWhy: why },
		tx
	);
	await recordEvent(
		{ kind: 'stored_method.ended', object: 'stored_method', id: row.id, payload: { ...toldOf(row), why } },
		tx
	);
	tx.afterCommit(() => {
		tell('bill');
		wake();
	});
}

/** The processor refused a charge because what it kept is good no more. */
export async function endRefused(paymentId: number, says: string, tx: Tx): Promise<void> {
	const request = await db.paymentRequests.one({ paymentId }, tx);
	const row = request?.storedId ? await db.storedMethods.one({ id: request.storedId }, tx) : undefined;
	if (row) await endWithin(row, { by: row.processor, why: says }, tx);
}

/** Everything that a removed payer had stored ends, and what may be shown of it goes. */
export async function endAllOf(payerId: string, by: string, tx: Tx): Promise<number> {
	const rows = await db.storedMethods.find({ payerId }, {}, tx);
	for (const row of rows) {
		await endWithin(row, { by, why: 'the payer was removed' }, tx);
		const mandate = mandateOf(row);
		const consent = db.storedMethods.json.consent(row.consent);
		await db.storedMethods.update(
			{ id: row.id },
			{
				card: null,
				// the mandate's reference stays: a debit can come back for weeks
				mandate: mandate ? JSON.stringify({ ...mandate, bank: '', last4: '' }) : null,
				consent: JSON.stringify({ ...consent, address: '' })
			},
			tx
		);
	}
	return rows.length;
}

/** What somebody does to a stored method. @returns what is wrong, if anything */
export async function changeStored(
	id: number,
	payerId: string,
	act: 'end' | 'suspend' | 'resume' | 'default',
	{ by, why }: { readonly by: string; readonly why: string }
): Promise<'gone' | 'over' | undefined> {
	const problem = await write(async (tx): Promise<'gone' | 'over' | undefined> => {
		const row = await db.storedMethods.one({ id, payerId }, tx);
		if (!row) return 'gone';
		if (row.state === 'ended') return act === 'end' ? undefined : 'gone';
		if (act === 'end') await endWithin(row, { by, why }, tx);
		else {
			const today = inZone(new Date(timeNow()), await zoneOf(tx)).day;
			const state = act === 'suspend' ? 'suspended' : act === 'resume' ? 'active' : row.state;
			if (act !== 'suspend' && whyOver(factsOfStored(row, await zoneOf(tx)), today)) return 'over';
			if (act === 'default' && state !== 'active') return 'over';
			const isDefault = act === 'default' ? 1 : act === 'suspend' ? 0 : row.isDefault;
			if (state === row.state && isDefault === row.isDefault) return undefined;
			if (act === 'default') await db.storedMethods.update({ payerId, isDefault: 1 }, { isDefault: 0 }, tx);
			await db.storedMethods.update({ id }, { state, isDefault }, tx);
			await recordEvent(
				{
					kind: 'stored_method.changed',
					object: 'stored_method',
					id,
					payload: { ...toldOf(row), state, default: isDefault === 1 }
				},
				tx
			);
		}
		const payer = await db.payers.one({ id: payerId }, tx);
		const did = {
			end: 'ended a stored method',
			suspend: 'suspended a stored method',
			resume: 'resumed a stored method',
			default: 'put a stored method first'
		}[act];
		await audit(
			{
				by,
				kind: 'payer',
				id: payerId,
				name: payer?.name ?? '',
				act: `${did}${why ? `: ${why}` : ''}`
			},
			tx
		);
		return undefined;
	});
	tell('bill');
	return problem;
}

/** What a payer can pay by now, the default one first. */
export async function usableOf(payerId: string, mode: 'live' | 'test', zone: string): Promise<StoredMethodRow[]> {
	const today = inZone(new Date(timeNow()), zone).day;
	const rows = await db.storedMethods.find({ payerId, mode, state: 'active' }, { order: [['id', 'DESC']], limit: 100 });
	return inOrder(rows.filter((row) => isUsable(factsOfStored(row, zone), today)));
}
export const inOrder = (rows: readonly StoredMethodRow[]): StoredMethodRow[] =>
	byUse(rows.map((row) => ({ id: row.id, isDefault: row.isDefault === 1, usedAt: row.usedAt, row }))).map(
		({ row }) => row
	);

/** So many are looked at in one round. */
const AT_ONCE = 100;

/** Ends what has come to its end, and asks for cards to be renewed, each once. @returns how many there were */
async function endOver(): Promise<number> {
	const zone = await zoneOf();
	const today = inZone(new Date(timeNow()), zone).day;
	const unusedSince = instantIn(`${addMonths(today, -MANDATE_MONTHS)}T23:59`, zone) ?? 0;
	const over = [
		...(await expiredCards(today.slice(0, 7), AT_ONCE)),
		...(await unusedMandates(unusedSince, AT_ONCE))
	].filter((row) => whyOver(factsOfStored(row, zone), today));
	for (const { id } of over)
		await write(async (tx) => {
			const row = await db.storedMethods.one({ id, state: ['active', 'suspended'] }, tx);
			// it may have been used, or renewed, since it was read
			const why = row && whyOver(factsOfStored(row, zone), today);
			if (why)
				await endWithin(
					row,
					{ by: 'itself', why: why === 'expired' ? 'the card has expired' : `not used for ${MANDATE_MONTHS} months` },
					tx
				);
		});
	const ending = await endingCards(renewalMonths(today), AT_ONCE);
	for (const { id } of ending)
		await write(async (tx) => {
			const row = await db.storedMethods.one({ id, state: 'active', renewalAskedAt: null }, tx);
			if (!row) return;
			await db.storedMethods.update({ id }, { renewalAskedAt: timeNow() }, tx);
			await recordEvent({ kind: 'stored_method.ending', object: 'stored_method', id, payload: toldOf(row) }, tx);
		});
	return over.length + ending.length;
}
/**
 * Tells processors to forget what has ended here. What one does not answer to is asked for again in the next round; the
 * others' are told meanwhile, however many wait for it.
 */
async function forgetEnded(): Promise<number> {
	const silent = new Set<string>();
	let [done, after] = [0, 0];
	while (done < AT_ONCE) {
		const [row] = await unforgottenMethods(1, { after, notAt: [...silent] });
		if (!row) break;
		after = row.id;
		const { processor, accountId, mode } = row;
		const connection = await db.connections.one({ processor, accountId, mode, removedAt: null });
		try {
			// nobody can be asked once it is disconnected: its credentials are gone, and nothing can be charged either
			if (connection)
				await speak(
					connection,
					(connector, credentials) =>
						connector.forget?.(credentials, tokenOf(row), row.method as Method) ?? Promise.resolve(),
					{ account: row.accountId }
				);
			await write((tx) => db.storedMethods.update({ id: row.id }, { tokenSealed: '', forgottenAt: timeNow() }, tx));
			done++;
		} catch (error) {
			if (!(error instanceof ConnectorError)) throw error;
			// a refusal is about one method; anything else is about the processor
			if (error.kind !== 'refused') silent.add(row.connectionId);
		}
	}
	return done;
}

/** What is due for stored methods. @returns how much was done */
export async function tendStored(): Promise<number> {
	if (!(await db.business.one({ id: 1 }))) return 0;
	return (await endOver()) + (await forgetEnded());
}
