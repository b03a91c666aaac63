import catalogue from './schemes.json';

/**
 * Whether digits pass the Luhn check.
 * @source ISO/IEC 7812-1, annex B
 */
export function isLuhnValid(digits: string): boolean {
	if (!/^\d+$/.test(digits)) return false;
	let sum = 0;
	for (let i = 0; i < digits.length; i++) {
		let digit = Number(digits[digits.length - 1 - i]);
		if (i % 2 === 1) digit = digit > 4 ? digit * 2 - 9 : digit * 2;
		sum += digit;
	}
	return sum % 10 === 0;
}

/** Card numbers have so many digits. @source ISO/IEC 7812-1 */
const [SHORTEST, LONGEST] = [13, 19];
/** So many signs may stand between two digits of one number. */
const FARTHEST = 3;
const SCHEMES = catalogue.flatMap(({ leading }) =>
	(leading as [string, string][]).map(([from, to]) => ({ length: from.length, from: Number(from), to: Number(to) }))
);

/** A digit in any script's wide, small or raised form, as a digit; undefined for everything else. */
function digitOf(sign: string): number | undefined {
	if (sign >= '0' && sign <= '9') return sign.charCodeAt(0) - 48;
	if (sign < '\u00b2') return undefined;
	const plain = sign.normalize('NFKC');
	return plain.length === 1 && plain >= '0' && plain <= '9' ? plain.charCodeAt(0) - 48 : undefined;
}
const isWord = (sign: string): boolean => /[\p{L}\p{N}]/u.test(sign);

/** Digits that may belong together, with the places of each in the text. */
interface Run {
	readonly digits: number[];
	readonly from: number[];
	readonly to: number[];
}

/** Runs of digits that only separators part: spaces of every kind, dots, slashes, dashes, and the like. */
function runsOf(text: string): Run[] {
	const runs: Run[] = [];
	let run: Run | undefined;
	let apart = 0;
	let at = 0;
	for (const sign of text) {
		const digit = digitOf(sign);
		if (digit !== undefined) {
			run ??= { digits: [], from: [], to: [] };
			run.digits.push(digit);
			run.from.push(at);
			run.to.push(at + sign.length);
			apart = 0;
		} else if (run) {
			if (isWord(sign) || ++apart > FARTHEST) {
				if (run.digits.length >= SHORTEST) runs.push(run);
				[run, apart] = [undefined, 0];
			}
		}
		at += sign.length;
	}
	if (run && run.digits.length >= SHORTEST) runs.push(run);
	return runs;
}

/** Whether digits from a place on begin as cards of a known scheme do. */
function isLeading(digits: readonly number[], at: number): boolean {
	for (const { length, from, to } of SCHEMES) {
		let head = 0;
		for (let n = at; n < at + length; n++) head = head * 10 + (digits[n] ?? 0);
		if (at + length <= digits.length && head >= from && head <= to) return true;
	}
	return false;
}

/** Which digits of a run belong to what looks like a card number: any window that begins like a card and passes Luhn. */
function cardDigits({ digits }: Run): boolean[] {
	const many = digits.length;
	// sums of the digits before each place, doubled where the place is odd, and where it is even: a window is one difference
	const sums = [new Int32Array(many + 1), new Int32Array(many + 1)] as const;
	for (let at = 0; at < many; at++)
		for (const parity of [0, 1] as const) {
			const digit = digits[at]!;
			const counted = at % 2 === parity ? digit : digit > 4 ? digit * 2 - 9 : digit * 2;
			sums[parity][at + 1] = sums[parity][at]! + counted;
		}
	const isLuhn = (from: number, to: number) => {
		const sum = sums[((to - 1) % 2) as 0 | 1];
		return (sum[to]! - sum[from]!) % 10 === 0;
	};
	const belongs = new Array<boolean>(many).fill(false);
	for (let from = 0; from + SHORTEST <= many; from++) {
		if (!isLeading(digits, from)) continue;
		let furthest = from;
		for (let to = from + SHORTEST; to <= Math.min(many, from + LONGEST); to++) if (isLuhn(from, to)) furthest = to;
		belongs.fill(true, from, furthest);
	}
	return belongs;
}

/** So many digits of plain text, parted at most by separators, that a card number may be among them. */
const MAYBE = new RegExp(`\\d(?:[^0-9A-Za-z]{0,${FARTHEST}}\\d){${SHORTEST - 1}}`);
const PLAIN = /^\p{ASCII}*$/u;
/** Whether a look at the text as a whole shows that no card number can be in it. */
const isPlainOfNumbers = (text: string): boolean => PLAIN.test(text) && !MAYBE.test(text);

/**
 * Masks whatever looks like a full card number, with whatever stands before, after or between its digits: 13 to 19 of them,
 * Luhn valid, beginning as a known scheme's cards do. Only the last four digits stay.
 */
export function maskCardNumbers(text: string): string {
	if (isPlainOfNumbers(text)) return text;
	let masked = '';
	let done = 0;
	for (const run of runsOf(text)) {
		const belongs = cardDigits(run);
		for (let at = 0; at < belongs.length; at++) {
			if (!belongs[at]) continue;
			let end = at;
			while (end + 1 < belongs.length && belongs[end + 1]) end++;
			masked += `${text.slice(done, run.from[at])}•••• ${run.digits.slice(end - 3, end + 1).join('')}`;
			done = run.to[end]!;
			at = end;
		}
	}
	return done ? masked + text.slice(done) : text;
}

/** Whether a text holds what looks like a full card number. */
export const holdsCardNumber = (text: string): boolean => maskCardNumbers(text) !== text;

/** A JSON string, or a number outside of one. */
const TOKEN = /"(?:[^"\\]|\\.)*"|\d{13,19}/g;
/**
 * The same within the texts of a JSON document, which stays one; a number that looks like a card becomes a text. A text is
 * taken as it reads, not as it is escaped.
 */
export function maskInJson(json: string): string {
	if (!json.includes('\\') && isPlainOfNumbers(json)) return json;
	return json.replace(TOKEN, (token) => {
		if (!token.startsWith('"')) {
			const masked = maskCardNumbers(token);
			return masked === token ? token : `"${masked}"`;
		}
		const text = token.includes('\\') ? readText(token) : undefined;
		if (text === undefined) return maskCardNumbers(token);
		const masked = maskCardNumbers(text);
		return masked === text ? token : JSON.stringify(masked);
	});
}

/** What a JSON string says; undefined where it is none. */
function readText(token: string): string | undefined {
	try {
		return JSON.parse(token) as string;
	} catch {
		return undefined;
	}
}
