import { createHash } from 'node:crypto';
import type { Context, Coverage, CoverageInput, LineUp, Lost } from '../../core/lineup';
import type { TillRow } from '../db';
import { timeNow } from '../signals/clock';
import { inThread } from '../threads';
import { contextOf } from './ask';
import { snapshot, type Snapshot } from './snapshot';
import { domainsOf, tillCurrencies } from './tills';

// Every situation of a till is worked out in another thread, under a budget of steps, and once for all who ask the same:
// whoever opens a till while its situations are being worked out waits for the same answer.

const KEPT = 40;
const answers = new Map<string, Promise<unknown>>();

/** An answer that is kept as long as its question stays the same; what failed is asked again. */
function shared<T>(question: unknown, ask: () => Promise<T>): Promise<T> {
	const key = createHash('sha256').update(JSON.stringify(question)).digest('base64');
	let answer = answers.get(key) as Promise<T> | undefined;
	if (!answer) {
		answer = ask();
		answers.set(key, answer);
		answer.catch(() => answers.delete(key));
		if (answers.size > KEPT) answers.delete(answers.keys().next().value!);
	}
	return answer;
}

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
	return shared(asked, () => inThread('coverage', asked));
}

/** Situations in which something is offered before and nothing after. */
export const lostBetween = (
	before: Pick<CoverageInput, 'lineUp' | 'states'>,
	after: Pick<CoverageInput, 'lineUp' | 'states'>,
	base: Context,
	domains: readonly string[]
): Promise<Lost> => {
	const asked = { before, after, base, domains };
	return shared(asked, () => inThread('lost', asked));
};
