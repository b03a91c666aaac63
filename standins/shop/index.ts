import { Hono } from 'hono';
import { html, raw } from 'hono/html';
import { join } from 'node:path';
import { Journal } from '../shared/journal.ts';
import type { Manifest } from '../shared/manifest.ts';
import { serve, type RunningStandin, type StandinOptions } from '../shared/serve.ts';

/** The business's own web shop, as somebody else runs it: one page of goods, and a place where its owner pastes page code. */
export async function startShop({ port, folder }: StandinOptions): Promise<RunningStandin> {
	const state = new Journal<{ pages: { code: string }; stock: { heard: number; broken: boolean } }>(
		join(folder, 'shop.journal')
	);
	const stockOf = () => state.get('stock', 'program') ?? { heard: 0, broken: false };
	const codeOf = () => state.get('pages', 'front')?.code ?? '';
	const app = new Hono();
	app.get('/ready', (c) => c.json({ standin: 'shop' }));
	app.get('/', (c) =>
		c.html(
			html`<!doctype html>
				<html lang="en">
					<head>
						<meta charset="utf-8" />
						<title>Strings and rosin</title>
						<style>
							body {
								font:
									17px/1.6 Georgia,
									serif;
								max-width: 640px;
								margin: 40px auto;
								color: #2f4b3c;
							}
						</style>
					</head>
					<body>
						<h1>Wren &amp; Alder, strings and rosin</h1>
						<p>Viola strings, one set: 84.50 EUR</p>
						<p>Amber rosin: 12.00 EUR</p>
						<p>Oblong case: 310.00 EUR</p>
						${raw(codeOf())}
						<hr />
						<p><a href="/edit">The owner’s entrance</a></p>
					</body>
				</html>`
		)
	);
	app.get('/edit', (c) =>
		c.html(
			html`<!doctype html>
				<html lang="en">
					<head>
						<meta charset="utf-8" />
						<title>Page code</title>
					</head>
					<body>
						<h1>Page code of the front page</h1>
						<form method="post">
							<textarea name="code" rows="6" cols="80" aria-label="Page code">${codeOf()}</textarea><br /><button>
								Put it on the page
							</button>
						</form>
					</body>
				</html>`
		)
	);
	app.post('/edit', async (c) => {
		const { code = '' } = (await c.req.parseBody()) as Record<string, string>;
		state.put('pages', 'front', { code });
		return c.redirect('/');
	});
	// its stock program is told of what was paid; it can be broken and mended
	app.post('/stock', async (c) => {
		await c.req.text();
		const { heard, broken } = stockOf();
		if (broken) return c.text('The stock program is being moved', 503);
		state.put('stock', 'program', { heard: heard + 1, broken });
		return c.body(null, 204);
	});
	app.post('/stock/broken', async (c) => {
		const { broken } = await c.req.json<{ broken: boolean }>();
		return c.json(state.put('stock', 'program', { ...stockOf(), broken }));
	});
	app.get('/stock', (c) => c.json(stockOf()));
	return serve('Shop', app, port, () => state.close());
}

export const manifest: Manifest = { name: 'shop', port: 5247, start: startShop };
