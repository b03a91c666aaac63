<script lang="ts">
	import { Sheet, Workings } from '$lib/ui';
	const { data } = $props();
	const why = $derived(data.working);
</script>

<Sheet
	title="What a payer would see"
	about="{data.till.name}: the same function answers here and at the payer’s page"
	test={data.till.mode === 'test'}
>
	{#snippet acts()}<a class="button" href="/accept/tills/{data.till.slug}">Back to the line-up</a>{/snippet}
	<form
		method="get"
		class="mt-4 grid max-w-[640px] grid-cols-[1fr_90px_1.4fr_auto] items-end gap-3"
		data-sveltekit-keepfocus
	>
		<label
			><span class="legend">Amount</span><input
				name="amount"
				inputmode="decimal"
				value={data.asked.amount}
				required
				aria-invalid={data.wrong ? 'true' : undefined}
			/></label
		>
		<label
			><span class="legend">Currency</span><select name="currency" value={data.asked.currency}>
				{#each [...new Set([...data.till.currencies, 'EUR', 'GBP', 'USD', 'CHF', 'JPY'])] as code (code)}<option
						>{code}</option
					>{/each}
			</select></label
		>
		<label
			><span class="legend">Payer’s country</span><select name="country" value={data.asked.country}>
				<option value="">not known</option>
				{#each data.countries as { code, name } (code)}<option value={code}>{name}</option>{/each}
			</select></label
		>
		<button class="button main" data-save>Ask the line-up</button>
		{#if data.hasDraft && data.hasPublished}
			<div class="ticks col-span-full">
				<label><input type="radio" name="which" value="draft" checked={data.asked.which === 'draft'} /> the draft</label
				>
				<label
					><input type="radio" name="which" value="published" checked={data.asked.which === 'published'} /> what is published</label
				>
			</div>
		{/if}
	</form>
	{#if data.wrong}<p class="wrong" role="alert">{data.wrong}</p>{/if}
	{#if data.readAs}<p class="quiet mt-1">{data.readAs}</p>{/if}
	{#if data.offered}
		<h2>The payer sees</h2>
		{#if data.offered.length}
			<ol class="max-w-[420px]">
				{#each data.offered as one, i (one.name)}
					<li class="border-rule border-b py-2" class:border-t={i === 0}>
						<b>{one.name}</b>{#if i === 0}<span class="quiet ml-2">open, as the first way</span>{/if}<span class="sub"
							>{one.note}</span
						>
					</li>
				{/each}
			</ol>
		{:else}
			<p class="note clay max-w-[420px]">Nothing: an empty checkout. Every reason stands in the margin.</p>
		{/if}
		{#if data.page}
			<h2>
				The page itself <span class="quiet font-sans text-[12px] font-normal"
					>as published, at phone width; nothing can be paid in it</span
				>
			</h2>
			<iframe title="The payer’s page" src={data.page} class="border-rule-strong h-[560px] w-[390px] border"></iframe>
		{/if}
	{/if}
</Sheet>
<Workings first={why}>
	<h2>Ask</h2>
	<p class="quiet">
		Give an amount, a currency and a country. What is offered and what is withheld, with every reason, will stand here.
	</p>
</Workings>
