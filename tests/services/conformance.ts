import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { UNKNOWN } from '../../src/lib/core/cards';
import { kindOf, lineFor, RateCard } from '../../src/lib/core/fees';
import { hasCard, type Method } from '../../src/lib/core/lineup';
import { exponentOf, type Amount } from '../../src/lib/core/money';
import type { Notice } from '../../src/lib/core/notices';
import {
	ConnectorError,
	isProblems,
	type Account,
	type Charge,
	type Connector,
	type Credentials,
	type Mode,
	type Outcome,
	type Report
} from '../../src/lib/server/connectors';

/** What a connector is run against: its stand-in, and the few things that only a payer or a hand at its console does. */
export interface Bench {
	readonly connector: Connector;
	credentials(mode: Mode): Promise<Credentials>;
	/** credentials of the right form that the processor never gave */
	unknown(credentials: Credentials): Credentials;
	/** amounts that each method is tried with; the first for everything, the others for their exponents */
	readonly amounts: Partial<Record<Method, readonly Amount[]>>;
	/** the method whose money can be held first, where it is not the first one */
	readonly holds?: Method;
	/** a token of the card fields, for a card that is approved or declined; processors with card fields only */
	token?(outcome: 'approved' | 'declined'): Promise<string>;
	/** does what payer and bank do until the money is taken, or refused */
	pay(processorId: string, outcome: 'approved' | 'declined'): Promise<void>;
	trouble(kind: 'none' | 'down' | 'errors' | 'nonsense' | 'lost answer'): Promise<void>;
	/** tells all notifications to an address, where that is set up by hand at the processor */
	listenByHand?(address: string): Promise<void>;
	/** the bodies of the notifications that were made so far */
	notifications(): Promise<string[]>;
	stop(): Promise<void>;
}

let keys = 0;
const newKey = () => `conformance-${Date.now()}-${++keys}`;
const done = (outcome: Outcome): Report => {
	if (outcome.outcome !== 'done') throw new Error(`refused: ${outcome.says}`);
	return outcome.report;
};
const facts = (report: Report | undefined) =>
	report?.facts.map(({ kind, at, minor, object }) => ({ kind, at, minor, object }));
const kinds = (report: Report | undefined) => report?.facts.map((one) => one.kind) ?? [];

/** Holds a connector to the rules of `docs/connectors.md`, as far as they can be asked from outside. */
export function conforms(name: string, setUp: () => Promise<Bench>): void {
	describe(`the connector of ${name}`, () => {
		let bench: Bench;
		let connector: Connector;
		let live: Credentials;
		let account: Account;
		let methods: Method[];
		let method: Method;
		let amount: Amount;
		beforeAll(async () => {
			bench = await setUp();
			connector = bench.connector;
			live = await bench.credentials('live');
			methods = Object.keys(bench.amounts) as Method[];
			method = methods[0]!;
			amount = bench.amounts[method]![0]!;
		});
		afterAll(() => bench?.stop());
		const secrets = () => connector.fields.filter((one) => one.secret).map((one) => live[one.name]!);
		const asked = async (
			more: Partial<Charge> = {},
			outcome: 'approved' | 'declined' = 'approved'
		): Promise<Charge> => ({
			key: newKey(),
			method,
			token: hasCard(more.method ?? method) ? await bench.token!(outcome) : undefined,
			amount,
			ours: `ours-${keys}`,
			descriptor: 'WREN ALDER',
			capture: 'at once',
			returnTo: 'http://127.0.0.1:9/back',
			payer: { name: 'Ana Müller', mail: 'ana@payer.example', country: 'BE' },
			...more
		});
		const tokenFor = async (which: Method) => (hasCard(which) ? await bench.token!('approved') : undefined);
		/** a payment that was taken: at once, or after the payer did their part */
		const taken = async (more: Partial<Charge> = {}): Promise<Report> => {
			const begun = done(await connector.charge(live, await asked(more)));
			if (kinds(begun).includes('captured')) return begun;
			await bench.pay(begun.processorId, 'approved');
			return (await connector.fetch(live, begun.processorId))!;
		};

		describe('credentials', () => {
			it('have boxes that say where the value is and what it looks like, or a consent that says what it is for', () => {
				for (const field of connector.fields)
					for (const text of [field.label, field.where, field.looks]) expect(text.length).toBeGreaterThan(4);
				const { consent } = connector;
				expect(connector.fields.some((field) => field.secret) || !!consent).toBe(true);
				expect(connector.way.includes('consent')).toBe(!!consent);
				for (const breaks of Object.values(consent?.scopes ?? {})) expect(breaks.length).toBeGreaterThan(10);
				for (const list of [connector.about.methods, connector.about.countries, connector.about.currencies])
					expect(list.length).toBeGreaterThan(0);
			});
			it('pass the first look when they are right, and name the box when they are not', () => {
				expect(connector.inspect(live, 'live')).toEqual([]);
				for (const { name: field } of connector.fields) {
					const of = (value: string) =>
						connector.inspect({ ...live, [field]: value }, 'live').filter((one) => one.field === field)[0]?.code;
					expect([field, of('')]).toEqual([field, 'empty']);
					expect([field, of(live[field]!.slice(0, -2))]).toEqual([field, 'truncated']);
					expect([field, of('hunter2')]).toEqual([field, 'unknown']);
				}
				if (connector.fields.length === 2) {
					const [a, b] = connector.fields.map((one) => one.name) as [string, string];
					expect(connector.inspect({ ...live, [a]: live[b]!, [b]: live[a]! }, 'live').map((one) => one.code)).toEqual([
						'swapped',
						'swapped'
					]);
				}
				if (connector.fields.length)
					expect(new Set(connector.inspect(live, 'test').map((one) => one.code))).toEqual(new Set(['mode']));
			});
			it('are verified with the processor, which knows what the account can do', async () => {
				const verified = await connector.verify(live, 'live');
				expect(verified).not.toBeInstanceOf(Array);
				account = verified as Account;
				expect(new Set(account.abilities.map((one) => one.method))).toEqual(new Set(methods));
				expect(account.country).toMatch(/^[A-Z]{2}$/);
				expect(() => exponentOf(account.settlement)).not.toThrow();
				for (const ability of account.abilities) {
					expect(connector.about.methods).toContain(ability.method);
					for (const currency of ability.currencies) expect(() => exponentOf(currency)).not.toThrow();
				}
				expect(account.descriptor.min).toBeLessThanOrEqual(account.descriptor.max);
			});
			it('that the processor never gave are told apart, and the words hold no secret', async () => {
				const given = bench.unknown(live);
				const problems = await connector.verify(given, 'live');
				expect(problems).toMatchObject([{ code: expect.stringMatching(/^(unknown|revoked)$/) }]);
				for (const secret of secrets()) expect(JSON.stringify(problems)).not.toContain(secret);
			});
			it('of the other mode are told apart from those that are wrong', async () => {
				const test = await bench.credentials('test');
				expect(connector.inspect(test, 'test')).toEqual([]);
				expect(isProblems(await connector.verify(test, 'test'))).toBe(false);
				expect(await connector.verify(test, 'live')).toMatchObject([{ code: 'mode' }]);
			});
			it('let choose among accounts or tiers where there are several', async () => {
				if (!connector.chooser) return;
				const choices = await connector.chooser.list(live, 'live');
				expect(choices.length).toBeGreaterThan(1);
				for (const choice of choices)
					expect(choice).toMatchObject({ id: expect.any(String), says: expect.any(String) });
				expect(await connector.verify({ ...live, [connector.chooser.name]: 'NO-SUCH-1' }, 'live')).toMatchObject([
					{ field: connector.chooser.name }
				]);
			});
		});

		describe('prices', () => {
			it('are a valid rate card that covers every kind the account can carry, and none twice', async () => {
				const { card, validFrom } = await connector.rateCard(live);
				expect(validFrom).toMatch(/^\d{4}-\d{2}-\d{2}$/);
				expect(RateCard.parse(card)).toEqual(card);
				for (const ability of account.abilities)
					for (const currency of ability.currencies) {
						const list = (values: readonly string[] | 'any' | undefined) => [
							...(values === 'any' || !values ? [] : values),
							UNKNOWN
						];
						for (const scheme of list(ability.cardTypes?.schemes))
							for (const funding of list(ability.cardTypes?.fundings))
								for (const region of list(ability.cardTypes?.regions)) {
									const kind = kindOf({
										method: ability.method,
										currency,
										scheme,
										funding: funding as 'debit',
										region: region as 'domestic'
									});
									expect([kind, lineFor(card, kind).found]).toEqual([kind, 'one']);
								}
					}
			});
			it('come with rates of a day, as decimals, where the account carries another currency than it settles in', async () => {
				const rates = await connector.rates(live, '2026-11-23');
				const foreign = account.abilities.some((one) => one.currencies.some((code) => code !== account.settlement));
				expect(rates.length > 0).toBe(foreign);
				for (const rate of rates)
					expect(rate).toMatchObject({ day: '2026-11-23', rate: expect.stringMatching(/^\d+(\.\d+)?$/) });
				expect(await connector.rates(live, '2026-11-23')).toEqual(rates);
			});
		});

		describe('a charge', () => {
			it('is told as a captured fact, with the amount as it was asked, in each method and exponent', async () => {
				for (const which of methods)
					for (const sum of bench.amounts[which]!) {
						const ours = `ours-${which}-${sum.currency}`;
						const report = await taken({ method: which, amount: sum, ours });
						expect(report.ours).toBe(ours);
						const fact = report.facts.find((one) => one.kind === 'captured');
						expect(fact).toMatchObject({ minor: sum.minor, object: report.processorId });
						expect(report.fee).toMatchObject({ currency: account.settlement, returned: 0 });
						expect(report.next).toBeUndefined();
						if (hasCard(which)) expect(report.card).toMatchObject({ last4: expect.stringMatching(/^\d{4}$/) });
					}
			});
			it('that waits for its payer says what they have to do', async () => {
				for (const which of methods.filter((one) => !hasCard(one))) {
					const begun = done(
						await connector.charge(live, await asked({ method: which, amount: bench.amounts[which]![0]! }))
					);
					expect(kinds(begun)).toEqual([]);
					expect(begun.next?.kind).toMatch(/^(page|code|transfer)$/);
					if (begun.next?.kind !== 'transfer') expect(new URL(begun.next!.address).protocol).toMatch(/^https?:$/);
				}
			});
			it('that is declined is a fact, not an error', async () => {
				const begun = done(await connector.charge(live, await asked({}, 'declined')));
				if (!hasCard(method)) await bench.pay(begun.processorId, 'declined');
				const report = (await connector.fetch(live, begun.processorId))!;
				expect(kinds(report)).toEqual(['failed']);
				expect(report.failure).toBeTruthy();
			});
			it('is done once per key: the same content gives the same answer, other content is refused', async () => {
				const request = await asked();
				const first = done(await connector.charge(live, request));
				expect(done(await connector.charge(live, request))).toEqual(first);
				const other = { ...request, amount: { ...amount, minor: amount.minor + 100 } };
				expect((await connector.charge(live, other)).outcome).toBe('refused');
			});
			it('whose answer was lost is found by its key', async () => {
				const request = await asked({ ours: 'ours-lost' });
				await bench.trouble('lost answer');
				const lost = await connector.charge(live, request).catch((error: unknown) => error);
				await bench.trouble('none');
				expect(lost).toBeInstanceOf(ConnectorError);
				expect((lost as ConnectorError).mayHaveActed).toBe(true);
				expect(await connector.settle(live, request.key)).toMatchObject({
					outcome: 'done',
					report: { ours: 'ours-lost' }
				});
			});
			it('whose key never came is closed: a late request does nothing', async () => {
				const request = await asked();
				expect(await connector.settle(live, request.key)).toEqual({ outcome: 'never came' });
				const late = await connector.charge(live, request).catch((error: unknown) => error);
				expect(late instanceof ConnectorError || (late as Outcome).outcome === 'refused').toBe(true);
				expect(await connector.settle(live, request.key)).toEqual({ outcome: 'never came' });
			});
			it('that is only held is taken later in part, or let go of, where the processor can', async () => {
				const { capture, cancel } = connector;
				if (!capture || !cancel) return;
				const hold = async () => {
					const begun = done(
						await connector.charge(live, await asked({ capture: 'later', method: bench.holds ?? method }))
					);
					if (!kinds(begun).includes('authorised')) await bench.pay(begun.processorId, 'approved');
					const held = (await connector.fetch(live, begun.processorId))!;
					expect(kinds(held)).toEqual(['authorised']);
					return held.processorId;
				};
				const part = { ...amount, minor: amount.minor - 100 };
				const key = newKey();
				const processorId = await hold();
				const first = done(await capture(live, { key, processorId, amount: part }));
				expect(first.facts.find((one) => one.kind === 'captured')).toMatchObject({ minor: part.minor });
				expect(done(await capture(live, { key, processorId, amount: part }))).toEqual(first);
				const released = done(await cancel(live, { key: newKey(), processorId: await hold() }));
				expect(kinds(released)).toEqual(['authorised', 'voided']);
			});
		});

		describe('what a payer lets it keep', () => {
			it('is charged again without them, and refused for good once it is forgotten', async () => {
				for (const which of connector.stores ?? []) {
					const sum = bench.amounts[which]![0]!;
					const plain = await taken({ method: which, amount: sum });
					expect(plain.stored).toBeUndefined();
					const first = await taken({ method: which, amount: sum, keep: true });
					expect(first.stored).toBeTruthy();
					if (which === 'bank-debit')
						expect([plain.mandate?.use, first.mandate?.use]).toEqual(['one time', 'recurring']);
					const again = { method: which, amount: sum, stored: first.stored, token: undefined };
					const request = await asked(again);
					const second = done(await connector.charge(live, request));
					expect(done(await connector.charge(live, request)).processorId).toBe(second.processorId);
					expect([second.next, kinds(second).length]).toEqual([undefined, 1]);
					if (hasCard(which)) expect(second.card).toEqual(first.card);
					await connector.forget!(live, first.stored!, which);
					await connector.forget!(live, first.stored!, which);
					await connector.forget!(live, 'never-was', which);
					for (const stored of [first.stored!, 'never-was'])
						expect(await connector.charge(live, await asked({ ...again, stored }))).toMatchObject({
							outcome: 'refused',
							storedEnded: true
						});
					// what was refused for another reason says nothing of it
					const wrong = { ...again, stored: undefined, amount: { ...sum, minor: 1 }, token: await tokenFor(which) };
					expect(await connector.charge(live, await asked(wrong))).not.toHaveProperty('storedEnded');
				}
			});
		});

		describe('a refund', () => {
			it('is told as a fact of its own object, in part and in whole, and never more than was taken', async () => {
				const made = await taken();
				const sum = made.facts.find((one) => one.kind === 'captured')!.minor!;
				const part = Math.floor(sum / 3);
				const refund = (minor: number, key = newKey()) =>
					connector.refund(live, { key, processorId: made.processorId, amount: { ...amount, minor } });
				const key = newKey();
				const first = done(await refund(part, key));
				expect(done(await refund(part, key))).toEqual(first);
				expect((await refund(sum - part + 1)).outcome).toBe('refused');
				const second = done(await refund(sum - part));
				const refunds = second.facts.filter((one) => one.kind === 'refunded');
				expect(refunds.map((one) => one.minor)).toEqual([part, sum - part]);
				expect(new Set(refunds.map((one) => one.object)).size).toBe(2);
				expect(second.fee!.returned).toBeGreaterThanOrEqual(first.fee!.returned);
				expect(facts(await connector.fetch(live, made.processorId))).toEqual(facts(second));
			});
			it('of what does not exist is refused, and fetching it gives nothing', async () => {
				expect((await connector.refund(live, { key: newKey(), processorId: 'nothing', amount })).outcome).toBe(
					'refused'
				);
				expect(await connector.fetch(live, 'nothing')).toBeUndefined();
				if (connector.readToken) expect(await connector.readToken(live, 'nothing')).toBeUndefined();
			});
		});

		describe('notifications', () => {
			it('are set up and taken back, and tell the same facts as a fetch', async () => {
				const wanted: Notice[] = [...connector.sends];
				const address = 'http://127.0.0.1:9/nobody';
				const hook = await connector.listen?.(live, address, wanted);
				if (hook) {
					expect(new Set(hook.notices)).toEqual(new Set(wanted));
					expect(hook.secret.length).toBeGreaterThan(20);
				} else {
					expect(connector.byHand!.where.length).toBeGreaterThan(20);
					expect(new Set(Object.keys(connector.byHand!.names))).toEqual(new Set(wanted));
					await bench.listenByHand!(address);
				}
				if (connector.subscribed)
					expect(new Set(await connector.subscribed(live, hook?.id ?? '', address))).toEqual(new Set(wanted));
				await connector.sendTestNotification(live, hook?.id ?? '');
				const made = await taken();
				await connector.refund(live, {
					key: newKey(),
					processorId: made.processorId,
					amount: { ...amount, minor: 100 }
				});
				const read = await Promise.all(
					(await bench.notifications()).map(async (body) => {
						const notification = connector.readNotification(body);
						return connector.confirm ? (await connector.confirm(live, notification.eventId))! : notification;
					})
				);
				expect(read.some((one) => one.notice === 'hello' && one.reports.length === 0)).toBe(true);
				const told = read.filter((one) => one.reports.some((report) => report.processorId === made.processorId));
				const notices = told.map((one) => one.notice);
				expect(notices.slice(-2)).toEqual(['captured', 'refunded']);
				expect(new Set(read.map((one) => one.eventId)).size).toBe(read.length);
				expect(facts(told.at(-1)!.reports[0])).toEqual(facts(await connector.fetch(live, made.processorId)));
				if (connector.confirm) expect(await connector.confirm(live, 'never-rung')).toBeUndefined();
				if (hook) {
					await connector.unlisten!(live, hook.id);
					expect(await connector.subscribed!(live, hook.id, address)).toBeUndefined();
				}
			});
			it('that are not its own are nonsense', () => {
				for (const body of ['', 'null', '[]', '{}', '{"id":1}', '<p>hello</p>'])
					expect(() => connector.readNotification(body)).toThrow(ConnectorError);
			});
		});

		describe('trouble', () => {
			it.each(['down', 'errors', 'nonsense'] as const)(
				'of the kind “%s” is a technical failure of every call',
				async (kind) => {
					const request = await asked();
					await bench.trouble(kind);
					const processorId = 'any';
					const calls: [string, Promise<unknown> | undefined, boolean][] = [
						['verify', connector.verify(live, 'live'), false],
						['rateCard', connector.rateCard(live), false],
						['readToken', connector.readToken?.(live, request.token ?? 'any'), false],
						['fetch', connector.fetch(live, 'any'), false],
						['settle', connector.settle(live, newKey()), false],
						['charge', connector.charge(live, request), true],
						['capture', connector.capture?.(live, { key: newKey(), processorId, amount }), true],
						['cancel', connector.cancel?.(live, { key: newKey(), processorId }), true],
						['refund', connector.refund(live, { key: newKey(), processorId, amount }), true]
					];
					const ended = await Promise.all(
						calls.map(([, call]) =>
							call?.then(
								() => undefined,
								(error: unknown) => error
							)
						)
					);
					await bench.trouble('none');
					ended.forEach((error, i) => {
						const [call, tried, acts] = calls[i]!;
						if (!tried) return;
						expect([call, error instanceof ConnectorError && error.kind !== 'refused']).toEqual([call, true]);
						expect([call, (error as ConnectorError).mayHaveActed]).toEqual([call, acts]);
						for (const secret of secrets()) expect((error as ConnectorError).message).not.toContain(secret);
					});
				}
			);
		});

		describe('the end', () => {
			it('ends the credentials at the processor', async () => {
				if (!connector.retire) return;
				const test = await bench.credentials('test');
				await connector.retire(test);
				expect(await connector.verify(test, 'test')).toMatchObject([
					{ code: expect.stringMatching(/^(revoked|unknown)$/) }
				]);
			});
		});
	});
}
