/** Letters become 10 to 35, as ISO 7064 mod 97-10 asks. */
const asDigits = (text: string) => text.replace(/[A-Z]/g, (letter) => String(letter.charCodeAt(0) - 55));

/** @source ISO 7064, MOD 97-10 */
export const mod97 = (text: string): number => Number(BigInt(asDigits(text)) % 97n);

/** A part of a reference that ISO 11649 takes: capitals and digits only, the last 21 of them. */
export const referencePart = (text: string): string =>
	text
		.normalize('NFKD')
		.toUpperCase()
		.replace(/[^A-Z0-9]/g, '')
		.slice(-21);

/**
 * A structured creditor reference.
 * @param part 1 to 21 letters or digits
 * @throws RangeError when nothing usable is left, or it is too long
 * @source ISO 11649
 * @example creditorReference('WAS202600417') // 'RF02WAS202600417'
 */
export function creditorReference(part: string): string {
	const text = part.toUpperCase();
	if (!/^[A-Z0-9]{1,21}$/.test(text))
		throw new RangeError('A creditor reference takes 1 to 21 letters and digits after its check digits');
	const check = 98 - mod97(`${text}RF00`);
	return `RF${String(check).padStart(2, '0')}${text}`;
}

/** Whether a reference has the form and the check digits of ISO 11649. Spaces are ignored. */
export function isCreditorReference(reference: string): boolean {
	const text = reference.replace(/\s/g, '').toUpperCase();
	// 00, 01 and 99 are congruent to digits that the standard gives, and are never given themselves
	const check = Number(text.slice(2, 4));
	return (
		/^RF\d{2}[A-Z0-9]{1,21}$/.test(text) && check >= 2 && check <= 98 && mod97(text.slice(4) + text.slice(0, 4)) === 1
	);
}

/** In groups of four, as people read it aloud. */
export const inFours = (text: string): string => text.replace(/\s/g, '').replace(/(.{4})(?=.)/g, '$1 ');

/**
 * The creditor reference of a payment: of its order's own reference, made unique by the order's number. The last sign says how
 * many digits that number has: without it, order 11 called `INV-1` and order 1 called `INV-11` would have the same.
 * @source ISO 11649
 */
export const referenceFor = (reference: string, orderId: number): string => {
	const number = String(orderId);
	const own = number + number.length.toString(36).toUpperCase();
	return creditorReference(referencePart(reference).slice(0, 21 - own.length) + own);
};
/**
 * A right creditor reference within a text, with or without spaces. One that ends where a word ends counts before one that
 * is only the beginning of what is written together; of those the longest.
 */
export function referenceIn(text: string): string {
	const plain = text.toUpperCase();
	for (const { index } of plain.matchAll(/RF\d{2}/g)) {
		const run = /^[A-Z0-9 ]*/.exec(plain.slice(index))![0].slice(0, 60);
		const ends = [...run].flatMap((sign, at) => (sign === ' ' ? [] : [at + 1]));
		const isWordEnd = (end: number) => run[end] === undefined || run[end] === ' ';
		for (const end of [...ends.filter(isWordEnd).reverse(), ...ends.filter((one) => !isWordEnd(one)).reverse()]) {
			const glued = run.slice(0, end).replaceAll(' ', '');
			if (glued.length <= 25 && glued.length >= 5 && isCreditorReference(glued)) return glued;
		}
	}
	return '';
}
