import { Hono } from 'hono';
import { html } from 'hono/html';
import type { HtmlEscapedString } from 'hono/utils/html';
import type { Engine, Payment } from './engine.ts';
import { shown } from './sums.ts';
import { actOn, cut } from './wire.ts';

type Piece = HtmlEscapedString | Promise<HtmlEscapedString>;

export interface DoorLook {
	readonly css: string;
	/** what the payer reads above the buttons */
	says(payment: Payment): Piece;
	readonly approve: string;
	readonly refuse: string;
	/** more boxes that the payer fills in */
	boxes?(payment: Payment): Piece;
	/** what is wrong with them */
	check?(payment: Payment, given: Record<string, string>): string | undefined;
	/** the payer's account, as they typed it */
	payerAccount?(given: Record<string, string>): { bank: string; lastFour: string };
}

/** The pages on which a payer acts at a house's own origin, and from which they return to the shop. */
export function doors(engine: Engine, look: (payment: Payment) => DoorLook): Hono {
	const app = new Hono();
	const find = (door: string) => engine.state.all('payments').find((one) => one.door === door);

	const page = (payment: Payment, wrong = '') => {
		const { css, says, approve, refuse, boxes } = look(payment);
		return html`<!doctype html>
			<html lang="en">
				<head>
					<meta charset="utf-8" />
					<meta name="viewport" content="width=device-width" />
					<title>${engine.house.name}</title>
					<style>
						${css}
					</style>
				</head>
				<body>
					<main>
						<h1>${engine.house.name}</h1>
						${payment.mode === 'test' ? html`<p><i>Trial run: no money moves.</i></p>` : ''}
						<p class="sum">${shown(payment.minor, payment.currency)}</p>
						<p>to ${engine.account(payment.account).name}${payment.descriptor ? html`, ${payment.descriptor}` : ''}</p>
						${
							payment.state === 'waiting'
								? html`${says(payment)}${wrong ? html`<p role="alert"><b>${wrong}</b></p>` : ''}
										<form method="post">
											${boxes ? boxes(payment) : ''}
											<button name="act" value="approve">${approve}</button>
											<button name="act" value="refuse" class="no" formnovalidate>${refuse}</button>
										</form>`
								: html`<p>This was answered already: ${payment.state}.</p>
										${payment.returnTo ? html`<p><a href="${payment.returnTo}">Back to the shop</a></p>` : ''}`
						}
					</main>
				</body>
			</html>`;
	};

	app.get('/:door', (c) => {
		if (engine.faults.down) return cut(c);
		const payment = find(c.req.param('door'));
		return payment ? c.html(page(payment)) : c.text('There is nothing here.', 404);
	});
	app.post('/:door', async (c) => {
		const payment = find(c.req.param('door'));
		if (!payment) return c.text('There is nothing here.', 404);
		const given = (await c.req.parseBody()) as Record<string, string>;
		if (given.act === 'approve') {
			const wrong = look(payment).check?.(payment, given);
			if (wrong) return c.html(page(payment, wrong), 422);
		}
		actOn(engine, payment.id, given.act === 'approve' ? 'approve' : 'refuse', {
			payerAccount: look(payment).payerAccount?.(given)
		});
		return payment.returnTo ? c.redirect(payment.returnTo, 303) : c.html(page(engine.payment(payment.id)));
	});
	return app;
}
