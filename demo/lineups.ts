/** A route by name, as line-up files tell it. */
const by = (name: string, standby?: string) => ({
	first: { kind: 'connection', name },
	...(standby ? { standby: { kind: 'connection', name: standby } } : {})
});
const own = (name: string) => ({ first: { kind: 'offline', name } });
const all = (codes: string, route: object) => Object.fromEntries(codes.split(' ').map((code) => [code, route]));

type Offer = Record<string, unknown>;
const from = (currency: string, minimum: number, maximum?: number) => ({
	currency,
	minimum,
	...(maximum === undefined ? {} : { maximum })
});

const CARD_FERNHALL: Offer = {
	method: 'card',
	name: 'Card',
	note: 'We pack tomorrow.',
	noteAfter: 'Your strings leave us tomorrow.',
	texts: {
		nl: { name: 'Kaart', note: 'We pakken morgen in.', noteAfter: 'Uw snaren vertrekken morgen.' },
		fr: { name: 'Carte', note: 'Nous emballons demain.', noteAfter: 'Vos cordes partent demain.' },
		de: { name: 'Karte', note: 'Wir packen morgen.', noteAfter: 'Ihre Saiten gehen morgen ab.' }
	},
	routes: all('EUR GBP USD JPY', by('Fernhall'))
};
const CARD_STANDBY: Offer = {
	...CARD_FERNHALL,
	storing: true,
	routes: {
		...all('EUR GBP USD', by('Fernhall', 'Tallybridge')),
		JPY: by('Fernhall', 'Tallybridge')
	},
	cardTypes: { fundings: ['debit', 'credit', 'prepaid'] }
};
const TRANSFER: Offer = {
	method: 'credit-transfer',
	name: 'Credit transfer',
	note: 'We hold the order for ten days.',
	texts: {
		nl: { name: 'Overschrijving', note: 'We houden de bestelling tien dagen bij.' },
		fr: { name: 'Virement', note: 'Nous gardons la commande dix jours.' },
		de: { name: 'Überweisung', note: 'Wir halten die Bestellung zehn Tage zurück.' }
	},
	routes: { EUR: own('Credit transfer') },
	conditions: { amounts: [from('EUR', 2_000)] }
};
const WALLET: Offer = {
	method: 'account-wallet',
	name: 'Tallybridge balance',
	routes: all('EUR GBP USD', by('Tallybridge'))
};
const REDIRECT: Offer = {
	method: 'bank-redirect',
	name: 'Online banking',
	routes: { EUR: by('Brackwater Acquiring') }
};
const LATER: Offer = {
	method: 'pay-later',
	name: 'In four monthly parts',
	note: 'Sundial Split pays us now; you pay them.',
	routes: { EUR: by('Sundial Split') },
	conditions: { amounts: [from('EUR', 4_800, 125_000)], countries: { rule: 'only', values: ['BE', 'NL'] } }
};
const APP: Offer = {
	method: 'bank-app',
	name: 'Bank app',
	routes: { EUR: by('Ostrel') }
};
const TAPFOLD: Offer = {
	method: 'device-wallet',
	name: 'Tapfold',
	routes: all('EUR GBP USD', by('Fernhall'))
};
const PRESENT: Offer = {
	method: 'card',
	name: 'Card',
	routes: all('EUR GBP', by('Brackwater Acquiring'))
};
const CASH: Offer = { method: 'cash', name: 'Cash', routes: { EUR: own('Cash') } };

/** One published line-up in a till's history. */
export interface Version {
	/** days before the day of the demo */
	readonly daysAgo: number;
	readonly reason: string;
	readonly offers: readonly Offer[];
}
export interface DemoTill {
	readonly name: string;
	readonly kind: string;
	readonly currencies: readonly string[];
	readonly colour: string;
	readonly more?: Readonly<Record<string, string | string[]>>;
	readonly versions: readonly Version[];
}

/** The six tills of the made-up business, each with the line-ups that it had over eighteen months. */
export const TILLS: readonly DemoTill[] = [
	{
		name: 'Web shop',
		kind: 'web checkout',
		currencies: ['EUR', 'GBP', 'USD', 'CHF', 'JPY'],
		colour: '#2f4b3c',
		more: {
			domain: 'shop.wrenalder.example',
			delivers: 'on',
			asksAddress: 'must',
			landing: 'https://shop.wrenalder.example/thanks',
			languages: ['en', 'nl', 'fr', 'de']
		},
		versions: [
			{
				daysAgo: 560,
				reason: 'First line-up',
				offers: [CARD_FERNHALL, TRANSFER, { ...WALLET, routes: all('EUR GBP USD CHF JPY', by('Tallybridge')) }]
			},
			{
				daysAgo: 402,
				reason: 'Pay later, online banking and the bank app',
				offers: [
					CARD_FERNHALL,
					TAPFOLD,
					{ ...WALLET, routes: all('EUR GBP USD CHF JPY', by('Tallybridge')) },
					REDIRECT,
					LATER,
					APP,
					TRANSFER
				]
			},
			{
				daysAgo: 61,
				reason: 'A standby for cards; small sums in CHF cost us more than they bring',
				offers: [
					CARD_STANDBY,
					TAPFOLD,
					{
						...WALLET,
						routes: all('EUR GBP USD CHF JPY', by('Tallybridge')),
						conditions: { amounts: [from('CHF', 2_000), from('EUR', 100)] }
					},
					REDIRECT,
					LATER,
					APP,
					TRANSFER
				]
			}
		]
	},
	{
		name: 'Counter',
		kind: 'counter',
		currencies: ['EUR'],
		colour: '#5a3a2a',
		versions: [
			{ daysAgo: 560, reason: 'First line-up', offers: [PRESENT, CASH] },
			{ daysAgo: 300, reason: 'The bank app at the counter', offers: [PRESENT, APP, CASH] }
		]
	},
	{
		name: 'Lessons',
		kind: 'plan',
		currencies: ['EUR'],
		colour: '#3b3f63',
		more: { fulfil: 'when settled' },
		versions: [
			{
				daysAgo: 560,
				reason: 'Monthly lessons',
				offers: [
					{
						method: 'bank-debit',
						name: 'Bank debit',
						note: 'Collected on the third of each month.',
						storing: true,
						routes: { EUR: by('Quillon Direct') }
					}
				]
			}
		]
	},
	{
		name: 'Bench',
		kind: 'invoice sheet',
		currencies: ['EUR', 'GBP'],
		colour: '#2d4a5e',
		versions: [
			{
				daysAgo: 560,
				reason: 'Repairs',
				offers: [
					{ ...PRESENT, storing: true, routes: all('EUR GBP', by('Brackwater Acquiring')) },
					REDIRECT,
					{
						method: 'credit-transfer',
						name: 'Credit transfer, matched',
						note: 'Matched by itself, within a day.',
						routes: { EUR: by('Quillon Direct') }
					}
				]
			},
			{
				daysAgo: 120,
				reason: 'Cash for small repairs',
				offers: [
					{ ...PRESENT, storing: true, routes: all('EUR GBP', by('Brackwater Acquiring')) },
					REDIRECT,
					{
						method: 'credit-transfer',
						name: 'Credit transfer, matched',
						note: 'Matched by itself, within a day.',
						routes: { EUR: by('Quillon Direct') }
					},
					{ ...CASH, conditions: { amounts: [{ currency: 'EUR', maximum: 10_000 }] } }
				]
			}
		]
	},
	{
		name: 'School accounts',
		kind: 'invoice sheet',
		currencies: ['EUR', 'GBP'],
		colour: '#5b2b4a',
		versions: [
			{
				daysAgo: 560,
				reason: 'On account for schools',
				offers: [
					{
						method: 'on-account',
						name: 'On account, 30 days',
						note: 'For schools that order with us.',
						routes: all('EUR GBP', own('On account')),
						conditions: { amounts: [from('EUR', 25_000)], groups: { rule: 'only', values: ['Schools'] } }
					},
					{
						method: 'credit-transfer',
						name: 'Credit transfer',
						note: 'Matched by itself.',
						routes: all('EUR GBP', by('Quillon Direct'))
					}
				]
			}
		]
	},
	{
		name: 'Autumn fair',
		kind: 'pay link',
		currencies: ['EUR'],
		colour: '#5a3a2a',
		more: { domain: 'pay.wrenalder.example' },
		versions: [
			{
				daysAgo: 560,
				reason: 'For the fair',
				offers: [CARD_FERNHALL, { ...TAPFOLD, routes: { EUR: by('Fernhall') } }, APP]
			}
		]
	}
];
