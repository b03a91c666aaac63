import { daysBetween, type Day } from '../calendar';

/** A due of an invoice that money can be placed on. */
export interface OpenDue {
	readonly invoice: string;
	/** the number of the invoice, by which equals are ordered */
	readonly number: string;
	readonly day: Day;
	readonly open: number;
}
/** A part of some money that is placed on an invoice. */
export interface Part {
	readonly invoice: string;
	readonly minor: number;
}

/**
 * Places money on the oldest dues first, then by the number of the invoice. Parts never exceed the money, nor what is open.
 * @returns one part an invoice, and what is left: the payer's credit, or unplaced money
 */
export function placeOldestFirst(
	minor: number,
	dues: readonly OpenDue[]
): { readonly parts: readonly Part[]; readonly left: number } {
	const order = [...dues].sort(
		(a, b) => (a.day < b.day ? -1 : a.day > b.day ? 1 : 0) || a.number.localeCompare(b.number)
	);
	const parts = new Map<string, number>();
	let left = minor;
	for (const due of order) {
		const part = Math.min(left, due.open);
		if (part <= 0) continue;
		parts.set(due.invoice, (parts.get(due.invoice) ?? 0) + part);
		left -= part;
	}
	return { parts: [...parts].map(([invoice, sum]) => ({ invoice, minor: sum })), left };
}

/**
 * Takes places back, the latest first, when money goes back: a refund, a return, a lost dispute.
 * @param placed in the order in which they were placed
 * @returns what is taken off each place, by its index, and what no place held
 */
export function takeBackLatest(
	minor: number,
	placed: readonly Part[]
): { readonly taken: readonly { readonly at: number; readonly minor: number }[]; readonly left: number } {
	const taken: { at: number; minor: number }[] = [];
	let left = minor;
	for (let at = placed.length - 1; at >= 0 && left > 0; at--) {
		const part = Math.min(left, placed[at]!.minor);
		if (part <= 0) continue;
		taken.push({ at, minor: part });
		left -= part;
	}
	return { taken, left };
}

/** Money that no invoice claims yet. */
export interface UnplacedMoney {
	readonly currency: string;
	readonly minor: number;
	readonly day: Day;
	/** what the bank or the payer wrote */
	readonly text: string;
	/** a structured reference, its check digits looked at before */
	readonly creditorReference: string;
	readonly payerName: string;
	readonly iban: string;
}
export interface OpenInvoice {
	readonly invoice: string;
	readonly number: string;
	readonly creditorReference: string;
	readonly payer: string;
	readonly payerName: string;
	/** accounts from which the payer paid before */
	readonly ibans: readonly string[];
	readonly currency: string;
	readonly open: number;
	/** the day of its first open due */
	readonly day: Day;
}
export interface Suggestion {
	readonly parts: readonly Part[];
	readonly payer: string;
	readonly score: number;
	/** a reference with right check digits: it may be placed by itself */
	readonly isSure: boolean;
	readonly reasons: readonly string[];
}

const SCORES = { reference: 100, number: 60, exact: 45, several: 50, account: 35, name: 25, near: 10 } as const;
/** Of so many open invoices of one payer every selection is tried; of more only the oldest. */
const TRIED = 12;

const plainText = (text: string): string =>
	text
		.normalize('NFKD')
		.replace(/\p{M}+/gu, '')
		.replace(/[^\p{L}\p{N}]+/gu, ' ')
		.trim()
		.toLowerCase();
/** Whether a number stands in a text, whole or without the letters that it begins with: people write what they remember. */
function standsIn(text: string, number: string): boolean {
	const whole = plainText(number);
	const bare = whole.replace(/^[a-z]+ ?/, '');
	const forms = [whole, ...(bare.replace(/\D/g, '').length >= 5 ? [bare] : [])].filter(Boolean);
	return forms.some((form) => ` ${text} `.includes(` ${form} `));
}
/** Whether a name stands in a text, its words in any order. */
function namesPayer(text: string, name: string): boolean {
	const words = plainText(name)
		.split(' ')
		.filter((word) => word.length > 2);
	const there = new Set(plainText(text).split(' '));
	return words.length > 0 && words.every((word) => there.has(word));
}

/**
 * Whose money it is, the likeliest first, each with its reasons: the creditor reference (sure), the invoice's number in the
 * text, the exact open sum, the sum of several open invoices of one payer, the payer's account or name, nearness of the day.
 */
export function suggestPlaces(money: UnplacedMoney, open: readonly OpenInvoice[], most = 5): Suggestion[] {
	const fitting = open.filter((one) => one.currency === money.currency && one.open > 0);
	const text = plainText(`${money.text} ${money.creditorReference}`);
	const about = (one: OpenInvoice): { score: number; reasons: string[] } => {
		const reasons: string[] = [];
		let score = 0;
		const add = (points: number, says: string) => {
			score += points;
			reasons.push(says);
		};
		if (money.iban && one.ibans.includes(money.iban))
			add(SCORES.account, 'it comes from an account that this payer used before');
		if (namesPayer(money.payerName, one.payerName) || namesPayer(money.text, one.payerName))
			add(SCORES.name, 'the payer’s name');
		const days = Math.abs(daysBetween(one.day, money.day));
		if (days <= SCORES.near)
			add(
				SCORES.near - days,
				days === 0 ? 'on the very day it is due' : `${days} day${days === 1 ? '' : 's'} from its due day`
			);
		return { score, reasons };
	};
	const found: Suggestion[] = [];
	for (const one of fitting) {
		const reasons: string[] = [];
		let score = 0;
		const isSure = !!money.creditorReference && money.creditorReference === one.creditorReference;
		if (isSure) {
			score += SCORES.reference;
			reasons.push('its creditor reference, with right check digits');
		}
		if (standsIn(text, one.number)) {
			score += SCORES.number;
			reasons.push('its number stands in the text');
		}
		if (one.open === money.minor) {
			score += SCORES.exact;
			reasons.push('exactly what is open');
		}
		const rest = about(one);
		score += rest.score;
		reasons.push(...rest.reasons);
		// nearness of the day alone is no reason
		if (!score || (reasons.length === 1 && rest.reasons.length === 1 && /due/.test(rest.reasons[0]!))) continue;
		const minor = Math.min(money.minor, one.open);
		found.push({ parts: [{ invoice: one.invoice, minor }], payer: one.payer, score, isSure, reasons });
	}
	for (const payer of new Set(fitting.map((one) => one.payer))) {
		const mine = fitting
			.filter((one) => one.payer === payer)
			.sort((a, b) => (a.day < b.day ? -1 : a.day > b.day ? 1 : a.number.localeCompare(b.number)))
			.slice(0, TRIED);
		const chosen = mine.length > 1 ? selectionOf(mine, money.minor) : undefined;
		if (!chosen) continue;
		const { score, reasons } = about(chosen[0]!);
		found.push({
			parts: chosen.map((one) => ({ invoice: one.invoice, minor: one.open })),
			payer,
			score: SCORES.several + score,
			isSure: false,
			reasons: [`${chosen.length} open invoices of this payer add up to it`, ...reasons]
		});
	}
	return found.sort((a, b) => b.score - a.score).slice(0, most);
}

/** The first selection of at least two that adds up to a sum, of the oldest before others. */
function selectionOf(list: readonly OpenInvoice[], minor: number): OpenInvoice[] | undefined {
	for (let bits = 3; bits < 1 << list.length; bits++) {
		let sum = 0;
		const chosen = list.filter((one, at) => {
			if (!(bits & (1 << at))) return false;
			sum += one.open;
			return true;
		});
		if (chosen.length > 1 && sum === minor) return chosen;
	}
	return undefined;
}

/** What came for a payment, and what of it went back for good. Minor units. */
export interface MoneyIn {
	/** what was asked, the gratuity within it */
	readonly minor: number;
	readonly gratuity: number;
	readonly taken: number;
	readonly gone: number;
}
/**
 * What of a payment is there for what was asked, and what is left of its gratuity. What comes fills what was asked first;
 * what goes back is taken from it first, and from the gratuity last.
 */
export function partGratuity({ minor, gratuity, taken, gone }: MoneyIn): {
	readonly goods: number;
	readonly gratuity: number;
} {
	const asked = minor - gratuity;
	const given = Math.max(0, Math.min(gratuity, taken - asked));
	const goods = Math.max(0, taken - given - gone);
	return { goods, gratuity: Math.max(0, Math.min(given, taken - gone - goods)) };
}
