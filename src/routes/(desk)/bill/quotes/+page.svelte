<script lang="ts">
	import { Sheet, Workings } from '$lib/ui';
	import InvoiceFilter from '$lib/ui/InvoiceFilter.svelte';
	import InvoiceTable from '$lib/ui/InvoiceTable.svelte';
	import NewDocument from '$lib/ui/NewDocument.svelte';
	const { data } = $props();
	const next = $derived(
		data.next ? `?${new URLSearchParams([...new URLSearchParams(data.query), ['after', data.next]])}` : undefined
	);
</script>

<Sheet
	title="Quotes"
	about="Accepted by the payer at a page of its own, a quote becomes an invoice of the very same lines"
>
	{#snippet acts()}<NewDocument kind="quote" main />{/snippet}
	<InvoiceFilter {...data} shows={[]} />
	<InvoiceTable
		lines={data.lines}
		sums={data.sums}
		columns={data.columns}
		names={data.names}
		kind="quote"
		query={data.query}
		{next}
		empty={data.chips.length
			? 'No quote fits this filter.'
			: 'No quotes yet. Write one, and send it: the payer accepts or declines it at its page.'}
	/>
</Sheet>
<Workings />
