import { z } from 'zod';
import { RateCard, type Kind, type Side } from '../../core/fees';
import { hasCard, METHODS, methodName } from '../../core/lineup';
import { isCurrency, plainAmount } from '../../core/money';
import { audit, randomId } from '../access';
import { readAccount } from '../connectors/account';
import { theBusiness } from '../connect/business';
import { allConnections } from '../connect/connections';
import { CONNECTORS, connectorOf } from '../connectors';
import { db, write, type CandidateRow } from '../db';
import { contractsOf, newestCard } from '../ratecards';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';

/** A side with what a comparison shows of it beside its costs. */
export interface ShownSide extends Side {
	readonly name: string;
	readonly kind: 'connection' | 'candidate';
	readonly href: string;
	readonly validFrom: string;
	/** versions of the contract by which payments of their days are priced; without them, all are priced by `card` */
	readonly versions?: readonly { readonly validFrom: string; readonly card: RateCard }[];
	readonly terms: {
		readonly carries: string;
		readonly currencies: string;
		readonly connects: string;
		readonly bankDays: string;
		readonly refunds: string;
		readonly disputes: string;
		readonly declined: string;
		readonly monthly: string;
		readonly hooks: string;
	};
}

const keeps = (card: RateCard) =>
	({ all: 'keeps the fee', fixed: 'keeps the fixed part', nothing: 'gives the fee back' })[card.refund.keeps];
const DIALECT: Record<string, string> = {
	'standard-webhooks': 'signed, Standard Webhooks',
	'hex-hmac': 'signed, hex HMAC',
	'shared-secret': 'shared secret',
	'call-back': 'called back to confirm'
};
const sum = (minor: number, currency: string) => plainAmount({ minor, currency });

/** What a candidate charges, and what it could carry. */
export const readCandidate = (row: CandidateRow) => ({
	card: db.candidates.json.card(row.card),
	methods: db.candidates.json.methods(row.methods),
	currencies: db.candidates.json.currencies(row.currencies)
});

/** The same sides, each connection by the versions of its contract that were valid on the days, where it had several. */
export const withVersions = (sides: readonly ShownSide[]): Promise<ShownSide[]> =>
	Promise.all(
		sides.map(async (side) => {
			if (side.kind !== 'connection') return side;
			const versions = (await contractsOf(side.id))
				.filter((one) => one.body.settlement === side.card.settlement)
				.map(({ validFrom, body }) => ({ validFrom, card: body }));
			return versions.length > 1 ? { ...side, versions } : side;
		})
	);

/** Every connection and candidate that can stand in a comparison. */
export async function allSides(): Promise<ShownSide[]> {
	const [connections, candidates, business] = await Promise.all([allConnections(), allCandidates(), theBusiness()]);
	const sides: ShownSide[] = [];
	for (const row of connections) {
		if (row.mode !== 'live') continue;
		const version = await newestCard(row.id);
		if (!version) continue;
		const card = version.body;
		const account = readAccount(row.account);
		const connector = connectorOf(row.processor);
		const carries = ({ method, currency, entry, scheme, funding, region }: Kind): boolean => {
			const ability = account.abilities.find((one) => one.method === method);
			if (!ability?.currencies.includes(currency) || !(ability.entries as readonly string[]).includes(entry))
				return false;
			const types = ability.cardTypes;
			if (!types || !hasCard(method)) return true;
			const takes = (list: readonly string[] | 'any', one: string) => list === 'any' || list.includes(one);
			return takes(types.schemes, scheme) && takes(types.fundings, funding) && takes(types.regions, region);
		};
		sides.push({
			id: row.id,
			name: row.name,
			kind: 'connection',
			href: `/connect/connections/${row.id}`,
			card,
			validFrom: version.validFrom,
			country: row.accountCountry,
			bankDays: row.expectedDays ?? account.payout.bankDays,
			rhythm: account.payout.rhythm,
			carries,
			terms: {
				carries: account.abilities.map((one) => methodName(one.method).toLowerCase()).join(', ') || 'nothing yet',
				currencies: [...new Set(account.abilities.flatMap((one) => one.currencies))].join(' '),
				connects: connector.way,
				bankDays: `${row.expectedDays ?? account.payout.bankDays} bank days`,
				refunds: `${keeps(card)}${card.refund.fee ? `, ${sum(card.refund.fee, card.settlement)} each` : ''}; within ${account.refundDays} days`,
				disputes: card.dispute.fee
					? `${sum(card.dispute.fee, card.settlement)}${card.dispute.returnedWhenWon ? ', back if won' : ', kept'}`
					: 'nothing',
				declined: card.declined ? sum(card.declined, card.settlement) : 'nothing',
				monthly: card.monthly.fee
					? `${sum(card.monthly.fee, card.settlement)}${card.monthly.minimum ? `, at least ${sum(card.monthly.minimum, card.settlement)}` : ''}`
					: 'nothing',
				hooks: DIALECT[connector.dialect.kind]!
			}
		});
	}
	for (const row of candidates) {
		const { card, methods, currencies } = readCandidate(row);
		const connector = row.processor && Object.hasOwn(CONNECTORS, row.processor) ? CONNECTORS[row.processor] : undefined;
		sides.push({
			id: row.id,
			name: row.name,
			kind: 'candidate',
			href: `/connect/candidates/${row.id}`,
			card,
			validFrom: '',
			country: business.country,
			bankDays: row.paysOutDays,
			carries: ({ method, currency }) => methods.includes(method) && currencies.includes(currency),
			terms: {
				carries: methods.map((one) => methodName(one).toLowerCase()).join(', '),
				currencies: currencies.join(' '),
				connects: connector?.way ?? 'not known',
				bankDays: `${row.paysOutDays} bank days`,
				refunds: `${keeps(card)}${card.refund.fee ? `, ${sum(card.refund.fee, card.settlement)} each` : ''}`,
				disputes: card.dispute.fee ? sum(card.dispute.fee, card.settlement) : 'nothing',
				declined: card.declined ? sum(card.declined, card.settlement) : 'nothing',
				monthly: card.monthly.fee
					? `${sum(card.monthly.fee, card.settlement)}${card.monthly.minimum ? `, at least ${sum(card.monthly.minimum, card.settlement)}` : ''}`
					: 'nothing',
				hooks: connector ? DIALECT[connector.dialect.kind]! : 'not known'
			}
		});
	}
	return sides;
}

export const allCandidates = (): Promise<CandidateRow[]> =>
	db.candidates.find({ removedAt: null }, { order: [['createdAt', 'ASC']] });
export const candidateById = (id: string): Promise<CandidateRow | undefined> =>
	db.candidates.one({ id, removedAt: null });

export const CandidateForm = z.object({
	name: z.string().trim().min(1, 'Give it a name.').max(60, 'At most 60 characters.'),
	processor: z.string().max(40).default(''),
	methods: z.array(z.enum(METHODS)).min(1, 'Choose at least one method.'),
	currencies: z.array(z.string().refine(isCurrency, 'is no currency')).min(1, 'Choose at least one currency.'),
	paysOutDays: z.number().int().min(0).max(60),
	note: z.string().trim().max(300).default(''),
	card: RateCard
});
export type CandidateForm = z.infer<typeof CandidateForm>;

export async function saveCandidate(form: CandidateForm, id: string | undefined, by: string): Promise<string> {
	const saved = id ?? randomId();
	await write(async (tx) => {
		const before = id ? await db.candidates.one({ id, removedAt: null }, tx) : undefined;
		const row = {
			name: form.name,
			processor: form.processor,
			methods: JSON.stringify(form.methods),
			currencies: JSON.stringify(form.currencies),
			paysOutDays: form.paysOutDays,
			note: form.note,
			card: JSON.stringify(form.card)
		};
		if (before) await db.candidates.update({ id: saved }, row, tx);
		else await db.candidates.insert({ id: saved, ...row, createdAt: timeNow() }, tx);
		await audit(
			{ by, kind: 'candidate', id: saved, name: form.name, act: before ? 'changed' : 'added', before, after: row },
			tx
		);
	});
	tell('connections');
	return saved;
}
export async function removeCandidate(row: CandidateRow, by: string): Promise<void> {
	await write(async (tx) => {
		await db.candidates.update({ id: row.id }, { removedAt: timeNow() }, tx);
		await audit({ by, kind: 'candidate', id: row.id, name: row.name, act: 'removed' }, tx);
	});
	tell('connections');
}
