import { inZone } from '../../core/calendar';
import { answer, type Answer, type Context, type LineUp } from '../../core/lineup';
import { db, knownPayer, type TillRow } from '../db';
import { snapshot, type OpenTill, type Snapshot } from './snapshot';
import { timeNow } from '../signals/clock';

/** What is known of one payer and one order. What is left out is not known. */
export interface Asking {
	readonly currency: string;
	readonly minor: number;
	readonly country?: string;
	readonly groups?: readonly string[];
	readonly goods?: string;
	readonly delivery?: string;
	readonly recurring?: boolean;
	readonly orderedBy?: 'page' | 'interface';
	readonly hasOnlineMethod?: boolean;
	readonly domain?: string;
}

/** How payers come to a till of a kind: a card is present at a counter, a plan is paid again and again. */
export const wayOf = (row: Pick<TillRow, 'kind'>): Pick<Context, 'entry' | 'recurring'> => ({
	entry: row.kind === 'counter' ? 'present' : 'online',
	recurring: row.kind === 'plan'
});

/** The context of a payer at a till. */
export function contextOf(
	till: Pick<OpenTill, 'row' | 'currencies'>,
	asked: Asking,
	{ business }: Pick<Snapshot, 'business'>,
	now: Date
): Context {
	const way = wayOf(till.row);
	return {
		mode: till.row.mode,
		tillCurrencies: till.currencies,
		currency: asked.currency,
		minor: asked.minor,
		country: asked.country || undefined,
		groups: asked.groups,
		goods: asked.goods || undefined,
		delivery: asked.delivery || undefined,
		recurring: asked.recurring ?? way.recurring,
		orderedBy: asked.orderedBy ?? 'page',
		hasOnlineMethod: asked.hasOnlineMethod,
		domain: asked.domain || till.row.domain || undefined,
		entry: way.entry,
		day: inZone(now, business.timeZone).day
	};
}

/** What is known of a payer by their mail address: groups, country, whether they have an online method. */
export async function payerFacts(mail: string): Promise<Pick<Asking, 'groups' | 'hasOnlineMethod' | 'country'>> {
	const payer = mail ? await knownPayer(mail) : undefined;
	if (!payer) return {};
	return {
		groups: payer.groups,
		...(payer.onlineMethod === null ? {} : { hasOnlineMethod: payer.onlineMethod === 1 }),
		...(payer.country ? { country: payer.country } : {})
	};
}

/** What a payer would see at a till, with the draft or the published line-up: the very function the payer's page uses. */
export async function askTill(
	till: Pick<OpenTill, 'row' | 'currencies'>,
	lineUp: LineUp,
	asked: Asking
): Promise<{ answer: Answer; context: Context }> {
	const held = await snapshot();
	const context = contextOf(till, asked, held, new Date(timeNow()));
	return { context, answer: answer(lineUp, context, held.states) };
}

/** Groups by id, for naming them. */
export const groupNames = async (): Promise<Record<string, string>> =>
	Object.fromEntries((await db.payerGroups.find({}, { order: [['name', 'ASC']] })).map((row) => [row.id, row.name]));
