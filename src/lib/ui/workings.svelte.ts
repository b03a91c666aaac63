import type { Working } from '$lib/core/workings';
import { getContext, setContext } from 'svelte';

/** What the margin says while a field has focus. */
export interface FieldHelp {
	readonly title: string;
	/** what it is */
	readonly what: string;
	/** where the processor, the bank or the payer shows it */
	readonly where?: string;
	/** what a right value looks like */
	readonly looks?: string;
}

/** The workings margin of one desk: what was asked for last, the help of the focused field, folded or not. */
export class WorkingsMargin {
	/** read anew at every look, so that a figure that moves takes its derivation along */
	private asked = $state<() => Working>();
	readonly shown = $derived(this.asked?.());
	help = $state<FieldHelp>();
	folded = $state(false);

	show(working: () => Working) {
		this.asked = working;
		this.help = undefined;
		this.folded = false;
	}

	/** Back to what the page itself has to say. */
	rest() {
		this.asked = undefined;
	}
}

const KEY = Symbol('workings');
export const makeMargin = (): WorkingsMargin => setContext(KEY, new WorkingsMargin());
export const useMargin = (): WorkingsMargin => getContext(KEY);
