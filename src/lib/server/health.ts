import { monitorEventLoopDelay } from 'node:perf_hooks';
import { sameText } from '../core/notices';
import { arrivalCounts, canWrite, db, deliveryCounts } from './db';
import { writeMetrics } from './openMetrics';
import { databaseDamage } from './watch/troubles';
import { laneStates } from './work/worker';

/** A lane that is at work for longer than this does not come to its end. */
const STUCK_MS = 30 * 60_000;
const delay = monitorEventLoopDelay({ resolution: 20 });
delay.enable();

export interface Health {
	readonly ok: boolean;
	readonly database: 'writable' | 'not writable' | 'damaged';
	readonly lanes: readonly { readonly name: string; readonly working: boolean; readonly idleSeconds: number }[];
}

/** Whether it is up: the database takes a write, and no lane of the worker hangs. */
export async function isHealthy(): Promise<Health> {
	const writable = await canWrite();
	const database = databaseDamage().length ? 'damaged' : writable ? 'writable' : 'not writable';
	const lanes = laneStates();
	return {
		ok: database === 'writable' && lanes.every((one) => !one.isWorking || one.idleMs < STUCK_MS),
		database,
		lanes: lanes.map(({ name, isWorking, idleMs }) => ({
			name,
			working: isWorking,
			idleSeconds: Math.round(idleMs / 1_000)
		}))
	};
}

/** Whether a request carries the token of the installation. Without one nobody reads metrics. */
export function mayReadMetrics(header: string | null): boolean {
	const token = process.env.JUSTPURSE_METRICS_TOKEN ?? '';
	return token.length >= 16 && header !== null && sameText(header, `Bearer ${token}`);
}

/** What the installation does now, without any secret and without anybody's name. */
export async function metrics(): Promise<string> {
	const [counts, deliveries, open, outbox] = await Promise.all([
		arrivalCounts(),
		deliveryCounts(),
		db.alerts.count({ closedAt: null }),
		db.outbox.count({ state: 'waiting' })
	]);
	const lanes = laneStates();
	return writeMetrics([
		{
			name: 'justpurse_arrivals',
			type: 'gauge',
			help: 'Notifications of processors by state.',
			samples: [...counts].map(([state, count]) => [{ state }, count])
		},
		{
			name: 'justpurse_hook_deliveries_waiting',
			type: 'gauge',
			help: 'Events that wait to be told, by endpoint.',
			samples: deliveries.map((one) => [{ endpoint: String(one.endpointId) }, one.waiting])
		},
		{ name: 'justpurse_alerts_open', type: 'gauge', help: 'What needs somebody.', samples: [[{}, open]] },
		{
			name: 'justpurse_messages_waiting',
			type: 'gauge',
			help: 'Messages that wait to be sent.',
			samples: [[{}, outbox]]
		},
		{
			name: 'justpurse_lane_idle_seconds',
			type: 'gauge',
			unit: 'seconds',
			help: 'Time since a lane of the worker came to its end.',
			samples: lanes.map((one) => [{ lane: one.name }, Math.round(one.idleMs) / 1_000])
		},
		{
			name: 'justpurse_lane_failures',
			type: 'counter',
			help: 'Rounds of a lane that went wrong.',
			samples: lanes.map((one) => [{ lane: one.name }, one.failures])
		},
		{
			name: 'justpurse_event_loop_delay_seconds',
			type: 'gauge',
			unit: 'seconds',
			help: 'The 99th of a hundred waits of the process for its turn.',
			samples: [[{}, Math.round(delay.percentile(99) / 1_000) / 1_000_000]]
		},
		{
			name: 'justpurse_memory_bytes',
			type: 'gauge',
			unit: 'bytes',
			help: 'Memory of the process.',
			samples: [[{}, process.memoryUsage.rss()]]
		}
	]);
}
