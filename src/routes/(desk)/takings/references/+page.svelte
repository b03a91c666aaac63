<script lang="ts">
	import { enhance } from '$app/forms';
	import { Sheet, Workings } from '$lib/ui';
	const { form } = $props();
	const text = $derived(form && 'text' in form ? (form.text ?? '') : '');
	const isReady = $derived(!!form && 'faults' in form && form.faults === 0);
</script>

<Sheet title="Outside references" about="What an outside program calls your orders, for many at once">
	{#if form && 'says' in form}<p class="note moss mt-4" role="status">{form.says}</p>{/if}
	{#if form && 'wrong' in form}<p class="wrong mt-4" role="alert">{form.wrong}</p>{/if}
	<form
		method="post"
		action="?/preview"
		enctype="multipart/form-data"
		class="mt-4"
		use:enhance={() =>
			async ({ update }) =>
				update({ reset: false })}
	>
		<label class="block"
			><span class="legend">CSV file</span><input type="file" name="file" accept=".csv,text/csv" /></label
		>
		<label class="mt-3 block"
			><span class="legend">or the lines themselves</span><textarea
				name="text"
				rows="6"
				class="mono"
				placeholder="reference,outside_reference&#10;WA-1041,BK-77120"
				value={text}></textarea></label
		>
		<button class="button mt-3" class:main={!isReady} data-save>Show what would change</button>
		{#if isReady}<button class="button main mt-3" formaction="?/take"
				>Set {form && 'all' in form ? form.all : ''} references</button
			>{/if}
	</form>
	{#if form && 'preview' in form && form.preview}
		<table class="mt-4">
			<thead><tr><th>Line</th><th>Order</th><th>Now</th><th>Will be</th></tr></thead>
			<tbody>
				{#each form.preview as one (one.line)}
					<tr
						><td>{one.line}</td><td class="mono">{one.reference}</td><td class="mono">{one.before}</td><td
							>{#if one.problem}<span class="no">{one.problem}</span>{:else}<span class="mono"
									>{one.outside || 'none'}</span
								>{#if one.before === one.outside}<span class="sub">as it is</span>{/if}{/if}</td
						></tr
					>
				{/each}
			</tbody>
		</table>
		{#if 'all' in form && form.all && form.all > form.preview.length}<p class="quiet mt-2">
				The first {form.preview.length} of {form.all} lines.
			</p>{/if}
	{/if}
</Sheet>
<Workings
	how={{
		title: 'What the file holds',
		steps: [
			{ title: 'reference', sub: 'your own reference of the order' },
			{ title: 'outside_reference', sub: 'what the outside program calls it; empty takes it away' },
			{ title: 'till', sub: 'only where orders of two tills have the same reference' },
			{ title: 'All or nothing', sub: 'one line that is not right, and nothing is changed' }
		]
	}}
/>
