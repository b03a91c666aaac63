<script lang="ts">
	import type { Working } from '$lib/core/workings';
	import type { Snippet } from 'svelte';
	import { useMargin } from './workings.svelte';

	/** An underlined figure or verdict: pressing it opens its derivation in the margin. */
	const { working, children }: { working: Working; children: Snippet } = $props();
	const margin = useMargin();
</script>

<button type="button" class="why" onclick={() => margin.show(() => working)}>{@render children()}</button>
