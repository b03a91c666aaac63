<script lang="ts">
	import type { Working } from '$lib/core/workings';
	import type { Snippet } from 'svelte';
	import { useMargin } from './workings.svelte';

	/** An underlined figure or verdict: pressing it opens its derivation in the margin. */
	interface Props {
		working: Working;
		/** without the line below it: a mark of a table that has a legend */
		plain?: boolean;
		children: Snippet;
	}
	const { working, plain = false, children }: Props = $props();
	const margin = useMargin();
</script>

<button type="button" class="why" class:plain onclick={() => margin.show(() => working)}>{@render children()}</button>
