import { LineUp, type Carrier } from '../../core/lineup';
import { plainAmount, type Amount } from '../../core/money';
import { addressQuery } from '../../core/references';
import { audit, randomId, unseal } from '../access';
import { ownAddress } from '../connect/connections';
import {
	db,
	write,
	type ArrivalRow,
	type PaymentRequestRow,
	type PaymentRow,
	type TillRow,
	type TrialRow
} from '../db';
import { tell } from '../signals/live';
import { lineUpsOf } from './lineups';
import { snapshot } from './snapshot';
import { timeNow } from '../signals/clock';

/** Outcomes that can be chosen, and the processors' documented test card for each. */
export const TRIAL_OUTCOMES = {
	approved: { says: 'A card that is approved', card: '9901 2000 0000 0007' },
	declined: { says: 'A card that is declined for want of money', card: '9901 9010 0000 0000' },
	commercial: { says: 'A commercial card', card: '9901 5000 0000 0000' },
	foreign: { says: 'A card issued in another country of the area', card: '9901 3000 0000 0005' },
	offline: { says: 'Another way: what becomes of it is chosen on the way', card: '' }
} as const;
export type TrialOutcome = keyof typeof TRIAL_OUTCOMES;

const TRIAL_MS = 24 * 3_600_000;

/** Offers of a trial, and those that cannot be tried because their processor is not connected in test mode. */
interface Twinned {
	readonly offers: LineUp;
	readonly untried: readonly string[];
}

/** A line-up with every live connection replaced by the test connection of the same processor, where there is one. */
export async function twinned(lineUp: LineUp): Promise<Twinned> {
	const { states, connections } = await snapshot();
	const twins = new Map<string, string>();
	for (const one of Object.values(states.connections))
		if (one.mode === 'test' && one.verified) twins.set(one.processor, one.id);
	const untried = new Set<string>();
	const twin = (carrier: Carrier): Carrier => {
		if (carrier.kind === 'offline') return carrier;
		const one = states.connections[carrier.id];
		if (!one || one.mode === 'test') return carrier;
		const id = twins.get(one.processor);
		if (!id) untried.add(connections.get(carrier.id)?.name ?? one.name);
		return id ? { kind: 'connection', id } : carrier;
	};
	return {
		offers: lineUp.map((offer) => ({
			...offer,
			routes: Object.fromEntries(
				Object.entries(offer.routes).map(([code, { first, standby }]) => [
					code,
					{ first: twin(first), ...(standby ? { standby: twin(standby) } : {}) }
				])
			)
		})),
		untried: [...untried]
	};
}

/** Begins a trial payment: an order of its own at a till, carried in test mode by the draft or what is published. */
export async function beginTrial(
	till: TillRow,
	which: 'draft' | 'published',
	outcome: TrialOutcome,
	order: { amount: Amount; country: string; goods?: string; delivery?: string },
	by: string
): Promise<{ id: string } | { trouble: string }> {
	const { draft, published } = await lineUpsOf(till.id);
	const shown = which === 'draft' ? draft : published;
	if (!shown) return { trouble: which === 'draft' ? 'There is no draft to try.' : 'Nothing is published yet.' };
	const { offers } = await twinned(shown.offers);
	const id = randomId();
	const query = addressQuery(
		{
			till: till.slug,
			amount: order.amount,
			reference: `TRIAL-${id.slice(0, 8)}`,
			name: 'Trial payer',
			mail: '',
			country: order.country,
			purpose: 'A trial payment, in test mode',
			...(order.goods ? { goods: order.goods } : {}),
			...(order.delivery ? { delivery: order.delivery } : {})
		},
		unseal(till.signingKeySealed, `till ${till.id}`)
	);
	await write(async (tx) => {
		await db.trials.insert(
			{
				id,
				tillId: till.id,
				versionId: shown.row.id,
				state: which === 'draft' ? 'the draft' : `version ${shown.row.number}`,
				revision: shown.row.revision,
				offers: JSON.stringify(offers),
				outcome,
				query,
				byUser: by,
				at: timeNow(),
				paymentId: null
			},
			tx
		);
		await audit(
			{
				by,
				kind: 'trial',
				id,
				name: till.name,
				act: `began a trial payment of ${plainAmount(order.amount)} ${order.amount.currency} by ${which === 'draft' ? 'the draft' : `version ${shown.row.number}`}`
			},
			tx
		);
	});
	tell('tills');
	return { id };
}

/** A trial that may still be paid: of this till, begun within a day. */
export async function openTrial(id: string, tillId: string): Promise<{ row: TrialRow; lineUp: LineUp } | undefined> {
	const row = await db.trials.one({ id, tillId });
	return row && timeNow() - row.at < TRIAL_MS ? { row, lineUp: db.trials.json.offers(row.offers) } : undefined;
}

export const trialAddress = (till: Pick<TillRow, 'slug'>, row: Pick<TrialRow, 'id' | 'query'>): string =>
	`${ownAddress()}/pay/${till.slug}?${row.query}&trial=${row.id}`;

export const trialsOf = (tillId: string): Promise<TrialRow[]> =>
	db.trials.find({ tillId }, { order: [['at', 'DESC']], limit: 20 });

/** What was last tried at a till and how it ended, in words; undefined where nothing was. */
/** Each trial with its payment, where one was begun, and with what the payer chose. */
export const paidTrials = (
	trials: readonly TrialRow[]
): Promise<{ trial: TrialRow; payment?: PaymentRow; request?: PaymentRequestRow }[]> =>
	Promise.all(
		trials.map(async (trial) => {
			const payment = trial.paymentId ? await db.payments.one({ id: trial.paymentId }) : undefined;
			const request = payment && (await db.paymentRequests.one({ paymentId: payment.id }));
			return { trial, payment, request };
		})
	);

/** Notifications that were about a payment. */
export const arrivalsOf = (paymentId: number): Promise<ArrivalRow[]> => db.arrivals.find({ paymentId }, { limit: 20 });

export async function lastTrial(
	tillId: string,
	locale: string
): Promise<{ says: string; at: number; by: string; current: boolean } | undefined> {
	const row = (await trialsOf(tillId)).find((one) => one.paymentId !== null);
	if (!row) return undefined;
	const [payment, request] = await Promise.all([
		db.payments.one({ id: row.paymentId! }),
		db.paymentRequests.one({ paymentId: row.paymentId! })
	]);
	const { draft, published } = await lineUpsOf(tillId);
	const current =
		row.versionId === published?.row.id || (row.versionId === draft?.row.id && row.revision === draft.row.revision);
	const when = new Date(row.at).toLocaleDateString(locale, { day: 'numeric', month: 'short' });
	return {
		says: `${row.state}, ${when}: ${request?.offerName ?? 'a way'} ${payment?.stage ?? ''}`,
		at: row.at,
		by: row.byUser,
		current
	};
}
