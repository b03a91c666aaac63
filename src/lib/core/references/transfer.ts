import { plainAmount, type Amount } from '../money';

/** What a transfer code says. Exactly one of `reference` (structured) and `text` may be given, or neither. */
export interface Transfer {
	readonly holder: string;
	readonly iban: string;
	readonly bic?: string;
	readonly amount: Amount;
	/** ISO 11649 */
	readonly reference?: string;
	readonly text?: string;
}

export class TransferError extends Error {}

/** Bytes of a text in UTF-8, without a platform API. */
const bytes = (text: string): number => {
	let count = 0;
	for (const char of text) {
		const code = char.codePointAt(0)!;
		count += code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
	}
	return count;
};

/**
 * The content of a transfer QR code (to be drawn with error level M).
 * @throws TransferError when the transfer cannot be told by such a code: not EUR, out of 0.01 to 999999999.99, both a
 *   reference and a text, too long
 * @source EPC069-12, version 002
 */
export function transferCode(transfer: Transfer): string {
	const { holder, iban, bic = '', amount, reference = '', text = '' } = transfer;
	if (amount.currency !== 'EUR') throw new TransferError('A transfer code carries EUR only.');
	if (amount.minor < 1 || amount.minor > 99_999_999_999)
		throw new TransferError('A transfer code carries 0.01 to 999999999.99 EUR.');
	if (reference && text) throw new TransferError('A transfer code has a reference or a text, never both.');
	const name = holder.trim();
	if (!name || [...name].length > 70) throw new TransferError('The account holder has 1 to 70 characters.');
	if ([...text].length > 140) throw new TransferError('The text has at most 140 characters.');
	if (/[\r\n]/.test(name + text)) throw new TransferError('Name and text have one line each.');
	const lines = [
		'BCD',
		'002',
		'1',
		'SCT',
		bic,
		name,
		iban.replace(/\s/g, ''),
		`EUR${plainAmount(amount)}`,
		'',
		reference.replace(/\s/g, ''),
		text
	];
	while (lines.at(-1) === '') lines.pop();
	const code = lines.join('\n');
	if (bytes(code) > 331) throw new TransferError('A transfer code holds at most 331 bytes.');
	return code;
}
