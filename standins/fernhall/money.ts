import { faultsOf, randomText, type Mode, type Payment, type State, type Token } from './state.ts';
import type { Notifier } from './notify.ts';
import { charge, pricesOf, returnedInAll } from './pricing.ts';
import { timeNow } from '../shared/clock.ts';

const dayIn = (zone: string, at = new Date(timeNow())) =>
	new Intl.DateTimeFormat('sv-SE', { timeZone: zone, year: 'numeric', month: '2-digit', day: '2-digit' }).format(at);

/** Takes a payment, or declines it; either way it is kept and told of. */
export function take(
	state: State,
	notifier: Notifier,
	token: Token,
	asked: { sum: Payment['sum']; ours: string; descriptor: string }
): Payment {
	const account = state.get('accounts', token.account)!;
	state.put('tokens', token.token, { ...token, used: true });
	const approved = token.outcome === 'approved';
	const priced = approved
		? charge(asked.sum, token.card, account.country, dayIn(account.zone), faultsOf(state).wrongFee, pricesOf(account))
		: undefined;
	const id = `FHY-${randomText(16)}`;
	const payment = state.put('payments', id, {
		id,
		account: token.account,
		mode: token.mode,
		...asked,
		card: token.card,
		by: token.by ?? 'card',
		state: approved ? 'taken' : 'declined',
		why: approved ? undefined : token.outcome.replace('declined: ', ''),
		at: new Date(timeNow()).toISOString(),
		fee: priced?.fee,
		share: priced?.share,
		refunds: []
	});
	notifier.tellPayment(approved ? 'payment.taken' : 'payment.declined', payment);
	return payment;
}

export const leftToRefund = (payment: Payment): number =>
	payment.state !== 'taken'
		? 0
		: payment.sum.thousandths -
			payment.refunds.reduce((sum, one) => sum + one.sum.thousandths, 0) -
			(payment.disputed?.thousandths ?? 0);

/** Gives money back; the caller has checked the sum against `leftToRefund`. */
export function refund(state: State, notifier: Notifier, payment: Payment, thousandths: number): Payment {
	const before = payment.refunds.reduce((sum, one) => sum + one.sum.thousandths, 0);
	const returned = (refunded: number) => returnedInAll(payment.share!, refunded, payment.sum.thousandths);
	const made = {
		id: `FHR-${randomText(16)}`,
		sum: { currency: payment.sum.currency, thousandths },
		at: new Date(timeNow()).toISOString(),
		feeReturned: returned(before + thousandths) - returned(before)
	};
	const after = state.put('payments', payment.id, { ...payment, refunds: [...payment.refunds, made] });
	notifier.tellPayment('refund.made', after, { refund: made });
	return after;
}

export function dispute(state: State, notifier: Notifier, payment: Payment): Payment {
	const disputed = { at: new Date(timeNow()).toISOString(), thousandths: leftToRefund(payment) };
	const after = state.put('payments', payment.id, { ...payment, disputed });
	notifier.tellPayment('dispute.opened', after);
	return after;
}

/** Settles what was taken, and pays out what was settled: what a night at Fernhall does. */
export function settle(
	state: State,
	notifier: Notifier,
	account: string,
	mode: Mode,
	step: 'settle' | 'pay out',
	due: (payment: Payment) => boolean
): number {
	const mine = state
		.all('payments')
		.filter((one) => one.account === account && one.mode === mode && one.state === 'taken' && due(one));
	const at = new Date(timeNow()).toISOString();
	let count = 0;
	if (step === 'settle') {
		for (const payment of mine.filter((one) => !one.settledAt)) {
			notifier.tellPayment('money.settled', state.put('payments', payment.id, { ...payment, settledAt: at }));
			count++;
		}
		return count;
	}
	const ready = mine.filter((one) => one.settledAt && !one.payout);
	if (ready.length === 0) return 0;
	const payout = `FHO-${randomText(12)}`;
	const net = ready.reduce(
		(sum, one) => sum + one.fee!.base - one.fee!.thousandths + one.refunds.reduce((back, r) => back + r.feeReturned, 0),
		0
	);
	for (const payment of ready) state.put('payments', payment.id, { ...payment, payout, paidOutAt: at });
	notifier.tell(account, mode, 'payout.sent', {
		payout: {
			id: payout,
			at,
			sum: { currency: 'EUR', thousandths: net },
			payments: ready.map((one) => ({ id: one.id, ours: one.ours }))
		}
	});
	return ready.length;
}

const weekday = (day: string) => new Date(`${day}T12:00:00Z`).getUTCDay();
const after = (day: string, open: number): string => {
	let at = day;
	for (let left = open; left > 0;) {
		at = new Date(Date.parse(`${at}T12:00:00Z`) + 86_400_000).toISOString().slice(0, 10);
		if (weekday(at) !== 0 && weekday(at) !== 6) left--;
	}
	return at;
};

/** A payment from before Fernhall was started, in minor units of its currency. */
export interface Remembered {
	readonly id: string;
	readonly method: string;
	readonly currency: string;
	readonly minor: number;
	readonly card: Payment['card'];
	readonly takenAt: string;
	readonly refunds: readonly { readonly id: string; readonly minor: number; readonly at: string }[];
	readonly disputed?: { readonly at: string; readonly minor: number };
	readonly charged: {
		readonly fee: number;
		readonly base: number;
		readonly rate?: { readonly day: string; readonly value: string };
		readonly label: string;
		readonly share: { readonly top: string };
	};
}

/** Keeps payments of the past, with what had become of them by now. Nobody is told. */
export function remember(state: State, account: string, past: readonly Remembered[]): number {
	const today = dayIn(state.get('accounts', account)!.zone);
	let count = 0;
	for (const one of past) {
		if (state.get('payments', one.id)) continue;
		const thousandths = (minor: number) => minor * (one.currency === 'JPY' ? 1000 : 10);
		const taken = dayIn(state.get('accounts', account)!.zone, new Date(one.takenAt));
		const [settled, paidOut] = [after(taken, 1), after(taken, 2)];
		state.put('payments', one.id, {
			id: one.id,
			account,
			mode: 'live',
			ours: '',
			sum: { currency: one.currency, thousandths: thousandths(one.minor) },
			card: one.card,
			by: one.method === 'device-wallet' ? 'tapfold' : 'card',
			descriptor: '',
			state: 'taken',
			at: one.takenAt,
			fee: {
				currency: 'EUR',
				thousandths: one.charged.fee * 10,
				base: one.charged.base * 10,
				rate: one.charged.rate,
				band: one.charged.label
			},
			share: one.charged.share.top,
			refunds: one.refunds.map((refund) => ({
				id: refund.id,
				sum: { currency: one.currency, thousandths: thousandths(refund.minor) },
				at: refund.at,
				feeReturned: returnedInAll(one.charged.share.top, refund.minor, one.minor)
			})),
			disputed: one.disputed && { at: one.disputed.at, thousandths: thousandths(one.disputed.minor) },
			...(settled < today ? { settledAt: `${settled}T22:00:00.000Z` } : {}),
			...(paidOut < today
				? { payout: `FHO-${paidOut.replaceAll('-', '')}`, paidOutAt: `${paidOut}T23:00:00.000Z` }
				: {})
		});
		count++;
	}
	return count;
}

/** Settles the next business day after the taking, pays out the second. Called every minute. */
export function night(state: State, notifier: Notifier): void {
	for (const account of state.all('accounts'))
		for (const mode of ['live', 'test'] as const) {
			const today = dayIn(account.zone);
			const takenOn = (payment: Payment) => dayIn(account.zone, new Date(payment.at));
			settle(state, notifier, account.id, mode, 'settle', (one) => after(takenOn(one), 1) <= today);
			settle(state, notifier, account.id, mode, 'pay out', (one) => after(takenOn(one), 2) <= today);
		}
}
