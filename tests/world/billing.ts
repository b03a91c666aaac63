import { rows } from './database.ts';
import type { ActionAnswer, Desk } from './desk.ts';
import { until } from './index.ts';
import { shopDay } from './shopTime.ts';

export interface InvoiceState {
	readonly id: number;
	readonly kind: string;
	readonly number: string;
	readonly token: string;
	readonly state: string;
	readonly total: number;
	readonly net: number;
	readonly tax: number;
	readonly placed: number;
	readonly credited: number;
	readonly promised: number;
	readonly open: number;
	readonly nextDue: string;
	readonly revision: number;
	readonly creditorReference: string;
	readonly madeId: number | null;
}
export interface MailCame {
	readonly id: string;
	readonly messageId: string;
	readonly to: string;
	readonly subject: string;
	readonly text: string;
}
export type TypedLine = {
	readonly text: string;
	readonly quantity?: string;
	readonly price: string;
	readonly unit?: string;
	readonly category?: string;
	readonly rate?: number;
	readonly item?: string;
	readonly discount?: object;
};
export interface InvoiceAsked {
	readonly kind?: 'invoice' | 'quote';
	readonly currency?: string;
	readonly till?: string;
	readonly until?: string;
	readonly content?: object;
}

/**
 * What an administrator does in Bill, with the mail server set up: by the very acts of its pages.
 * @param read looks into the database; whoever writes hundreds of invoices gives a connection that stays open
 */
export async function billing(
	desk: Desk,
	read: <Row>(sql: string, parameters?: unknown[]) => Promise<Row[]> = (sql, parameters) =>
		rows(desk.world, sql, parameters)
) {
	const { world } = desk;
	const smtp = await world.at<{ port: number; user: string; password: string }>('mailbox', 'smtp');
	const saved = await desk.act('/bill/settings?/sending', {
		host: '127.0.0.1',
		port: String(smtp.port),
		security: 'none',
		user: smtp.user,
		password: smtp.password,
		fromName: 'Wren & Alder Strings',
		fromMail: 'bills@wrenalder.example',
		textAddress: `${world.addressOf('texts')}/messages`,
		textFrom: 'Wren Alder',
		key: 'tx-quarter-horse'
	});
	if (saved.type !== 'success') throw new Error(`the mail server was not set up: ${JSON.stringify(saved)}`);
	const must = (answer: ActionAnswer, what: string): ActionAnswer => {
		if (answer.type !== 'redirect' && answer.type !== 'success') throw new Error(`${what}: ${JSON.stringify(answer)}`);
		return answer;
	};
	const row = async (id: number): Promise<InvoiceState> =>
		(
			await read<InvoiceState>(
				`SELECT id, kind, number, token, state, total, net, tax, placed, credited, promised, open, next_due AS nextDue, revision,
				 creditor_reference AS creditorReference, made_id AS madeId FROM invoices WHERE id = ?`,
				[id]
			)
		)[0]!;
	const tillId = async (slug: string) =>
		(await read<{ id: string }>('SELECT id FROM tills WHERE slug = ?', [slug]))[0]!.id;
	const act = (id: number, name: string, form: Record<string, string> = {}) =>
		desk.act(`/bill/invoices/${id}?/${name}`, form);
	return {
		year: Number(shopDay().slice(0, 4)),
		row,
		act,
		/** adds a thing to the price list. @returns its id */
		async item(form: Record<string, string>): Promise<string> {
			must(await desk.act('/bill/prices/new', { pricing: 'with tax', ...form }), 'a thing');
			return (await read<{ id: string }>('SELECT id FROM price_items WHERE code = ?', [form.code!]))[0]!.id;
		},
		/** adds a payer. @returns their id */
		async payer(form: Record<string, string | string[]>): Promise<string> {
			const made = must(await desk.act('/bill/payers/new?/save', { channel: 'mail', ...form }), 'a payer');
			return /payers\/([^?]+)/.exec(made.location!)![1]!;
		},
		/** writes a draft. @returns its number here */
		async invoice(payerId: string, lines: readonly TypedLine[], asked: InvoiceAsked = {}): Promise<number> {
			const made = must(
				await desk.act('/bill/invoices?/new', { kind: asked.kind ?? 'invoice', payer: payerId }),
				'a draft'
			);
			const id = Number(/invoices\/(\d+)/.exec(made.location!)![1]);
			const { content } = (await read<{ content: string }>('SELECT content FROM invoices WHERE id = ?', [id]))[0]!;
			must(
				await desk.act(`/bill/invoices/${id}?/save`, {
					draft: JSON.stringify({
						revision: 0,
						payerId,
						tillId: await tillId(asked.till ?? 'web-shop'),
						currency: asked.currency ?? 'EUR',
						until: asked.until ?? (asked.kind === 'quote' ? '2099-12-31' : ''),
						content: {
							...JSON.parse(content),
							lines: lines.map((line) => ({ quantity: '1', unit: '', category: 'standard', rate: 210_000, ...line })),
							...asked.content
						}
					})
				}),
				'the draft'
			);
			return id;
		},
		/** the mail that came to somebody, the newest whose subject fits */
		mail: (to: string, subject: RegExp): Promise<MailCame> =>
			until(`a mail ${String(subject)} to ${to}`, async () =>
				(await world.at<MailCame[]>('mailbox', `mails?to=${encodeURIComponent(to)}`)).findLast((one) =>
					subject.test(one.subject)
				)
			),
		mails: (to = '') => world.at<MailCame[]>('mailbox', `mails${to ? `?to=${encodeURIComponent(to)}` : ''}`),
		async proof(): Promise<{ agrees: boolean }> {
			const { agrees } = (await (await desk.get('/bill/proof')).json()) as { agrees: boolean };
			return { agrees };
		}
	};
}
export type Billing = Awaited<ReturnType<typeof billing>>;
