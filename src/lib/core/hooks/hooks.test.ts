import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { bodyOf, HOOK_EVENTS, EVENTS, exampleOf, judgeEndpoint, readAnswer, TOLD_KINDS, waitBeforeDelivery } from '.';

const HOUR = 3_600_000;

describe('events that are told', () => {
	it.each(HOOK_EVENTS)('%s has a sentence, a schema, and an example that fits it', (kind) => {
		expect(EVENTS[kind].says).toMatch(/\.$/);
		const body = exampleOf(kind);
		expect(bodyOf(kind).parse(body)).toEqual(body);
		const schema = z.toJSONSchema(bodyOf(kind), { io: 'input' }) as unknown as {
			properties: { type: { const: string } };
		};
		expect(schema.properties.type.const).toBe(kind);
	});
	it('refuse a body of another event, and one without its sums', () => {
		expect(bodyOf('invoice.paid').safeParse(exampleOf('invoice.sent')).success).toBe(false);
		const { data: _, ...bare } = exampleOf('payment.captured');
		expect(bodyOf('payment.captured').safeParse({ ...bare, data: {} }).success).toBe(false);
	});
	it('are chosen without the test, which is sent by hand', () => {
		expect(TOLD_KINDS).not.toContain('endpoint.test');
		expect(TOLD_KINDS).toHaveLength(HOOK_EVENTS.length - 1);
	});
});

describe('the next try of a delivery', () => {
	it('comes after 5 s, 5 min, 30 min, 2, 5, 10, 14, 20 and 24 h, and no tenth', () => {
		const waits = Array.from({ length: 10 }, (_, n) => waitBeforeDelivery(n + 1, 0.5));
		expect(waits).toEqual([
			5_000,
			300_000,
			1_800_000,
			...[2, 5, 10, 14, 20, 24].map((hours) => hours * HOUR),
			undefined
		]);
	});
	it('is spread by a tenth either way', () => {
		expect([waitBeforeDelivery(2, 0), waitBeforeDelivery(2, 1)]).toEqual([270_000, 330_000]);
	});
});

describe('an answer of an endpoint', () => {
	it('is success at any 2xx, an end at 410, and a failure else, a redirect too', () => {
		expect([200, 204, 299].map(readAnswer)).toEqual(['delivered', 'delivered', 'delivered']);
		expect(readAnswer(410)).toBe('gone');
		expect([199, 301, 308, 400, 404, 500, 503].map(readAnswer)).toEqual(Array.from({ length: 7 }, () => 'failed'));
	});
});

describe('an endpoint that fails', () => {
	it('is gone on with for a day, then its owner is told once, and after three days it is paused', () => {
		expect(judgeEndpoint(0, 23 * HOUR, false)).toBe('goes on');
		expect(judgeEndpoint(0, 24 * HOUR, false)).toBe('warn');
		expect(judgeEndpoint(0, 30 * HOUR, true)).toBe('goes on');
		expect(judgeEndpoint(0, 72 * HOUR, true)).toBe('pause');
		expect(judgeEndpoint(0, 72 * HOUR, false)).toBe('pause');
	});
});
