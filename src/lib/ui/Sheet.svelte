<script lang="ts">
	import { onMount, type Snippet } from 'svelte';

	interface Props {
		title: string;
		about?: string;
		/** anything in test mode carries the hatched edge and the word */
		test?: boolean;
		acts?: Snippet;
		children: Snippet;
	}
	const { title, about, test = false, acts, children }: Props = $props();
	let sheet = $state<HTMLElement>();
	// on a narrow screen a table scrolls by itself: then it can be reached by keyboard
	onMount(() => {
		const look = () => {
			for (const one of sheet!.querySelectorAll('table, pre'))
				if (one.scrollWidth > one.clientWidth + 2 && getComputedStyle(one).overflowX === 'auto')
					one.setAttribute('tabindex', '0');
				else one.removeAttribute('tabindex');
		};
		const observer = new ResizeObserver(look);
		observer.observe(sheet!);
		look();
		return () => observer.disconnect();
	});
</script>

<svelte:head><title>{title} · Just Purse</title></svelte:head>

<main class="sheet" class:test id="sheet" tabindex="-1" bind:this={sheet}>
	<div class="flex items-center gap-3 max-sm:flex-wrap">
		<div class="max-w-[70%] flex-none">
			<h1>
				{title}{#if test}<span
						class="text-inkblue border-inkblue ml-2 rounded-[3px] border px-1.5 align-[4px] font-sans text-[12px]"
						>Test</span
					>{/if}
			</h1>
		</div>
		{#if acts}<div class="ml-auto flex flex-wrap justify-end gap-2">{@render acts()}</div>{/if}
	</div>
	{#if about}<p class="quiet">{about}</p>{/if}
	{@render children()}
</main>
