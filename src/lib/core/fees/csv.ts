import { REGIONS, type Region } from '../cards';
import { addCost, blankLine, costsOf, type CardForm, type LineForm } from './form';

const isRegion = (text: string): text is Region => (REGIONS as readonly string[]).includes(text);

/** The columns of a rate card as CSV: one row a line, a tier, a cost or a single value. */
export const CARD_COLUMNS = [
	'part',
	'from',
	'method',
	'scheme',
	'funding',
	'region',
	'currency',
	'entry',
	'percentage',
	'fixed',
	'minimum',
	'maximum',
	'value'
] as const;
type Column = (typeof CARD_COLUMNS)[number];
type Row = Partial<Record<Column, string>>;

/** Parts that are one value each, in the order in which they are written. */
const SINGLE = {
	settlement: 'settlement',
	rounding: 'rounding',
	halves: 'mode',
	areas: 'areas',
	tiers: 'tierWay',
	conversion: 'conversion',
	intermediary: 'intermediary',
	monthly: 'monthlyFee',
	'monthly minimum': 'monthlyMinimum',
	'refund keeps': 'keeps',
	'refund fee': 'refundFee',
	'dispute fee': 'disputeFee',
	declined: 'declined',
	payout: 'payout'
} as const satisfies Record<string, keyof CardForm>;

/** A rate card as rows of cells, the header first. Percentages and sums are written as the editor shows them. */
export function cardRows(form: CardForm): string[][] {
	const rows: Row[] = [];
	for (const [part, name] of Object.entries(SINGLE))
		if (part !== 'tiers' || form.tiers.length) rows.push({ part, value: form[name] });
	rows.push({ part: 'dispute fee returned when won', value: form.disputeReturned ? 'yes' : 'no' });
	for (const line of form.lines) rows.push({ part: 'line', ...line });
	for (const tier of form.tiers) for (const line of tier.lines) rows.push({ part: 'tier', from: tier.from, ...line });
	for (const { interchange, schemeFee, ...place } of costsOf(form.costs))
		rows.push({ part: 'cost', ...place, percentage: interchange, value: schemeFee });
	return [[...CARD_COLUMNS], ...rows.map((row) => CARD_COLUMNS.map((column) => row[column] ?? ''))];
}

/**
 * Reads rows of cells, the header first, into the form that a rate card is edited in.
 * @returns what is wrong, by row (the header is row 1), or the form; whether its figures are right the schema says
 */
export function readCardRows(rows: readonly (readonly string[])[]): { form: CardForm } | { troubles: string[] } {
	const header = (rows[0] ?? []).map((cell) => cell.trim().toLowerCase());
	const missing = CARD_COLUMNS.filter((column) => column !== 'value' && !header.includes(column));
	if (missing.length) return { troubles: [`Row 1: the columns ${missing.join(', ')} are missing.`] };
	const form: CardForm = {
		settlement: '',
		rounding: 'total',
		mode: 'half-up',
		areas: '',
		lines: [],
		tierWay: 'band',
		tiers: [],
		costs: [],
		conversion: '',
		intermediary: '',
		monthlyFee: '',
		monthlyMinimum: '',
		keeps: 'all',
		refundFee: '',
		disputeFee: '',
		disputeReturned: false,
		declined: '',
		payout: ''
	};
	const troubles: string[] = [];
	const seen = new Set<string>();
	rows.slice(1).forEach((cells, at) => {
		const cell = (column: Column) => (cells[header.indexOf(column)] ?? '').trim();
		const part = cell('part').toLowerCase();
		const line = (): LineForm =>
			Object.fromEntries(Object.keys(blankLine()).map((name) => [name, cell(name as Column)])) as unknown as LineForm;
		if (part === '' && cells.every((one) => !one.trim())) return;
		if (part === 'line') form.lines.push(line());
		else if (part === 'tier') {
			const from = cell('from');
			const tier = form.tiers.find((one) => one.from === from) ?? form.tiers[form.tiers.push({ from, lines: [] }) - 1]!;
			tier.lines.push(line());
		} else if (part === 'cost') {
			const region = cell('region');
			if (!isRegion(region)) troubles.push(`Row ${at + 2}: “${region}” is no region of a cost.`);
			else
				addCost(form.costs, {
					scheme: cell('scheme'),
					funding: cell('funding'),
					region,
					interchange: cell('percentage') || '0',
					schemeFee: cell('value') || '0'
				});
		} else if (part === 'dispute fee returned when won') form.disputeReturned = /^(yes|true|1)$/i.test(cell('value'));
		else if (Object.hasOwn(SINGLE, part)) {
			if (seen.has(part)) troubles.push(`Row ${at + 2}: ${part} is given twice.`);
			seen.add(part);
			(form as unknown as Record<string, string>)[SINGLE[part as keyof typeof SINGLE]] = cell('value');
		} else troubles.push(`Row ${at + 2}: “${cell('part')}” is no part of a rate card.`);
	});
	if (!seen.has('settlement')) troubles.push('No row gives the settlement currency.');
	return troubles.length ? { troubles } : { form };
}
