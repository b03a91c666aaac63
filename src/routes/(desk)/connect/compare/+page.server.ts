import { answerMix, type ByHand } from '$lib/core/fees';
import { askedFor } from '$lib/server/compare/asked';
import { comparison, MANY } from '$lib/server/compare/compare';
import { resultWithin } from '$lib/server/jobs';
import type { StartingMix } from '$lib/server/compare/mix';
import { lookedAt, shownComparison } from '$lib/server/compare/shown';
import type { PageServerLoad } from './$types';

/** Longer than this nobody waits for a page: it shows how far the comparison has come instead. */
const PATIENCE_MS = 150;

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:connections');
	const asked = await askedFor(url.searchParams, locals.locale);
	const { all: sides, chosen, period, capital, homeCurrency } = asked;
	const begun = await comparison(chosen, period, asked.capitalPpm);
	const compared = await resultWithin(begun, begun.payments > MANY && !begun.ended ? 0 : PATIENCE_MS);
	const common = {
		period,
		capital,
		currency: homeCurrency,
		cards: asked.cards,
		all: sides.map(({ id, name, kind, card }) => ({ id, name, kind, fits: card.settlement === homeCurrency })),
		sides: chosen.map(({ id, name, kind, href, terms, validFrom, versions }) => ({
			id,
			name,
			kind,
			href,
			terms,
			validFrom,
			versions: versions?.length
		}))
	};
	if (!compared) return { ...common, pending: { key: begun.key, ...begun.progress } };
	const query = url.searchParams;
	const look = query.get('look');
	const skip = Math.max(0, Math.floor(Number(query.get('skip')) || 0));
	const byHand = byHandOf(query, compared.mix);
	const whole = byHand.shares.reduce((a, b) => a + b, 0) || 1;
	return {
		...common,
		...shownComparison(asked, compared, locals.locale),
		looked: look ? await lookedAt(asked, compared, look, skip, locals.locale) : undefined,
		mix: compared.mix,
		byHand,
		// what the worker of the page answers from then on
		answer: answerMix(compared.mix, {
			...byHand,
			mix: { ...byHand, shares: byHand.shares.map((one) => one / whole) }
		})
	};
};

/** The mix and the break-even of an address, or how they begin. Shares are thousandths. */
function byHandOf(query: URLSearchParams, mix: StartingMix) {
	const within = (text: string | null, least: number, otherwise: number) => {
		const value = Math.round(Number(text));
		return text && value >= least && value <= 1e12 ? value : otherwise;
	};
	const shares = (query.get('shares') ?? '').split('-').map(Number);
	const isShare = (one: number) => one >= 0 && one <= 1000;
	const pair = (query.get('pair') ?? '').split('-').map(Number);
	const isSide = (one: number | undefined): one is number => one !== undefined && one in mix.sides;
	const along = query.get('along');
	const group = Number(along);
	return {
		volume: within(query.get('volume'), 1, mix.volume),
		average: within(query.get('average'), 1, mix.average),
		shares:
			shares.length === mix.groups.length && shares.every(isShare)
				? shares
				: mix.groups.map((one) => Math.round(one.share * 1000)),
		pair: (isSide(pair[0]) && isSide(pair[1]) ? [pair[0], pair[1]] : [0, 1]) as [number, number],
		along: (along === 'average' ? 'average' : along && group in mix.groups ? group : 'volume') as ByHand['along']
	};
}
