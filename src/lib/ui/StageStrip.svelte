<script lang="ts">
	/** Four notches: requested, captured, settled, paid out. Filled from the left as money comes nearer. */
	const { notches, broken = 0, stage }: { notches: number; broken?: number; stage: string } = $props();
</script>

<span class="inline-flex items-center gap-2 whitespace-nowrap">
	<span class="strip" aria-hidden="true">
		{#each [1, 2, 3, 4] as n (n)}
			<i
				class:broken={broken === n}
				class:in={n <= notches && broken !== n && !(n === 4)}
				class:home={n === 4 && notches === 4 && broken !== 4}
			></i>
		{/each}
	</span>
	<span>{stage}</span>
</span>
