import { percent, RateCard, sayLine } from '$lib/core/fees';
import { methodName } from '$lib/core/lineup';
import { formatAmount } from '$lib/core/money';
import { newestCard } from '$lib/server/ratecards';
import { accountDifferences, readAccount, storeAccount } from '$lib/server/connectors/account';
import { choicesOf } from '$lib/server/connect/connecting';
import { credentialsOf } from '$lib/server/speak/credentials';
import { foundConnection } from '$lib/server/connect/found';
import { choose, tryChoice } from '$lib/server/connect/keys';
import { consequences } from '$lib/server/accept/usage';
import { connectorOf, ConnectorError } from '$lib/server/connectors';
import { error, fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

/** What other prices would be, line by line. */
async function priceDifferences(connectionId: string, card: RateCard, locale: string): Promise<string[]> {
	const latest = await newestCard(connectionId);
	if (!latest) return [];
	const say = (one: RateCard) =>
		one.lines.map(
			(line) =>
				`${sayLine(line)} ${percent(line.percentage, locale)} + ${formatAmount({ minor: line.fixed, currency: one.settlement }, locale)}`
		);
	const was = say(latest.body);
	return say(card)
		.map((is, i) => (is === was[i] ? '' : `Price: ${is}${was[i] ? ` instead of ${was[i]}` : ''}.`))
		.filter(Boolean);
}

export const load: PageServerLoad = async ({ params, url, depends, locals }) => {
	depends('live:connections');
	const row = await foundConnection(params.id);
	const connector = connectorOf(row.processor);
	if (!connector.chooser) error(404, 'There is nothing to choose at this connection.');
	const credentials = credentialsOf(row);
	const told = await choicesOf(connector, credentials, row.mode);
	const current = credentials[connector.chooser.name] ?? '';
	const wanted = url.searchParams.get('choice') ?? '';
	let trial: { name: string; differences: string[]; consequences: string[]; problem: string } | undefined;
	if (wanted && wanted !== current)
		try {
			const tried = await tryChoice(row, wanted);
			const before = readAccount(row.account);
			trial =
				'problems' in tried
					? {
							name: wanted,
							differences: [],
							consequences: [],
							problem: (tried.problems ?? []).map((one) => one.says).join(' ')
						}
					: {
							name: wanted,
							differences: [
								...(tried.account.settlement === row.settlement
									? []
									: [`Settles in ${tried.account.settlement} instead of ${row.settlement}.`]),
								...accountDifferences(before, readAccount(storeAccount(tried.account)), methodName),
								...(await priceDifferences(row.id, tried.card, locals.locale))
							],
							consequences: await consequences(row.id, tried.account.abilities),
							problem: ''
						};
		} catch (failed) {
			if (!(failed instanceof ConnectorError)) throw failed;
			trial = { name: wanted, differences: [], consequences: [], problem: failed.message };
		}
	return {
		choices: 'choices' in told ? told.choices : [],
		trouble: 'trouble' in told ? told.trouble : '',
		current,
		wanted,
		trial
	};
};

export const actions: Actions = {
	choose: async ({ params, request, locals }) => {
		const row = await foundConnection(params.id);
		const form = await request.formData();
		const choice = String(form.get('choice') ?? '').slice(0, 100);
		const tried = await tryChoice(row, choice).catch((failed: unknown) => {
			if (failed instanceof ConnectorError) return failed;
			throw failed;
		});
		if (tried instanceof ConnectorError) return fail(502, { trouble: tried.message });
		// what it does to tills was shown first, and is meant
		if ('account' in tried && tried.account && form.get('meant') !== 'on') {
			const hurt = await consequences(row.id, tried.account.abilities);
			if (hurt.length) return fail(409, { trouble: 'Nothing was changed yet: tick that you mean it.' });
		}
		const trouble = await choose(row, choice, locals.user!.name);
		if (trouble) return fail(400, { trouble });
		redirect(303, `/connect/connections/${row.id}`);
	}
};
