<script lang="ts">
	import { enhance } from '$app/forms';
	import { formatDay, inZone } from '$lib/core/calendar';
	import { FIRST_COLUMNS } from '$lib/takings';
	import { Sheet, Workings } from '$lib/ui';
	import PaymentFilterForm from '$lib/ui/PaymentFilterForm.svelte';
	import PaymentSums from '$lib/ui/PaymentSums.svelte';
	import PaymentTable from '$lib/ui/PaymentTable.svelte';

	const { data, form } = $props();
	const columns = $derived(data.columns ?? FIRST_COLUMNS);
	const older = $derived(`/takings${data.query}${data.query ? '&' : '?'}before=${data.next}`);
	let naming = $state(false);
</script>

<Sheet title={data.view ?? data.title} about="How far each has come, what it cost, what is left">
	{#snippet acts()}
		{#if data.query}<button class="button" onclick={() => (naming = !naming)} aria-expanded={naming}
				>Keep as a view…</button
			>{/if}
		<a class="button" href="/takings/csv{data.query}" download>Export as CSV</a>
	{/snippet}
	{#if form && 'says' in form}
		<div class="note moss mt-4 flex items-center gap-3" role="status">
			<span>{form.says}</span>
			{#if 'undo' in form && form.undo}<form method="post" action="?/restore" use:enhance class="ml-auto">
					<input type="hidden" name="name" value={form.undo.name} />
					<input type="hidden" name="query" value={form.undo.query} />
					<button class="button small">Put it back</button>
				</form>{/if}
		</div>
	{/if}
	{#if naming || (form && 'viewWrong' in form)}
		<form
			method="post"
			action="?/save"
			class="note mt-4 flex items-end gap-2"
			use:enhance={() =>
				async ({ update, result }) => {
					await update({ reset: false });
					if (result.type === 'success') naming = false;
				}}
		>
			<input type="hidden" name="query" value={data.query} />
			<label
				><span class="legend">Name of this view</span><input
					name="name"
					value={form && 'viewName' in form ? (form.viewName ?? '') : (data.view ?? '')}
					maxlength="40"
					aria-invalid={form && 'viewWrong' in form ? 'true' : undefined}
				/></label
			>
			<button class="button main" data-save>Keep this view</button>
			{#if form && 'viewWrong' in form}<span class="wrong" role="alert">{form.viewWrong}</span>{/if}
		</form>
	{/if}
	{#key data.query}
		<PaymentFilterForm path="/takings" {data} {columns} locale={data.locale} />
	{/key}
	{#if data.lines.length}
		<PaymentTable lines={data.lines} {columns} locale={data.locale} timeZone={data.business.timeZone} />
	{:else if data.looked}
		<p class="mt-4">None among the latest payments that were looked through.</p>
	{:else if data.query}
		<p class="mt-4">
			No payment is like this. Take one of the conditions away, or <a class="why" href="/takings">show all</a>.
		</p>
	{:else}
		<p class="mt-4 max-w-prose">
			Payments will stand here as soon as somebody pays: how far each has come, what it cost, what is left. <a
				class="why"
				href="/accept">Choose a till</a
			>
			and build the first address, or <a class="why" href="/connect/files">import a settlement file</a> of what was paid before.
		</p>
	{/if}
	{#if data.more}
		<p class="mt-3">
			<a class="button" href={older} data-sveltekit-preload-data="off"
				>{data.looked ? 'Look through older payments' : 'Older payments'}</a
			>
			{#if data.looked && data.lookedTo}<span class="quiet ml-2"
					>{data.looked.toLocaleString(data.locale)} payments were looked through, back to {formatDay(
						inZone(new Date(data.lookedTo), data.business.timeZone).day,
						data.locale
					)}.</span
				>{/if}
		</p>
	{/if}
	{#if data.newestOnly}
		<p class="note mt-4">
			More payments are found by this than can be looked through. Only the newest {data.newestOnly.toLocaleString(
				data.locale
			)} of them are listed and added up here; write more of the reference or the name to find the others.
		</p>
	{/if}
	{#await data.sums}
		<p class="quiet mt-4" role="status">Adding up what is filtered…</p>
	{:then { sums, test }}
		<PaymentSums {sums} {test} proof="/takings/proof{data.query}" />
	{:catch}
		<p class="wrong mt-4" role="alert">The sums could not be added up just now. Load the page again.</p>
	{/await}
</Sheet>
<Workings
	how={{
		title: 'How to read the list',
		steps: [
			{
				title: 'The strip has four notches',
				sub: 'requested, captured, settled, paid out; a broken one is where trouble stopped the money'
			},
			{
				title: 'Expected and charged',
				sub: 'by the rate card of the day, and as the processor reports it; ≠ where they differ'
			},
			{ title: 'Net', sub: 'in the currency that is paid out, less refunds and fee' },
			{
				title: 'A day',
				sub: 'is that of the capture in the business’s time zone; where nothing was captured, of the request'
			}
		]
	}}
/>
