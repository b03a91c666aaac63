/** One step of a derivation, as an interface shows it. */
export interface WorkingStep {
	readonly mark?: 'yes' | 'no';
	readonly title: string;
	readonly sub?: string;
	readonly sum?: string;
	/** reasons, each with where it can be changed */
	readonly reasons?: readonly {
		readonly text: string;
		readonly link?: { readonly href: string; readonly label: string };
		/** what is so for the same reason */
		readonly under?: readonly string[];
	}[];
	/** where the input can be changed or seen */
	readonly link?: { readonly href: string; readonly label: string };
	readonly total?: boolean;
}

/** How a figure or a verdict came about. */
export interface Working {
	readonly title: string;
	readonly about?: string;
	readonly steps: readonly WorkingStep[];
	readonly end?: { readonly tone: 'brass' | 'clay' | 'moss' | 'blue'; readonly text: string };
}

/** One part of a verdict: words, or a figure that opens how it came about, or a way to what is to be done. */
export interface VerdictPart {
	readonly text: string;
	readonly working?: Working;
	readonly href?: string;
	readonly tone?: 'clay' | 'moss';
}
/** The answer of a screen in one sentence or two, computed; each part opens its workings. */
export type Verdict = readonly VerdictPart[];
