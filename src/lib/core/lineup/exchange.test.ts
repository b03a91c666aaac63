import { describe, expect, it } from 'vitest';
import {
	conditionsInWords,
	fromFile,
	LineUp,
	Offer,
	offerForm,
	OfferForm,
	offerText,
	readOfferForm,
	toFile,
	type CarrierBook,
	type CarrierChoice
} from '.';

const book: CarrierBook = [
	{ kind: 'connection', id: 'c1', name: 'Fernhall', mode: 'live' },
	{ kind: 'connection', id: 'c2', name: 'Fernhall', mode: 'test' },
	{ kind: 'connection', id: 'c3', name: 'Brackwater', mode: 'live' },
	{ kind: 'offline', id: 'o1', name: 'Transfer' }
];
const lineUp = LineUp.parse([
	{
		id: 'a',
		method: 'card',
		name: 'Card',
		routes: { EUR: { first: { kind: 'connection', id: 'c1' }, standby: { kind: 'connection', id: 'c3' } } },
		conditions: { amounts: [{ currency: 'EUR', minimum: 100 }], countries: { rule: 'only', values: ['BE'] } }
	},
	{ id: 'b', method: 'credit-transfer', name: 'Transfer', routes: { EUR: { first: { kind: 'offline', id: 'o1' } } } }
]);

describe('a line-up as a file', () => {
	it('comes back as it was, its routes found by name in the till’s mode', () => {
		const file = toFile(lineUp, 'Web shop', book);
		expect(file.offers[0]!.routes.EUR).toEqual({
			first: { kind: 'connection', name: 'Fernhall' },
			standby: { kind: 'connection', name: 'Brackwater' }
		});
		expect(fromFile(JSON.parse(JSON.stringify(file)), 'live', book, () => 'x')).toEqual({ lineUp });
	});
	it('names groups, and finds them again', () => {
		const grouped = [{ ...lineUp[0]!, conditions: { amounts: [], groups: { rule: 'only' as const, values: ['g1'] } } }];
		const file = toFile(grouped, 'Web shop', book, { g1: 'Schools' });
		expect(file.offers[0]!.conditions?.groups?.values).toEqual(['Schools']);
		expect(fromFile(file, 'live', book, () => 'x', { g1: 'Schools' })).toEqual({ lineUp: grouped });
		expect(fromFile(file, 'live', book, () => 'x', { g2: 'Dealers' })).toMatchObject({
			faults: [{ path: 'offers.0.conditions.groups.values.0', says: 'No group is called “Schools”.' }]
		});
	});
	it('names each fault by its path', () => {
		const file = toFile(lineUp, 'Web shop', book);
		const first = file.offers[0]!;
		const wrong = {
			...file,
			offers: [
				{
					...first,
					routes: {
						EUR: { first: { kind: 'connection', name: 'Nobody' }, standby: { kind: 'connection', name: 'Brackwater' } }
					}
				},
				file.offers[1]
			]
		};
		expect(fromFile(wrong, 'live', book, () => 'x')).toMatchObject({
			faults: [{ path: 'offers.0.routes.EUR.first.name', says: 'No connection is called “Nobody”.' }]
		});
		expect(fromFile(file, 'test', book, () => 'x')).toMatchObject({
			faults: [{ path: 'offers.0.routes.EUR.standby.name', says: '“Brackwater” is connected, but not in test mode.' }]
		});
		const paths = (given: unknown) => {
			const read = fromFile(given, 'live', book, () => 'x');
			return 'faults' in read ? read.faults.map((one) => one.path) : [];
		};
		expect(paths({ ...file, offers: [{ ...first, name: '' }] })).toEqual(['offers.0.name']);
		expect(paths({ ...file, offers: [{ ...first, method: 'barter' }] })).toEqual(['offers.0.method']);
		expect(paths({ ...file, offers: [{ ...first, surprise: 1 }] })).toEqual(['offers.0']);
		expect(paths({ ...file, offers: [first, first] })).toEqual(['offers.1.id']);
		expect(
			paths({
				...file,
				offers: [{ ...first, conditions: { amounts: [{ currency: 'EUR', minimum: 9, maximum: 3 }] } }]
			})
		).toEqual(['offers.0.conditions.amounts.0.minimum']);
		expect(paths('nonsense')).toEqual(['(whole file)']);
	});
});

const choice = (value: string, currencies: string[]): CarrierChoice => ({
	value,
	name: value,
	payerName: 'Card',
	method: 'card',
	currencies,
	schemes: [
		{ id: 'corvid', name: 'Corvid' },
		{ id: 'tessel', name: 'Tessel' }
	],
	fundings: ['debit', 'credit'],
	regions: ['domestic']
});
const choices = [choice('connection:c1:card', ['EUR', 'GBP']), choice('connection:c3:card', ['EUR', 'JPY', 'GBP'])];
const typed = (more: Partial<OfferForm> = {}): OfferForm =>
	OfferForm.parse({
		carrier: 'connection:c1:card',
		standby: 'connection:c3:card',
		name: 'Card',
		currencies: ['EUR', 'GBP'],
		schemes: ['corvid', 'tessel'],
		fundings: ['debit'],
		regions: ['domestic'],
		boundCurrency: 'EUR',
		...more
	});
const read = (more: Partial<OfferForm> = {}) => readOfferForm(typed(more), ['EUR', 'GBP', 'JPY'], choices, 'id');
const wrong = (more: Partial<OfferForm>) => {
	const result = read(more);
	return 'problems' in result ? result.problems.map((one) => `${one.field}: ${one.says}`) : [];
};

describe('the form of an offer', () => {
	it('reads every condition, and shows again what it read', () => {
		const form = typed({
			currencies: ['EUR', 'GBP', 'JPY'],
			overrides: ['JPY first connection:c3:card', 'GBP standby none'],
			minimum: '5.00',
			moreCurrencies: ['GBP', 'JPY', 'EUR'],
			moreFrom: ['10.00', '5000', ''],
			moreTo: ['500.00', '', ''],
			groupRule: 'only',
			groups: ['g1'],
			goodsRule: 'except',
			goods: 'repairs, cases',
			deliveryRule: 'only',
			delivery: 'post',
			recurrence: 'one-time',
			orderedBy: 'interface',
			withoutOnlineMethod: true,
			domainRule: 'only',
			domains: ['shop.example'],
			capture: 'later',
			storing: true,
			place: 'on the basket'
		});
		const result = readOfferForm(form, ['EUR', 'GBP', 'JPY'], choices, 'id');
		if (!('offer' in result)) throw new Error(JSON.stringify(result.problems));
		expect(result.offer.routes).toEqual({
			EUR: { first: { kind: 'connection', id: 'c1' }, standby: { kind: 'connection', id: 'c3' } },
			GBP: { first: { kind: 'connection', id: 'c1' } },
			JPY: { first: { kind: 'connection', id: 'c3' } }
		});
		expect(result.offer.conditions.amounts).toEqual([
			{ currency: 'EUR', minimum: 500, maximum: undefined },
			{ currency: 'GBP', minimum: 1_000, maximum: 50_000 },
			{ currency: 'JPY', minimum: 5_000, maximum: undefined }
		]);
		expect(result.offer.cardTypes).toEqual({ schemes: 'any', fundings: ['debit'], regions: 'any' });
		const again = readOfferForm(offerForm(result.offer, choices, 0), ['EUR', 'GBP', 'JPY'], choices, 'id');
		expect(again).toEqual(result);
		expect(conditionsInWords(result.offer, 'en-GB', { g1: 'Schools' })).toEqual([
			'from 5.00 EUR',
			'from 10.00 GBP to 500.00 GBP',
			'from 5,000 JPY',
			'only the group Schools',
			'not for repairs, cases',
			'only delivered by post',
			'only on shop.example',
			'paid once only',
			'ordered through the API only',
			'only for payers without an online method',
			'debit cards only'
		]);
	});
	it('says at which field something cannot be', () => {
		expect(wrong({ currencies: ['JPY'] })[0]).toMatch(/^currencies: connection:c1:card does not carry JPY/);
		expect(wrong({ minimum: '9', maximum: '3' })[0]).toMatch(/^maximum: .*below the smallest/);
		const limit = (currency: string, from: string, to = '') => ({
			moreCurrencies: [currency],
			moreFrom: [from],
			moreTo: [to]
		});
		expect(wrong(limit('GBP', 'ten'))[0]).toMatch(/^moreCurrencies: GBP: /);
		expect(wrong(limit('GBP', '9', '3'))[0]).toMatch(/below the smallest/);
		expect(wrong({ minimum: '1', ...limit('EUR', '2') })[0]).toMatch(/for one currency/);
		expect(wrong(limit('CHF', '2'))[0]).toMatch(/^moreCurrencies: .*limit in CHF would never count/);
		expect(wrong(limit('', '2'))[0]).toMatch(/choose one for this limit/);
		expect(wrong({ groupRule: 'only' })).toEqual(['groups: Choose at least one group.']);
		expect(wrong({ goodsRule: 'only', goods: ' , ' })).toEqual(['goods: Name at least one kind of goods.']);
		expect(wrong({ overrides: ['GBP first connection:gone:card'] })[0]).toMatch(/^overrides: GBP: this route/);
		expect(wrong({ overrides: ['GBP standby connection:c1:card'] })[0]).toMatch(/^overrides: GBP: a standby/);
		expect(wrong({ countryRule: 'only', countries: 'XX BE' })[0]).toMatch(/^countries: XX: no such country/);
		expect(wrong({ schemes: [] })).toEqual(['schemes: Choose at least one scheme.']);
		expect(wrong({})).toEqual([]);
	});
});

describe('what an offer says in further languages', () => {
	const spoken = {
		textLanguages: ['nl', 'fr'] as OfferForm['textLanguages'],
		textNames: ['Kaart', ''],
		textNotes: ['We pakken morgen in.', ''],
		textNotesAfter: ['', '']
	};
	it('is read from the form, a language without a word left out, and shown again', () => {
		const result = read({ note: 'We pack tomorrow.', ...spoken });
		if (!('offer' in result)) throw new Error(JSON.stringify(result.problems));
		expect(result.offer.texts).toEqual({ nl: { name: 'Kaart', note: 'We pakken morgen in.' } });
		const form = offerForm(result.offer, choices, 0);
		expect([form.textLanguages, form.textNames, form.textNotesAfter]).toEqual([['nl'], ['Kaart'], ['']]);
		const silent = read({ ...spoken, textNames: ['', ''], textNotes: ['', ''] });
		expect('offer' in silent && silent.offer.texts).toBeUndefined();
	});
	it('is said to payers of that language, and the rest as in the first', () => {
		const offer = {
			name: 'Card',
			note: 'We pack tomorrow.',
			noteAfter: 'Thank you.',
			texts: { nl: { name: 'Kaart' } }
		};
		expect(offerText(offer, 'nl')).toEqual({ name: 'Kaart', note: 'We pack tomorrow.', noteAfter: 'Thank you.' });
		expect(offerText(offer, 'fr').name).toBe('Card');
		expect(offerText(offer, 'toString').name).toBe('Card');
	});
	it('goes along in a file, and is checked there', () => {
		const result = read(spoken);
		if (!('offer' in result)) throw new Error('not read');
		const parsed = Offer.parse(result.offer);
		expect(parsed.texts).toEqual(result.offer.texts);
		expect(Offer.safeParse({ ...result.offer, texts: { xx: { name: 'X' } } }).success).toBe(false);
		expect(Offer.safeParse({ ...result.offer, texts: { nl: { name: 'x'.repeat(41) } } }).success).toBe(false);
	});
});
