import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { hasCard, type Method } from '../../src/lib/core/lineup';
import type { Charge, Report } from '../../src/lib/server/connectors';
import { STANDINS } from '../../standins/main.ts';
import type { Manifest } from '../../standins/shared/manifest.ts';
import { setUpBench, type StandinBench } from './bench.ts';

// Notifications of every processor's own dialect in any order, doubled, late, with gaps filled in between by asking: a payment
// ends as it would have, had each come once and in time.

const folder = mkdtempSync(join(tmpdir(), 'purse-disorder-'));
process.env.JUSTPURSE_DATA = folder;
const store = await import('../../src/lib/server/db');
const { keepReport } = await import('../../src/lib/server/payments/record');
/** `JUSTPURSE_SEEDS=60` goes through many more, in five minutes. */
const SEEDS = Number(process.env.JUSTPURSE_SEEDS ?? 8);

beforeAll(async () => {
	const database = await store.open();
	await database.query(
		`INSERT INTO business (id, name, country, home_currency, time_zone, updated_at) VALUES (1, 'Wren & Alder', 'BE', 'EUR', 'Europe/Brussels', 0)`
	);
});
afterAll(async () => {
	await store.close();
	rmSync(folder, { recursive: true, force: true });
});

/** Draws that are the same for the same seed. */
function chance(seed: number) {
	let state = seed * 2_654_435_761 + 97;
	return (below: number) => ((state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) >>> 8) % below;
}
function shuffled<T>(list: readonly T[], draw: (below: number) => number): T[] {
	const all = [...list];
	for (let n = all.length - 1; n > 0; n--) {
		const other = draw(n + 1);
		[all[n], all[other]] = [all[other]!, all[n]!];
	}
	return all;
}

/** What became of a payment, without what tells one run from another. */
const LEFT_OUT = ['id', 'processorId', 'createdAt', 'kindId'];
async function outcome(id: number) {
	const row = (await store.db.payments.one({ id }))! as unknown as Record<string, unknown>;
	const events = await store.db.paymentEvents.find({ paymentId: id });
	const dispute = await store.db.disputes.one({ paymentId: id });
	return {
		...Object.fromEntries(Object.entries(row).filter(([name]) => !LEFT_OUT.includes(name))),
		facts: events.map((one) => `${one.kind} ${one.object} ${one.minor}`).sort(),
		clashes: await store.db.factClashes.count({ paymentId: id }),
		dispute: dispute && [dispute.outcome, dispute.minor, dispute.reason]
	};
}

for (const manifest of Object.values(STANDINS).filter((one) => one.account && one.trial)) {
	describe(`notifications of ${manifest.name}`, () => {
		let bench: StandinBench;
		/** by payment: what each of its notifications told, in order, and what asking tells at the end */
		const told = new Map<string, { method: Method; reports: Report[]; asked: Report }>();
		beforeAll(async () => {
			bench = await setUpBench(manifest as Required<Manifest>);
			const { connector } = bench;
			const live = await bench.credentials('live');
			const address = 'http://127.0.0.1:9/nobody';
			if (!(await connector.listen?.(live, address, [...connector.sends]))) await bench.listenByHand!(address);
			const method = Object.keys(bench.amounts)[0]! as Method;
			const amount = bench.amounts[method]![0]!;
			const methods = new Map<string, Method>();
			let keys = 0;
			const charge = async (outcome: 'approved' | 'declined' = 'approved'): Promise<string> => {
				const asked: Charge = {
					key: `disorder-${manifest.name}-${++keys}`,
					method,
					token: hasCard(method) ? await bench.token!(outcome) : undefined,
					amount,
					ours: `ours-${keys}`,
					descriptor: 'WREN ALDER',
					capture: 'at once',
					returnTo: 'http://127.0.0.1:9/back',
					payer: { name: 'Ana Müller', mail: 'ana@payer.example', country: 'BE' }
				};
				const begun = await connector.charge(live, asked);
				if (begun.outcome !== 'done') throw new Error(begun.says);
				const { processorId, facts } = begun.report;
				methods.set(processorId, method);
				if (!facts.some((one) => one.kind === 'captured' || one.kind === 'failed'))
					await bench.pay(processorId, outcome);
				return processorId;
			};
			const act = (id: string, what: string) => bench.control(`act/${id}`, { act: what });
			const night = (step: 'settle' | 'pay out') =>
				bench.control('night', { account: manifest.account, mode: 'live', step });
			const refund = async (processorId: string, minor: number) =>
				connector.refund(live, {
					key: `disorder-${manifest.name}-${++keys}`,
					processorId,
					amount: { ...amount, minor }
				});
			const [refunded, won, lost, plain] = [await charge(), await charge(), await charge(), await charge()];
			await charge('declined');
			await refund(refunded, 100);
			await night('settle');
			await refund(refunded, 150);
			await act(won, 'dispute');
			await night('pay out');
			await act(won, 'win');
			await act(lost, 'dispute');
			await act(lost, 'lose');
			await refund(plain, amount.minor);
			for (const body of await bench.notifications()) {
				const notification = connector.readNotification(body);
				const read = connector.confirm ? (await connector.confirm(live, notification.eventId))! : notification;
				for (const report of read.reports) {
					const known = told.get(report.processorId) ?? {
						method: methods.get(report.processorId)!,
						reports: [],
						asked: (await connector.fetch(live, report.processorId))!
					};
					known.reports.push(report);
					told.set(report.processorId, known);
				}
			}
		});
		afterAll(() => bench?.stop());

		let carrier = 0;
		/** A payment of which nothing was heard yet. */
		const begin = async (name: string, method: Method): Promise<number> => {
			const database = await store.open();
			const { currency, minor } = bench.amounts[method]![0]!;
			if (!carrier++)
				await database.query(
					`INSERT INTO connections (id, processor, name, mode, account_id, account_name, account_country, settlement, time_zone, secret_sealed,
					 secret_last4, hook_key, account, account_read_at, created_at) VALUES ($1, $1, $1, 'live', 'a', 'a', 'BE', 'EUR', 'Europe/Brussels', '', '', $1,
					 '{}', 0, 0)`,
					{ bind: [manifest.name] }
				);
			return store.write(async (tx) => {
				const kindId = await store.kindIdOf(
					{ method, currency, entry: 'online', scheme: 'unknown', funding: 'unknown', issuer: 'unknown' },
					tx
				);
				await database.query(
					`INSERT INTO payments (origin, mode, processor, connection_id, account_id, processor_id, kind_id, method, currency, minor, stage, reached_step, day, created_at)
					 VALUES ('till', 'live', $1, $1, 'a', $2, $3, $4, $5, $6, 'requested', 0, '2026-11-30', 0)`,
					{ bind: [manifest.name, name, kindId, method, currency, minor], transaction: tx }
				);
				return (await store.db.payments.one({ processor: manifest.name, processorId: name }, tx))!.id;
			});
		};
		const hear = (id: number, name: string, heard: readonly { report: Report; source: string }[]) =>
			store.write(async (tx) => {
				for (const { report, source } of heard) {
					const payment = (await store.db.payments.one({ id }, tx))!;
					await keepReport(payment, { ...report, processorId: name }, source, tx);
				}
			});

		it('end alike in any order, doubled, late, and with gaps filled in between', { timeout: 120_000 }, async () => {
			expect(told.size).toBeGreaterThanOrEqual(3);
			const stages = new Set<string>();
			for (const [processorId, { method, reports, asked }] of told) {
				const inTime = await begin(`${processorId}-in-time`, method);
				const inOrder = reports.map((report, n) => ({ report, source: `arrival ${n}` }));
				await hear(inTime, `${processorId}-in-time`, inOrder);
				const right = await outcome(inTime);
				stages.add(String((right as unknown as { stage: string }).stage));
				expect(right.clashes).toBe(0);
				for (let seed = 1; seed <= SEEDS; seed++) {
					const draw = chance(seed);
					const name = `${processorId}-${seed}`;
					const id = await begin(name, method);
					// some come twice, the order is any, and somebody asks the processor in the middle of it
					const coming = shuffled(
						reports.flatMap((report, n) =>
							Array.from({ length: 1 + draw(3) }, () => ({ report, source: `arrival ${n}` }))
						),
						draw
					);
					if (draw(3) === 0) coming.splice(draw(coming.length + 1), 0, { report: asked, source: 'gap' });
					await hear(id, name, coming);
					expect([manifest.name, processorId, seed, await outcome(id)]).toEqual([
						manifest.name,
						processorId,
						seed,
						right
					]);
				}
			}
			expect(stages.size).toBeGreaterThanOrEqual(2);
		});
	});
}
