<script lang="ts">
	import type { Snippet } from 'svelte';

	interface Props {
		label: string;
		/** name of the box that tells the rule */
		name: string;
		value: 'any' | 'only' | 'except';
		/** what is wrong with what is listed, if anything */
		wrong?: string;
		/** the list, shown once the rule asks for one */
		children: Snippet;
	}
	/** A condition: any, only the listed ones, or all but the listed ones. */
	let { label, name, value = $bindable(), wrong, children }: Props = $props();
</script>

<div>
	<label
		><span class="legend">{label}</span><select {name} bind:value>
			<option value="any">any</option><option value="only">only these</option><option value="except"
				>all but these</option
			>
		</select></label
	>
	{#if value !== 'any'}
		{@render children()}
		{#if wrong}<span class="wrong" role="alert">{wrong}</span>{/if}
	{/if}
</div>
