<script lang="ts">
	import type { Verdict } from '$lib/core/workings';
	import Figure from './Figure.svelte';

	/** The answer of a screen, in its first line; its figures open how they came about. */
	const { verdict }: { verdict: Verdict } = $props();
</script>

<!-- prettier-ignore -->
<p class="verdict" data-verdict
	>{#each verdict as part, at (at)}{#if part.working}<b class:text-clay={part.tone === 'clay'} class:text-moss={part.tone === 'moss'}
				><Figure working={part.working}>{part.text}</Figure></b
			>{:else if part.href}<a class="why" href={part.href}>{part.text}</a>{:else if part.tone}<b
				class:text-clay={part.tone === 'clay'} class:text-moss={part.tone === 'moss'}>{part.text}</b
			>{:else}{part.text}{/if}{/each}</p>
