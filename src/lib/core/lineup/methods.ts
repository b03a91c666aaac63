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
/** A method in the trade's words. */
export const methodName = (method: string): string => (isMethod(method) ? NAMES[method] : method);

/** Methods that have a card behind them: their payments are of a card type. */
export const hasCard = (method: string): boolean => method === 'card' || method === 'device-wallet';
