<script lang="ts">
	import { Sheet, Workings } from '$lib/ui';
	const { data } = $props();
	const loose = $derived(data.lines.filter((one) => !one.payerId).length);
</script>

<Sheet title="Unplaced money">
	{#snippet acts()}<a class="button main" href="/takings/unplaced/new">Record money that came</a>{/snippet}
	<p class="verdict">
		{#if data.sums.length}{#each data.sums as one, at (one.currency)}{at ? ', ' : ''}<b>{one.sum} {one.currency}</b
				>{/each} is on no invoice{loose
				? `; of ${loose} receipt${loose === 1 ? '' : 's'} nobody knows yet whose they are`
				: ': all of it is payers’ credit'}.
		{:else}All money that came is placed.{/if}
	</p>
	<div class="blocks">
		<table class="mt-3">
			<thead
				><tr><th>Came</th><th>From</th><th>It says</th><th class="n">Not placed</th><th>Whose it may be</th></tr></thead
			>
			<tbody>
				{#each data.lines as one (one.id)}<tr
						><td>{one.day}<span class="sub">{one.by}</span></td><td data-label="From"
							>{one.from || 'not told'}<span class="sub mono">{one.iban}</span></td
						><td class="break-words" data-label="It says">{one.text}</td><td
							class="n font-semibold"
							data-label="Not placed"><a data-row class="underline" href="/takings/unplaced/{one.id}">{one.sum}</a></td
						><td data-label="Whose it may be"
							>{#if one.payer}credit of <a class="underline" href="/bill/payers/{one.payerId}">{one.payer}</a
								>{/if}{#if one.best}<span class:sub={!!one.payer}>{one.best.says}: {one.best.reasons.join(', ')}</span
								>{:else if !one.payer}<span class="quiet">nothing fits; look for it</span>{/if}</td
						></tr
					>{:else}<tr
						><td colspan="5" class="quiet"
							>Nothing waits. Money that no invoice claims stands here: transfers without a reference, payments made at
							a processor’s console, what is too much.</td
						></tr
					>{/each}
			</tbody>
		</table>
	</div>
	{#if data.next}<p class="mt-2"><a class="button" href="?after={data.next}">Next page</a></p>{/if}
	{#if data.sums.length}<table class="mt-4" aria-label="Sums">
			<thead
				><tr><th>In all</th><th class="n">Receipts</th><th class="n">Not placed</th><th class="n">Of it credit</th></tr
				></thead
			><tbody
				>{#each data.sums as one (one.currency)}<tr
						><td>{one.currency}</td><td class="n">{one.count}</td><td class="n font-semibold">{one.sum}</td><td
							class="n">{one.credit}</td
						></tr
					>{/each}</tbody
			>
		</table>{/if}
</Sheet>
<Workings
	how={{
		title: 'How money is placed',
		steps: [
			{ title: 'Paid for an invoice', sub: 'it is placed on it by itself, on the oldest due first' },
			{ title: 'A right creditor reference', sub: 'placed by itself, where you allow it under How we bill' },
			{ title: 'All else', sub: 'suggested with reasons, and placed by you; every step is kept and can be taken back' }
		]
	}}
/>
