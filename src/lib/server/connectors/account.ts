import { plainAmount } from '../../core/money';
import type { Account } from '.';
import { db, StoredAccount } from '../db';

export type { StoredAccount } from '../db';

/** The part of an account that is kept as it was read. */
export const storeAccount = (account: Account): string => JSON.stringify(StoredAccount.parse(account));
export const readAccount = (text: string): StoredAccount => db.connections.json.account(text);

/** What an account can do now and could not before, and the other way round, in sentences. */
export function accountDifferences(
	before: StoredAccount,
	after: StoredAccount,
	nameOf: (method: string) => string
): string[] {
	const says: string[] = [];
	for (const ability of after.abilities) {
		const name = nameOf(ability.method);
		const old = before.abilities.find((one) => one.method === ability.method);
		if (!old) {
			says.push(`${name}: can be carried now.`);
			continue;
		}
		const come = ability.currencies.filter((one) => !old.currencies.includes(one));
		const gone = old.currencies.filter((one) => !ability.currencies.includes(one));
		if (come.length) says.push(`${name}: now in ${come.join(', ')}.`);
		if (gone.length) says.push(`${name}: no longer in ${gone.join(', ')}.`);
		for (const part of ['schemes', 'fundings', 'regions'] as const) {
			const [was, is] = [old.cardTypes?.[part] ?? 'any', ability.cardTypes?.[part] ?? 'any'];
			if (JSON.stringify(was) !== JSON.stringify(is))
				says.push(`${name}: ${part} were ${sayList(was)}, are ${sayList(is)}.`);
		}
		for (const limit of ability.limits) {
			const was = old.limits.find((one) => one.currency === limit.currency);
			if (was && JSON.stringify(was) !== JSON.stringify(limit))
				says.push(`${name}: ${limit.currency} ${sayLimit(limit)} instead of ${sayLimit(was)}.`);
		}
		if (JSON.stringify(old.entries) !== JSON.stringify(ability.entries))
			says.push(`${name}: now for ${ability.entries.join(', ')} payments.`);
	}
	for (const old of before.abilities)
		if (!after.abilities.some((one) => one.method === old.method)) {
			const why = after.unable.find((one) => one.method === old.method);
			says.push(`${nameOf(old.method)}: no longer carried.${why ? ` ${why.says}` : ''}`);
		}
	if (JSON.stringify(before.excludes) !== JSON.stringify(after.excludes))
		says.push(
			after.excludes.length ? `It may not stand beside ${after.excludes.join(', ')}.` : 'It may stand beside any other.'
		);
	if (before.payout.bankDays !== after.payout.bankDays || before.payout.cutOff !== after.payout.cutOff)
		says.push(`Pays out after ${after.payout.bankDays} bank days, cut-off ${after.payout.cutOff}.`);
	if (before.payout.heldUntil !== after.payout.heldUntil)
		says.push(
			after.payout.heldUntil ? `Payouts are held until ${after.payout.heldUntil}.` : 'Payouts are not held any more.'
		);
	if (before.refundDays !== after.refundDays) says.push(`Refunds within ${after.refundDays} days.`);
	return says;
}
type Limit = StoredAccount['abilities'][number]['limits'][number];
const sayLimit = ({ currency, minimum, maximum }: Limit): string =>
	[
		minimum === undefined ? '' : `from ${plainAmount({ minor: minimum, currency })}`,
		maximum === undefined ? '' : `to ${plainAmount({ minor: maximum, currency })}`
	]
		.filter(Boolean)
		.join(' ') || 'any amount';
const sayList = (list: readonly string[] | 'any') => (list === 'any' ? 'any' : list.join(', ') || 'none');
