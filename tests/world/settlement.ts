/** One captured payment in a settlement file of the tests. Sums are minor units. */
export interface FileLine {
	readonly id: string;
	/** milliseconds since 1970 */
	readonly at: number;
	readonly minor: number;
	readonly fee: number;
	readonly refunded?: number;
	readonly disputed?: number;
	readonly source?: string;
	readonly scheme?: string;
	readonly funding?: string;
	readonly issuer?: string;
	/** what was paid in; EUR where it is not told */
	readonly currency?: string;
	readonly method?: string;
	/** what we called it */
	readonly reference?: string;
}
/** A refund, a dispute, a charge of the account or a payout that is a line of its own. */
export interface OtherFileLine {
	readonly id: string;
	readonly at: number;
	readonly outcome: 'refund' | 'dispute' | 'dispute won' | 'adjustment' | 'monthly' | 'payout';
	readonly minor: number;
	readonly fee: number;
	readonly of?: string;
}

const HEADER =
	'payment,captured_at,source,method,currency,amount_minor,entry,scheme,funding,issuer,fee_currency,fee_minor,base_minor,rate,refunded_minor,disputed_minor,ordered_at,outcome,reason,of_payment,reference';

/** A settlement file in EUR, with its totals. */
export function settlementFile(lines: readonly FileLine[], others: readonly OtherFileLine[] = []): string {
	const time = (at: number) => new Date(at).toISOString();
	const sum = <T>(list: readonly T[], of: (one: T) => number) => list.reduce((all, one) => all + of(one), 0);
	const total = (outcome: string, count: number, minor: number, fees: number, currency = 'EUR') =>
		`total,,${count},,${currency},${minor},,,,,EUR,${fees},,,,,,${outcome},,,`;
	const kinds = [...new Set(others.map((one) => one.outcome))];
	const currencies = [...new Set(lines.map((one) => one.currency ?? 'EUR'))];
	return `${[
		HEADER,
		...lines.map(
			({
				id,
				at,
				minor,
				fee,
				refunded = 0,
				disputed = 0,
				source = 'Web shop',
				scheme = 'corvid',
				funding = 'debit',
				issuer = 'BE',
				reference = '',
				currency = 'EUR',
				method = 'card'
			}) =>
				`${id},${time(at)},${source},${method},${currency},${minor},online,${scheme},${funding},${issuer},EUR,${fee},${minor},${currency === 'EUR' ? '' : 1},${refunded},${disputed},,captured,,,${reference}`
		),
		...others.map(
			({ id, at, outcome, minor, fee, of = '' }) =>
				`${id},${time(at)},,,EUR,${minor},,,,,EUR,${fee},,,,,,${outcome},,${of},`
		),
		...currencies.map((currency) => {
			const mine = lines.filter((one) => (one.currency ?? 'EUR') === currency);
			return total(
				'captured',
				mine.length,
				sum(mine, (one) => one.minor),
				sum(mine, (one) => one.fee),
				currency
			);
		}),
		...kinds.map((kind) => {
			const mine = others.filter((one) => one.outcome === kind);
			return total(
				kind,
				mine.length,
				sum(mine, (one) => one.minor),
				sum(mine, (one) => one.fee)
			);
		})
	].join('\n')}\n`;
}
