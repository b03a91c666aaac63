import { counted } from '../../core/counted';
import { isPriced, kindAt, priceOne, type PastKind, type Unpriced } from '../../core/fees';
import { amount, formatAmount } from '../../core/money';
import { chargesWithoutContract, db, feeReach, unpricedDays } from '../db';
import { rateFinderOf } from '../payments/fees';
import { contractsOf } from '../ratecards';
import { sayMonth } from './words';

type Why = 'no contract' | Unpriced['reason'] | 'not yet';
const SAYS: Readonly<Record<Why, string>> = {
	'no contract': 'No contract was confirmed for these days.',
	'no line': 'No line of the contract covers them.',
	ambiguous: 'Two lines of the contract fit them equally well.',
	'no rate': 'No exchange rate is known for these days.',
	'no cost': 'The contract’s cost table has no entry for their card type.',
	'not yet': 'They will be priced in a moment.'
};

/** Payments and charges that were not checked, by connection, currency and the reason why. */
export async function notChecked(locale: string) {
	const reach = await feeReach();
	if (!reach) return [];
	const [rows, connections, kinds] = await Promise.all([
		unpricedDays(),
		db.connections.find({}),
		db.paymentKinds.find({})
	]);
	const known = new Map(connections.map((one) => [one.id, one]));
	const kindOf = new Map(kinds.map((one) => [one.id, one as typeof one & PastKind]));
	const whyOf = await reasons([...new Set(rows.map((one) => one.carrier))]);
	const sums = new Map<
		string,
		{ carrier: string; currency: string; why: Why; count: number; fee: number; days: string[] }
	>();
	for (const one of rows) {
		const why = await whyOf(one.carrier, one.kindId, one.from);
		const key = `${one.carrier} ${one.currency} ${why}`;
		const sum = sums.get(key) ?? { carrier: one.carrier, currency: one.currency, why, count: 0, fee: 0, days: [] };
		sums.set(key, sum);
		sum.count += one.count;
		sum.fee += one.fee;
		sum.days = [[sum.days[0] ?? one.from, one.from].sort()[0]!, [sum.days[1] ?? one.to, one.to].sort()[1]!];
	}
	const nameOf = (id: string) => known.get(id)?.name ?? id;
	const line = (
		id: string,
		carrier: string,
		count: string,
		{ minor, currency }: { minor: number; currency: string },
		[from, to]: readonly [string, string],
		why: string
	) => ({
		id,
		connection: nameOf(carrier),
		connectionId: carrier,
		count,
		fee: formatAmount({ minor, currency }, locale),
		from: sayMonth(from, locale),
		to: sayMonth(to, locale),
		why
	});
	return [
		...[...sums].map(([id, { carrier, currency, why, count, fee, days }]) =>
			line(
				id,
				carrier,
				counted(count, 'payment', locale),
				{ minor: fee, currency },
				[days[0]!.slice(0, 7), days[1]!.slice(0, 7)],
				SAYS[why]
			)
		),
		...(await chargesWithoutContract()).map((one) =>
			line(
				`charges ${one.connectionId} ${one.currency}`,
				one.connectionId,
				counted(one.count, 'charge', locale),
				one,
				[one.from, one.to],
				SAYS['no contract']
			)
		)
	];

	/** Why a kind of payment of a connection has no expected fee on a day: each is looked for once. */
	async function reasons(carriers: readonly string[]) {
		const contracts = new Map(await Promise.all(carriers.map(async (id) => [id, await contractsOf(id)] as const)));
		const days = rows.flatMap((one) => [one.from, one.to]).sort();
		const finders = new Map(
			await Promise.all(
				carriers.map(
					async (id) =>
						[id, await rateFinderOf(known.get(id)?.processor ?? '', days[0] ?? '', days.at(-1) ?? '')] as const
				)
			)
		);
		return async (carrier: string, kindId: number | null, day: string): Promise<Why> => {
			const contract = contracts.get(carrier)?.find((one) => one.validFrom <= day);
			const connection = known.get(carrier);
			const kind = kindId === null ? undefined : kindOf.get(kindId);
			if (!contract || !connection || !kind) return 'no contract';
			const { body } = contract;
			const rate = await finders.get(carrier)!(kind.currency, body.settlement, day);
			const priced = priceOne(body, kindAt(kind, body, connection.accountCountry), amount(10_000, kind.currency), rate);
			return isPriced(priced) ? 'not yet' : priced.reason;
		};
	}
}
