import { Webhook } from 'standardwebhooks';
import { faultsOf, randomText, type Delivery, type Mode, type Payment, type State } from './state.ts';
import { timeNow } from '../shared/clock.ts';

export const TOPICS = [
	'payment.taken',
	'payment.declined',
	'refund.made',
	'dispute.opened',
	'money.settled',
	'payout.sent',
	'listener.hello',
	'account.changed'
] as const;
export type Topic = (typeof TOPICS)[number];

/** Waits between the tries of one notification, in seconds. */
const WAITS = [2, 10, 60, 300, 1800, 7200, 36_000];

/** Signs by Standard Webhooks, tries until it is answered 2xx, and keeps a log. */
export class Notifier {
	private timer: NodeJS.Timeout | undefined;
	private readonly busy = new Set<string>();

	constructor(
		private readonly state: State,
		private readonly haste: number
	) {}

	/** Queues an event for every listener of an account and mode that asked for its topic. */
	tell(account: string, mode: Mode, topic: Topic, content: object): void {
		for (const listener of this.state.all('listeners')) {
			if (listener.account !== account || listener.mode !== mode) continue;
			if (topic !== 'listener.hello' && !listener.topics.includes(topic)) continue;
			const id = `FHE-${randomText(20)}`;
			const body = JSON.stringify({ id, topic, at: new Date(timeNow()).toISOString(), account, mode, ...content });
			this.state.put('deliveries', id, {
				id,
				listener: listener.id,
				topic,
				body,
				tries: [],
				next: timeNow(),
				done: false
			});
		}
		this.wake(0);
	}

	tellPayment(topic: Topic, payment: Payment, more: object = {}): void {
		this.tell(payment.account, payment.mode, topic, { payment: publicPayment(payment), ...more });
	}

	/** Sends one again at once, whatever became of it. */
	again(id: string): void {
		const delivery = this.state.get('deliveries', id);
		if (!delivery) return;
		this.state.put('deliveries', id, { ...delivery, done: false, next: timeNow() });
		this.wake(0);
	}

	wake(ms: number): void {
		clearTimeout(this.timer);
		this.timer = setTimeout(() => void this.run(), ms);
	}

	stop(): void {
		clearTimeout(this.timer);
	}

	private async run(): Promise<void> {
		const now = timeNow();
		const open = this.state.all('deliveries').filter((one) => !one.done && one.next !== undefined);
		if (!faultsOf(this.state).silent)
			await Promise.all(
				open
					.filter((one) => one.next! <= now && !this.busy.has(one.id))
					.slice(0, 50)
					.map((one) => this.send(one))
			);
		const next = this.state
			.all('deliveries')
			.filter((one) => !one.done && one.next !== undefined)
			.reduce((soonest, one) => Math.min(soonest, one.next!), Infinity);
		if (next < Infinity) this.wake(Math.max(100, Math.min(next - timeNow(), 60_000)));
	}

	private async send(delivery: Delivery): Promise<void> {
		const listener = this.state.get('listeners', delivery.listener);
		if (!listener) {
			this.state.put('deliveries', delivery.id, { ...delivery, next: undefined, done: true });
			return;
		}
		this.busy.add(delivery.id);
		// every try carries a fresh timestamp under the same id
		const at = new Date(timeNow());
		let result: string;
		let ok = false;
		try {
			const answer = await fetch(listener.address, {
				method: 'POST',
				headers: {
					'content-type': 'application/json',
					'webhook-id': delivery.id,
					'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
					'webhook-signature': new Webhook(listener.secret).sign(delivery.id, at, delivery.body)
				},
				body: delivery.body,
				redirect: 'manual',
				signal: AbortSignal.timeout(15_000)
			});
			ok = answer.status >= 200 && answer.status < 300;
			result = `answered ${answer.status}`;
		} catch (error) {
			result = `no answer: ${error instanceof Error ? error.message : 'unknown'}`;
		}
		const tries = [...delivery.tries, { at: at.toISOString(), result }];
		const wait = WAITS[tries.length - 1];
		this.state.put('deliveries', delivery.id, {
			...delivery,
			tries,
			done: ok,
			next: ok || wait === undefined ? undefined : timeNow() + (wait * 1000) / this.haste
		});
		this.busy.delete(delivery.id);
	}
}

/** What Fernhall tells of a payment, in answers and notifications alike. */
export const publicPayment = ({
	id,
	ours,
	sum,
	card,
	by,
	descriptor,
	state,
	why,
	at,
	fee,
	refunds,
	disputed,
	settledAt,
	payout,
	paidOutAt,
	mode
}: Payment) => ({
	id,
	mode,
	ours,
	sum,
	card,
	by: by ?? 'card',
	descriptor,
	state,
	...(why ? { why } : {}),
	at,
	...(fee ? { fee } : {}),
	refunds,
	...(disputed ? { disputed } : {}),
	...(settledAt ? { settledAt } : {}),
	...(payout ? { payout, paidOutAt } : {})
});
