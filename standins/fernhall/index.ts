import { Hono } from 'hono';
import { join } from 'node:path';
import { cardFields } from '../shared/cardFields.ts';
import { setShift, timeNow } from '../shared/clock.ts';
import { serve, type RunningStandin, type StandinOptions } from '../shared/serve.ts';
import { api } from './api.ts';
import { changeAccount, console_, setFaults } from './console.ts';
import { night, remember, settle, type Remembered } from './money.ts';
import { Notifier } from './notify.ts';
import { faultsOf, openState, randomText, type Mode } from './state.ts';

/**
 * Starts Fernhall: its interface for shops (`/v1`), its card fields (`/fields`), its console (`/console`), and `/control`,
 * which does for tests what a hand does at the console.
 */
export async function startFernhall({ port, folder, haste = 1, hosts }: StandinOptions): Promise<RunningStandin> {
	const state = openState(join(folder, 'fernhall.journal'));
	const notifier = new Notifier(state, haste);
	const app = new Hono();
	app.get('/', (c) => c.redirect('/console'));
	app.get('/ready', (c) => c.json({ standin: 'fernhall' }));
	app.route('/v1', api(state, notifier, hosts) as unknown as Hono);
	const keyOf = (given: string) => {
		const key = state.get('keys', given);
		return key?.kind === 'public' && !key.revoked ? key : undefined;
	};
	app.route(
		'/fields',
		cardFields({
			name: 'Fernhall',
			schemes: ['corvid', 'mainsail', 'tessel', 'gildern'],
			opens: (key) => !!keyOf(key),
			isDown: () => faultsOf(state).down,
			keep: (key, card, outcome, by) => {
				const token = `FHK-${randomText(24)}`;
				const { account, mode } = keyOf(key)!;
				state.put('tokens', token, { token, account, mode, card, outcome, used: false, by });
				return token;
			},
			wallet: { name: 'Tapfold', number: '9901200000000007' }
		})
	);
	app.route('/console', console_(state, notifier));

	const control = new Hono();
	control.get('/keys', (c) => c.json(state.all('keys')));
	control.get('/faults', (c) => c.json(faultsOf(state)));
	control.get('/payments', (c) => c.json(state.all('payments')));
	control.get('/deliveries', (c) => c.json(state.all('deliveries')));
	control.get('/domains', (c) => c.json(state.all('domains')));
	control.post('/account', async (c) => c.json(changeAccount(state, notifier, await c.req.json())));
	control.get('/listeners', (c) => c.json(state.all('listeners')));
	control.post('/faults', async (c) => {
		setFaults(state, notifier, await c.req.json());
		return c.json(faultsOf(state));
	});
	control.post('/night', async (c) => {
		const { mode, step } = await c.req.json<{ mode: Mode; step: 'settle' | 'pay out' }>();
		return c.json({ moved: settle(state, notifier, 'FH-20417', mode, step, () => true) });
	});
	control.post('/clock', async (c) => {
		const { shift } = await c.req.json<{ shift: number }>();
		setShift(shift);
		night(state, notifier);
		notifier.wake(0);
		return c.json({ now: new Date(timeNow()).toISOString() });
	});
	control.post('/remember', async (c) => {
		const { account, payments } = await c.req.json<{ account: string; payments: Remembered[] }>();
		return c.json({ remembered: remember(state, account, payments) });
	});
	control.post('/again/:id', (c) => {
		notifier.again(c.req.param('id'));
		return c.json({ again: c.req.param('id') });
	});
	app.route('/control', control);

	const nights = setInterval(() => night(state, notifier), 60_000);
	night(state, notifier);
	notifier.wake(500);
	return serve('Fernhall', app, port, () => {
		clearInterval(nights);
		notifier.stop();
	});
}
