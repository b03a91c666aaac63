/** Ways to pay that processors carry. */
export const ONLINE_METHODS = [
	'card',
	'device-wallet',
	'bank-redirect',
	'account-wallet',
	'bank-debit',
	'credit-transfer',
	'pay-later',
	'bank-app'
] as const;

/** Ways to pay that no processor carries. A credit transfer to the business's own account is one, too. */
export const OFFLINE_METHODS = [
	'credit-transfer',
	'cash',
	'cheque',
	'on-delivery',
	'on-account',
	'money-order',
	'card-elsewhere',
	'own'
] as const;
export type OfflineMethod = (typeof OFFLINE_METHODS)[number];

export const METHODS = [...ONLINE_METHODS, ...OFFLINE_METHODS.slice(1)] as [Method, ...Method[]];
export type Method = (typeof ONLINE_METHODS)[number] | OfflineMethod;
export const isMethod = (text: string): text is Method => (METHODS as string[]).includes(text);

const NAMES: Readonly<Record<Method, string>> = {
	card: 'Card',
	'device-wallet': 'Device wallet',
	'bank-redirect': 'Bank redirect',
	'account-wallet': 'Account wallet',
	'bank-debit': 'Bank debit',
	'credit-transfer': 'Credit transfer',
	'pay-later': 'Pay later',
	'bank-app': 'Bank app',
	cash: 'Cash',
	cheque: 'Cheque',
	'on-delivery': 'On delivery',
	'on-account': 'On account',
	'money-order': 'Money order',
	'card-elsewhere': 'Card taken elsewhere',
	own: 'Own method'
};
/** The same for payers whose language is another. */
const NAMES_IN: Readonly<Record<'nl' | 'fr' | 'de', Readonly<Record<Method, string>>>> = {
	nl: {
		card: 'Kaart',
		'device-wallet': 'Portemonnee op uw toestel',
		'bank-redirect': 'Via uw bank',
		'account-wallet': 'Tegoed bij een betaaldienst',
		'bank-debit': 'Domiciliëring',
		'credit-transfer': 'Overschrijving',
		'pay-later': 'Later betalen',
		'bank-app': 'Bankapp',
		cash: 'Contant',
		cheque: 'Cheque',
		'on-delivery': 'Bij levering',
		'on-account': 'Op rekening',
		'money-order': 'Postwissel',
		'card-elsewhere': 'Kaart, elders gegeven',
		own: 'Andere manier'
	},
	fr: {
		card: 'Carte',
		'device-wallet': 'Portefeuille de l’appareil',
		'bank-redirect': 'Par votre banque',
		'account-wallet': 'Solde auprès d’un service de paiement',
		'bank-debit': 'Domiciliation',
		'credit-transfer': 'Virement',
		'pay-later': 'Paiement différé',
		'bank-app': 'Application bancaire',
		cash: 'Espèces',
		cheque: 'Chèque',
		'on-delivery': 'À la livraison',
		'on-account': 'Sur compte',
		'money-order': 'Mandat postal',
		'card-elsewhere': 'Carte, donnée ailleurs',
		own: 'Autre façon'
	},
	de: {
		card: 'Karte',
		'device-wallet': 'Geldbörse auf Ihrem Gerät',
		'bank-redirect': 'Über Ihre Bank',
		'account-wallet': 'Guthaben bei einem Zahlungsdienst',
		'bank-debit': 'Lastschrift',
		'credit-transfer': 'Überweisung',
		'pay-later': 'Später zahlen',
		'bank-app': 'Bank-App',
		cash: 'Bar',
		cheque: 'Scheck',
		'on-delivery': 'Bei Lieferung',
		'on-account': 'Auf Rechnung',
		'money-order': 'Postanweisung',
		'card-elsewhere': 'Karte, anderswo gegeben',
		own: 'Andere Art'
	}
};
/** A method as a payer of a language calls it. */
export const methodNameIn = (method: string, language: string): string =>
	isMethod(method) && Object.hasOwn(NAMES_IN, language)
		? NAMES_IN[language as keyof typeof NAMES_IN][method]
		: methodName(method);
/** A method in the trade's words. */
export const methodName = (method: string): string => (isMethod(method) ? NAMES[method] : method);

/** Methods that have a card behind them: their payments are of a card type. */
export const hasCard = (method: string): boolean => method === 'card' || method === 'device-wallet';
