// Messages with fill-ins: `{{invoice.total}}` becomes the sum. A template is refused, with the place, where a fill-in does
// not exist, or where one that the event needs is missing.

export const MESSAGE_EVENTS = [
	'quote',
	'invoice',
	'reminder',
	'offline chosen',
	'bank debit',
	'debit announced',
	'debit called off',
	'receipt',
	'refund',
	'reference set',
	'method stored',
	'card ends',
	'sign-in code',
	'told paid'
] as const;
export type MessageEvent = (typeof MESSAGE_EVENTS)[number];
export const CHANNELS = ['mail', 'text', 'page'] as const;
export type Channel = (typeof CHANNELS)[number];

/** Every fill-in there is, with what it says in an example and where it can be used. */
export const FILL_INS = {
	'payer.name': 'Bram Peeters',
	'payer.company': 'Atheneum Koningin Astrid',
	'business.name': 'Wren & Alder Strings',
	'business.mail': 'hello@wrenalder.example',
	'business.phone': '+32 9 555 01 70',
	'invoice.number': 'INV-2026-0042',
	'invoice.total': '640.05 EUR',
	'invoice.open': '448.03 EUR',
	'invoice.due': '448.03 EUR',
	'invoice.due_day': '30/11/2026',
	'invoice.purpose': 'Double bass, setup and 1 more',
	'invoice.link': 'https://pay.example/invoice/…',
	'quote.number': 'Q-2026-0007',
	'quote.total': '385.00 EUR',
	'quote.until': '30/11/2026',
	'quote.link': 'https://pay.example/invoice/…',
	'owed.total': '1,088.08 EUR',
	'owed.link': 'https://pay.example/owed/…',
	'payment.amount': '192.02 EUR',
	'payment.method': 'Credit transfer',
	'payment.day': '29/11/2026',
	'payment.reference': 'INV-2026-0042',
	'payment.link': 'https://pay.example/paid/…',
	'refund.amount': '30.00 EUR',
	'order.reference': 'INV-2026-0042',
	'order.outside': 'SHOP-991',
	'method.instructions': 'Transfer 448.03 EUR to BE68 …',
	'method.name': 'Credit transfer',
	'method.until': '31/12/2026',
	'method.terms': 'You choose it when you pay next; nothing is taken without you.',
	'debit.amount': '448.03 EUR',
	'debit.day': '04/12/2026',
	'debit.mandate': 'QDM-2026-0117',
	'debit.creditor': 'Quillon Direct for Wren & Alder Strings',
	'debit.account': 'Meerbank ···· 7034',
	'sign_in.code': '418 206'
} as const;
export type FillIn = keyof typeof FILL_INS;

const ALWAYS: readonly FillIn[] = ['payer.name', 'payer.company', 'business.name', 'business.mail', 'business.phone'];
const INVOICE: readonly FillIn[] = [
	'invoice.number',
	'invoice.total',
	'invoice.open',
	'invoice.due',
	'invoice.due_day',
	'invoice.purpose',
	'invoice.link',
	'owed.total',
	'owed.link'
];
const PAYMENT: readonly FillIn[] = [
	'payment.amount',
	'payment.method',
	'payment.day',
	'payment.reference',
	'payment.link',
	'order.reference',
	'order.outside'
];
const DEBIT: readonly FillIn[] = ['debit.amount', 'debit.day', 'debit.mandate', 'debit.creditor', 'debit.account'];
/** What an event can tell, and of what it must tell one at least. */
export const EVENT_FILL_INS: Readonly<
	Record<MessageEvent, { readonly can: readonly FillIn[]; readonly needs: readonly (readonly FillIn[])[] }>
> = {
	quote: {
		can: [...ALWAYS, 'quote.number', 'quote.total', 'quote.until', 'quote.link', 'invoice.purpose'],
		needs: [['quote.link']]
	},
	invoice: { can: [...ALWAYS, ...INVOICE], needs: [['invoice.link', 'owed.link']] },
	reminder: { can: [...ALWAYS, ...INVOICE], needs: [['invoice.link', 'owed.link']] },
	'offline chosen': {
		can: [...ALWAYS, ...PAYMENT, 'method.instructions', 'method.name'],
		needs: [['method.instructions', 'payment.link']]
	},
	'bank debit': {
		can: [...ALWAYS, ...PAYMENT, 'debit.day', 'debit.mandate', 'debit.creditor', 'debit.account'],
		needs: [['payment.amount'], ['debit.day']]
	},
	'debit announced': {
		can: [...ALWAYS, ...INVOICE, ...DEBIT],
		needs: [['debit.amount'], ['debit.day']]
	},
	'debit called off': { can: [...ALWAYS, ...INVOICE, ...DEBIT], needs: [['debit.day']] },
	receipt: { can: [...ALWAYS, ...PAYMENT], needs: [['payment.amount']] },
	refund: { can: [...ALWAYS, ...PAYMENT, 'refund.amount'], needs: [['refund.amount']] },
	'reference set': { can: [...ALWAYS, ...PAYMENT], needs: [['order.outside']] },
	'method stored': { can: [...ALWAYS, 'method.name', 'method.terms', 'owed.link'], needs: [] },
	'card ends': { can: [...ALWAYS, 'method.name', 'method.until', 'owed.link'], needs: [['method.name']] },
	'sign-in code': { can: [...ALWAYS, 'sign_in.code'], needs: [['sign_in.code']] },
	'told paid': { can: [...ALWAYS, ...PAYMENT, 'invoice.number', 'invoice.open'], needs: [['payment.amount']] }
};

/** One thing that is wrong with a template, and where. */
export interface TemplateProblem {
	/** line and column, from 1; none where something is missing */
	readonly at?: { readonly line: number; readonly column: number };
	readonly says: string;
}
const MARK = /\{\{\s*([^{}]*?)\s*\}\}/g;
const place = (text: string, index: number) => {
	const before = text.slice(0, index).split('\n');
	return { line: before.length, column: before.at(-1)!.length + 1 };
};

/**
 * What is wrong with a template: a fill-in that does not exist or that this event cannot tell, braces that do not close, or
 * a fill-in that is missing.
 */
export function checkTemplate(event: MessageEvent, subject: string, body: string, channel: Channel): TemplateProblem[] {
	const { can, needs } = EVENT_FILL_INS[event];
	const problems: TemplateProblem[] = [];
	const used = new Set<string>();
	for (const [name, text] of [
		['subject', subject],
		['text', body]
	] as const) {
		for (const match of text.matchAll(MARK)) {
			const fillIn = match[1]!;
			used.add(fillIn);
			if ((can as readonly string[]).includes(fillIn)) continue;
			const near = nearest(fillIn, can);
			problems.push({
				at: place(text, match.index),
				says:
					fillIn in FILL_INS
						? `{{${fillIn}}} in the ${name} is not known when this message is sent.`
						: `There is no fill-in {{${fillIn}}}${near ? `; did you mean {{${near}}}?` : '.'}`
			});
		}
		const left = text.replace(MARK, (whole) => ' '.repeat(whole.length));
		const loose = /\{\{|\}\}/.exec(left);
		if (loose) problems.push({ at: place(text, loose.index), says: `Braces in the ${name} are not closed.` });
	}
	if (channel === 'mail' && !subject.trim()) problems.push({ says: 'A mail needs a subject.' });
	if (!body.trim()) problems.push({ says: 'The message is empty.' });
	for (const wanted of needs)
		if (!wanted.some((one) => used.has(one)))
			problems.push({ says: `This message needs ${wanted.map((one) => `{{${one}}}`).join(' or ')}.` });
	return problems;
}

/** The fill-in that is written most alike, where one differs by a few letters only. */
function nearest(text: string, among: readonly string[]): string | undefined {
	const distance = (a: string, b: string): number => {
		let row = Array.from({ length: b.length + 1 }, (_, at) => at);
		for (let i = 1; i <= a.length; i++) {
			const next = [i];
			for (let j = 1; j <= b.length; j++)
				next[j] = Math.min(next[j - 1]! + 1, row[j]! + 1, row[j - 1]! + Number(a[i - 1] !== b[j - 1]));
			row = next;
		}
		return row[b.length]!;
	};
	const [best] = among.map((one) => ({ one, far: distance(text, one) })).sort((a, b) => a.far - b.far);
	return best && best.far <= 4 ? best.one : undefined;
}

/** Fills a template in. What is not known becomes nothing; lines that hold nothing but such a fill-in go. */
export function fillIn(text: string, values: Readonly<Partial<Record<FillIn, string>>>): string {
	return text
		.split('\n')
		.flatMap((line) => {
			const marks = [...line.matchAll(MARK)];
			const filled = line.replace(MARK, (_, name: string) => values[name as FillIn] ?? '');
			const isBare = marks.length > 0 && line.replace(MARK, '').trim() === '' && filled.trim() === '';
			return isBare ? [] : [filled];
		})
		.join('\n')
		.trim();
}

/** Languages that payers are written to in. */
export const OPEN_LANGUAGES = ['en', 'nl', 'fr', 'de'] as const;
export type OpenLanguage = (typeof OPEN_LANGUAGES)[number];
export const openLanguage = (text: string): OpenLanguage | undefined =>
	OPEN_LANGUAGES.find((one) => one === text.slice(0, 2).toLowerCase());
