import { readFileSync } from 'node:fs';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { format, resolveConfig } from 'prettier';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { EVENTS, eventsPage, HOOK_EVENTS, isHookEvent } from '../../src/lib/core/hooks/index.ts';
import { billing, type Billing } from '../world/billing.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// Every event that is recorded is one of the list, in the shape that the list says, wherever it comes from.

let world: World;
let desk: Desk;
let bill: Billing;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' }, { with: ['fernhall', 'mailbox', 'texts'] });
	desk = new Desk(world);
	await desk.openWebShop();
	bill = await billing(desk);
});
afterAll(() => world.end());

interface Recorded {
	id: number;
	kind: string;
	object: string;
	payload: string;
}
const recorded = () => rows<Recorded>(world, 'SELECT id, kind, object_kind AS object, payload FROM events ORDER BY id');
const kinds = async () => new Set((await recorded()).map((one) => one.kind));

describe('events of billing', () => {
	it('are recorded from draft to void, credit and write-off', async () => {
		const payer = await bill.payer({ name: 'Event Payer', mail: 'events@payer.example' });
		const [paid, voided, off] = [
			await bill.invoice(payer, [{ text: 'Setup', price: '100.00' }]),
			await bill.invoice(payer, [{ text: 'Setup', price: '10.00' }]),
			await bill.invoice(payer, [{ text: 'Setup', price: '12.00' }])
		];
		for (const id of [paid, voided, off]) expect((await bill.act(id, 'send', { mail: 'on' })).type).toBe('success');
		await bill.act(voided, 'void', { reason: 'made twice' });
		await bill.act(off, 'writeOff', {});
		const note = await bill.act(paid, 'creditNote');
		const credit = Number(/invoices\/(\d+)/.exec(note.location!)![1]);
		await bill.act(credit, 'approve');
		const had = await kinds();
		for (const kind of ['payer.changed', 'invoice.approved', 'invoice.sent', 'invoice.voided', 'credit_note.approved'])
			expect([kind, had.has(kind)]).toEqual([kind, true]);
	});
	it('are recorded of a quote that is accepted and of one that is declined', async () => {
		const payer = await bill.payer({ name: 'Quote Events', mail: 'quotes@payer.example' });
		for (const answer of ['accepted', 'declined']) {
			const id = await bill.invoice(payer, [{ text: 'Bow', price: '50.00' }], { kind: 'quote' });
			await bill.act(id, 'send', { mail: 'on' });
			expect((await bill.act(id, 'answer', { who: 'Quinten', answer })).type).not.toBe('failure');
		}
		const had = await kinds();
		for (const kind of ['quote.sent', 'quote.accepted', 'quote.declined'])
			expect([kind, had.has(kind)]).toEqual([kind, true]);
	});
});

describe('events of payments', () => {
	it('are recorded of a card that is charged, refunded in part, disputed, settled and paid out, and of one declined', async () => {
		await new Desk(world).giveCard(await desk.address('84.50', 'EV-1'), CARDS.approved);
		await new Desk(world).giveCard(await desk.address('85.50', 'EV-2'), CARDS.declined);
		const payment = async (reference: string) =>
			(
				await rows<{ id: number; stage: string; at: string }>(
					world,
					'SELECT id, stage, processor_id AS at FROM payments WHERE reference = ? ORDER BY id DESC',
					[reference]
				)
			)[0]!;
		await until('it is captured', async () => (await payment('EV-1'))?.stage === 'captured');
		const { id, at } = await payment('EV-1');
		await desk.act(`/takings/payments/${id}?/refund`, { amount: '20.00', key: 'events-refund-1' });
		await until('it is refunded', async () => (await kinds()).has('payment.refunded'));
		await world.control('night', { mode: 'live', step: 'settle' });
		await world.control('night', { mode: 'live', step: 'pay out' });
		await until('it is paid out', async () => (await kinds()).has('payout.told'));
		await world.control(`act/${at}`, { act: 'dispute', why: 'not known' });
		await until('it is disputed', async () => (await kinds()).has('dispute.opened'));
		await world.control(`act/${at}`, { act: 'lose' });
		await until('it is lost', async () => (await kinds()).has('dispute.closed'));
		const had = await kinds();
		for (const kind of ['payment.captured', 'payment.failed', 'payment.refunded'])
			expect([kind, had.has(kind)]).toEqual([kind, true]);
	});
});

describe('every recorded event', () => {
	it('is one of the list, about what the list says, and its data fit their schema', async () => {
		const all = await recorded();
		expect(new Set(all.map((one) => one.kind)).size).toBeGreaterThan(14);
		for (const one of all) {
			if (!isHookEvent(one.kind)) throw new Error(`${one.kind} is in no list`);
			const { object, data } = EVENTS[one.kind];
			expect([one.kind, one.object]).toEqual([one.kind, object]);
			const read = data.strict().safeParse(JSON.parse(one.payload));
			expect([one.kind, one.payload, read.error?.issues ?? []]).toEqual([one.kind, one.payload, []]);
		}
	});
});

describe('where events are written down', () => {
	it('is the page in docs, made of the schemas', async () => {
		const path = 'docs/events.md';
		const made = await format(eventsPage(), { ...(await resolveConfig(path)), filepath: path });
		expect(readFileSync(path, 'utf8')).toBe(made);
	});
	it('is a page of the application, too', async () => {
		const page = await (await desk.get('/docs/events')).text();
		for (const kind of HOOK_EVENTS) expect(page).toContain(`id="${kind}"`);
	});
	it('is the document of the interface, with an example that fits each schema', async () => {
		const document = (await (await desk.get('/api/v1/openapi.json')).json()) as {
			webhooks: Record<
				string,
				{ post: { requestBody: { content: Record<string, { schema: object; example: object }> } } }
			>;
		};
		expect(Object.keys(document.webhooks).sort()).toEqual([...HOOK_EVENTS].sort());
		const ajv = new Ajv2020({ strict: false, formats: { date: true, 'date-time': true } });
		for (const [kind, { post }] of Object.entries(document.webhooks)) {
			const { schema, example } = post.requestBody.content['application/json']!;
			const fits = ajv.compile(schema);
			expect([kind, fits(example), fits.errors ?? []]).toEqual([kind, true, []]);
			expect(fits({ ...example, type: 'something.else' })).toBe(false);
		}
	});
});
