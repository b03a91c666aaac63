<script lang="ts">
	import { enhance } from '$app/forms';
	import { Said, Sheet, Workings } from '$lib/ui';
	import InvoiceFilter from '$lib/ui/InvoiceFilter.svelte';
	import InvoiceTable from '$lib/ui/InvoiceTable.svelte';
	import NewDocument from '$lib/ui/NewDocument.svelte';
	const { data, form } = $props();
	let ticked = $state<number[]>([]);
	const next = $derived(
		data.next ? `?${new URLSearchParams([...new URLSearchParams(data.query), ['after', data.next]])}` : undefined
	);
</script>

<Sheet title="Invoices" about="All of them, the newest first: drafts, open, paid, void">
	{#snippet acts()}<NewDocument main />{/snippet}
	<Said form={form as never} />
	<InvoiceFilter {...data} />
	<InvoiceTable
		lines={data.lines}
		sums={data.sums}
		columns={data.columns}
		chosen={data.chosen}
		names={data.names}
		kind="invoice"
		query={data.query}
		{next}
		bind:ticked
		proof="/bill/proof"
		empty={data.chips.length
			? 'No invoice fits this filter.'
			: 'No invoices yet. Write the first one: lines from the price list or free, and a payer.'}
	/>
	{#if ticked.length}
		<form method="post" action="?/many" use:enhance class="act-bar" aria-label="With those that are chosen">
			{#each ticked as id (id)}<input type="hidden" name="id" value={id} />{/each}
			<span class="self-center">{ticked.length} chosen</span>
			<button class="button" name="act" value="approve">Approve</button>
			<button class="button" name="act" value="send">Send by mail</button>
			<button class="button" name="act" value="remind">Send a reminder</button>
			<a class="button" href="/bill/export?{ticked.map((id) => `id=${id}`).join('&')}" download>Export as CSV</a>
		</form>
	{/if}
</Sheet>
<Workings />
