<script lang="ts">
	import { Sheet, Workings } from '$lib/ui';
	import JobProgress from '$lib/ui/JobProgress.svelte';
	const { data } = $props();
</script>

<Sheet title="Documents as PDF">
	{#if data.pending}
		<p class="mt-3">They are being written. You can leave this page and come back to it.</p>
		<JobProgress at="/bill/pdfs/{data.key}/progress" {...data.pending} what="documents" />
	{:else if data.result}
		<p class="mt-3 text-[17px]">
			{data.result.documents.toLocaleString(data.locale)} document{data.result.documents === 1 ? ' is' : 's are'} in one ZIP
			file of {data.result.size} MB.
		</p>
		<p class="mt-3"><a class="button main" href="/bill/pdfs/{data.key}/file" download>Save the file</a></p>
		{#if data.result.missing.length}
			<p class="mt-3 text-clay">Could not be written: {data.result.missing.join(', ')}.</p>
		{/if}
		<p class="quiet mt-3">It is kept until the server stops, or until five later ones are made.</p>
	{:else}
		<p class="mt-3">
			{data.failed
				? 'The file could not be written. The log tells why; is there room on the disk?'
				: 'There is no such file: it was stopped, or the server has started again since.'}
		</p>
	{/if}
	<p class="mt-3"><a class="underline" href="/bill/invoices">All invoices</a></p>
</Sheet>
<Workings />
