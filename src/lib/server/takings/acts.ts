import { addDays, formatDay, inZone } from '../../core/calendar';
import { possibleActs, stateOf, type PossibleAct, type Stage } from '../../core/stages';
import { snapshot } from '../accept/snapshot';
import { connectorOf } from '../connectors';
import { readAccount } from '../connectors/account';
import { db, type PaymentRow } from '../db';
import { asEvent } from '../payments/record';
import { leftToRefund } from '../payments/refund';
import { timeNow } from '../signals/clock';

const DAY_MS = 86_400_000;

/** What can be done with a payment now, each with its reason where it cannot. */
export async function actsOfPayment(payment: PaymentRow, locale: string): Promise<PossibleAct[]> {
	const [held, events, actions] = await Promise.all([
		snapshot(),
		db.paymentEvents.find({ paymentId: payment.id }),
		db.actions.find({ paymentId: payment.id, state: ['unknown', 'stuck'] })
	]);
	const connection = payment.connectionId ? held.connections.get(payment.connectionId) : undefined;
	const isOffline = payment.offlineId !== null;
	const state = stateOf(events.map(asEvent), payment.minor, isOffline);
	const account = connection && readAccount(connection.account);
	const connector = connection && connectorOf(connection.processor);
	const zone = connection?.timeZone ?? held.business.timeZone;
	const dayOf = (at: number) => inZone(new Date(at), zone).day;
	const begunAt = events.find((one) => one.kind === 'authorised')?.at ?? payment.createdAt;
	return possibleActs(
		{
			stage: payment.stage as Stage,
			isOffline,
			taken: payment.taken,
			refundable: connection ? await leftToRefund(payment) : 0,
			refundsPending: state.refundsPending,
			asking: actions[0]?.act,
			today: dayOf(timeNow()),
			connection:
				connection && account && connector
					? {
							name: connection.name,
							isConnected: !connection.removedAt,
							canCapture: !!connector.capture,
							canVoid: !!connector.cancel,
							...(account.authorisationDays ? { heldUntil: dayOf(begunAt + account.authorisationDays * DAY_MS) } : {}),
							...(payment.capturedAt ? { refundUntil: addDays(dayOf(payment.capturedAt), account.refundDays) } : {})
						}
					: undefined
		},
		(day) => formatDay(day, locale)
	);
}
