/** What stands on a payer's page, in the languages that a till can speak. `{}` is filled in. */
const WORDS = {
	en: {
		order: 'Order {}',
		for: 'For {}',
		other: 'Or another way',
		choose: 'Choose',
		chooseWay: 'Choose {}',
		payCard: 'Pay by card',
		payWith: 'Pay with {}',
		pay: 'Pay {}',
		transfer: 'Show me how to transfer {}',
		wait: 'One moment…',
		fields: 'These boxes belong to {}; the shop never sees the number.',
		statement: 'Your statement will say {}.',
		script: 'Card fields need JavaScript. The other ways work without it.',
		nothing: 'There is no way to pay {} here just now.',
		told: 'The shop has been told. Please ask them how you may pay; order {} is not lost.',
		at: '{} at {}, and come back here.',
		address: 'Delivery address',
		phone: 'Phone',
		note: 'A note to the shop',
		may: 'if you like',
		'bank-redirect': 'You approve the payment on your bank’s page',
		'account-wallet': 'You sign in to your wallet',
		'bank-debit': 'You sign a mandate for this debit',
		'pay-later': 'You agree to the monthly parts',
		'bank-app': 'You approve the payment in your bank’s app',
		'credit-transfer': 'You see where to transfer to',
		goOn: 'You go on'
	},
	nl: {
		order: 'Bestelling {}',
		for: 'Voor {}',
		other: 'Of op een andere manier',
		choose: 'Kies',
		chooseWay: 'Kies {}',
		payCard: 'Betaal met kaart',
		payWith: 'Betaal met {}',
		pay: 'Betaal {}',
		transfer: 'Toon me hoe ik {} overschrijf',
		wait: 'Een ogenblik…',
		fields: 'Deze velden zijn van {}; de winkel ziet het nummer nooit.',
		statement: 'Op uw afschrift staat {}.',
		script: 'Kaartvelden hebben JavaScript nodig. De andere manieren werken zonder.',
		nothing: 'Er is nu geen manier om hier {} te betalen.',
		told: 'De winkel weet ervan. Vraag hen hoe u kunt betalen; bestelling {} gaat niet verloren.',
		at: '{} bij {}, en komt hier terug.',
		address: 'Leveringsadres',
		phone: 'Telefoon',
		note: 'Een bericht voor de winkel',
		may: 'als u wilt',
		'bank-redirect': 'U keurt de betaling goed op de pagina van uw bank',
		'account-wallet': 'U meldt zich aan bij uw portemonnee',
		'bank-debit': 'U tekent een mandaat voor deze domiciliëring',
		'pay-later': 'U gaat akkoord met de maandelijkse delen',
		'bank-app': 'U keurt de betaling goed in de app van uw bank',
		'credit-transfer': 'U ziet waarheen u overschrijft',
		goOn: 'U gaat verder'
	},
	fr: {
		order: 'Commande {}',
		for: 'Pour {}',
		other: 'Ou d’une autre façon',
		choose: 'Choisir',
		chooseWay: 'Choisir {}',
		payCard: 'Payer par carte',
		payWith: 'Payer avec {}',
		pay: 'Payer {}',
		transfer: 'Montrez-moi comment virer {}',
		wait: 'Un instant…',
		fields: 'Ces champs appartiennent à {} ; la boutique ne voit jamais le numéro.',
		statement: 'Votre relevé indiquera {}.',
		script: 'Les champs de carte exigent JavaScript. Les autres façons s’en passent.',
		nothing: 'Il n’y a pour l’instant aucun moyen de payer {} ici.',
		told: 'La boutique est prévenue. Demandez-lui comment payer ; la commande {} n’est pas perdue.',
		at: '{} chez {}, puis vous revenez ici.',
		address: 'Adresse de livraison',
		phone: 'Téléphone',
		note: 'Un mot à la boutique',
		may: 'si vous voulez',
		'bank-redirect': 'Vous approuvez le paiement sur la page de votre banque',
		'account-wallet': 'Vous ouvrez votre portefeuille',
		'bank-debit': 'Vous signez un mandat pour ce prélèvement',
		'pay-later': 'Vous acceptez les mensualités',
		'bank-app': 'Vous approuvez le paiement dans l’application de votre banque',
		'credit-transfer': 'Vous voyez où virer',
		goOn: 'Vous continuez'
	},
	de: {
		order: 'Bestellung {}',
		for: 'Für {}',
		other: 'Oder auf anderem Weg',
		choose: 'Wählen',
		chooseWay: '{} wählen',
		payCard: 'Mit Karte zahlen',
		payWith: 'Mit {} zahlen',
		pay: '{} zahlen',
		transfer: 'Zeigen, wie ich {} überweise',
		wait: 'Einen Moment…',
		fields: 'Diese Felder gehören {}; der Laden sieht die Nummer nie.',
		statement: 'Auf Ihrem Auszug steht {}.',
		script: 'Kartenfelder brauchen JavaScript. Die anderen Wege gehen ohne.',
		nothing: 'Gerade gibt es hier keinen Weg, {} zu zahlen.',
		told: 'Der Laden weiß davon. Fragen Sie dort, wie Sie zahlen können; Bestellung {} geht nicht verloren.',
		at: '{} bei {} und kommen hierher zurück.',
		address: 'Lieferadresse',
		phone: 'Telefon',
		note: 'Eine Nachricht an den Laden',
		may: 'wenn Sie mögen',
		'bank-redirect': 'Sie bestätigen die Zahlung auf der Seite Ihrer Bank',
		'account-wallet': 'Sie melden sich in Ihrer Geldbörse an',
		'bank-debit': 'Sie unterschreiben ein Mandat für diese Lastschrift',
		'pay-later': 'Sie stimmen den Monatsraten zu',
		'bank-app': 'Sie bestätigen die Zahlung in der App Ihrer Bank',
		'credit-transfer': 'Sie sehen, wohin zu überweisen ist',
		goOn: 'Sie gehen weiter'
	}
} as const;

export type Language = keyof typeof WORDS;
export type PayerWord = keyof (typeof WORDS)['en'];

/** A phrase of the payer's page in a language, with its gaps filled in order. */
export function payerWord(language: Language, word: PayerWord, ...fill: string[]): string {
	let at = 0;
	return WORDS[language][word].replace(/\{\}/g, () => fill[at++] ?? '');
}
export const hasPayerWord = (word: string): word is PayerWord => Object.hasOwn(WORDS.en, word);

/** The language of a page: the first that the browser asks for among those of the till, else the till's first. */
export function languageFor(asked: string, spoken: readonly Language[]): Language {
	const wanted = asked
		.split(',')
		.map((part) => part.split(';')[0]!.trim().slice(0, 2).toLowerCase())
		.find((code) => (spoken as readonly string[]).includes(code));
	return (wanted as Language | undefined) ?? spoken[0] ?? 'en';
}
