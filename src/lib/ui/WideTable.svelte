<script lang="ts">
	import { onMount, type Snippet } from 'svelte';

	interface Props {
		/** what the table holds, for assistive technology */
		label: string;
		class?: string;
		children: Snippet;
	}
	/** A table of many columns: it scrolls sideways by itself, its first column stays in view, and it says when there is more. */
	const { label, class: more = '', children }: Props = $props();
	let box = $state<HTMLElement>();
	let isWider = $state(false);
	onMount(() => {
		const look = () => (isWider = !!box && box.scrollWidth > box.clientWidth + 2);
		const observer = new ResizeObserver(look);
		observer.observe(box!);
		for (const child of box!.children) observer.observe(child);
		look();
		return () => observer.disconnect();
	});
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex (what scrolls must be reachable by keyboard) -->
<div class="wide-table {more}" role="region" aria-label={label} tabindex={isWider ? 0 : -1} bind:this={box}>
	{@render children()}
</div>
{#if isWider}<p class="quiet mt-1 text-[12px]">There are more columns to the right: scroll sideways.</p>{/if}
