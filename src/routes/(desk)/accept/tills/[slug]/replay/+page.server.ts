import { formatDay } from '$lib/core/calendar';
import { formatAmount } from '$lib/core/money';
import { foundTill } from '$lib/server/accept/found';
import { lineUpsOf } from '$lib/server/accept/lineups';
import { beginReplay, PERIODS } from '$lib/server/accept/replay';
import { resultWithin } from '$lib/server/jobs';
import type { PageServerLoad } from './$types';

const PATIENCE_MS = 150;

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
	depends('live:tills');
	const { row } = await foundTill(params.slug);
	const { draft, published } = await lineUpsOf(row.id);
	const days = PERIODS.find((one) => String(one) === url.searchParams.get('days')) ?? 90;
	const common = {
		till: { slug: row.slug, name: row.name, mode: row.mode },
		days,
		periods: PERIODS,
		hasDraft: !!draft,
		number: published?.row.number
	};
	if (!published) return common;
	const job = await beginReplay(row, published.offers, draft?.offers ?? published.offers, days);
	const result = await resultWithin(job, PATIENCE_MS);
	if (!result) return { ...common, pending: { key: job.key, ...job.progress } };
	const say = (minor: number, currency: string) => formatAmount({ minor, currency }, locals.locale);
	return {
		...common,
		result: {
			...result,
			verdicts: result.verdicts.map((one) => ({
				verdict: one.verdict,
				count: one.count,
				sums: one.sums.map((sum) => say(sum.minor, sum.currency)),
				rows: (result.rows[one.verdict] ?? []).map((behind) => ({
					day: formatDay(behind.day, locals.locale),
					amount: say(behind.minor, behind.currency),
					way: behind.way,
					href: `/takings/payments/${behind.row}`
				}))
			})),
			fees: result.fees.map((one) => ({
				currency: one.currency,
				count: one.count,
				before: say(one.before, one.currency),
				after: say(one.after, one.currency),
				difference: say(one.after - one.before, one.currency),
				dearer: one.after > one.before
			})),
			rows: undefined
		}
	};
};
