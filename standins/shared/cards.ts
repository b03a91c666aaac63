/** A card that Fernhall knows the outcome of. The table is shown on its console. */
export interface TestCard {
	readonly number: string;
	readonly scheme: string;
	readonly funding: string;
	readonly issuedIn: string;
	readonly outcome: 'approved' | 'declined: not enough money' | 'declined: reported lost' | 'declined: expired';
}

const checkDigit = (head: string): string => {
	let sum = 0;
	[...head].reverse().forEach((sign, at) => {
		let digit = Number(sign);
		if (at % 2 === 0) digit = digit * 2 > 9 ? digit * 2 - 9 : digit * 2;
		sum += digit;
	});
	return String((10 - (sum % 10)) % 10);
};
const numbered = (head: string, length: number) => {
	const body = head.padEnd(length - 1, '0');
	return body + checkDigit(body);
};

const card = (
	head: string,
	scheme: string,
	funding: string,
	issuedIn: string,
	outcome: TestCard['outcome'] = 'approved',
	length = 16
): TestCard => ({ number: numbered(head, length), scheme, funding, issuedIn, outcome });

export const TEST_CARDS: readonly TestCard[] = [
	card('9901100', 'corvid', 'debit', 'BE'),
	card('9901200', 'corvid', 'credit', 'BE'),
	card('9901300', 'corvid', 'credit', 'NL'),
	card('9901400', 'corvid', 'credit', 'JP'),
	card('9901500', 'corvid', 'commercial', 'BE'),
	card('9901600', 'corvid', 'prepaid', 'FR'),
	card('9931100', 'mainsail', 'debit', 'BE'),
	card('9931200', 'mainsail', 'credit', 'DE'),
	card('9931300', 'mainsail', 'credit', 'US'),
	card('9931500', 'mainsail', 'commercial', 'GB'),
	card('9961100', 'tessel', 'debit', 'BE'),
	card('9981100', 'gildern', 'credit', 'CH', 'approved', 18),
	card('9901901', 'corvid', 'credit', 'BE', 'declined: not enough money'),
	card('9931902', 'mainsail', 'debit', 'BE', 'declined: reported lost'),
	card('9901903', 'corvid', 'debit', 'BE', 'declined: expired')
];

export const isLuhn = (digits: string): boolean =>
	/^\d{12,19}$/.test(digits) && checkDigit(digits.slice(0, -1)) === digits.at(-1);

export const SCHEMES: Record<string, { name: string; from: string; to: string; digits: number }> = {
	corvid: { name: 'Corvid', from: '9900', to: '9929', digits: 16 },
	mainsail: { name: 'Mainsail', from: '9930', to: '9959', digits: 16 },
	tessel: { name: 'Tessel', from: '9960', to: '9979', digits: 16 },
	gildern: { name: 'Gildern', from: '9980', to: '9999', digits: 18 }
};

export function schemeOf(digits: string): string {
	const head = digits.slice(0, 4);
	for (const [id, { from, to }] of Object.entries(SCHEMES)) if (head >= from && head <= to) return id;
	return '';
}
