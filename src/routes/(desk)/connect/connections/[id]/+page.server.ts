import { percent, sayLine } from '$lib/core/fees';
import { methodName } from '$lib/core/lineup';
import { formatNumber } from '$lib/core/money';
import { readAccount } from '$lib/server/connectors/account';
import { changesOf, reread, seeChanges, setPaused } from '$lib/server/connect/connections';
import { readGiven } from '$lib/server/speak/credentials';
import { foundConnection } from '$lib/server/connect/found';
import { takenBy, usesOf } from '$lib/server/accept/usage';
import { connectorOf } from '$lib/server/connectors';
import { newestCard } from '$lib/server/ratecards';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

/** How far back the use of a connection is told, in days. */
const USE_DAYS = 90;

export const load: PageServerLoad = async ({ params, locals, url, depends }) => {
	depends('live:connections');
	const row = await foundConnection(params.id);
	const account = readAccount(row.account);
	const connector = connectorOf(row.processor);
	const [newest, { changes, differences }, uses, taken] = await Promise.all([
		newestCard(row.id),
		changesOf(row.id),
		usesOf({ kind: 'connection', id: row.id }),
		takenBy(row.id, USE_DAYS)
	]);
	const card = newest?.body;
	const given = readGiven(row.given);
	const say = (minor: number, currency: string) => formatNumber({ minor, currency }, locals.locale);
	return {
		isNew: url.searchParams.has('new'),
		given: [
			...connector.fields
				.filter((one) => !one.secret)
				.map((one) => ({ label: one.label, value: given[one.name] ?? '' })),
			...(connector.chooser
				? [
						{
							label: connector.chooser.what === 'account' ? 'Account' : 'Tier',
							value: given[connector.chooser.name] ?? ''
						}
					]
				: [])
		],
		secretName: connector.fields.find((one) => one.secret)?.label ?? 'Consent',
		account,
		limits: account.abilities.map((ability) =>
			ability.limits.map(
				({ currency, minimum, maximum }) =>
					`${currency} ${minimum === undefined ? '' : say(minimum, currency)} to ${maximum === undefined ? 'any' : say(maximum, currency)}`
			)
		),
		card: card && {
			validFrom: newest!.validFrom,
			source: newest!.isConfirmed ? newest!.source : `${newest!.source}, not confirmed`,
			settlement: card.settlement,
			lines: card.lines.map((line) => ({
				what: sayLine(line),
				percent: percent(line.percentage, locals.locale),
				fixed: say(line.fixed, card.settlement),
				bounds: [
					line.minimum === undefined ? '' : `at least ${say(line.minimum, card.settlement)}`,
					line.maximum === undefined ? '' : `at most ${say(line.maximum, card.settlement)}`
				]
					.filter(Boolean)
					.join(', ')
			})),
			tiers: (card.tiers?.steps ?? []).map((step) => ({
				from: say(step.from, card.settlement),
				lines: step.lines.map(
					(line) => `${sayLine(line)}: ${percent(line.percentage, locals.locale)} + ${say(line.fixed, card.settlement)}`
				)
			})),
			interchange: card.costs?.length ?? 0,
			monthly: card.monthly.fee ? say(card.monthly.fee, card.settlement) : '',
			conversion: percent(card.conversion, locals.locale),
			keeps: card.refund.keeps,
			refundFee: card.refund.fee ? say(card.refund.fee, card.settlement) : ''
		},
		taken: {
			days: USE_DAYS,
			count: taken.reduce((all, one) => all + one.count, 0),
			came: taken.reduce((all, one) => all + one.paid, 0),
			sums: taken
				.filter((one) => one.taken)
				.map(({ method, currency, paid, taken: minor }) => ({
					method: methodName(method),
					count: paid,
					sum: `${say(minor, currency)} ${currency}`
				}))
		},
		changes: changes.map(({ at, change, why }) => ({ at, change, why })),
		differences: differences.map(({ at, says, seenAt }) => ({ at, says, isNew: seenAt === null })),
		usedBy: [...new Map(uses.map((one) => [one.till.slug, one.till.name]))].map(([slug, name]) => ({
			slug,
			name,
			methods: [...new Set(uses.filter((one) => one.till.slug === slug).map((one) => methodName(one.offer.method)))]
		}))
	};
};

export const actions: Actions = {
	reread: async ({ params, locals }) => {
		const result = await reread(await foundConnection(params.id), locals.user!.name);
		if ('trouble' in result) return fail(502, { trouble: result.trouble });
		return { says: result.says.length ? result.says.join(' ') : 'Read again: nothing is different.' };
	},
	seen: async ({ params }) => {
		await seeChanges(await foundConnection(params.id));
		return { says: 'Noted.' };
	},
	pause: async ({ params, locals }) => {
		const row = await foundConnection(params.id);
		await setPaused(row, !row.paused, locals.user!.name);
		return {
			says: row.paused
				? `${row.name} is in use again.`
				: `${row.name} is paused: tills go to the standby, or withhold what it carried.`
		};
	}
};
