import type { Context, Coverage, CoverageInput, LineUp, Lost } from '../../core/lineup';
import type { TillRow } from '../db';
import { timeNow } from '../signals/clock';
import { shareAnswer } from '../signals/shared';
import { inThread } from '../threads';
import { contextOf } from './ask';
import { snapshot, type Snapshot } from './snapshot';
import { domainsOf, tillCurrencies } from './tills';

// Every situation of a till is worked out in another thread, under a budget of steps, and once for all who ask the same:
// whoever opens a till while its situations are being worked out waits for the same answer. It is stopped when all who
// asked have gone away.

/** A till now, with nothing known of any payer: what every situation of it is made from. */
export function baseOf(till: TillRow, held: Snapshot): Context {
	const currencies = tillCurrencies(till);
	const asked = { currency: currencies[0] ?? '', minor: 1 };
	return contextOf({ row: till, currencies }, asked, held, new Date(timeNow()));
}

/** Every situation of a till, by a line-up of its. */
export async function coverageOf(till: TillRow, offers: LineUp): Promise<Coverage> {
	const held = await snapshot();
	const base = baseOf(till, held);
	const asked: CoverageInput = { lineUp: offers, states: held.states, base, domains: domainsOf(till) };
	return shareAnswer(asked, (stopped) => inThread('coverage', asked, undefined, stopped));
}

/** Situations in which something is offered before and nothing after. */
export const lostBetween = (
	before: Pick<CoverageInput, 'lineUp' | 'states'>,
	after: Pick<CoverageInput, 'lineUp' | 'states'>,
	base: Context,
	domains: readonly string[]
): Promise<Lost> => {
	const asked = { before, after, base, domains };
	return shareAnswer(asked, (stopped) => inThread('lost', asked, undefined, stopped));
};
