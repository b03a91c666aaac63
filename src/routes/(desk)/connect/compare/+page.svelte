<script lang="ts">
	import { formatDay } from '$lib/core/calendar';
	import { invalidateAll } from '$app/navigation';
	import { Sheet, Workings } from '$lib/ui';
	import type { ComponentProps } from 'svelte';
	import Compared from './Compared.svelte';
	const { data } = $props();
	type Ready = ComponentProps<typeof Compared>['data'];
	const pending = $derived('pending' in data ? data.pending : undefined);
	let done = $state(0);
	let stopped = $state(false);
	let failed = $state(false);

	// while payments are priced the page asks how far it is, and loads itself anew at the end
	$effect(() => {
		if (!pending) return;
		const { key } = pending;
		done = pending.done;
		const timer = setInterval(async () => {
			const answer = await fetch(`/connect/compare/progress?key=${key}`).catch(() => undefined);
			if (!answer?.ok) return;
			const told = (await answer.json()) as { done: number; ended: boolean; failed: boolean };
			done = told.done;
			if (!told.ended) return;
			clearInterval(timer);
			failed = told.failed;
			if (!stopped && !failed) await invalidateAll();
		}, 250);
		return () => clearInterval(timer);
	});
	async function stop() {
		stopped = true;
		await fetch(`/connect/compare/progress?key=${pending?.key}`, { method: 'DELETE' });
	}
	async function again() {
		stopped = false;
		failed = false;
		await invalidateAll();
	}
</script>

{#if 'mix' in data}
	{#key data.sides.map((side) => side.id).join()}<Compared data={data as Ready} />{/key}
{:else if pending}
	<Sheet
		title="Side by side"
		about="{formatDay(data.period.from, data.locale)} to {formatDay(data.period.to, data.locale)}"
	>
		<section class="note mt-4 max-w-[520px]" aria-live="polite">
			{#if failed}
				<p>
					Something went wrong while the payments were priced. Nothing was changed; if it happens again, tell whoever
					looks after Just Purse.
				</p>
				<button class="button mt-2" onclick={again}>Price the payments again</button>
			{:else if stopped}
				<p>Stopped after {done} of {pending.of} rate cards. Nothing was changed.</p>
				<button class="button mt-2" onclick={again}>Price the payments again</button>
			{:else}
				<p>Pricing the payments through {pending.of} rate cards: {done} done.</p>
				<progress class="mt-2 w-full" max={pending.of} value={done}></progress>
				<button class="button mt-2" onclick={stop}>Stop pricing</button>
			{/if}
		</section>
		<table class="mt-4">
			<thead><tr><th>Compared</th><th>Carries</th><th>Currencies</th><th>To the bank</th><th>A refund</th></tr></thead>
			<tbody>
				{#each data.sides as side (side.id)}<tr
						><td><a class="underline" href={side.href}>{side.name}</a></td><td>{side.terms.carries}</td><td
							>{side.terms.currencies}</td
						><td>{side.terms.bankDays}</td><td>{side.terms.refunds}</td></tr
					>{/each}
			</tbody>
		</table>
	</Sheet>
	<Workings />
{/if}
