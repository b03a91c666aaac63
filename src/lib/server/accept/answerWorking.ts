import { failedChecks, foldReasons, sayFact, sayTypes, type Answer, type Rule } from '../../core/lineup';
import { formatAmount } from '../../core/money';
import type { Working } from '../../core/workings';
import { snapshot } from './snapshot';

/** Where the setting that a check failed on can be changed. */
function linkOf(
	rule: Rule,
	slug: string,
	offerId: string,
	carrier: { kind: string; id: string } | undefined
): { href: string; label: string } | undefined {
	const offer = `/accept/tills/${slug}/offers/${offerId}`;
	switch (rule) {
		case 'on':
		case 'amount':
		case 'payer':
		case 'card types':
		case 'beside':
			return { href: offer, label: 'Change the offer' };
		case 'method':
			return { href: '/accept/pauses', label: 'See what is paused' };
		case 'domain':
			return { href: '/connect/domains', label: 'See the domains' };
		case 'currency':
			return { href: `/accept/tills/${slug}/settings`, label: 'Change the till’s currencies' };
		case 'route':
		case 'account':
			return carrier?.kind === 'connection'
				? { href: `/connect/connections/${carrier.id}`, label: 'See the connection' }
				: carrier
					? { href: `/connect/offline/${carrier.id}`, label: 'See the offline method' }
					: { href: offer, label: 'Change the offer' };
	}
}

/** What one payer is offered and what is withheld, with every reason, for the margin. */
export async function answerWorking(
	answer: Answer,
	slug: string,
	asked: { currency: string; minor: number; country?: string },
	which: string,
	locale: string
): Promise<Working> {
	const { schemeNames } = await snapshot();
	const sum = formatAmount(asked, locale);
	const steps = [
		...answer.offered.map((one) => ({
			order: one.order,
			mark: 'yes' as const,
			title: one.offer.name,
			sub: `Offered${one.standby ? ' through its standby' : ''}. ${
				one.types
					? sayTypes(one.types, schemeNames)
					: (one.checks ?? [])
							.filter((check) => check.rule === 'amount')
							.map((check) => sayFact(check.fact, locale))
							.join(' ')
			}`
		})),
		...answer.withheld.map((one) => {
			const failed = failedChecks(one.checks);
			const route = Object.values(one.offer.routes)[0]?.first;
			return {
				order: one.order,
				mark: 'no' as const,
				title: one.offer.name,
				reasons: foldReasons(failed).map(({ check, under }) => ({
					text: sayFact(check.fact, locale),
					link:
						check.fact.code === 'no-route'
							? { href: `/accept/tills/${slug}/offers/${one.offer.id}`, label: 'Set a route' }
							: linkOf(check.rule, slug, one.offer.id, route),
					under: under.map((each) => sayFact(each.fact, locale))
				}))
			};
		})
	].sort((a, b) => a.order - b.order);
	return {
		title: answer.offered.length
			? `Offered at ${sum}: ${answer.offered.length} of ${steps.length}`
			: `Why nothing at ${sum}`,
		about: `A payer ${asked.country ? `in ${asked.country}` : 'of an unknown country'}, one-time, now, ${which}`,
		steps,
		end: answer.offered.length ? undefined : { tone: 'clay', text: 'This payer would meet an empty checkout.' }
	};
}
