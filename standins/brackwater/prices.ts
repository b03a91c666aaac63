import type { Account, Faults, Payment, Priced } from '../shared/engine.ts';
import { priceBy, regionOf } from '../shared/price.ts';

const cards = ['corvid', 'mainsail', 'tessel'] as const;
const fundings = ['debit', 'credit', 'prepaid', 'commercial'] as const;
const places = ['home', 'near', 'far'] as const;
const INTERCHANGE = {
	home: { debit: '0.20', credit: '0.30', prepaid: '0.20', commercial: '1.20' },
	near: { debit: '0.20', credit: '0.30', prepaid: '0.20', commercial: '1.35' },
	far: { debit: '1.15', credit: '1.50', prepaid: '1.15', commercial: '1.75' }
} as const;
const SCHEME = {
	corvid: { home: '0.03', near: '0.05', far: '0.40' },
	mainsail: { home: '0.04', near: '0.06', far: '0.45' },
	tessel: { home: '0.02', near: '0.05', far: '0.30' }
} as const;

/** Brackwater's tariff, in the form in which it hands it over: a cost table, a markup by volume, charges around it. */
export const TARIFF = {
	FROM: '2026-01-01',
	CCY: 'EUR',
	ROUNDING: 'EACH PART, HALF UP',
	COSTS: cards.flatMap((scheme) =>
		fundings.flatMap((funding) =>
			places.map((place) => [scheme, funding, place, INTERCHANGE[place][funding], SCHEME[scheme][place]] as const)
		)
	),
	MARKUP: [
		{ UPTO: '40000.00', PCT: '0.35', EACH: '0.04' },
		{ UPTO: '150000.00', PCT: '0.28', EACH: '0.04' },
		{ UPTO: null, PCT: '0.22', EACH: '0.03' }
	],
	BANK: { PCT: '0.00', EACH: '0.24' },
	EXCHANGE: '0.90',
	MONTH: '24.00',
	MONTHMIN: '15.00',
	REFUND: { KEEPS: 'ALL', EACH: '0.10' },
	DISPUTE: { EACH: '20.00', BACKIFWON: true },
	DECLINED: { EACH: '0.03' }
} as const;

/** @param before gross captures of the month before this payment, in cents of EUR */
export function price(payment: Payment, account: Account, faults: Faults, before: number): Priced {
	if (payment.method === 'bank redirect')
		return priceBy(payment, 'EUR', account.zone, 0.0006, {
			label: 'BANK',
			share: TARIFF.BANK.PCT,
			plus: TARIFF.BANK.EACH,
			exchange: TARIFF.EXCHANGE,
			each: true,
			back: 'nothing'
		});
	const { scheme, funding, issuedIn } = payment.card!;
	const place = regionOf(issuedIn, account.country);
	const cost =
		TARIFF.COSTS.find((one) => one[0] === scheme && one[1] === funding && one[2] === place) ??
		TARIFF.COSTS.find((one) => one[0] === scheme && one[1] === 'commercial' && one[2] === 'far')!;
	const step = TARIFF.MARKUP.find((one) => one.UPTO === null || before < Number(one.UPTO.replace('.', '')))!;
	return priceBy(payment, 'EUR', account.zone, 0.0006, {
		label: `${scheme}/${funding}/${place}`.toUpperCase(),
		share: faults.wrongFee ? '0.55' : step.PCT,
		plus: step.EACH,
		passedOn: { interchange: cost[3], scheme: cost[4] },
		exchange: TARIFF.EXCHANGE,
		each: true,
		back: 'nothing'
	});
}
