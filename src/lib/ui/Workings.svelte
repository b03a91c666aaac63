<script lang="ts">
	import type { Working } from '$lib/core/workings';
	import { page } from '$app/state';
	import type { Snippet } from 'svelte';
	import { useMargin } from './workings.svelte';
	import WorkingSteps from './WorkingSteps.svelte';

	interface Props {
		/** what the margin says as long as nothing was asked for; what is worth knowing of the section where a page has nothing of its own */
		first?: Working;
		/** how what is on the page comes about, for those who ask */
		how?: Working;
		children?: Snippet;
	}
	const { first, how, children }: Props = $props();
	const margin = useMargin();
	const own = $derived(first ?? (children ? undefined : (page.data.worth as Working | undefined)));
	const working = $derived(margin.shown ?? own);
</script>

{#if margin.folded}
	<aside class="workings !p-0" aria-label="Workings, folded">
		<button
			class="h-full w-full cursor-pointer text-[12px]"
			onclick={() => (margin.folded = false)}
			aria-label="Unfold the workings (w)"
		>
			<span class="quiet sm:[writing-mode:vertical-rl]">Workings</span>
		</button>
	</aside>
{:else}
	<!-- svelte-ignore a11y_no_noninteractive_tabindex (a margin that scrolls must be reachable by keyboard) -->
	<aside class="workings" aria-label="Workings" aria-live="polite" tabindex="0">
		{#if margin.help}
			<h2>{margin.help.title}</h2>
			<p class="mt-1">{margin.help.what}</p>
			{#if margin.help.where}<p class="step !block mt-3">
					<span class="sub">Where to find it</span>{margin.help.where}
				</p>{/if}
			{#if margin.help.looks}<p class="step !block">
					<span class="sub">What it looks like</span>{margin.help.looks}
				</p>{/if}
		{/if}
		{#if working}
			{#if !margin.help}
				<WorkingSteps {working} />
				{#if margin.shown && (own || children)}
					<p class="mt-3">
						<button class="why" onclick={() => margin.rest()}>Back to what is so now</button>
					</p>
				{/if}
			{/if}
		{:else if children}
			<!-- what a page works out for itself stays under the help of a field -->
			<div class:mt-5={!!margin.help}>{@render children()}</div>
		{/if}
		{#if how && !margin.shown && !margin.help}
			<p class="border-rule mt-4 border-t pt-2">
				<button class="why" onclick={() => margin.show(() => how)}>{how.title}</button>
			</p>
		{/if}
	</aside>
{/if}
