<script lang="ts">
	interface Option {
		readonly value: string;
		readonly name: string;
		/** cannot be chosen now; what it says tells why */
		readonly isOff?: boolean;
	}
	/** A set of things of which any may be chosen, one a line or beside each other. */
	let {
		legend,
		name,
		options,
		chosen = $bindable(),
		wrong,
		inLine = false,
		class: more = ''
	}: {
		legend: string;
		name: string;
		options: readonly Option[];
		chosen: string[];
		wrong?: readonly string[];
		inLine?: boolean;
		class?: string;
	} = $props();
</script>

<fieldset class={more}>
	<legend class="legend">{legend}</legend>
	<div class:ticks={inLine}>
		{#each options as one (one.value)}<label class:block={!inLine} class:quiet={one.isOff}
				><input type="checkbox" {name} value={one.value} bind:group={chosen} disabled={one.isOff} />
				{one.name}</label
			>{/each}
	</div>
	{#if wrong?.length}<span class="wrong" role="alert">{wrong.join(' ')}</span>{/if}
</fieldset>
