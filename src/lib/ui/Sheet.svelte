<script lang="ts">
	import type { Snippet } from 'svelte';

	interface Props {
		title: string;
		about?: string;
		/** anything in test mode carries the hatched edge and the word */
		test?: boolean;
		acts?: Snippet;
		children: Snippet;
	}
	const { title, about, test = false, acts, children }: Props = $props();
</script>

<svelte:head><title>{title} · Just Purse</title></svelte:head>

<main class="sheet" class:test id="sheet" tabindex="-1">
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
