import type { Account, Faults, Payment, Priced } from '../shared/engine.ts';
import { backInProportion, priceBy } from '../shared/price.ts';
import { priceOf as fernhallPrice } from '../fernhall/prices.ts';
import { price as brackwaterPrice, TARIFF } from '../brackwater/prices.ts';
import { TERMS as TALLY } from '../tallybridge/api.ts';
import { RATES as QUILLON } from '../quillon/api.ts';
import { TIERS } from '../sundial/api.ts';
import { PRICES as OSTREL } from '../ostrel/api.ts';
import { decimal } from '../shared/sums.ts';

/** The columns of the settlement files that the houses hand over. */
export const COLUMNS =
	'payment,captured_at,source,method,currency,amount_minor,entry,scheme,funding,issuer,fee_currency,fee_minor,base_minor,rate,refunded_minor,disputed_minor,ordered_at,outcome,reason';

/** The same with what the business calls a payment. */
const HOUSE_COLUMNS = `${COLUMNS},reference`;
/** The same where a house tells refunds, disputes and its own charges as lines of their own. */
const LINE_COLUMNS = `${COLUMNS},of_payment,reference`;
/** The house that does. */
const BY_LINES = 'brackwater';

/** An invoice of the business: what it asked, when, at which till, and whether its money is in a file. */
/** What was ordered at a pay link and paid, as the business knows it; the houses' files carry its number. */
export interface Ordered {
	readonly reference: string;
	/** when it was paid, in milliseconds since 1970 */
	readonly at: number;
	readonly minor: number;
}

export interface Billed {
	readonly number: string;
	/** milliseconds since 1970 */
	readonly at: number;
	readonly till: string;
	readonly currency: string;
	readonly minor: number;
	readonly isPaid: boolean;
}
/** Invoices that nobody has paid, or not whole: days before the last day, till, sum. */
const UNPAID = [
	[96, 'School accounts', 41_250],
	[47, 'Bench', 18_900],
	[39, 'School accounts', 98_040],
	[9, 'Bench', 7_450],
	[12, 'School accounts', 128_000],
	[9, 'Bench', 64_005],
	[6, 'Bench', 21_500],
	[4, 'School accounts', 52_300],
	[2, 'Bench', 9_900]
] as const;

/** In so many of a hundred times an attempt is declined before the payment that comes about, by how it is made. */
const DECLINES: Record<string, number> = {
	'card online': 4.5,
	'card keyed': 5,
	'card present': 1.4,
	'device-wallet online': 1.2,
	'pay-later online': 8,
	'bank-app online': 1.5
};
const CARD_REASONS = [
	['not enough money', 46],
	['not honoured by the issuer', 24],
	['wrong security number', 12],
	['expired card', 9],
	['payer did not prove who they are', 7],
	['reported lost', 2]
] as const;
const OTHER_REASONS: Record<string, readonly (readonly [string, number])[]> = {
	'pay-later': [
		['turned down after a look at the payer', 80],
		['basket over the limit', 20]
	],
	'bank-app': [['refused in the app', 1]]
};
/** What a house charges for a declined attempt, in cents. */
const DECLINED_FEE: Partial<Record<string, number>> = { brackwater: Number(TARIFF.DECLINED.EACH.replace('.', '')) };

/** Days from a promised transfer to the money: most within the terms of a fortnight, some long after. */
const TRANSFER_DAYS = [
	[1, 22],
	[2, 24],
	[4, 16],
	[7, 12],
	[11, 9],
	[14, 5],
	[19, 5],
	[26, 4],
	[38, 2],
	[57, 1]
] as const;

/** What the houses themselves call the methods. */
const HOUSE_METHODS: Readonly<Record<string, string>> = {
	'bank-redirect': 'bank redirect',
	'bank-debit': 'bank debit',
	'credit-transfer': 'transfer',
	'account-wallet': 'account wallet',
	'pay-later': 'pay later',
	'bank-app': 'bank app'
};

/** Repeatable chance: the same seed gives the same business. */
export function chance(seed: number) {
	let state = seed >>> 0;
	const next = () => {
		state = (state + 0x6d2b79f5) >>> 0;
		let t = Math.imul(state ^ (state >>> 15), 1 | state);
		t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
		return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
	};
	const whole = (from: number, to: number) => from + Math.floor(next() * (to - from + 1));
	return {
		next,
		whole,
		/** one of a list, each with a weight */
		pick<T>(list: readonly (readonly [T, number])[]): T {
			let left = next() * list.reduce((sum, [, weight]) => sum + weight, 0);
			for (const [one, weight] of list) if ((left -= weight) < 0) return one;
			return list.at(-1)![0];
		},
		/** sums as shops have them: many small, few large, ending in .00, .50 or .90 */
		sum: (middle: number, spread: number) => {
			const gauss = Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next());
			const euros = Math.max(1, Math.round(middle * Math.exp(spread * gauss)));
			return euros * 100 + [0, 0, 50, 90][whole(0, 3)]!;
		}
	};
}

interface Way {
	readonly house: 'fernhall' | 'brackwater' | 'tallybridge' | 'quillon' | 'sundial' | 'ostrel';
	readonly method: string;
	readonly entry: string;
}
const CARD_ONLINE: Way = { house: 'fernhall', method: 'card', entry: 'online' };
const CARD_PRESENT: Way = { house: 'brackwater', method: 'card', entry: 'present' };

/** Days before the day of the demo on which line-ups changed, each with a day or two to spare (`demo/lineups.ts`). */
const WEB_SHOP_GREW = 400;
const WEB_SHOP_NARROWED = 63;
const APP_AT_THE_COUNTER = 298;
/** When invoices are written: milliseconds after midnight, UTC. */
const BILLING_HOUR = 8 * 3_600_000;
/** The stand-ins themselves remember so many days. */
const REMEMBERED_DAYS = 60;

/** The six places where the business takes money: how much of it, in which ways, in what sums. */
const SOURCES: readonly {
	name: string;
	weight: number;
	/** by month, 1 for an even year */
	season: readonly number[];
	/** with its weight, and since how many days before the day of the demo the line-up there has it */
	ways: readonly (readonly [Way, number, since?: number])[];
	middle: number;
	spread: number;
	currencies: readonly (readonly [string, number])[];
}[] = [
	{
		name: 'Web shop',
		weight: 46,
		season: [0.8, 0.8, 0.9, 0.9, 0.9, 0.8, 0.7, 0.9, 1.2, 1.2, 1.4, 1.7],
		ways: [
			[CARD_ONLINE, 72],
			[{ house: 'tallybridge', method: 'account-wallet', entry: 'online' }, 14],
			[{ house: 'brackwater', method: 'bank-redirect', entry: 'online' }, 6, WEB_SHOP_GREW],
			[{ house: 'sundial', method: 'pay-later', entry: 'online' }, 5, WEB_SHOP_GREW],
			[{ house: 'ostrel', method: 'bank-app', entry: 'online' }, 3, WEB_SHOP_GREW]
		],
		middle: 62,
		spread: 0.8,
		currencies: [
			['EUR', 76],
			['GBP', 11],
			['USD', 6],
			['CHF', 5],
			['JPY', 2]
		]
	},
	{
		name: 'Counter',
		weight: 27,
		season: [0.9, 0.9, 1, 1, 1, 1, 0.6, 0.7, 1.3, 1.2, 1.1, 1.3],
		ways: [
			[CARD_PRESENT, 82],
			[{ house: 'ostrel', method: 'bank-app', entry: 'present' }, 18, APP_AT_THE_COUNTER]
		],
		middle: 28,
		spread: 0.7,
		currencies: [['EUR', 1]]
	},
	{
		name: 'Lessons',
		weight: 17,
		season: [1.2, 1.2, 1.2, 1.2, 1.2, 1.2, 0.1, 0.1, 1.2, 1.2, 1.2, 1.2],
		ways: [[{ house: 'quillon', method: 'bank-debit', entry: 'recurring' }, 1]],
		middle: 74,
		spread: 0.25,
		currencies: [['EUR', 1]]
	},
	{
		name: 'Bench',
		weight: 2.5,
		season: [1, 1, 1, 1, 1, 1.1, 0.8, 0.8, 1.2, 1.1, 1, 0.9],
		ways: [
			[{ ...CARD_PRESENT, entry: 'keyed' }, 45],
			[{ house: 'quillon', method: 'credit-transfer', entry: 'online' }, 35],
			[{ house: 'brackwater', method: 'bank-redirect', entry: 'online' }, 20]
		],
		middle: 210,
		spread: 0.7,
		currencies: [['EUR', 1]]
	},
	{
		name: 'School accounts',
		weight: 1.2,
		season: [1, 1, 1, 1, 1, 1, 0.2, 0.4, 2, 1.4, 1, 0.6],
		ways: [[{ house: 'quillon', method: 'credit-transfer', entry: 'online' }, 1]],
		middle: 640,
		spread: 0.5,
		currencies: [
			['EUR', 9],
			['GBP', 1]
		]
	},
	{
		name: 'Autumn fair',
		weight: 3,
		season: [0, 0, 0, 0, 0, 0, 0, 0, 0, 12, 0, 0],
		ways: [
			[CARD_ONLINE, 55],
			[{ house: 'fernhall', method: 'device-wallet', entry: 'online' }, 15],
			[{ house: 'ostrel', method: 'bank-app', entry: 'online' }, 30]
		],
		middle: 24,
		spread: 0.4,
		currencies: [['EUR', 1]]
	}
];
const FUNDINGS = [
	['debit', 46],
	['credit', 40],
	['prepaid', 5],
	['commercial', 9]
] as const;
const PRIVATE = FUNDINGS.filter(([funding]) => funding !== 'commercial');
const ABROAD: Record<string, readonly string[]> = {
	EUR: ['NL', 'DE', 'FR'],
	GBP: ['GB'],
	USD: ['US'],
	CHF: ['CH'],
	JPY: ['JP']
};
const AT_EUR: Record<string, number> = { EUR: 1, GBP: 1.14, USD: 0.92, CHF: 1.07, JPY: 0.0061 };
const SOUND = { wrongFee: false } as Faults;
const DAY = 86_400_000;

export interface HistoryOptions {
	/** the last day, `YYYY-MM-DD` */
	readonly until: string;
	/** nothing was taken after it, in milliseconds since 1970 */
	readonly now?: number;
	readonly payments: number;
	readonly months?: number;
	readonly seed?: number;
	/** one house tells refunds, disputes and what it charges for months as lines of their own */
	readonly byLines?: boolean;
}

/** A payment as its house remembers it, for a house that works by the shared engine. */
export type Remembered = Pick<
	Payment,
	'id' | 'method' | 'currency' | 'minor' | 'card' | 'takenAt' | 'at' | 'refunds' | 'disputed' | 'payer'
> & { charged: Priced };

/** Months of payments of the made-up business, priced by each house's own code; one settlement file a house. */
export const history = (options: HistoryOptions): Map<string, string> => historyOf(options).files;

/** As `history`, with what the houses themselves remember: the payments of the last sixty days, by house. */
export function historyOf({
	until,
	payments,
	now = Infinity,
	months = 18,
	seed = 20_417,
	byLines = false
}: HistoryOptions): {
	files: Map<string, string>;
	remembered: Map<string, Remembered[]>;
	billed: Billed[];
	ordered: Ordered[];
} {
	const { whole, pick, sum, next } = chance(seed);
	// what was added to the business later draws by itself, so that it stays the business that it was
	const aside = chance(seed + 1);
	const end = Date.parse(`${until}T12:00:00Z`);
	const begin = end - Math.round(months * 30.44) * DAY;
	const days = Math.round((end - begin) / DAY);
	// how busy each day is at each place, so that the count comes out as asked
	const busy: { at: number; weights: number[]; all: number }[] = [];
	let everything = 0;
	for (let n = 0; n < days; n++) {
		const at = begin + n * DAY;
		const date = new Date(at);
		const [weekday, month, day] = [date.getUTCDay(), date.getUTCMonth(), date.getUTCDate()];
		const weights = SOURCES.map(({ name, weight, season }) => {
			const base = weight * season[month]!;
			if (name === 'Lessons') return day === 3 ? base * 30 : 0;
			if (name === 'Counter') return weekday === 0 ? 0 : weekday === 6 ? base * 4 : base;
			if (name === 'Autumn fair') return day >= 9 && day <= 11 ? base * 3 : 0;
			return base;
		});
		const all = weights.reduce((a, b) => a + b, 0);
		everything += all;
		busy.push({ at, weights, all });
	}
	const account = { country: 'BE', zone: 'Europe/Brussels', settles: 'EUR' } as Account;
	const files = new Map<string, string[]>();
	const remembered = new Map<string, Remembered[]>();
	const totals = new Map<string, Map<string, { count: number; sum: number; fees: number }>>();
	const volumes = new Map<string, number>();
	const wrongFrom = end - 40 * DAY;
	/** for four weeks one house takes more for another currency than it says */
	const [dearFrom, dearTo] = [end - 98 * DAY, end - 70 * DAY];
	let owed = 0;
	let [count, attempts] = [0, 0];
	const write = (
		house: string,
		currency: string,
		outcome: 'captured' | 'declined' | 'refund' | 'dispute' | 'monthly',
		line: readonly (string | number)[],
		ofPayment = ''
	) => {
		const isByLines = byLines && house === BY_LINES;
		const lines = files.get(house) ?? [isByLines ? LINE_COLUMNS : HOUSE_COLUMNS];
		files.set(house, lines);
		lines.push((isByLines ? [...line.slice(0, -1), ofPayment, line.at(-1)!] : line).join(','));
		const mine = totals.get(house) ?? new Map<string, { count: number; sum: number; fees: number }>();
		totals.set(house, mine);
		const key = `${currency} ${outcome}`;
		const total = mine.get(key) ?? { count: 0, sum: 0, fees: 0 };
		mine.set(key, { count: total.count + 1, sum: total.sum + Number(line[5]), fees: total.fees + Number(line[11]) });
	};
	const idOf = (house: string, letter: string, n: number) =>
		`${house.slice(0, 2).toUpperCase()}-${letter}${String(n).padStart(7, '0')}`;
	const billed: Billed[] = [];
	const ordered: Ordered[] = [];
	/** The number of an order at the fair's pay link: counted by year. */
	const orderAtLink = (at: number, minor: number): string => {
		const reference = `AF-${new Date(at).getUTCFullYear()}-${String(ordered.length + 1).padStart(4, '0')}`;
		ordered.push({ reference, at, minor });
		return reference;
	};
	const numbers = new Map<string, number>();
	/** The number that an invoice has which is paid at a moment: invoices are numbered in the order in which they are approved. */
	const bill = (paid: number, till: string, currency: string, minor: number, isPaid: boolean): string => {
		const moment = billingDayBefore(paid);
		const year = new Intl.DateTimeFormat('en-CA', { timeZone: 'Europe/Brussels' }).format(moment).slice(0, 4);
		const n = (numbers.get(year) ?? 0) + 1;
		numbers.set(year, n);
		const number = `INV-${year}-${String(n).padStart(4, '0')}`;
		billed.push({ number, at: moment, till, currency, minor, isPaid });
		return number;
	};
	for (const { at, weights, all } of busy) {
		for (const [daysAgo, till, minor] of UNPAID)
			if (Math.round((end - at) / DAY) === daysAgo) bill(at - 5 * 3_600_000, till, 'EUR', minor, false);
		owed += (payments * all) / everything;
		const moments: number[] = [];
		for (; owed > 1 - 1e-6; owed--) moments.push(at - 5 * 3_600_000 + whole(0, 14 * 3600) * 1000);
		for (const moment of moments.sort((a, b) => a - b)) {
			if (moment > now) break;
			const source = pick(SOURCES.map((one, i) => [one, weights[i]!] as const));
			const daysAgo = (end - at) / DAY + 1;
			const atWebShop = source.name === 'Web shop';
			let way = pick(source.ways.filter(([, , since = Infinity]) => daysAgo <= since).map(([one, w]) => [one, w]));
			let currency = pick(source.currencies);
			if (way.house === 'sundial' || way.house === 'ostrel' || way.method === 'bank-redirect') currency = 'EUR';
			// what a line-up of that day could not take was not paid there: CHF goes by the wallet alone
			if (currency === 'CHF' && way.house !== 'tallybridge')
				way = { house: 'tallybridge', method: 'account-wallet', entry: 'online' };
			if (currency === 'JPY') way = CARD_ONLINE;
			let minor = Math.round(sum(source.middle, source.spread) / AT_EUR[currency]!);
			if (currency === 'CHF') minor = Math.max(2_000, minor);
			if (currency === 'JPY') minor = Math.max(100, Math.round(minor / 10_000) * 100);
			if (way.house === 'sundial') minor = Math.min(60_000, Math.max(4800, minor * 4));
			const hasCard = way.method === 'card' || way.method === 'device-wallet';
			const scheme = hasCard
				? pick([
						['corvid', 48],
						['mainsail', 34],
						['tessel', 18]
					] as const)
				: '';
			const fundings = atWebShop && daysAgo <= WEB_SHOP_NARROWED ? PRIVATE : FUNDINGS;
			const funding = hasCard ? (scheme === 'tessel' ? 'debit' : pick(fundings)) : '';
			const foreignCard = next() < (currency === 'EUR' ? 0.22 : 0.97);
			const issuer = hasCard
				? !foreignCard || scheme === 'tessel'
					? 'BE'
					: ABROAD[currency]![whole(0, ABROAD[currency]!.length - 1)]!
				: way.house === 'sundial'
					? aside.next() < 0.7
						? 'BE'
						: 'NL'
					: '';
			// a transfer is promised first and comes when the payer gets to it; what is not there yet is in no file
			let captured = moment;
			if (way.method === 'credit-transfer') {
				captured += aside.pick(TRANSFER_DAYS) * DAY + aside.whole(0, 6 * 3600) * 1000;
				// banks rest at the end of the week
				while ([0, 6].includes(new Date(captured).getUTCDay())) captured += DAY;
				if (captured > Math.min(end, now)) captured = moment;
			}
			const takenAt = new Date(captured).toISOString();
			const payment = {
				minor,
				currency,
				takenAt,
				method: HOUSE_METHODS[way.method] ?? way.method,
				card: hasCard ? { scheme, funding, issuedIn: issuer, lastFour: '0007', expires: '2030-01' } : undefined
			} as unknown as Payment;
			const month = `${way.house} ${takenAt.slice(0, 7)}`;
			const before = volumes.get(month) ?? 0;
			const priced = priceAt(way.house, way.method, payment, account, before, {
				isAstray: captured >= wrongFrom,
				isDear: captured >= dearFrom && captured < dearTo
			});
			volumes.set(month, before + priced.base);
			const gone = next();
			// what was billed and paid stayed paid: an invoice is corrected by a credit note
			const isBilled = source.name === 'Bench' || source.name === 'School accounts';
			const refunded = isBilled ? 0 : gone < 0.03 ? minor : gone < 0.045 ? Math.floor(minor / 2) : 0;
			const isDisputed = !refunded && hasCard && next() < 0.0015;
			const disputed = isDisputed && !isBilled ? minor : 0;
			// some payers are declined once or twice before it comes about, with another card in the end or the same one
			const odds = DECLINES[`${way.method} ${way.entry}`] ?? 0;
			let tries = 0;
			while (tries < 3 && aside.next() * 100 < odds) tries++;
			for (let n = tries; n > 0; n--) {
				const same = aside.next() < 0.4;
				write(way.house, currency, 'declined', [
					idOf(way.house, 'D', ++attempts),
					'',
					source.name,
					way.method,
					currency,
					minor,
					way.entry,
					scheme,
					hasCard && scheme !== 'tessel' && !same ? aside.pick(fundings) : funding,
					issuer,
					'EUR',
					DECLINED_FEE[way.house] ?? 0,
					'',
					'',
					'',
					'',
					new Date(moment - n * aside.whole(40, 240) * 1000).toISOString(),
					'declined',
					aside.pick(hasCard ? CARD_REASONS : OTHER_REASONS[way.method]!),
					''
				]);
			}
			const id = idOf(way.house, 'H', ++count);
			if ((end - captured) / DAY < REMEMBERED_DAYS) {
				const list = remembered.get(way.house) ?? [];
				remembered.set(way.house, list);
				list.push({
					...payment,
					id,
					at: new Date(moment).toISOString(),
					refunds: refunded ? [{ id: `${id}-R`, minor: refunded, at: takenAt, feeBack: 0 }] : [],
					...(disputed ? { disputed: { at: takenAt, minor: disputed } } : {}),
					charged: priced
				});
			}
			// what went back with the refund is not charged any more
			const fee = priced.fee - backOf(way.house, priced, refunded, minor);
			write(way.house, currency, 'captured', [
				id,
				takenAt,
				source.name,
				way.method,
				currency,
				minor,
				way.entry,
				scheme,
				funding,
				issuer,
				'EUR',
				fee,
				priced.base,
				priced.rate?.value ?? '',
				byLines && way.house === BY_LINES ? 0 : refunded,
				byLines && way.house === BY_LINES ? 0 : disputed,
				captured > moment ? new Date(moment).toISOString() : '',
				'captured',
				'',
				isBilled
					? bill(moment, source.name, currency, minor, true)
					: source.name === 'Autumn fair'
						? orderAtLink(moment, minor)
						: ''
			]);
			if (byLines && way.house === BY_LINES) {
				if (refunded)
					write(
						way.house,
						currency,
						'refund',
						beside('refund', `${id}-R`, takenAt, currency, refunded, REFUND_FEE),
						id
					);
				if (disputed)
					write(
						way.house,
						currency,
						'dispute',
						beside('dispute', `${id}-C`, takenAt, currency, disputed, DISPUTE_FEE),
						id
					);
			}
		}
	}
	if (byLines && files.has(BY_LINES)) {
		const month = new Date(begin);
		month.setUTCDate(1);
		for (let n = 0; ; n++) {
			month.setUTCMonth(month.getUTCMonth() + 1);
			const at = month.getTime() + 4 * 3_600_000;
			if (at > Math.min(end, now)) break;
			const charge = (id: string, moment: number) =>
				write(BY_LINES, 'EUR', 'monthly', beside('monthly', id, new Date(moment).toISOString(), 'EUR', 0, MONTH_FEE));
			const id = `BR-M${new Date(at - DAY).toISOString().slice(0, 7)}`;
			charge(id, at);
			// one month is charged once more two days later
			if (n === 11) charge(`${id}-2`, at + 2 * DAY);
		}
	}
	const written = new Map(
		[...files].map(([house, lines]) => {
			for (const [key, { count: n, sum: all, fees }] of totals.get(house)!) {
				const [currency, outcome] = key.split(' ');
				lines.push(
					[
						...['total', '', n, '', currency, all, '', '', '', '', 'EUR', fees, '', '', '', '', '', outcome, '', ''],
						...(byLines && house === BY_LINES ? [''] : [])
					].join(',')
				);
			}
			return [house, `${lines.join('\n')}\n`];
		})
	);
	return { files: written, remembered, billed, ordered };
}

/** The business writes its invoices on Tuesdays and Fridays. @returns the last of these mornings before a moment */
function billingDayBefore(moment: number): number {
	let morning = Math.floor(moment / DAY) * DAY + BILLING_HOUR;
	while (morning >= moment || ![2, 5].includes(new Date(morning).getUTCDay())) morning -= DAY;
	return morning;
}

const minorOf = (text: string) => Number(text.replace('.', ''));
const [REFUND_FEE, DISPUTE_FEE, MONTH_FEE] = [TARIFF.REFUND.EACH, TARIFF.DISPUTE.EACH, TARIFF.MONTH].map(minorOf) as [
	number,
	number,
	number
];
/** A line that is no payment: something that happened to one, or a charge of the account. */
const beside = (outcome: string, id: string, at: string, currency: string, minor: number, fee: number) => [
	...[id, at, '', '', currency, minor, '', '', '', '', 'EUR', fee, '', '', '', '', '', outcome, '', '']
];

/** What of a fee its house gives back with a refund. */
function backOf(house: Way['house'], priced: Priced, refunded: number, minor: number): number {
	if (!refunded) return 0;
	if (!['fernhall', 'tallybridge', 'sundial'].includes(house)) return 0;
	return backInProportion({ minor, charged: priced } as Payment, refunded);
}

/** One payment by its house's own prices. */
function priceAt(
	house: Way['house'],
	method: string,
	payment: Payment,
	account: Account,
	before: number,
	{ isAstray, isDear }: { isAstray: boolean; isDear: boolean }
): Priced {
	const at = (lean: number, terms: Parameters<typeof priceBy>[4]) => priceBy(payment, 'EUR', account.zone, lean, terms);
	const back = 'nothing' as const;
	switch (house) {
		case 'fernhall': {
			const card = payment.card!;
			// from a day on, some cards of neighbours are priced as if they came from far away
			const astray = isAstray && card.scheme === 'mainsail' && ['NL', 'FR'].includes(card.issuedIn);
			return fernhallPrice(astray ? { ...payment, card: { ...card, issuedIn: 'US' } } : payment, account, false);
		}
		case 'brackwater':
			return brackwaterPrice(payment, account, SOUND, before);
		case 'tallybridge':
			return at(-0.0011, {
				label: 'balance',
				share: TALLY.balance.share,
				plus: TALLY.balance.plus,
				exchange: isDear && payment.currency === 'CHF' ? '4.00' : TALLY.exchange,
				back: 'share'
			});
		case 'quillon': {
			const terms = method === 'bank-debit' ? QUILLON.debit : QUILLON.transfer;
			return at(0.0002, {
				label: method,
				share: String(Number(terms.permille) / 10),
				plus: '0.00',
				floor: decimal(terms.never_less, 'EUR'),
				cap: decimal(terms.never_more, 'EUR'),
				exchange: '0.50',
				back
			});
		}
		case 'sundial':
			return at(0, { label: 'FOUR', share: TIERS.FOUR.pct, plus: TIERS.FOUR.fixed, back: 'share' });
		case 'ostrel':
			return at(0, { label: 'demand', share: OSTREL.percent, plus: OSTREL.each, back });
	}
}
