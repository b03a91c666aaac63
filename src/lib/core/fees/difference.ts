import { formatNumber } from '../money';
import type { RateCard, RateLine } from './rateCard';
import { percent, sayLine } from './words';

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/**
 * What a rate card changes against the one before it, in sentences; none where they are alike.
 * @param locale BCP 47, for the figures
 */
export function cardDifferences(before: RateCard, after: RateCard, locale: string): string[] {
	const says: string[] = [];
	const sum = (minor: number | undefined) =>
		minor === undefined ? 'none' : formatNumber({ minor, currency: after.settlement }, locale);
	if (before.settlement !== after.settlement)
		says.push(`It settles in ${after.settlement}, no longer in ${before.settlement}.`);
	const price = (line: RateLine) =>
		`${percent(line.percentage, locale)} + ${sum(line.fixed)}${line.minimum === undefined ? '' : `, at least ${sum(line.minimum)}`}${line.maximum === undefined ? '' : `, at most ${sum(line.maximum)}`}`;
	const lines = (had: readonly RateLine[], has: readonly RateLine[], where: string) => {
		const key = (line: RateLine) => sayLine(line);
		for (const line of has) {
			const was = had.find((one) => key(one) === key(line));
			if (!was) says.push(`${where}New line for ${key(line)}: ${price(line)}.`);
			else if (price(was) !== price(line)) says.push(`${where}${key(line)}: ${price(line)}, was ${price(was)}.`);
		}
		for (const line of had)
			if (!has.some((one) => key(one) === key(line))) says.push(`${where}The line for ${key(line)} is gone.`);
	};
	lines(before.lines, after.lines, '');
	const tiers = Math.max(before.tiers?.steps.length ?? 0, after.tiers?.steps.length ?? 0);
	for (let at = 0; at < tiers; at++) {
		const [was, is] = [before.tiers?.steps[at], after.tiers?.steps[at]];
		if (!is) says.push(`Tier ${at + 1} is gone.`);
		else if (!was) says.push(`Tier ${at + 1} is new: from ${sum(is.from)} a month.`);
		else {
			if (was.from !== is.from) says.push(`Tier ${at + 1} begins at ${sum(is.from)}, was ${sum(was.from)}.`);
			lines(was.lines, is.lines, `Tier ${at + 1}, `);
		}
	}
	const value = (what: string, was: string, is: string) => {
		if (was !== is) says.push(`${what}: ${is}, was ${was}.`);
	};
	value('Another currency', percent(before.conversion, locale), percent(after.conversion, locale));
	value('Intermediary', percent(before.intermediary, locale), percent(after.intermediary, locale));
	value('A month', sum(before.monthly.fee), sum(after.monthly.fee));
	value('A month, at least', sum(before.monthly.minimum), sum(after.monthly.minimum));
	value('A refund', sum(before.refund.fee), sum(after.refund.fee));
	value('When refunded it keeps', before.refund.keeps, after.refund.keeps);
	value('A dispute', sum(before.dispute.fee), sum(after.dispute.fee));
	value('A declined attempt', sum(before.declined), sum(after.declined));
	value('A payout', sum(before.payout), sum(after.payout));
	value('Rounding', `${before.rounding}, ${before.mode}`, `${after.rounding}, ${after.mode}`);
	if (!same(before.areas, after.areas)) says.push('Other countries count as regional.');
	if (!same(before.costs, after.costs)) {
		const key = (one: { scheme: string; funding: string; region: string }) =>
			`${one.scheme} ${one.funding} ${one.region}`;
		const had = new Map((before.costs ?? []).map((one) => [key(one), one]));
		const changed = (after.costs ?? []).filter((one) => !same(one, had.get(key(one))));
		const gone = (before.costs ?? []).filter((one) => !(after.costs ?? []).some((other) => key(other) === key(one)));
		says.push(
			`The cost table differs in ${changed.length + gone.length} ${changed.length + gone.length === 1 ? 'entry' : 'entries'}${changed[0] ? `, ${key(changed[0])} among them` : ''}.`
		);
	}
	return says;
}
