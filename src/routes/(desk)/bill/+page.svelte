<script lang="ts">
	import { enhance } from '$app/forms';
	import { Said, Sheet, Verdict, Workings } from '$lib/ui';
	import InvoiceFilter from '$lib/ui/InvoiceFilter.svelte';
	import InvoiceTable from '$lib/ui/InvoiceTable.svelte';
	import NewDocument from '$lib/ui/NewDocument.svelte';
	const { data, form } = $props();
	let ticked = $state<number[]>([]);
	const next = $derived(
		data.next ? `?${new URLSearchParams([...new URLSearchParams(data.query), ['after', data.next]])}` : undefined
	);
</script>

<Sheet title="What is owed">
	{#snippet acts()}<NewDocument kind="quote" /><NewDocument main />{/snippet}
	<Verdict verdict={data.verdict} />
	<Said form={form as never} />
	{#each data.ages as one (one.currency)}
		<div class="mt-4">
			<p class="quiet text-[12px]">{one.open} by how long it is over</p>
			<div class="ages" aria-label="{one.currency} by age">
				{#each one.parts as part, at (part.name)}
					{#if part.minor}<div class="age a{at}" style:flex-grow={Math.max(part.share, 0.12)}>
							<b>{part.sum}</b><span>{part.name}, {part.count}</span>
						</div>{/if}
				{/each}
			</div>
		</div>
	{/each}
	<InvoiceFilter {...data} />
	<InvoiceTable
		lines={data.lines}
		sums={data.sums}
		columns={data.columns}
		chosen={data.chosen}
		names={data.names}
		kind="invoice"
		query={data.query}
		opens
		{next}
		bind:ticked
		proof="/bill/proof"
		empty={data.chips.length
			? 'Nothing that is open fits this filter.'
			: 'Nothing is owed. Write an invoice, or send a pay link.'}
	/>
	{#if ticked.length}
		<form method="post" action="?/many" use:enhance class="act-bar" aria-label="With those that are chosen">
			{#each ticked as id (id)}<input type="hidden" name="id" value={id} />{/each}
			<span class="self-center">{ticked.length} chosen</span>
			<button class="button" name="act" value="remind">Send a reminder</button>
			<a class="button" href="/bill/export?{ticked.map((id) => `id=${id}`).join('&')}" download>Export as CSV</a>
		</form>
	{/if}
	{#if data.payers.length}
		<h2>Who owes most</h2>
		<table>
			<thead><tr><th>Payer</th><th class="n">Invoices</th><th class="n">Open</th></tr></thead>
			<tbody>
				{#each data.payers as one (one.id)}<tr
						><td
							>{#if one.id}<a class="underline" href="/bill/payers/{one.id}">{one.name}</a>{:else}{one.name}{/if}</td
						><td class="n">{one.count}</td><td class="n">{one.open}</td></tr
					>{/each}
			</tbody>
		</table>
	{/if}
</Sheet>
<Workings />

<style>
	.ages {
		display: flex;
		flex-wrap: wrap;
		margin-top: 4px;
		border: 1px solid var(--rule-strong);
	}
	.age {
		flex-basis: 0;
		min-width: 96px;
		padding: 4px 8px 5px;
		border-right: 1px solid var(--sheet);
		overflow: hidden;
	}
	.age b {
		display: block;
	}
	.age span {
		font-size: 11px;
	}
	.a0 {
		background: var(--moss-soft);
	}
	.a1 {
		background: var(--brass-soft);
	}
	.a2,
	.a3,
	.a4 {
		background: var(--clay-soft);
	}
</style>
