import { isUsable, lastDayOfMonth, renewalMonths, whyOver } from '../../core/billing';
import { formatDay, formatMoment, inZone } from '../../core/calendar';
import { methodName } from '../../core/lineup';
import { snapshot, type Snapshot } from '../accept/snapshot';
import { isKeptAt, nameOfStored } from '../accept/storedWays';
import { connectorOf } from '../connectors';
import { askedToStore, cardsEnding, db, type StoredMethodRow } from '../db';
import { factsOfStored, inOrder, mandateOf } from '../payments/stored';
import { timeNow } from '../signals/clock';
import { debitsOf } from './debits';

/** Tills at which a stored method can be paid by: their published offers lead to the account that keeps it. */
export function tillsFor(
	row: Pick<StoredMethodRow, 'processor' | 'accountId' | 'method' | 'mode'>,
	held: Snapshot
): { readonly name: string; readonly slug: string }[] {
	const keepers = new Set([...held.connections.values()].filter((one) => isKeptAt(row, one)).map((one) => one.id));
	return [...held.tills.values()]
		.filter(
			({ row: till, published }) =>
				till.mode === row.mode &&
				published?.lineUp.some(
					(offer) =>
						offer.on &&
						offer.method === row.method &&
						Object.values(offer.routes).some(({ first, standby }) =>
							[first, standby].some((one) => one?.kind === 'connection' && keepers.has(one.id))
						)
				)
		)
		.map(({ row: till }) => ({ name: till.name, slug: till.slug }));
}

/** What a payer has stored, as the desk sees it: what may be shown, what they agreed to, and where it can be used. */
export async function storedView(payerId: string, locale: string) {
	const held = await snapshot();
	const zone = held.business.timeZone;
	const now = timeNow();
	const day = inZone(new Date(now), zone).day;
	const [rows, asked, debits] = await Promise.all([
		db.storedMethods.find({ payerId }, { order: [['id', 'DESC']], limit: 100 }),
		askedToStore(payerId),
		debitsOf({ payerId, state: 'announced' }, locale, 100)
	]);
	const dayOf = (at: number) => formatDay(inZone(new Date(at), zone).day, locale);
	const view = (row: StoredMethodRow) => {
		const facts = factsOfStored(row, zone);
		const mandate = mandateOf(row);
		const consent = db.storedMethods.json.consent(row.consent);
		return {
			id: row.id,
			name: nameOfStored(row, held.schemeNames) || methodName(row.method as never),
			method: methodName(row.method as never),
			mode: row.mode,
			processor: connectorOf(row.processor).name,
			connection: row.connectionId,
			until: row.expires ? formatDay(lastDayOfMonth(row.expires), locale) : '',
			mandate: mandate && {
				reference: mandate.reference,
				creditor: mandate.creditor,
				signed: dayOf(mandate.signedAt),
				use: mandate.use
			},
			isDefault: row.isDefault === 1,
			state: row.state === 'active' && whyOver(facts, day) ? 'over' : row.state,
			isUsable: isUsable(facts, day),
			stored: dayOf(row.createdAt),
			used: dayOf(row.usedAt),
			payment: row.paymentId,
			asked: row.renewalAskedAt === null ? '' : dayOf(row.renewalAskedAt),
			ended:
				row.endedAt === null
					? ''
					: `${dayOf(row.endedAt)}, ${row.endedBy === 'itself' ? '' : `by ${row.endedBy}: `}${row.endedWhy}`,
			isForgotten: row.state !== 'ended' || row.forgottenAt !== null,
			consent: {
				words: consent.words,
				when: formatMoment(consent.at, locale, zone),
				from: consent.address,
				version: consent.version
			},
			debits: debits.filter((one) => one.storedId === row.id),
			/** what the business may do by it beside what its payer does */
			notice: consent.noticeDays ?? null,
			tills: tillsFor(row, held)
		};
	};
	return {
		open: inOrder(rows.filter((row) => row.state !== 'ended')).map(view),
		ended: rows.filter((row) => row.state === 'ended').map(view),
		asked: asked.map((one) => ({
			payment: one.paymentId,
			reference: one.reference,
			method: methodName(one.method as never),
			since: dayOf(one.at)
		}))
	};
}

/** Cards that end soon, with their payers, for the list of payers. */
export async function endingView(locale: string) {
	const { business, schemeNames } = await snapshot();
	const zone = business.timeZone;
	const { count, first } = await cardsEnding(renewalMonths(inZone(new Date(timeNow()), zone).day), 20);
	return {
		count,
		cards: first.map(({ payerId, payer, row }) => ({
			id: row.id,
			payerId,
			payer,
			name: nameOfStored(row, schemeNames),
			until: formatDay(lastDayOfMonth(row.expires), locale),
			asked: row.renewalAskedAt === null ? '' : formatDay(inZone(new Date(row.renewalAskedAt), zone).day, locale)
		}))
	};
}
