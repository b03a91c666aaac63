import { inZone } from '../../core/calendar';
import { answer, type Answer, type Context, type LineUp } from '../../core/lineup';
import { snapshot, type OpenTill, type Snapshot } from './snapshot';

/** The context of a payer at a till's own page. */
export function contextOf(
	till: Pick<OpenTill, 'row' | 'currencies'>,
	asked: { currency: string; minor: number; country?: string },
	{ business }: Snapshot,
	now: Date
): Context {
	return {
		mode: till.row.mode,
		tillCurrencies: till.currencies,
		currency: asked.currency,
		minor: asked.minor,
		country: asked.country || undefined,
		recurring: false,
		orderedBy: 'page',
		domain: till.row.domain || undefined,
		entry: 'online',
		day: inZone(now, business.timeZone).day
	};
}

/** What a payer would see at a till, with the draft or the published line-up: the very function the payer's page uses. */
export async function askTill(
	till: Pick<OpenTill, 'row' | 'currencies'>,
	lineUp: LineUp,
	asked: { currency: string; minor: number; country?: string }
): Promise<{ answer: Answer; context: Context }> {
	const held = await snapshot();
	const context = contextOf(till, asked, held, new Date());
	return { context, answer: answer(lineUp, context, held.states) };
}
