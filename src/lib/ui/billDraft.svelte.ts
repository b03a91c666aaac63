import {
	AmountError,
	exponentOf,
	formatNumber,
	localDecimal,
	plainAmount,
	readTypedAmount,
	readTypedDecimal
} from '$lib/core/money';
import type { BillContent, LineForm } from '$lib/core/billing';
import { makeDues, type Due, type DuePlan } from '$lib/core/billing/dues';
import { inputOf, purposeOf } from '$lib/core/billing/purpose';
import {
	approvalProblems,
	sumBill,
	sumsWorking,
	type BillSums,
	type DocumentDiscount,
	type TaxCategory
} from '$lib/core/billing/sums';
import type { Working } from '$lib/core/workings';

/** A line as it is typed. */
export interface TypedLine {
	text: string;
	quantity: string;
	unit: string;
	price: string;
	off: string;
	/** the tax by its category and rate, `standard 210000` */
	tax: string;
	item: string;
	key: number;
}
export interface ListedItem {
	readonly id: string;
	readonly code: string;
	readonly name: string;
	readonly unit: string;
	readonly category: TaxCategory;
	readonly rate: number;
	readonly pricing: 'without tax' | 'with tax';
	readonly prices: readonly { readonly currency: string; readonly price: string }[];
}
let keys = 0;
const taxKey = (category: string, rate: number) => `${category} ${rate}`;

/** A document while it is written: what was typed, what it means so far, its sums. */
export class BillDraft {
	lines = $state<TypedLine[]>([]);
	currency = $state('EUR');
	pricing = $state<'without tax' | 'with tax'>('with tax');
	off = $state('');
	offName = $state('');
	readonly locale: string;
	private readonly start: BillContent;
	content = $state() as BillContent;
	duePlan = $state<{
		kind: DuePlan['kind'];
		days: string;
		deposit: string;
		rest: string;
		count: string;
		every: string;
		byHand: { day: string; sum: string }[];
	}>({
		kind: 'all at once',
		days: '14',
		deposit: '30 %',
		rest: '30',
		count: '3',
		every: '30',
		byHand: []
	});

	constructor(content: BillContent, currency: string, locale: string) {
		this.locale = locale;
		this.start = content;
		this.currency = currency;
		this.pricing = content.pricing;
		this.content = structuredClone(content);
		this.lines = content.lines.map((line) => this.typed(line));
		const discount = content.discounts[0];
		this.offName = discount?.name ?? '';
		this.off = discount ? this.sayOff(discount.off) : '';
		const plan = content.dues;
		this.duePlan.kind = plan.kind;
		if ('days' in plan) this.duePlan.days = String(plan.days);
		if (plan.kind === 'deposit') {
			this.duePlan.deposit =
				'ppm' in plan.deposit
					? `${plan.deposit.ppm / 10_000} %`
					: formatNumber({ minor: plan.deposit.minor, currency }, locale);
			this.duePlan.rest = String(plan.rest);
		}
		if (plan.kind === 'instalments')
			[this.duePlan.count, this.duePlan.every] = [String(plan.count), String(plan.every)];
		if (plan.kind === 'by hand')
			this.duePlan.byHand = plan.dues.map((due) => ({
				day: due.day,
				sum: formatNumber({ minor: due.minor, currency }, locale)
			}));
		if (!this.lines.length) this.add();
	}

	private sayOff(off: { kind: string; ppm?: number; minor?: number }): string {
		return off.kind === 'percentage'
			? `${localDecimal(String((off.ppm ?? 0) / 10_000), this.locale)} %`
			: formatNumber({ minor: off.minor ?? 0, currency: this.currency }, this.locale);
	}
	private typed(line: LineForm): TypedLine {
		return {
			text: line.text,
			quantity: localDecimal(line.quantity, this.locale),
			unit: line.unit,
			price: localDecimal(line.price, this.locale),
			off: line.discount ? this.sayOff(line.discount) : '',
			tax: taxKey(line.category, line.rate),
			item: line.item ?? '',
			key: ++keys
		};
	}

	/** Adds an empty line, taxed like the one before. */
	add(tax = this.lines.at(-1)?.tax ?? taxKey('standard', 210_000)): void {
		this.lines.push({ text: '', quantity: '1', unit: '', price: '', off: '', tax, item: '', key: ++keys });
	}
	remove(at: number): void {
		this.lines.splice(at, 1);
		if (!this.lines.length) this.add();
	}
	move(at: number, step: -1 | 1): void {
		const to = at + step;
		if (to < 0 || to >= this.lines.length) return;
		const [line] = this.lines.splice(at, 1);
		this.lines.splice(to, 0, line!);
	}

	/** Fills a line in from the price list, where what was typed is a code or a name of it. */
	fill(at: number, items: readonly ListedItem[]): boolean {
		const line = this.lines[at]!;
		const typed = line.text.trim().toLowerCase();
		const found = items.find((one) => one.code.toLowerCase() === typed || one.name.toLowerCase() === typed);
		if (!found || found.id === line.item) return false;
		line.text = found.name;
		line.item = found.id;
		line.unit = found.unit;
		line.tax = taxKey(found.category, found.rate);
		const price = found.prices.find((one) => one.currency === this.currency)?.price;
		if (price !== undefined) line.price = localDecimal(price, this.locale);
		return price !== undefined;
	}

	private readOff(
		typed: string
	): { kind: 'percentage'; ppm: number } | { kind: 'sum'; minor: number } | undefined | 'wrong' {
		const text = typed.trim();
		if (!text) return undefined;
		const share = /^([\d.,]+)\s*%$/.exec(text)?.[1];
		if (share) {
			const number = Number(readTypedDecimal(share, this.locale));
			return number >= 0 && number <= 100 ? { kind: 'percentage', ppm: Math.round(number * 10_000) } : 'wrong';
		}
		try {
			return { kind: 'sum', minor: readTypedAmount(text, this.currency, { locale: this.locale }).amount.minor };
		} catch {
			return 'wrong';
		}
	}

	/** What is wrong with a line, by its box. A line that is empty is no line. */
	wrongOf(line: TypedLine): Partial<Record<'text' | 'quantity' | 'price' | 'off', string>> {
		if (this.isEmpty(line)) return {};
		const wrong: Partial<Record<'text' | 'quantity' | 'price' | 'off', string>> = {};
		if (!line.text.trim()) wrong.text = 'Say what it is.';
		const quantity = readTypedDecimal(line.quantity, this.locale);
		if (!quantity || !(Number(quantity) > 0)) wrong.quantity = 'A quantity above nothing.';
		else if ((quantity.split('.')[1]?.length ?? 0) > 4) wrong.quantity = 'At most four decimals.';
		const price = readTypedDecimal(line.price, this.locale);
		const places = exponentOf(this.currency) + 4;
		if (price === undefined) wrong.price = 'A price, such as ' + localDecimal('12.35', this.locale) + '.';
		else if ((price.split('.')[1]?.length ?? 0) > places) wrong.price = `At most ${places} decimals.`;
		if (this.readOff(line.off) === 'wrong') wrong.off = 'A sum, or a share such as 5 %.';
		return wrong;
	}
	isEmpty = (line: TypedLine): boolean => !line.text.trim() && !line.price.trim();

	/** The lines that can be read. */
	readonly read = $derived.by((): LineForm[] =>
		this.lines.flatMap((line): LineForm[] => {
			if (this.isEmpty(line) || Object.keys(this.wrongOf(line)).length) return [];
			const [category, rate] = line.tax.split(/ (?=\d+$)/) as [TaxCategory, string];
			const off = this.readOff(line.off);
			return [
				{
					text: line.text.trim(),
					quantity: readTypedDecimal(line.quantity, this.locale)!,
					unit: line.unit.trim(),
					price: readTypedDecimal(line.price, this.locale)!,
					category,
					rate: Number(rate),
					...(off && off !== 'wrong' ? { discount: off } : {}),
					...(line.item ? { item: line.item } : {})
				}
			];
		})
	);
	readonly discounts = $derived.by((): DocumentDiscount[] => {
		const off = this.readOff(this.off);
		return off && off !== 'wrong' ? [{ name: this.offName.trim() || 'Discount', off }] : [];
	});
	readonly offWrong = $derived(this.readOff(this.off) === 'wrong' ? 'A sum, or a share such as 5 %.' : '');
	/** Whether something was typed that is not read: it is not in the sums. */
	readonly hasWrong = $derived(
		!!this.offWrong || this.lines.some((line) => Object.keys(this.wrongOf(line)).length > 0)
	);

	readonly sums = $derived.by((): { sums: BillSums } | { problem: string } => {
		try {
			return {
				sums: sumBill(
					inputOf({ pricing: this.pricing, lines: this.read, discounts: this.discounts as never }, this.currency)
				)
			};
		} catch (error) {
			if (!(error instanceof AmountError)) throw error;
			return { problem: error.message };
		}
	});
	readonly total = $derived('sums' in this.sums ? this.sums.sums.total : 0);
	say = (minor: number): string => formatNumber({ minor, currency: this.currency }, this.locale);
	readonly working = $derived.by((): Working | undefined =>
		'sums' in this.sums ? sumsWorking(this.sums.sums, this.pricing, this.locale) : undefined
	);
	sumOf(at: number): string {
		const line = this.lines[at]!;
		if (this.isEmpty(line) || Object.keys(this.wrongOf(line)).length || !('sums' in this.sums)) return '';
		const index = this.lines
			.slice(0, at)
			.filter((one) => !this.isEmpty(one) && !Object.keys(this.wrongOf(one)).length).length;
		const sum = this.sums.sums.lines[index];
		return sum ? this.say(sum.sum) : '';
	}

	readonly plan = $derived.by((): { plan: DuePlan } | { problem: string } => {
		const whole = (text: string, most: number) =>
			/^\d{1,4}$/.test(text.trim()) && Number(text) <= most ? Number(text) : undefined;
		const { kind, byHand } = this.duePlan;
		const days = whole(this.duePlan.days, 3650);
		if (kind !== 'by hand' && days === undefined) return { problem: 'Days are a whole number.' };
		if (kind === 'all at once') return { plan: { kind, days: days! } };
		if (kind === 'deposit') {
			const deposit = this.readOff(this.duePlan.deposit);
			const rest = whole(this.duePlan.rest, 3650);
			if (!deposit || deposit === 'wrong' || rest === undefined)
				return { problem: 'A deposit is a sum or a share, such as 30 %.' };
			return {
				plan: {
					kind,
					days: days!,
					rest,
					deposit: deposit.kind === 'percentage' ? { ppm: deposit.ppm } : { minor: deposit.minor }
				}
			};
		}
		if (kind === 'instalments') {
			const [count, every] = [whole(this.duePlan.count, 120), whole(this.duePlan.every, 366)];
			if (!count || !every) return { problem: '1 to 120 instalments, some days apart.' };
			return { plan: { kind, days: days!, count, every } };
		}
		const dues: Due[] = [];
		for (const { day, sum } of byHand) {
			if (!/^\d{4}-\d{2}-\d{2}$/.test(day)) return { problem: 'Give each due its day.' };
			try {
				dues.push({ day, minor: readTypedAmount(sum, this.currency, { locale: this.locale }).amount.minor });
			} catch (error) {
				return { problem: (error as Error).message };
			}
		}
		if (!dues.length) return { problem: 'Add a due.' };
		return { plan: { kind: 'by hand', dues } };
	});
	/** The dues, if it were approved on a day; or what is wrong with them. */
	dues(today: string): { dues: Due[] } | { problem: string } {
		if ('problem' in this.plan) return this.plan;
		try {
			return { dues: makeDues(this.total, this.plan.plan, today) };
		} catch (error) {
			if (!(error instanceof AmountError)) throw error;
			if (this.plan.plan.kind === 'by hand') {
				const sum = this.plan.plan.dues.reduce((all, one) => all + one.minor, 0);
				return { problem: `The dues add up to ${this.say(sum)}, and the total is ${this.say(this.total)}.` };
			}
			return { problem: error.message };
		}
	}

	/** What keeps it from being approved, as far as the page can tell. */
	readonly problems = $derived.by((): string[] => {
		const problems = approvalProblems({ lines: this.read }, { reason: this.content.reason });
		if ('problem' in this.sums) problems.push(this.sums.problem);
		return problems;
	});
	readonly purpose = $derived(purposeOf(this.read));

	/** What is stored. */
	store(): BillContent {
		return {
			...$state.snapshot(this.content),
			pricing: this.pricing,
			lines: this.read,
			discounts: this.discounts as BillContent['discounts'],
			dues: 'plan' in this.plan ? (this.plan.plan as BillContent['dues']) : this.start.dues
		};
	}
}
export const plainOf = (minor: number, currency: string): string => plainAmount({ minor, currency });
