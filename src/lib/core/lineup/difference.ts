import { formatAmount, formatNumber } from '../money';
import type { LineUp, Offer } from './lineup';
import { coverageRuler } from './ruler';
import type { Context, States } from './states';

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/**
 * What a draft changes, in sentences. An unchanged line-up gives none.
 * @param carrierNames id → name of connections and offline methods
 */
export function differences(
	before: LineUp,
	after: LineUp,
	carrierNames: Readonly<Record<string, string>>,
	locale: string
): string[] {
	const says: string[] = [];
	const old = new Map(before.map((offer, order) => [offer.id, { offer, order }]));
	for (const offer of after) if (!old.has(offer.id)) says.push(`${offer.name} is new.`);
	for (const offer of before)
		if (!after.some((one) => one.id === offer.id)) says.push(`${offer.name} is no longer offered.`);
	const kept = after.filter((offer) => old.has(offer.id));
	const orderBefore = before.filter((offer) => kept.some((one) => one.id === offer.id)).map((offer) => offer.id);
	kept.forEach((offer, index) => {
		const from = orderBefore.indexOf(offer.id);
		if (index < from) says.push(`${offer.name} moves up to ${index + 1}.`);
	});
	for (const offer of kept) says.push(...offerDifferences(old.get(offer.id)!.offer, offer, carrierNames, locale));
	return says;
}

function offerDifferences(a: Offer, b: Offer, names: Readonly<Record<string, string>>, locale: string): string[] {
	const says: string[] = [];
	if (a.name !== b.name) says.push(`${a.name} is now called ${b.name}.`);
	if (a.on !== b.on) says.push(`${b.name} is switched ${b.on ? 'on' : 'off'}.`);
	const [had, has] = [Object.keys(a.routes), Object.keys(b.routes)];
	const gone = had.filter((code) => !has.includes(code));
	const come = has.filter((code) => !had.includes(code));
	if (gone.length) says.push(`${b.name} no longer takes ${gone.join(', ')}.`);
	if (come.length) says.push(`${b.name} now takes ${come.join(', ')}.`);
	// what is the same for several currencies is said once
	const said = new Map<string, string[]>();
	const note = (code: string, text: string) => said.set(text, [...(said.get(text) ?? []), code]);
	for (const code of has.filter((one) => had.includes(one))) {
		const [x, y] = [a.routes[code]!, b.routes[code]!];
		if (!same(x.first, y.first)) note(code, `now goes through ${names[y.first.id] ?? 'another route'}.`);
		if (!same(x.standby, y.standby))
			note(code, y.standby ? `has ${names[y.standby.id] ?? 'another route'} standing by.` : 'has no standby any more.');
	}
	for (const [text, codes] of said) says.push(`${b.name} in ${codes.join(', ')} ${text}`);
	if (!same(a.cardTypes, b.cardTypes)) says.push(`${b.name} takes other card types.`);
	if (!same(a.conditions.amounts, b.conditions.amounts)) {
		const bounds = b.conditions.amounts
			.flatMap(({ currency, minimum, maximum }) => [
				minimum === undefined ? '' : `from ${formatAmount({ minor: minimum, currency }, locale)}`,
				maximum === undefined ? '' : `to ${formatAmount({ minor: maximum, currency }, locale)}`
			])
			.filter(Boolean);
		says.push(
			bounds.length ? `${b.name} is now offered ${bounds.join(' and ')}.` : `${b.name} is now offered at any amount.`
		);
	}
	if (!same({ ...a.conditions, amounts: [] }, { ...b.conditions, amounts: [] }))
		says.push(`${b.name} has other conditions on the payer.`);
	if (a.note !== b.note || a.noteAfter !== b.noteAfter || !same(a.texts, b.texts))
		says.push(`${b.name} says something else to the payer.`);
	return says;
}

/**
 * Where payers meet nothing any more, or something at last, in sentences: “GBP is no longer taken below 10.00 at Web
 * shop.” For a payer of whom nothing is known.
 */
export function rulerDifferences(
	before: LineUp,
	after: LineUp,
	base: Context,
	states: States,
	till: string,
	locale: string
): string[] {
	const says: string[] = [];
	for (const currency of base.tillCurrencies) {
		const context = { ...base, currency };
		const [was, is] = [before, after].map((lineUp) => coverageRuler(lineUp, context, states)) as [
			ReturnType<typeof coverageRuler>,
			ReturnType<typeof coverageRuler>
		];
		const cuts = [...new Set([...was, ...is].map((one) => one.from))].sort((a, b) => a - b);
		const at = (ruler: typeof was, minor: number) =>
			ruler.find((one) => one.from <= minor && (one.to === undefined || minor <= one.to))!.offers.length > 0;
		const stretches: { from: number; to?: number; lost: boolean }[] = [];
		cuts.forEach((from, n) => {
			const next = cuts[n + 1];
			const to = next === undefined ? undefined : next - 1;
			const [had, has] = [at(was, from), at(is, from)];
			if (had === has) return;
			const last = stretches.at(-1);
			if (last && last.to === from - 1 && last.lost === had) stretches[stretches.length - 1] = { ...last, to };
			else stretches.push({ from, to, lost: had });
		});
		for (const { from, to, lost } of stretches) {
			const sum = (minor: number) => formatNumber({ minor, currency }, locale);
			const where =
				to === undefined
					? from <= 1
						? ''
						: ` from ${sum(from)} up`
					: from <= 1
						? ` below ${sum(to + 1)}`
						: ` from ${sum(from)} to ${sum(to)}`;
			says.push(`${currency} is ${lost ? 'no longer taken' : 'now taken'}${where} at ${till}.`);
		}
	}
	return says;
}
