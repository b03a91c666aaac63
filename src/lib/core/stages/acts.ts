import type { Day } from '../calendar';
import type { Stage } from './state';

/** What can be done with a payment now. */
export const PAYMENT_ACTS = ['capture', 'void', 'refund', 'record'] as const;
export type PaymentAct = (typeof PAYMENT_ACTS)[number];

export interface ActsAsked {
	readonly stage: Stage;
	readonly isOffline: boolean;
	/** minor units that came, and that may still be refunded */
	readonly taken: number;
	readonly refundable: number;
	readonly refundsPending: number;
	/** an act whose outcome is not known yet */
	readonly asking?: 'charge' | 'capture' | 'cancel' | 'refund';
	/** the connection that carries it, where one does */
	readonly connection?: {
		readonly name: string;
		readonly isConnected: boolean;
		/** whether the processor lets us take later, and give up, what is held */
		readonly canCapture: boolean;
		readonly canVoid: boolean;
		/** the last day on which what is held may be taken */
		readonly heldUntil?: Day;
		/** the last day on which the processor refunds it */
		readonly refundUntil?: Day;
	};
	readonly today: Day;
}

/** Whether an act can be done, and where it cannot, why. */
export interface PossibleAct {
	readonly act: PaymentAct;
	readonly can: boolean;
	readonly why: string;
}

const ASKING: Readonly<Record<NonNullable<ActsAsked['asking']>, string>> = {
	charge: 'whether it was charged',
	capture: 'whether it was captured',
	cancel: 'whether it was given up',
	refund: 'whether a refund went back'
};

/**
 * What can be done with a payment, each act with its reason where it cannot.
 * @param say writes a day as the reader does
 */
export function possibleActs(asked: ActsAsked, say: (day: Day) => string): PossibleAct[] {
	const { stage, isOffline, connection, today } = asked;
	const yes = (act: PaymentAct, why = ''): PossibleAct => ({ act, can: true, why });
	const no = (act: PaymentAct, why: string): PossibleAct => ({ act, can: false, why });
	const unreachable = !connection
		? 'No connection of ours carries it. Connect the account it was paid through.'
		: !connection.isConnected
			? `${connection.name} is disconnected. Connect it again first.`
			: undefined;

	if (isOffline) {
		const record =
			stage === 'voided'
				? no('record', 'The payer chose another way. What comes all the same is recorded where it was paid.')
				: yes('record');
		return [
			record,
			no('refund', 'No processor carries it: give the money back yourself, and reverse the receipt if it never came.')
		];
	}

	const held = (act: 'capture' | 'void'): PossibleAct => {
		if (stage !== 'authorised')
			return no(
				act,
				asked.taken > 0
					? 'It is captured already.'
					: stage === 'requested' || stage === 'pending'
						? 'Nothing is held yet.'
						: `Nothing is held any more: ${stage}.`
			);
		if (unreachable) return no(act, unreachable);
		if (asked.asking) return no(act, `${connection!.name} is being asked ${ASKING[asked.asking]}.`);
		if (act === 'capture' && connection!.heldUntil && today > connection!.heldUntil)
			return no(act, `Too late: it was held until ${say(connection!.heldUntil)}.`);
		if (act === 'capture' && !connection!.canCapture) return no(act, `${connection!.name} does not offer it.`);
		if (act === 'void' && !connection!.canVoid) return no(act, `${connection!.name} does not offer it.`);
		return yes(
			act,
			act === 'capture' && connection!.heldUntil ? `until ${say(connection!.heldUntil)}, whole or in part` : ''
		);
	};

	const refund = (): PossibleAct => {
		if (asked.taken === 0) return no('refund', 'Nothing was captured.');
		if (stage === 'returned') return no('refund', 'The payer’s bank took it back already.');
		if (stage === 'refunded') return no('refund', 'All of it was refunded already.');
		if (stage === 'disputed' && asked.refundable === 0) return no('refund', 'It is disputed: the scheme decides now.');
		if (unreachable) return no('refund', unreachable);
		if (asked.refundable === 0)
			return no('refund', asked.refundsPending ? 'The rest is being refunded already.' : 'Nothing is left of it.');
		if (connection!.refundUntil && today > connection!.refundUntil)
			return no(
				'refund',
				`Too late: ${connection!.name} refunds until ${say(connection!.refundUntil)}. Give it back another way.`
			);
		return yes('refund', connection!.refundUntil ? `until ${say(connection!.refundUntil)}` : '');
	};
	return [held('capture'), held('void'), refund()];
}
