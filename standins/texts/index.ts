import { Hono } from 'hono';
import { html, raw } from 'hono/html';
import { join } from 'node:path';
import { timeNow } from '../shared/clock.ts';
import { Journal } from '../shared/journal.ts';
import type { Manifest } from '../shared/manifest.ts';
import { serve, type RunningStandin, type StandinOptions } from '../shared/serve.ts';

interface KeptText {
	readonly id: string;
	readonly to: string;
	readonly from: string;
	readonly text: string;
	readonly at: number;
}
interface Faults {
	/** answers that it cannot just now */
	busy?: boolean;
	/** numbers that do not exist */
	refuses?: string[];
}
export const TEXT_KEY = 'tx-quarter-horse';

/** A gateway for text messages, and pages on which one reads what came to whose phone. */
export async function startTexts({ port, folder }: StandinOptions): Promise<RunningStandin> {
	const state = new Journal<{ texts: KeptText; keys: { id: string } }>(join(folder, 'texts.journal'));
	let faults: Faults = {};
	const app = new Hono();
	app.get('/ready', (c) => c.json({ standin: 'texts' }));
	app.get('/control/texts', (c) => c.json(state.all('texts')));
	app.post('/control/faults', async (c) => {
		faults = (await c.req.json()) as Faults;
		return c.json(faults);
	});
	app.post('/messages', async (c) => {
		if (c.req.header('authorization') !== `Bearer ${TEXT_KEY}`) return c.text('no such key', 401);
		if (faults.busy) return c.text('too busy', 503);
		const key = c.req.header('idempotency-key') ?? '';
		const before = key ? state.get('keys', key) : undefined;
		if (before) return c.json(before);
		const { to = '', from = '', text = '' } = (await c.req.json()) as Record<string, string>;
		if (!/^\+?[\d ()/.-]{5,30}$/.test(to) || faults.refuses?.includes(to)) return c.text(`no phone ${to}`, 422);
		const id = String(state.all('texts').length + 1);
		state.put('texts', id, { id, to, from, text, at: timeNow() });
		if (key) state.put('keys', key, { id });
		return c.json({ id }, 201);
	});
	app.get('/', (c) =>
		c.html(
			html`<!doctype html>
				<html lang="en">
					<head>
						<meta charset="utf-8" />
						<meta name="viewport" content="width=device-width" />
						<title>Texts</title>
						<style>
							body {
								font: 16px/1.5 sans-serif;
								max-width: 460px;
								margin: 30px auto;
								background: #eef1ea;
							}
							p {
								background: #fff;
								border-radius: 12px;
								padding: 10px 14px;
							}
						</style>
					</head>
					<body>
						<h1>Texts</h1>
						${state
							.all('texts')
							.reverse()
							.slice(0, 100)
							.map(
								(one) =>
									html`<p>
										<b>${one.to}</b>, from ${one.from}<br />${raw(
											one.text
												.replace(/&/g, '&amp;')
												.replace(/</g, '&lt;')
												.replace(/https?:\/\/[^\s<]+/g, (address) => `<a href="${address}">${address}</a>`)
										)}
									</p>`
							)}
					</body>
				</html>`
		)
	);
	return serve('Texts', app, port, () => state.close());
}

export const manifest: Manifest = { name: 'texts', port: 5249, start: startTexts };
