// What each operation of the interface does in a sentence or two, and one example of what is sent and answered. A test holds
// every example to the schema beside it.

const LINE_UP = {
	kind: 'line-up',
	format: 1,
	offers: [
		{
			id: 'card',
			on: true,
			method: 'card',
			name: 'Card',
			note: 'We pack tomorrow.',
			noteAfter: '',
			routes: { EUR: { first: { kind: 'connection', name: 'Fernhall' } } },
			cardTypes: { schemes: 'any', fundings: 'any', regions: 'any' },
			capture: 'as the account',
			storing: false,
			place: 'in the page',
			conditions: { amounts: [] }
		}
	]
};
const TILL = {
	till: 'web-shop',
	name: 'Web shop',
	kind: 'web checkout',
	mode: 'live',
	currencies: ['EUR', 'CHF'],
	published: { version: 3, at: '2026-11-20T09:12:00.000Z', by: 'Ilse Verhaeren' },
	draft: null
};
const CHECKOUT = {
	checkout: 42,
	till: 'web-shop',
	reference: 'WA-1042',
	state: 'paid',
	currency: 'EUR',
	amountMinor: 8450,
	paidMinor: 8450,
	name: 'Ana Müller',
	mail: 'ana@payer.example',
	country: 'BE',
	purpose: 'Strings',
	outsideReference: '',
	released: false,
	completed: false,
	metadata: { cart: '77' },
	expiresAt: null,
	createdAt: '2026-11-26T10:00:00.000Z',
	address: null,
	payments: [7]
};
const PAYMENT = {
	payment: 7,
	checkout: 42,
	till: 'web-shop',
	reference: 'WA-1042',
	mode: 'live',
	stage: 'captured',
	method: 'card',
	through: 'Fernhall',
	processorId: 'fp_1',
	currency: 'EUR',
	amountMinor: 8450,
	capturedMinor: 8450,
	refundedMinor: 0,
	disputedMinor: 0,
	refundableMinor: 8450,
	feeCurrency: 'EUR',
	expectedFeeMinor: 132,
	chargedFeeMinor: 132,
	failure: '',
	card: { scheme: 'corvid', funding: 'debit', issuerCountry: 'BE', last4: '0007' },
	creditorReference: '',
	transfer: null,
	acts: [{ act: 'refund', can: true, why: '' }],
	createdAt: '2026-11-26T10:00:05.000Z',
	capturedAt: '2026-11-26T10:00:06.000Z'
};
const CARD = {
	settlement: 'EUR',
	rounding: 'total',
	mode: 'half-up',
	areas: [['BE', 'NL']],
	lines: [{ when: { method: 'card' }, percentage: 13500, fixed: 18 }],
	monthly: { fee: 0, minimum: 0 },
	conversion: 0,
	intermediary: 0,
	refund: { keeps: 'all', fee: 0 },
	dispute: { fee: 1500, returnedWhenWon: true },
	declined: 0,
	payout: 0
};
const RATE_CARD = {
	connection: 'c1',
	name: 'Fernhall',
	processor: 'fernhall',
	mode: 'live',
	contract: { validFrom: '2026-01-01', card: CARD },
	proposal: null
};
const INVOICE = {
	invoice: '42',
	number: 'INV-2026-0042',
	state: 'sent',
	payer: 'U-IqWAyYbP861jJ2E_LL3w',
	payerName: 'Bram Peeters',
	till: 'bench',
	currency: 'EUR',
	day: '2026-11-29',
	pricing: 'with tax',
	lines: [{ text: 'Bow, rehaired', quantity: '1', unit: '', price: '68.00', tax: 'reduced', ratePpm: 60_000 }],
	netMinor: 6_415,
	taxMinor: 385,
	totalMinor: 6_800,
	placedMinor: 0,
	creditedMinor: 0,
	promisedMinor: 0,
	openMinor: 6_800,
	dues: [{ day: '2026-12-13', minor: 6_800, openMinor: 6_800 }],
	creditorReference: 'RF45INV20260042',
	outsideReference: '',
	address: 'https://pay.wrenalder.example/invoice/kLvwt7dTIV6j1u7ElSPvZQ'
};
const PAY_LINK_PUT = {
	title: 'Workshop: your first varnish',
	about: 'A Saturday, ten to four, with lunch.',
	till: 'autumn-fair',
	currency: 'EUR',
	asksFor: 'fixed sum',
	fixedMinor: 9_500,
	cap: 12,
	until: '2026-12-12',
	button: 'book'
} as const;
const PAY_LINK = {
	...PAY_LINK_PUT,
	link: 'k3Jd0s8vQ2u1y7Zt5wXbPA',
	address: 'https://pay.wrenalder.example/link/workshop-your-first-varnish',
	revision: 1,
	free: { leastMinor: 0, mostMinor: 0, suggestedMinor: [] },
	goods: [],
	several: true,
	ways: [],
	fields: [],
	asksName: 'must',
	asksMail: 'must',
	asksPhone: 'no',
	asksAddress: 'no',
	asksTaxNumber: 'no',
	takesCodes: false,
	ownButton: '',
	holdMinutes: 60,
	landing: 'receipt',
	landingText: '',
	landingAddress: '',
	sendsReceipt: true,
	tellsBusiness: false,
	isClosed: false,
	visits: 41,
	starts: 12,
	orders: 10,
	paid: 10,
	left: 2,
	takenMinor: { EUR: 95_000 }
};
const DISCREPANCY = {
	discrepancy: 7,
	connection: 'c1',
	cause: 'another line',
	parameter: 'region international',
	says: 'Charged as international cards',
	state: 'open',
	currency: 'EUR',
	firstDay: '2026-10-20',
	lastDay: '2026-11-28',
	payments: 212,
	charges: 0,
	overMinor: 18_034,
	underMinor: 0,
	correctedMinor: 0,
	leftMinor: 18_034
};
const PAYER = {
	payer: 'p1',
	name: 'Ana Müller',
	mail: 'ana@payer.example',
	country: 'BE',
	online: 'yes',
	groups: ['Schools']
};
const acted = (says: string, more: object = {}) => ({ outcome: 'done', says, payment: { ...PAYMENT, ...more } });

export interface Told {
	readonly description: string;
	readonly sends?: object;
	readonly answers?: object;
}

/** By operation. */
export const TOLD: Readonly<Record<string, Told>> = {
	listTills: {
		description: 'Every till that the token may use, with its published version and its draft.',
		answers: { tills: [TILL] }
	},
	readTill: {
		description: 'One till with its line-ups. The ETag is the revision of the draft: send it back as If-Match.',
		answers: { ...TILL, lineUp: LINE_UP, draftLineUp: null }
	},
	writeDraft: {
		description: 'The draft becomes the line-up that is sent. Payers do not meet it before it is published.',
		sends: { revision: 0, lineUp: LINE_UP },
		answers: { revision: 1, changes: ['Card is new.'] }
	},
	discardDraft: { description: 'The draft is thrown away. What is published stays in force.' },
	publish: {
		description: 'The draft is put in force for payers. Situations in which nothing is offered need a reason.',
		sends: { revision: 1, reason: 'Cards in CHF' },
		answers: { version: 4 }
	},
	answer: {
		description: 'The same function answers here and at the payer’s page: what is offered, and why the rest is not.',
		sends: { currency: 'CHF', amountMinor: 1200, country: 'CH' },
		answers: {
			till: 'web-shop',
			version: 3,
			offered: [],
			withheld: [
				{
					offer: 'card',
					name: 'Card',
					reasons: [{ check: 'route', code: 'no-route', says: 'No route is set for CHF.' }]
				}
			]
		}
	},
	restoreVersion: {
		description: 'An earlier line-up becomes a new version, and payers meet it at once.',
		answers: { version: 5 }
	},
	listCheckouts: {
		description: 'Orders by reference, till or state. Follow `next` to the next page.',
		answers: { checkouts: [CHECKOUT], next: null }
	},
	makeCheckout: {
		description: 'Makes the order and the address at which it is paid. The same order again gives the same checkout.',
		sends: {
			till: 'web-shop',
			currency: 'EUR',
			amountMinor: 8450,
			reference: 'WA-1042',
			name: 'Ana Müller',
			mail: 'ana@payer.example',
			country: 'BE',
			lines: [{ name: 'Violin strings', quantity: 2, amountMinor: 8450 }],
			returnTo: 'https://shop.wrenalder.example/thanks',
			metadata: { cart: '77' }
		},
		answers: { checkout: 42, address: 'https://purse.example/pay/web-shop?order=42.s1gn', offered: 5 }
	},
	readCheckout: {
		description: 'Read it after the payer has come back: `state` and `paidMinor` tell whether it is paid.',
		answers: CHECKOUT
	},
	cancelCheckout: {
		description: 'The address takes no payment any more. An order that is paid, or whose money is on its way, stays.',
		answers: { ...CHECKOUT, state: 'cancelled', paidMinor: 0, payments: [] }
	},
	setReference: {
		description:
			'What your own program calls the order, such as a booking number. The till says when the payer is told.',
		sends: { outsideReference: 'B-2026-17' },
		answers: { ...CHECKOUT, outsideReference: 'B-2026-17' }
	},
	listPayments: {
		description: 'Payments by reference, till, stage or checkout. Follow `next` to the next page.',
		answers: { payments: [PAYMENT], next: null }
	},
	readPayment: {
		description: 'How far the money has come, the expected and the charged fee, and what can be done now.',
		answers: PAYMENT
	},
	capturePayment: {
		description: 'Takes what is held, whole or in part, until its last day. The rest goes back to the payer.',
		sends: { amountMinor: 5000 },
		answers: acted('50.00 EUR captured.', { capturedMinor: 5000, refundableMinor: 5000 })
	},
	voidPayment: {
		description: 'Gives back what is held. Nothing was captured, so nothing is refunded.',
		sends: {},
		answers: acted('Voided.', { stage: 'voided', capturedMinor: 0, refundableMinor: 0 })
	},
	refundPayment: {
		description: 'Refunds what was captured, whole or in part, with a reason that is kept.',
		sends: { amountMinor: 3000, reason: 'One set came back' },
		answers: acted('30.00 EUR refunded.', { stage: 'part refunded', refundedMinor: 3000, refundableMinor: 5450 })
	},
	recordReceipt: {
		description: 'Records what came for an offline payment: how, on which day, with a note.',
		sends: { amountMinor: 8450, how: 'cash', day: '2026-11-26', note: 'At the door' },
		answers: acted('84.50 EUR recorded.', { stage: 'received', method: 'cash', refundableMinor: 0 })
	},
	listRateCards: {
		description: 'What every connection is charged: the confirmed contract, and what its processor proposes.',
		answers: { rateCards: [RATE_CARD] }
	},
	readRateCard: {
		description: 'The rate card of one connection. Percentages are parts per million.',
		answers: RATE_CARD
	},
	listSettlementFiles: {
		description: 'Files of past payments that were imported, the newest first.',
		answers: {
			settlementFiles: [
				{
					file: 1,
					name: 'fernhall-2026-10.csv',
					processor: 'fernhall',
					payments: 1200,
					fresh: 1190,
					changed: 4,
					declined: 31,
					importedAt: '2026-11-02T08:00:00.000Z',
					importedBy: 'Ilse Verhaeren'
				}
			],
			next: null
		}
	},
	listPayers: {
		description: 'Payers by name; `text` finds a part of a name or a mail address.',
		answers: { payers: [PAYER], next: null }
	},
	readPayer: { description: 'One payer, with the names of their groups.', answers: PAYER },
	listStoredMethods: {
		description: 'Cards and mandates that a payer let processors keep, by what may be shown of them.',
		answers: {
			storedMethods: [
				{
					storedMethod: 41,
					method: 'card',
					connection: 'c1',
					mode: 'live',
					state: 'active',
					isDefault: true,
					scheme: 'corvid',
					last4: '0007',
					expires: '2029-09',
					mandate: '',
					storedAt: '2026-11-12T09:30:00.000Z',
					endedAt: null,
					endedWhy: ''
				}
			]
		}
	},
	putPayer: {
		description: 'Adds a payer, or changes the one of this mail address. The groups must be there already.',
		sends: { name: 'Ana Müller', mail: 'ana@payer.example', country: 'BE', online: 'yes', groups: ['Schools'] },
		answers: PAYER
	},
	listGroups: {
		description: 'Groups of payers, which offers can ask for, with how many payers are in each.',
		answers: { groups: [{ name: 'Schools', payers: 2 }] }
	},
	listInvoices: {
		description: 'Invoices, the newest first: what was asked, placed, credited, and is open.',
		answers: { invoices: [INVOICE], next: null }
	},
	readInvoice: { description: 'One invoice, with its dues.', answers: INVOICE },
	writeInvoice: {
		description: 'An invoice of lines of the price list or free ones. It stays a draft unless it is approved or sent.',
		sends: {
			payer: 'U-IqWAyYbP861jJ2E_LL3w',
			till: 'bench',
			currency: 'EUR',
			lines: [{ code: 'REHAIR' }, { text: 'New tip', price: '24.00', tax: 'reduced', ratePpm: 60_000 }],
			send: ['mail']
		},
		answers: INVOICE
	},
	listPayLinks: {
		description: 'Pay links with their settings, visits, orders and sums.',
		answers: { links: [PAY_LINK] }
	},
	makePayLink: {
		description: 'A link to be paid by: a fixed sum, a sum of the payer’s own, or goods of the price list.',
		sends: PAY_LINK_PUT,
		answers: PAY_LINK
	},
	readPayLink: { description: 'One pay link, with its settings and what it has brought.', answers: PAY_LINK },
	putPayLink: {
		description: 'What the link’s address shows from now on. What is left out takes its usual value.',
		sends: { ...PAY_LINK_PUT, revision: 1 },
		answers: { ...PAY_LINK, revision: 2 }
	},
	closePayLink: {
		description: 'Nobody can pay by it any more; orders that were begun can still be paid.',
		answers: { ...PAY_LINK, isClosed: true }
	},
	openPayLink: { description: 'It can be paid by again.', answers: PAY_LINK },
	makePrefilledAddress: {
		description: 'The address of a link with fields filled in for one payer.',
		sends: { values: { name: 'Ana Müller', mail: 'ana@payer.example' }, fields: {} },
		answers: {
			address:
				'https://pay.wrenalder.example/link/workshop-your-first-varnish?mail=ana%40payer.example&name=Ana%20M%C3%BCller&sign=Yb0'
		}
	},
	readFees: {
		description: 'What was captured and what it cost, by month, connection, till and kind of payment.',
		answers: {
			currency: 'EUR',
			from: '2026-10',
			to: '2026-10',
			fees: [
				{
					month: '2026-10',
					connection: 'c1',
					till: 'web-shop',
					method: 'card',
					currency: 'EUR',
					scheme: 'mainsail',
					funding: 'debit',
					issuer: 'NL',
					entry: 'online',
					payments: 41,
					grossMinor: 302_410,
					feeMinor: 9_471,
					expectedMinor: 4_820,
					priced: 41,
					differenceMinor: 4_651
				}
			],
			accountMinor: 3_900
		}
	},
	readRouting: {
		description:
			'Which connection should carry which till, method and currency so that the payments of these days had cost least.',
		answers: {
			currency: 'EUR',
			from: '2025-12-01',
			to: '2026-11-30',
			payments: 24_013,
			todayMinor: 3_702_518,
			cheapestMinor: 3_411_004,
			boundMinor: 3_404_990,
			isExact: false,
			moves: [
				{
					till: 'web-shop',
					method: 'card',
					currency: 'EUR',
					from: 'c1',
					to: 'c2',
					payments: 6_441,
					savesMinor: 291_514
				}
			]
		}
	},
	listDiscrepancies: {
		description: 'Groups of payments with one cause of difference, and how far each has come.',
		answers: { discrepancies: [DISCREPANCY] }
	},
	readDiscrepancy: { description: 'One discrepancy with its cause and its sums.', answers: DISCREPANCY },
	listPrices: {
		description: 'Things and charges, with their prices by currency.',
		answers: {
			things: [
				{
					code: 'REHAIR',
					name: 'Bow, rehaired',
					unit: '',
					tax: 'reduced',
					ratePpm: 60_000,
					pricing: 'with tax',
					prices: [{ currency: 'EUR', price: '68.00' }],
					stock: null
				}
			]
		}
	}
};

/** What was changed in the interface, the newest first. Nothing that a program relies on is taken away. */
export const CHANGE_LOG: readonly { readonly day: string; readonly says: readonly string[] }[] = [
	{
		day: '2026-11-30',
		says: ['What a payer lets processors keep can be read, and is told by events.']
	},
	{
		day: '2026-11-29',
		says: [
			'Invoices can be written, sent and read; the price list can be read. Tokens have a scope `billing`.',
			'Pay links can be made, changed, closed and read; addresses that fill in fields can be made.',
			'Fees by month and kind, and what was charged otherwise than agreed, can be read.'
		]
	},
	{
		day: '2026-11-27',
		says: [
			'Rate cards, settlement files, payers and groups can be read; payers can be added and changed.',
			'`mail` says who is asked for in an answer; `payerMail` is its former name, and still read.',
			'A line-up says its form as `format`; `version` is its former name, and still read.',
			'Reasons of an answer have a stable `code`; offers have `texts` in further languages.',
			'Every schema has an address of its own, without a sign-in.'
		]
	},
	{
		day: '2026-11-26',
		says: [
			'Checkouts and payments can be listed and read; capture, void, refund, receipts.',
			'A checkout takes lines, a delivery address, language, return and cancel addresses, metadata and expiry.',
			'Tokens have scopes, tills, a mode and an end; they are rotated with an overlap of a week.'
		]
	},
	{ day: '2026-11-24', says: ['Tills, drafts, publishing, answers and checkouts.'] }
];
