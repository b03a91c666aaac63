import { z } from 'zod';
import type { EventKind } from '../../core/stages';
import type { CredentialProblem, Credentials, Fact, Mode, Report } from './contract';

// What is the same in shape at every processor and differs only in its words: told as data by each connector, read here.

// What became of a key

export interface BecameWords {
	readonly done: string;
	readonly working: string;
	readonly never: string;
}

/**
 * The answer to the question after a key.
 * @param at the name under which it says what became of it, @param words its words for that, @param names where status and
 * answer of the act stand
 */
export function settledAs(at: string, words: BecameWords, names = { status: 'status', answer: 'answer' }) {
	const became = new Map<string, 'done' | 'under way' | 'never came'>([
		[words.done, 'done'],
		[words.working, 'under way'],
		[words.never, 'never came']
	]);
	return z
		.object({
			[at]: z.string().refine((word) => became.has(word)),
			[names.status]: z.number().int().optional(),
			[names.answer]: z.unknown().optional()
		})
		.transform((told) => ({
			became: became.get(told[at] as string)!,
			status: told[names.status] as number | undefined,
			answer: told[names.answer]
		}));
}

// Facts of a payment

/** When one thing happened, in milliseconds since 1970; nothing where it has not. */
export interface Happened {
	readonly at: number | undefined;
	/** minor units of the payment's currency */
	readonly minor?: number;
	/** the processor's object it happened to, where that is not the payment itself */
	readonly object?: string;
	readonly says?: string;
}
type Told = Happened | readonly Happened[] | false | undefined;

/** Everything that happened to a payment, in the order in which it is told here. What has no time has not happened. */
export function factsOf(payment: string, told: Partial<Record<EventKind, Told>>): Fact[] {
	const facts: Fact[] = [];
	// a processor that tells one sum tells what was captured, once it is: what was authorised was more, perhaps
	const [authorised, captured] = [told.authorised, told.captured].map((one) => (one ? [one].flat()[0] : undefined));
	const isOneSum = captured?.at !== undefined && authorised?.minor === captured.minor;
	for (const [kind, what] of Object.entries(told) as [EventKind, Told][])
		for (const one of what ? [what].flat() : []) {
			if (one.at === undefined) continue;
			const { at, says, object = payment } = one;
			const minor = kind === 'authorised' && isOneSum ? undefined : one.minor;
			facts.push({ kind, at, object, ...(minor === undefined ? {} : { minor }), ...(says ? { says } : {}) });
		}
	return facts;
}

/** The reports of a notification that tells of one payment, or of a payout and the payments in it. */
export function reportsOf(
	report: Report | undefined,
	payout: { readonly id: string; readonly at: number; readonly payments: readonly [string, string][] } | undefined
): Report[] {
	if (report) return [report];
	if (!payout) return [];
	return payout.payments.map(([processorId, ours]) => ({
		processorId,
		ours,
		facts: factsOf(processorId, { 'paid out': { at: payout.at, object: payout.id } })
	}));
}

// Credentials

/** What a right value of one credential looks like, so that a wrong one is told without asking anybody. */
export interface CredentialForm {
	readonly field: string;
	/** `secret key` */
	readonly called: string;
	/** what is said of an empty box */
	readonly empty: string;
	/** groups: `body` is what may be cut short, `mode` tells test from live */
	readonly form: RegExp;
	/** what is said of a value that is none of these at all */
	readonly unlike: string;
	/** a value of another box in this one */
	readonly swapped?: { readonly looks: RegExp; readonly called: string };
	/** signs in `body`, and where they stand */
	readonly length?: { readonly signs: number; readonly where: string };
	/** whether check signs fit, and what is said where they do not */
	readonly check?: { fits(body: string): boolean; readonly says: string };
	/** which mode the group `mode` tells; undefined where it is none */
	modeOf?(told: string): Mode | undefined;
}

const RISK: Record<Mode, string> = {
	test: 'No real money would ever come.',
	live: 'Real money would be taken.'
};

/** What is wrong with one value, by its form: empty, of another box, unlike, cut or mistyped, of the other mode. */
function inspectOne(form: CredentialForm, value: string, mode: Mode): CredentialProblem | undefined {
	const { field, called, swapped, length, check, modeOf } = form;
	const no = (code: CredentialProblem['code'], says: string): CredentialProblem => ({ code, field, says });
	if (!value) return no('empty', form.empty);
	if (swapped?.looks.test(value))
		return no('swapped', `This is a ${swapped.called}, in the box for the ${called}. The two are swapped.`);
	const match = form.form.exec(value);
	if (!match) return no('unknown', form.unlike);
	const { body = '', mode: letter = '' } = match.groups ?? {};
	if (length && body.length !== length.signs)
		return no(
			'truncated',
			`The ${called} has ${length.signs} ${length.where}; this has ${body.length}. Copy the whole of it, and nothing else.`
		);
	if (check && !check.fits(body)) return no('truncated', check.says);
	const its = modeOf?.(letter);
	if (modeOf && !its) return no('unknown', form.unlike);
	if (its && its !== mode)
		return no('mode', `This is a ${its} ${called}, and you are connecting for ${mode}. ${RISK[its]}`);
	return undefined;
}

/** Looks at credentials by their forms, one problem a box at most. */
export const inspectBy = (forms: readonly CredentialForm[], given: Credentials, mode: Mode): CredentialProblem[] =>
	forms.map((form) => inspectOne(form, given[form.field] ?? '', mode)).filter((one): one is CredentialProblem => !!one);

/** What a processor's codes for refused credentials mean: the problem, the box it is about, and what is said of it. */
export type ProblemTable = Readonly<
	Record<string, readonly [code: CredentialProblem['code'], field: string, says: string]>
>;

/**
 * A refusal as a problem of credentials.
 * @param field the box that is meant where the code is not in the table
 */
export function problemOf(
	name: string,
	table: ProblemTable,
	field: string,
	told: { readonly code: string; readonly text: string }
): CredentialProblem {
	const known = Object.hasOwn(table, told.code) ? table[told.code] : undefined;
	const [code, box, says] = known ?? (['unknown', field, `${name} refused: ${told.text}`] as const);
	return { code, field: box, says };
}
