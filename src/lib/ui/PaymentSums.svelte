<script lang="ts">
	import type { Working } from '$lib/core/workings';
	import Figure from './Figure.svelte';
	import { useMargin } from './workings.svelte';

	interface ShownSum {
		readonly currency: string;
		readonly count: string;
		readonly asked: string;
		readonly taken: string;
		readonly refunded: string;
		readonly disputed: string;
		readonly left: string;
		readonly working: Working;
	}
	interface Props {
		sums: readonly ShownSum[];
		/** payments of test mode in the list, which are in no sum */
		test: number;
		/** where the list is proven */
		proof: string;
	}
	/** What a list of payments adds up to, a line a currency, and its proof. */
	const { sums, test, proof }: Props = $props();
	const margin = useMargin();
	let proven = $state<{ agrees: boolean; working: Working }>();
	let isProving = $state(false);
	let failed = $state('');

	async function prove() {
		isProving = true;
		failed = '';
		try {
			const answer = await fetch(proof);
			if (!answer.ok) throw new Error(String(answer.status));
			const told = (await answer.json()) as { agrees: boolean; working: Working };
			proven = told;
			margin.show(() => told.working);
		} catch {
			failed = 'It could not be added up just now. Try again.';
		}
		isProving = false;
	}
	// another list has another proof
	$effect(() => {
		void proof;
		proven = undefined;
	});
</script>

{#if sums.length}
	<table class="mt-4" aria-label="Sums of these payments">
		<thead
			><tr
				><th>In all</th><th class="n">Payments</th><th class="n">Asked</th><th class="n">Captured</th><th class="n"
					>Refunded</th
				><th class="n">Disputed</th><th class="n">Left</th></tr
			></thead
		>
		<tbody>
			{#each sums as one (one.currency)}
				<tr
					><td>{one.currency}</td><td class="n">{one.count}</td><td class="n">{one.asked}</td><td class="n"
						>{one.taken}</td
					><td class="n">{one.refunded}</td><td class="n">{one.disputed}</td><td class="n font-semibold"
						><Figure working={one.working}>{one.left}</Figure></td
					></tr
				>
			{/each}
		</tbody>
	</table>
	<p class="mt-2" aria-live="polite">
		{#if proven}<button
				type="button"
				class="why"
				onclick={() => {
					const told = proven!;
					margin.show(() => told.working);
				}}>{proven.agrees ? 'Proven: payments and sums agree' : 'Not proven: payments and sums differ'}</button
			>{:else}<button type="button" class="why" disabled={isProving} onclick={prove}
				>{isProving ? 'Adding up every payment…' : 'Prove these sums'}</button
			>{/if}
		{#if test}<span class="quiet ml-3"
				>{test >= 1000 ? 'A thousand or more' : test} test payment{test === 1 ? '' : 's'}
				{test === 1 ? 'is' : 'are'} in no sum.</span
			>{/if}
		{#if failed}<span class="wrong" role="alert">{failed}</span>{/if}
	</p>
{:else if test}
	<p class="quiet mt-2">{test} test payment{test === 1 ? '' : 's'}; test money is in no sum.</p>
{/if}
