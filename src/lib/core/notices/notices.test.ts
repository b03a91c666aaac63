import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { hmac } from '@noble/hashes/hmac.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { Webhook } from 'standardwebhooks';
import { describe, expect, it } from 'vitest';
import {
	fromBase64,
	featuresOf,
	neededNotices,
	sameText,
	toBase64,
	TOLERANCE_SECONDS,
	TRIES_UNTIL_STUCK,
	verify,
	waitBeforeTry
} from '.';

const now = Date.parse('2026-11-24T10:00:00Z');
const secret = `whsec_${Buffer.from('a key of thirty-two bytes, or so').toString('base64')}`;
const body = utf8ToBytes('{"id":"e1","name":"Zoë"}');

function signed(id: string, at: number, key = secret): Record<string, string> {
	return {
		'webhook-id': id,
		'webhook-timestamp': String(Math.floor(at / 1000)),
		'webhook-signature': new Webhook(key).sign(id, new Date(at), '{"id":"e1","name":"Zoë"}')
	};
}
const check = (headers: Record<string, string>, secrets = [secret], at = now, bytes = body) =>
	verify({ kind: 'standard-webhooks' }, secrets, (name) => headers[name], bytes, at);

describe('Standard Webhooks', () => {
	it('takes what another library signed', () => {
		expect(check(signed('e1', now))).toMatchObject({ verdict: 'verified', eventId: 'e1' });
	});
	it('takes one right signature among several, and either of two secrets while keys rotate', () => {
		const headers = signed('e1', now);
		expect(check({ ...headers, 'webhook-signature': `v1,AAAA v1a,xyz ${headers['webhook-signature']}` }).verdict).toBe(
			'verified'
		);
		const other = `whsec_${Buffer.from('another key, also long enough to use').toString('base64')}`;
		expect(check(signed('e1', now, other), [secret, other]).verdict).toBe('verified');
	});
	it('refuses a forged body, id, time or key', () => {
		const headers = signed('e1', now);
		expect(check(headers, [secret], now, utf8ToBytes('{"id":"e2"}')).verdict).toBe('forged');
		expect(check({ ...headers, 'webhook-id': 'e2' }).verdict).toBe('forged');
		expect(check({ ...headers, 'webhook-timestamp': String(Number(headers['webhook-timestamp']) + 1) }).verdict).toBe(
			'forged'
		);
		expect(check(headers, ['whsec_AAAA']).verdict).toBe('forged');
	});
	it('refuses a timestamp more than five minutes off, either way, and says so', () => {
		const off = (seconds: number) => check(signed('e1', now - seconds * 1000)).verdict;
		expect([TOLERANCE_SECONDS, TOLERANCE_SECONDS + 1, -TOLERANCE_SECONDS, -TOLERANCE_SECONDS - 1].map(off)).toEqual([
			'verified',
			'old',
			'verified',
			'old'
		]);
		expect(check(signed('e1', now - 3_600_000)).steps.at(-1)?.says).toMatch(/3600 s old/);
	});
	it.each(['webhook-id', 'webhook-timestamp', 'webhook-signature'])('names the missing header %s', (name) => {
		const { [name]: _, ...rest } = signed('e1', now);
		expect(check(rest)).toMatchObject({ verdict: 'malformed', steps: [{ says: `The header ${name} is missing.` }] });
	});
});

describe('other dialects', () => {
	it('verifies a hex HMAC of the raw body', () => {
		const given = bytesToHex(hmac(sha256, utf8ToBytes('shh'), body));
		const of = (value: string) =>
			verify(
				{ kind: 'hex-hmac', header: 'x-sum' },
				['shh'],
				(name) => (name === 'x-sum' ? value : undefined),
				body,
				now
			).verdict;
		expect(
			[
				given,
				given.toUpperCase(),
				given.replace(/.$/, '0') === given ? given.replace(/.$/, '1') : given.replace(/.$/, '0')
			].map(of)
		).toEqual(['verified', 'verified', 'forged']);
	});
	it('compares a shared secret, and leaves a call-back unconfirmed', () => {
		const of = (value?: string) =>
			verify({ kind: 'shared-secret', header: 'x-secret' }, ['shh'], () => value, body, now).verdict;
		expect([of('shh'), of('shhh'), of(undefined)]).toEqual(['verified', 'forged', 'malformed']);
		expect(verify({ kind: 'call-back' }, [], () => undefined, body, now).verdict).toBe('unconfirmed');
	});
});

it('compares texts of any length, and reads base64 as it writes it', () => {
	expect([sameText('', ''), sameText('a', 'a'), sameText('a', 'b'), sameText('a', 'aa')]).toEqual([
		true,
		true,
		false,
		false
	]);
	for (const length of [0, 1, 2, 3, 31, 32]) {
		const bytes = Uint8Array.from({ length }, (_, i) => (i * 89) % 256);
		expect(toBase64(bytes)).toBe(Buffer.from(bytes).toString('base64'));
		expect(fromBase64(toBase64(bytes))).toEqual(bytes);
	}
	expect(fromBase64('not base64!')).toBeUndefined();
});

it('waits longer before each try, within a day in all', () => {
	const waits = Array.from({ length: TRIES_UNTIL_STUCK - 1 }, (_, i) => waitBeforeTry(i + 1, 0.5));
	expect(waits.every((wait, i) => i === 0 || wait > waits[i - 1]!)).toBe(true);
	expect(waitBeforeTry(1, 0)).toBeLessThan(waitBeforeTry(1, 1));
	expect(waits.reduce((a, b) => a + b)).toBeLessThan(86_400_000);
});

it('works out what is needed, what is missing and what is noise', () => {
	const report = neededNotices(['cards', 'payouts'], ['captured', 'settled', 'paid-out', 'returned']);
	expect(report.noise).toEqual(['returned']);
	expect(report.needed.filter((one) => !one.subscribed).map((one) => one.notice)).toEqual([
		'authorised',
		'failed',
		'refunded',
		'disputed'
	]);
	expect(report.needed.find((one) => one.notice === 'refunded')?.breaks).toMatch(/would not appear here/);
	expect(featuresOf(['card', 'device-wallet', 'cash'], 'later')).toEqual(['cards', 'capture-later', 'payouts']);
	expect(neededNotices(featuresOf(['bank-debit']), []).needed.map((one) => one.notice)).toEqual(
		expect.arrayContaining(['pending', 'settled', 'returned'])
	);
});

it('knows what bills rely on, beside what the ways to pay them do', () => {
	const features = featuresOf(['card'], 'at once', true);
	expect(features).toEqual(['cards', 'bills', 'payouts']);
	const { needed } = neededNotices(features, ['captured']);
	// one notification is needed once, and tells all that relies on it
	expect(needed.filter((one) => one.notice === 'captured')).toMatchObject([
		{
			because: 'cards',
			subscribed: true,
			also: [{ because: 'bills', breaks: expect.stringMatching(/would stay open/) }]
		}
	]);
	expect(needed.find((one) => one.notice === 'refunded')!.also.map((one) => one.because)).toEqual(['bills']);
	expect(neededNotices(featuresOf(['card']), []).needed.every((one) => !one.also.length)).toBe(true);
});
