<script lang="ts">
	/** Four steps: requested, captured, settled, paid out. Filled from the left as money comes nearer. */
	const { reachedStep, brokenStep = 0, stage }: { reachedStep: number; brokenStep?: number; stage: string } = $props();
</script>

<span class="inline-flex items-center gap-2 whitespace-nowrap">
	<span class="strip" aria-hidden="true">
		{#each [1, 2, 3, 4] as n (n)}
			<i
				class:broken={brokenStep === n}
				class:in={n <= reachedStep && brokenStep !== n && !(n === 4)}
				class:home={n === 4 && reachedStep === 4 && brokenStep !== 4}
			></i>
		{/each}
	</span>
	<span>{stage}</span>
</span>
