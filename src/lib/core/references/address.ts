import { hmac } from '@noble/hashes/hmac.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { utf8ToBytes } from '@noble/hashes/utils.js';
import { z } from 'zod';
import { AmountError, plainAmount, readPlainAmount, isCurrency, type Amount } from '../money';
import { holdsCardNumber } from '../cards';
import { sameText, toBase64Url } from '../notices/bytes';

/** What a till's address tells: what is owed, and for whom. All texts are decoded. */
export interface Ask {
	readonly till: string;
	readonly amount: Amount;
	/** the order or invoice, 1 to 40 characters */
	readonly reference: string;
	readonly name: string;
	readonly mail: string;
	/** ISO 3166-1 alpha-2, or empty when not known */
	readonly country: string;
	/** what is paid for, in the payer's words; may be empty */
	readonly purpose: string;
	/** kind of goods, and of delivery, as conditions of offers name them; left out where not told */
	readonly goods?: string;
	readonly delivery?: string;
	/** the web domain on which the order was made */
	readonly domain?: string;
	readonly recurring?: boolean;
	/** an order made through the interface, not on a page */
	readonly ordered?: 'interface';
}

/** The fields of the address, in the order in which they are signed. */
export const ASK_FIELDS = ['amount', 'currency', 'reference', 'name', 'mail', 'country', 'purpose'] as const;
/** Fields that only some orders have; they are signed where they are given, so that older addresses stay good. */
export const MORE_FIELDS = ['goods', 'delivery', 'domain', 'recurring', 'ordered'] as const;
type Field = (typeof ASK_FIELDS)[number];
type More = (typeof MORE_FIELDS)[number];
export type AskValues = Record<Field, string> & Partial<Record<More, string>>;

/** One thing that is wrong with an address. */
export interface AddressProblem {
	readonly field: Field | More | 'sign' | 'address';
	readonly says: string;
}

const LIMITS: Record<Field, number> = {
	amount: 20,
	currency: 3,
	reference: 40,
	name: 100,
	mail: 200,
	country: 2,
	purpose: 120
};
const Mail = z.email();

/** The signed text: every field on its own line with its length, so that no text can pass for two fields. */
const signedText = (till: string, values: AskValues): string =>
	['till', ...ASK_FIELDS, ...MORE_FIELDS.filter((field) => values[field])]
		.map((field) => {
			const value = field === 'till' ? till : values[field as Field];
			return `${field}:${utf8ToBytes(value).length}:${value}`;
		})
		.join('\n');

/** Signs the fields of an address with a till's key. HMAC-SHA-256 (RFC 2104), base64url without padding. */
export const signAddress = (till: string, values: AskValues, key: Uint8Array): string =>
	toBase64Url(hmac(sha256, key, utf8ToBytes(signedText(till, values))));

/** The fields of an address that tell an ask. */
export const valuesOf = (ask: Ask): AskValues => ({
	amount: plainAmount(ask.amount),
	currency: ask.amount.currency,
	reference: ask.reference,
	name: ask.name,
	mail: ask.mail,
	country: ask.country,
	purpose: ask.purpose,
	goods: ask.goods,
	delivery: ask.delivery,
	domain: ask.domain,
	recurring: ask.recurring ? 'yes' : undefined,
	ordered: ask.ordered
});

/** The query of a till's address, percent-encoded as UTF-8, with its signature. */
export function addressQuery(ask: Ask, key: Uint8Array): string {
	const values = valuesOf(ask);
	const parts = [...ASK_FIELDS, ...MORE_FIELDS]
		.filter((field) => values[field])
		.map((field) => `${field}=${encodeURIComponent(values[field]!)}`);
	return `${parts.join('&')}&sign=${signAddress(ask.till, values, key)}`;
}

/**
 * The query of an order's address that tells nothing of the payer: the order's number here, signed with the till's key.
 * @param order the order's number
 */
export const orderQuery = (till: string, order: number, key: Uint8Array): string =>
	`order=${order}.${toBase64Url(hmac(sha256, key, utf8ToBytes(`order\n${till}\n${order}`)))}`;

/** The order that such a query names, where it is signed with one of the keys. */
export function readOrderQuery(till: string, query: string, keys: readonly Uint8Array[]): number | undefined {
	const [, number, sign] = /(?:^|&)order=(\d{1,15})\.([A-Za-z0-9_-]{43})(?=&|$)/.exec(query) ?? [];
	if (!number || !sign) return undefined;
	const order = Number(number);
	const right = keys.some((key) => sameText(`order=${number}.${sign}`, orderQuery(till, order, key)));
	return right ? order : undefined;
}

/** Decodes one part of a query strictly: UTF-8 only, `+` is a space, no broken escapes. */
function decodePart(part: string): string | undefined {
	try {
		return decodeURIComponent(part.replace(/\+/g, ' '));
	} catch {
		return undefined;
	}
}

/**
 * Reads and checks a till's address.
 * @param query the raw query, without the question mark
 * @param keys the till's signing keys, the newest first
 * @returns the ask, or everything that is wrong with the address
 */
export function readAddress(
	till: string,
	query: string,
	keys: readonly Uint8Array[]
): { readonly ask: Ask; readonly sign: string } | { readonly problems: AddressProblem[] } {
	const values = Object.fromEntries(ASK_FIELDS.map((field) => [field, ''])) as AskValues;
	let sign = '';
	const seen = new Set<string>();
	for (const pair of query.split('&').filter(Boolean)) {
		const at = pair.indexOf('=');
		const name = decodePart(at < 0 ? pair : pair.slice(0, at));
		const value = decodePart(at < 0 ? '' : pair.slice(at + 1));
		if (name === undefined || value === undefined || value.includes('\ufffd'))
			return { problems: [{ field: 'address', says: 'The address is damaged: a part of it is not valid text.' }] };
		if (name !== 'sign' && ![...ASK_FIELDS, ...MORE_FIELDS].some((field) => field === name)) continue;
		if (seen.has(name)) return { problems: [{ field: 'address', says: `The address says “${name}” twice.` }] };
		seen.add(name);
		if (name === 'sign') sign = value;
		else values[name as Field] = value;
	}
	if (!sign) return { problems: [{ field: 'sign', says: 'The address is not signed.' }] };
	const right = keys.some((key) => sameText(sign, signAddress(till, values, key)));
	if (!right)
		return { problems: [{ field: 'sign', says: 'The address was changed after it was made, or was cut short.' }] };
	const { problems, ask } = checkAsk(till, values);
	return ask ? { ask, sign } : { problems };
}

/** Whether a text can be shown on one line and kept anywhere: no control character, no half of a surrogate pair. */
export const isPlainText = (text: string): boolean => !/\p{Cc}/u.test(text) && text.isWellFormed();

/** Checks the fields of an ask, as typed into the address builder or carried by a signed address. */
export function checkAsk(till: string, values: AskValues): { ask?: Ask; problems: AddressProblem[] } {
	const problems: AddressProblem[] = [];
	for (const field of ASK_FIELDS)
		if ([...values[field]].length > LIMITS[field])
			problems.push({ field, says: `The ${field} is longer than ${LIMITS[field]} characters.` });
		else if (!isPlainText(values[field]))
			problems.push({ field, says: `The ${field} holds a sign that cannot be shown.` });
		else if (holdsCardNumber(values[field]))
			problems.push({ field, says: `The ${field} holds what looks like a card number, which is kept nowhere.` });
	let amount: Amount | undefined;
	if (!isCurrency(values.currency))
		problems.push({ field: 'currency', says: `“${values.currency}” is not a currency code.` });
	else
		try {
			amount = readPlainAmount(values.amount, values.currency);
		} catch (error) {
			if (!(error instanceof AmountError)) throw error;
			problems.push({ field: 'amount', says: error.message });
		}
	if (!values.reference.trim()) problems.push({ field: 'reference', says: 'The reference is missing.' });
	if (values.mail && !Mail.safeParse(values.mail).success)
		problems.push({ field: 'mail', says: `“${values.mail}” is not a mail address.` });
	if (values.country && !/^[A-Z]{2}$/.test(values.country))
		problems.push({ field: 'country', says: 'The country is a code of two capital letters, such as BE.' });
	for (const field of MORE_FIELDS)
		if ([...(values[field] ?? '')].length > 120)
			problems.push({ field, says: `The ${field} is longer than 120 characters.` });
		else if (!isPlainText(values[field] ?? ''))
			problems.push({ field, says: `The ${field} holds a sign that cannot be shown.` });
	if (values.recurring && values.recurring !== 'yes')
		problems.push({ field: 'recurring', says: 'Recurring is “yes”, or left out.' });
	if (values.ordered && values.ordered !== 'interface')
		problems.push({ field: 'ordered', says: 'Ordered is “interface”, or left out.' });
	if (problems.length || !amount) return { problems };
	const { reference, name, mail, country, purpose, goods, delivery, domain } = values;
	return {
		problems,
		ask: {
			till,
			amount,
			reference: reference.trim(),
			name,
			mail,
			country,
			purpose,
			...(goods ? { goods } : {}),
			...(delivery ? { delivery } : {}),
			...(domain ? { domain } : {}),
			...(values.recurring ? { recurring: true } : {}),
			...(values.ordered ? { ordered: 'interface' as const } : {})
		}
	};
}
