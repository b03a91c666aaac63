<script lang="ts">
	import { enhance } from '$app/forms';
	import { Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const faults = $derived((form as { faults?: string[] } | null)?.faults ?? []);
	const undo = $derived((form as { undo?: string } | null)?.undo);
</script>

<Sheet
	title="Price list"
	about="Goods and charges that invoices, quotes and pay links are made of, with a price per currency"
>
	{#snippet acts()}<a class="button" href="/bill/prices/csv" download>Export as CSV</a><a
			class="button main"
			href="/bill/prices/new">Add a thing</a
		>{/snippet}
	<Said form={form as never} />
	{#if undo}<form method="post" action="?/restore" use:enhance class="mt-1">
			<input type="hidden" name="id" value={undo} /><button class="button small">Put it back</button>
		</form>{/if}
	<table class="mt-3">
		<thead
			><tr
				><th>Thing</th><th>Unit</th><th>Tax</th><th class="n">Price</th><th class="n">Stock</th><th
					><span class="sr-only">Acts</span></th
				></tr
			></thead
		>
		<tbody>
			{#each data.items as one (one.id)}<tr
					><td
						><span class="flex items-start gap-3"
							>{#if one.picture}<img src={one.picture} alt="" class="h-9 w-9 object-cover" />{/if}<span
								><a class="font-semibold underline" data-row href="/bill/prices/{one.id}">{one.name}</a><span
									class="sub">{one.code}{one.about ? ` · ${one.about}` : ''}</span
								></span
							></span
						></td
					><td>{one.unit}</td><td>{one.tax}<span class="sub">{one.pricing}</span></td><td class="n"
						>{#each one.prices as price (price)}{price}<br />{/each}</td
					><td class="n">{one.stock ?? ''}</td><td class="n"
						><form method="post" action="?/remove" use:enhance>
							<input type="hidden" name="id" value={one.id} /><button class="why" aria-label="Remove {one.name}"
								>Remove</button
							>
						</form></td
					></tr
				>{:else}<tr
					><td colspan="6" class="quiet"
						>Nothing is on the price list yet. Add a thing, or import a file; invoices can have free lines as well.</td
					></tr
				>{/each}
		</tbody>
	</table>
	<h2>Import a price list</h2>
	<p class="quiet max-w-prose">
		CSV in UTF-8. Columns: code, name, about, unit, tax (standard, reduced, zero, exempt …), rate in per cent, pricing
		(with tax, without tax), stock, and a price per currency: price_EUR, price_GBP. Things are known by their code.
	</p>
	<form
		method="post"
		action="?/import"
		enctype="multipart/form-data"
		use:enhance
		class="mt-2 flex flex-wrap items-end gap-2 text-[12px]"
	>
		<label
			><span class="sr-only">CSV file</span><input
				type="file"
				name="file"
				accept=".csv,text/csv"
				class="!w-auto"
			/></label
		><button class="button">Import price list</button>
	</form>
	{#if faults.length}<div class="note clay mt-3" role="alert">
			<p>Nothing was imported. What is wrong:</p>
			<ul class="list-disc pl-5">
				{#each faults as one, at (at)}<li>{one}</li>{/each}
			</ul>
		</div>{/if}
</Sheet>
<Workings />
