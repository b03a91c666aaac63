import type { RunningStandin, StandinOptions } from './serve.ts';

/** What a test of its connector does at it that only its own payers or forgers do. */
export interface Trial {
	/** credentials of the right form that it never gave */
	unknown(given: Readonly<Record<string, string>>): Readonly<Record<string, string>>;
	/** amounts that each of its methods is tried with, in minor units; the first for everything */
	readonly amounts: Readonly<Record<string, readonly { readonly minor: number; readonly currency: string }[]>>;
	/** the method whose money can be held first, where it is not the first one */
	readonly holds?: string;
	/** the public value that opens its card fields, where it has any */
	fields?(given: Readonly<Record<string, string>>): string;
}

/** What demo, tests, ports and consoles need to know of a stand-in. Each tells it itself, in its `index.ts`. */
export interface Manifest {
	readonly name: string;
	/** the port that it has by default */
	readonly port: number;
	start(options: StandinOptions): Promise<RunningStandin>;
	/** the account that its console shows first; a stand-in without one is no processor */
	readonly account?: string;
	/** of its console */
	readonly signIn?: { readonly mail: string; readonly password: string };
	/** boxes of the form in which its keys are given, with the kind of key that each takes */
	readonly keys?: Readonly<Record<string, string>>;
	/** what else is chosen when one connects */
	readonly choices?: Readonly<Record<string, string>>;
	/** what a consent is asked for */
	readonly scopes?: readonly string[];
	/** what is changed at its account before it can be connected */
	readonly beforeConnecting?: Readonly<Record<string, unknown>>;
	/** events that are ticked by hand at its console, where it has no interface for it */
	readonly tickedByHand?: readonly string[];
	/** how its connector is tried; every processor has one */
	readonly trial?: Trial;
	/** whether it knows the payments of the last sixty days when a demo begins */
	readonly remembers?: boolean;
}
