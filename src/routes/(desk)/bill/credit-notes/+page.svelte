<script lang="ts">
	import { Sheet, Workings } from '$lib/ui';
	import InvoiceFilter from '$lib/ui/InvoiceFilter.svelte';
	import InvoiceTable from '$lib/ui/InvoiceTable.svelte';
	const { data } = $props();
	const next = $derived(
		data.next ? `?${new URLSearchParams([...new URLSearchParams(data.query), ['after', data.next]])}` : undefined
	);
</script>

<Sheet title="Credit notes" about="What was approved never changes; a credit note corrects it, whole or in part">
	<InvoiceFilter {...data} shows={[]} />
	<InvoiceTable
		lines={data.lines}
		sums={data.sums}
		columns={data.columns}
		names={data.names}
		kind="credit note"
		query={data.query}
		{next}
		empty="No credit notes. They begin at the invoice that they correct."
	/>
</Sheet>
<Workings />
