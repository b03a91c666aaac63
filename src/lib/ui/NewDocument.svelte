<script lang="ts">
	/** Begins an invoice or a quote: a press, and the editor opens. */
	const {
		kind = 'invoice',
		payer = '',
		main = false
	}: { kind?: 'invoice' | 'quote'; payer?: string; main?: boolean } = $props();
</script>

<form method="post" action="/bill/invoices?/new">
	<input type="hidden" name="kind" value={kind} />
	<input type="hidden" name="payer" value={payer} />
	<button class="button" class:main>{kind === 'quote' ? 'Write a quote' : 'Write an invoice'}</button>
</form>
