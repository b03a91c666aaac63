import { z } from 'zod';
import { isCurrency } from '../money';

// Every event that outside programs can be told of: what it says, and an example. What is recorded and what is told are one list.

const minor = z.number().int().describe('minor units of the currency');
const currency = z.string().refine(isCurrency).describe('ISO 4217');
const id = z.number().int();
const number = z.string().describe('as it stands on the document');
const day = z.iso.date();

const payment = {
	order: id.nullable().describe('number of the order; null for a payment that was not asked for here'),
	mode: z.enum(['live', 'test']),
	currency,
	method: z.string()
};
const invoice = z.object({ number, currency, total: minor, open: minor });
const approved = z.object({
	number,
	currency,
	total: minor,
	day,
	payer: z.string().nullable().describe('id of the payer'),
	of: id.nullable().describe('the invoice that a credit note takes from')
});
const sent = z.object({ number, channels: z.array(z.string()) });
const placed = z.object({ invoice: id, minor, currency, why: z.string() });
const discrepancy = z.object({
	connection: z.string().describe('id of the connection'),
	cause: z.string(),
	currency,
	payments: z.number().int(),
	charges: z.number().int().describe('charges of the account: months, payouts, refunds, disputes'),
	leftMinor: minor.describe('over less under less corrected')
});
const stored = {
	payer: z.string().describe('id of the payer'),
	connection: z.string().describe('id of the connection whose processor keeps it'),
	mode: z.enum(['live', 'test']),
	method: z.string(),
	scheme: z.string().optional().describe('of a card'),
	last4: z.string().optional().describe('the last signs of the card or account'),
	expires: z.string().optional().describe('last month of a card, YYYY-MM'),
	mandate: z.string().optional().describe('reference of a bank debit’s mandate')
};
const debit = z.object({
	number,
	currency,
	minor: minor.describe('what was announced'),
	day: z.string().describe('the day that the payer was told, YYYY-MM-DD'),
	mandate: z.string().describe('reference of the mandate')
});
const aDebit = { number: '2026-0142', currency: 'EUR', minor: 38_000, day: '2026-12-15', mandate: 'QDM-2026-0117' };
const alert = z.object({
	kind: z.string(),
	says: z.string(),
	figure: z.string(),
	currency: currency.optional(),
	minor: minor.optional()
});

const of = <T extends z.ZodType>(
	object:
		| 'invoice'
		| 'payment'
		| 'order'
		| 'link'
		| 'payer'
		| 'stored_method'
		| 'payout'
		| 'discrepancy'
		| 'alert'
		| 'endpoint',
	says: string,
	data: T,
	example: z.input<T>
) => ({ object, says, data, example });
const anInvoice = { number: '2026-0142', currency: 'EUR', total: 38_000, open: 0 };
const aPayment = { order: 71, mode: 'live' as const, currency: 'EUR', method: 'card' };
const aCard = {
	payer: 'p1',
	connection: 'c1',
	mode: 'live' as const,
	method: 'card',
	scheme: 'corvid',
	last4: '1108',
	expires: '2028-05'
};
const aDiscrepancy = {
	connection: 'c1',
	cause: 'region',
	currency: 'EUR',
	payments: 41,
	charges: 0,
	leftMinor: 4_651
};

export const EVENTS = {
	'invoice.approved': of('invoice', 'An invoice has its number and asks for money.', approved, {
		number: '2026-0142',
		currency: 'EUR',
		total: 38_000,
		day: '2026-11-12',
		payer: 'p1',
		of: null
	}),
	'invoice.sent': of('invoice', 'An invoice was put on its way to its payer.', sent, {
		number: '2026-0142',
		channels: ['mail']
	}),
	'invoice.opened': of('invoice', 'Its payer opened the page of an invoice for the first time.', z.object({ number }), {
		number: '2026-0142'
	}),
	'invoice.paid': of('invoice', 'Nothing of an invoice is open any more.', invoice, anInvoice),
	'invoice.reopened': of('invoice', 'An invoice that was paid is open again.', invoice, { ...anInvoice, open: 38_000 }),
	'invoice.voided': of('invoice', 'An invoice is void; its number stays.', z.object({ number, reason: z.string() }), {
		number: '2026-0142',
		reason: 'made twice'
	}),
	'invoice.written_off': of(
		'invoice',
		'What is open of an invoice is not waited for any more.',
		z.object({ number, minor }),
		{
			number: '2026-0142',
			minor: 38_000
		}
	),
	'credit_note.approved': of('invoice', 'A credit note has its number.', approved, {
		number: 'C2026-0007',
		currency: 'EUR',
		total: 4_000,
		day: '2026-11-14',
		payer: 'p1',
		of: 142
	}),
	'quote.sent': of('invoice', 'A quote was put on its way to its payer.', sent, {
		number: 'Q2026-0031',
		channels: ['mail']
	}),
	'quote.accepted': of(
		'invoice',
		'A quote was accepted, and an invoice made of it.',
		z.object({ number, by: z.string(), invoice: z.string().describe('number of the invoice') }),
		{ number: 'Q2026-0031', by: 'the payer', invoice: '2026-0143' }
	),
	'quote.declined': of('invoice', 'A quote was declined.', z.object({ number, by: z.string() }), {
		number: 'Q2026-0031',
		by: 'the payer'
	}),
	'payment.authorised': of(
		'payment',
		'The money of a payment is held and can be captured.',
		z.object({ ...payment, minor }),
		{ ...aPayment, minor: 8_450 }
	),
	'payment.pending': of('payment', 'A payment is on its way, and may still fail.', z.object({ ...payment, minor }), {
		...aPayment,
		method: 'bank-debit',
		minor: 6_500
	}),
	'payment.captured': of(
		'payment',
		'Money came by a payment.',
		z.object({ ...payment, minor: minor.describe('what came now'), taken: minor.describe('what came in all') }),
		{ ...aPayment, minor: 8_450, taken: 8_450 }
	),
	'payment.failed': of('payment', 'A payment came to nothing.', z.object({ ...payment, minor }), {
		...aPayment,
		minor: 8_450
	}),
	'payment.voided': of('payment', 'A payment was given up before money came by it.', z.object({ ...payment, minor }), {
		...aPayment,
		minor: 8_450
	}),
	'payment.expired': of('payment', 'What was held or asked for is not any more.', z.object({ ...payment, minor }), {
		...aPayment,
		minor: 8_450
	}),
	'payment.refunded': of(
		'payment',
		'Money of a payment went back.',
		z.object({
			...payment,
			minor: minor.describe('what went back now'),
			refunded: minor.describe('what went back in all')
		}),
		{ ...aPayment, minor: 2_000, refunded: 2_000 }
	),
	'payment.settled': of(
		'payment',
		'The processor counts the payment towards a payout.',
		z.object({ ...payment, minor }),
		{
			...aPayment,
			minor: 8_450
		}
	),
	'payment.paid_out': of(
		'payment',
		'The money of a payment is on its way to the bank.',
		z.object({ ...payment, minor }),
		{
			...aPayment,
			minor: 8_450
		}
	),
	'payment.returned': of('payment', 'The payer’s bank took a payment back.', z.object({ ...payment, minor }), {
		...aPayment,
		method: 'bank-debit',
		minor: 6_500
	}),
	'dispute.opened': of('payment', 'A payer disputes a payment.', z.object({ ...payment, minor }), {
		...aPayment,
		minor: 8_450
	}),
	'dispute.closed': of(
		'payment',
		'A dispute has its outcome.',
		z.object({ ...payment, won: z.boolean(), lost: minor.describe('what will not come back') }),
		{ ...aPayment, won: true, lost: 0 }
	),
	'payment.offline_chosen': of(
		'payment',
		'A payer chose to pay by an offline method.',
		z.object({ ...payment, minor }),
		{ ...aPayment, method: 'credit-transfer', minor: 12_000 }
	),
	'payment.placed': of('payment', 'Money of a payment was placed onto an invoice.', placed, {
		invoice: 142,
		minor: 38_000,
		currency: 'EUR',
		why: 'its reference'
	}),
	'payment.unplaced': of('payment', 'Money of a payment was taken back from an invoice.', placed, {
		invoice: 142,
		minor: 38_000,
		currency: 'EUR',
		why: 'refunded'
	}),
	'payout.told': of(
		'payout',
		'A processor paid out.',
		z.object({
			connection: z.string().describe('id of the connection'),
			object: z.string().describe('its id at the processor')
		}),
		{ connection: 'c1', object: 'po-4471' }
	),
	'order.referenced': of(
		'order',
		'An outside program’s reference of an order was set or taken away.',
		z.object({ outside: z.string(), invoice: z.string().optional() }),
		{ outside: 'ORD-9931' }
	),
	'link.ordered': of(
		'link',
		'Somebody ordered by a pay link.',
		z.object({ order: id, reference: z.string(), minor, currency }),
		{ order: 72, reference: 'WF-0007', minor: 4_500, currency: 'EUR' }
	),
	'payer.changed': of('payer', 'What is kept of a payer changed.', z.object({}), {}),
	'payer.removed': of('payer', 'A payer was removed.', z.object({}), {}),
	'stored_method.stored': of(
		'stored_method',
		'A payer let a processor keep a method, to pay by it again.',
		z.object({ ...stored, payment: id.describe('the payment by which it came') }),
		{ ...aCard, payment: 20_417 }
	),
	'stored_method.changed': of(
		'stored_method',
		'A stored method was suspended or resumed, or became its payer’s default.',
		z.object({ ...stored, state: z.enum(['active', 'suspended']), default: z.boolean() }),
		{ ...aCard, state: 'active', default: true }
	),
	'stored_method.ending': of(
		'stored_method',
		'A stored card ends within thirty days; its payer is asked to renew it.',
		z.object(stored),
		aCard
	),
	'stored_method.ended': of(
		'stored_method',
		'A stored method cannot be paid by any more.',
		z.object({ ...stored, why: z.string() }),
		{ ...aCard, why: 'ended by the payer' }
	),
	'debit.announced': of('invoice', 'A payer is told that an invoice will be collected by bank debit.', debit, aDebit),
	'debit.called_off': of('invoice', 'An announced bank debit is not made.', debit.extend({ why: z.string() }), {
		...aDebit,
		why: 'paid otherwise'
	}),
	'debit.made': of(
		'invoice',
		'An announced bank debit was begun; what becomes of it is told of its payment.',
		debit.extend({ payment: id }),
		{ ...aDebit, payment: 20_431 }
	),
	'debit.not_made': of('invoice', 'An announced bank debit came to nothing.', debit.extend({ why: z.string() }), {
		...aDebit,
		why: 'The mandate is ended.'
	}),
	'discrepancy.found': of(
		'discrepancy',
		'Payments, or an account, were charged otherwise than agreed.',
		discrepancy,
		aDiscrepancy
	),
	'discrepancy.closed': of('discrepancy', 'A discrepancy is settled or accepted.', discrepancy, {
		...aDiscrepancy,
		leftMinor: 0
	}),
	'alert.opened': of('alert', 'Something needs somebody.', alert, {
		kind: 'silence',
		says: 'Brackwater Acquiring has told nothing since 11:04.',
		figure: '9 h'
	}),
	'alert.closed': of('alert', 'What needed somebody is gone.', alert, {
		kind: 'silence',
		says: 'Brackwater Acquiring tells again.',
		figure: ''
	}),
	'endpoint.test': of('endpoint', 'A test, sent by hand. It tells nothing.', z.object({ says: z.string() }), {
		says: 'A test of this endpoint.'
	})
} as const;
export type HookEvent = keyof typeof EVENTS;
export const HOOK_EVENTS = Object.keys(EVENTS) as HookEvent[];
export const isHookEvent = (text: string): text is HookEvent => Object.hasOwn(EVENTS, text);
/** Those that an endpoint can choose: a test is sent by hand. */
export const TOLD_KINDS = HOOK_EVENTS.filter((kind) => kind !== 'endpoint.test');

/** What is told of an event, whatever it is about. */
export const Envelope = z.object({
	id: z.string().describe('the same at every try, and at every endpoint'),
	type: z.enum(HOOK_EVENTS as [HookEvent, ...HookEvent[]]),
	timestamp: z.iso.datetime().describe('when it happened, in UTC'),
	sequence: z.number().int().describe('grows with every event: of two about one object the larger is the later'),
	object: z.object({ kind: z.string(), id: z.string() }),
	data: z.record(z.string(), z.unknown())
});

/** The whole of an event's body, as a schema. */
export const bodyOf = (kind: HookEvent) => Envelope.extend({ type: z.literal(kind), data: EVENTS[kind].data });

/** An example of the whole body. */
export const exampleOf = (kind: HookEvent) => ({
	id: 'ev-20417',
	type: kind,
	timestamp: '2026-11-12T09:30:00.000Z',
	sequence: 20_417,
	object: { kind: EVENTS[kind].object, id: EVENTS[kind].object === 'payer' ? 'p1' : '142' },
	data: EVENTS[kind].example
});

/** A field of what is told, for reading. */
export interface ToldField {
	readonly name: string;
	readonly type: string;
	readonly says: string;
}
/** The fields of an event's `data`, in their order. */
export function fieldsOfEvent(kind: HookEvent): ToldField[] {
	const { properties = {}, required = [] } = z.toJSONSchema(EVENTS[kind].data, { io: 'input' }) as {
		properties?: Record<
			string,
			{ type?: string | string[]; anyOf?: { type?: string }[]; enum?: unknown[]; description?: string }
		>;
		required?: string[];
	};
	return Object.entries(properties).map(([name, one]) => ({
		name,
		type: [
			one.enum
				? one.enum.map((value) => JSON.stringify(value)).join(' or ')
				: [one.type ?? (one.anyOf ?? []).map((each) => each.type)].flat().join(' or '),
			...(required.includes(name) ? [] : ['left out where there is none'])
		].join(', '),
		says: one.description ?? ''
	}));
}

/** The page of all events, as Markdown: `docs/events.md` is this. */
export function eventsPage(): string {
	const lines = [
		'# Events that your programs can be told of',
		'',
		'Add an endpoint under _Watch_, _Endpoints_. Each event is one POST with a JSON body, signed by Standard Webhooks: `webhook-id`,',
		'`webhook-timestamp` and `webhook-signature`. Any 2xx within 15 seconds is success. A redirect is not followed, and 410 switches the',
		'endpoint off. What fails is tried again after 5 s, 5 min, 30 min, 2, 5, 10, 14, 20 and 24 h. An event may come more than once: its `id` is',
		'the same each time. Events may come out of order: of two about one object the larger `sequence` is the later.',
		'',
		'Sums are whole minor units beside their currency. This page is made of the schemas that the events are told by:',
		'`npx tsx scripts/events.ts` writes it.',
		''
	];
	for (const kind of HOOK_EVENTS) {
		const fields = fieldsOfEvent(kind);
		lines.push(`## \`${kind}\``, '', EVENTS[kind].says, '');
		if (fields.length) {
			lines.push('| Field of `data` | Type | |', '| --- | --- | --- |');
			for (const { name, type, says } of fields) lines.push(`| \`${name}\` | ${type} | ${says} |`);
			lines.push('');
		}
		lines.push('```json', JSON.stringify(exampleOf(kind), null, 2), '```', '');
	}
	return lines.join('\n');
}
