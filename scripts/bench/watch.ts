import { openDatabase, rows } from '../../tests/world/database.ts';
import { Desk } from '../../tests/world/desk.ts';
import { makeWorld } from '../../tests/world/index.ts';
import type { Ratio } from './ratio.ts';

/** What is asked, by name: each as an administrator opens it. */
const PAGES: Readonly<Record<string, string>> = {
	'the stream': '/watch',
	'what is stuck': '/watch?state=stuck',
	'the pulse': '/watch/pulse',
	'a word that all have': '/watch?find=payment.taken',
	'a word that one has': '/watch?find=7777',
	'a word that none has': '/watch?find=nobodyiscalledthis',
	'Needs you': '/needs-you'
};
const PART = 250_000;
const SPAN_MS = 60 * 86_400_000;

async function measure(count: number): Promise<Record<string, number>> {
	const world = await makeWorld({ JUSTPURSE_ROUND_MS: '2000' });
	try {
		const desk = new Desk(world);
		await desk.openWebShop();
		const [connection] = await rows<{ id: string }>(world, 'SELECT id FROM connections LIMIT 1');
		await world.app.kill();
		// as the receiver and the worker leave them, in parts: worked on, counted by hour, and with their words in the index
		const database = await openDatabase(world);
		const first = Date.now() - SPAN_MS;
		const step = Math.max(1, Math.floor(SPAN_MS / count));
		for (let from = 0; from < count; from += PART) {
			const to = Math.min(count, from + PART);
			await database.run('BEGIN');
			await database.run(
				`WITH RECURSIVE n(i) AS (SELECT ? UNION ALL SELECT i + 1 FROM n WHERE i + 1 < ?)
				 INSERT INTO arrivals (connection_id, event_id, received_at, headers, body, checks, state, tries, topic, says, done_at, happened_at)
				 SELECT ?, 'many-' || i, ? + i * ?, '{}', '{"id":"many-' || i || '","topic":"payment.taken","payment":"FHP-' || i || '","minor":' || (1000 + i % 9000) || '}',
					'[]', 'done', 1, 'payment.taken', 'Told nothing that was not known.', ? + i * ?, ? + i * ? FROM n`,
				[from, to, connection!.id, first, step, first + 40, step, first - 900, step]
			);
			await database.run(
				`INSERT INTO arrivals_text (rowid, body) SELECT id, body FROM arrivals WHERE event_id LIKE 'many-%' AND id > (SELECT COALESCE(MAX(id), 0) FROM arrivals_text_docsize)`
			);
			await database.run('COMMIT');
		}
		await database.run(
			`INSERT INTO arrival_hours (connection_id, hour, arrived, payments) SELECT connection_id, received_at / 3600000, COUNT(*), COUNT(*)
			 FROM arrivals WHERE event_id LIKE 'many-%' GROUP BY 1, 2 ON CONFLICT (connection_id, hour) DO UPDATE SET arrived = excluded.arrived`
		);
		await database.close();
		await world.app.start();
		await desk.signIn();
		const pages: Record<string, number> = {};
		for (const [name, path] of Object.entries(PAGES)) {
			const times: number[] = [];
			for (let k = 0; k < 9; k++) {
				const from = performance.now();
				await (await desk.get(path)).text();
				times.push(performance.now() - from);
			}
			pages[name] = times.sort((a, b) => a - b)[4]!;
		}
		return pages;
	} finally {
		await world.end();
	}
}

/** The pulse, the stream and a search over very many arrivals, against the same over few. */
export async function watch(): Promise<Ratio> {
	const many = Number(process.env.BENCH_ARRIVALS ?? 5_000_000);
	const few = await measure(10_000);
	const much = await measure(many);
	const ratios = Object.entries(much).map(([name, ms]) => [name, few[name]!, ms] as const);
	const worst = Math.max(...ratios.map(([, before, after]) => after / before));
	const slowest = Math.max(...ratios.map(([, , ms]) => ms));
	return {
		name: `watching over ${many.toLocaleString('en-GB')} arrivals against 10,000`,
		ratio: worst,
		wanted: 'at most 3, under 200 ms',
		holds: worst <= 3 && slowest < 200,
		detail: ratios.map(([name, before, after]) => `${name} ${before.toFixed(0)} → ${after.toFixed(0)} ms`).join(', ')
	};
}
