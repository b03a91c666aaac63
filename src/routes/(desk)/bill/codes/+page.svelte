<script lang="ts">
	import { enhance } from '$app/forms';
	import { formatDay } from '$lib/core/calendar';
	import { DayInput, Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const v = $derived(((form as { values?: Record<string, string> } | null)?.values ?? {}) as Record<string, string>);
</script>

<Sheet
	title="Discount codes"
	about="For pay links that take them: a share or a sum, for some goods or all, for so many uses"
>
	<Said form={form as never} />
	<table class="mt-3">
		<thead
			><tr
				><th>Code</th><th>Off</th><th>From a total of</th><th>Days</th><th class="n">Used</th><th
					><span class="sr-only">Acts</span></th
				></tr
			></thead
		>
		<tbody
			>{#each data.codes as one (one.code)}<tr
					><td><b class="mono">{one.code}</b><span class="sub">{one.name}{one.isEnded ? ', ended' : ''}</span></td><td
						>{one.off}</td
					><td>{one.least}</td><td
						>{one.from ? formatDay(one.from, data.locale) : ''}{one.from || one.until ? ' to ' : ''}{one.until
							? formatDay(one.until, data.locale)
							: ''}</td
					><td class="n"
						>{one.used}{one.uses === null ? '' : ` of ${one.uses}`}{#if one.usesEach !== null}<span class="sub"
								>{one.usesEach} a payer</span
							>{/if}</td
					><td class="n"
						><form method="post" action="?/end" use:enhance>
							<input type="hidden" name="code" value={one.code} /><input
								type="hidden"
								name="on"
								value={one.isEnded ? 'no' : 'yes'}
							/><button class="why" aria-label="{one.isEnded ? 'Make good again' : 'End'} {one.code}"
								>{one.isEnded ? 'Good again' : 'End'}</button
							>
						</form></td
					></tr
				>{:else}<tr><td colspan="6" class="quiet">No codes yet.</td></tr>{/each}</tbody
		>
	</table>
	<h2>Add a code</h2>
	<form
		method="post"
		action="?/add"
		use:enhance={() =>
			async ({ update, result }) =>
				update({ reset: result.type === 'success' })}
		class="grid max-w-[640px] grid-cols-3 gap-x-4"
	>
		<label class="field"><span class="legend">Code</span><input name="code" class="mono" value={v.code ?? ''} /></label>
		<label class="field col-span-2"
			><span class="legend">What the payer reads</span><input name="name" value={v.name ?? ''} /></label
		>
		<label class="field"><span class="legend">Off: 10 %, or a sum</span><input name="off" value={v.off ?? ''} /></label>
		<label class="field"
			><span class="legend">Sums are in</span><input
				name="currency"
				maxlength="3"
				value={v.currency ?? data.currency}
			/></label
		>
		<label class="field"
			><span class="legend">From a total of</span><input
				name="least"
				inputmode="decimal"
				value={v.least ?? ''}
			/></label
		>
		<label class="field"
			><span class="legend">First day</span><DayInput name="from" value={v.from ?? ''} locale={data.locale} /></label
		>
		<label class="field"
			><span class="legend">Last day</span><DayInput name="until" value={v.until ?? ''} locale={data.locale} /></label
		>
		<span></span>
		<label class="field"
			><span class="legend">Uses in all</span><input name="uses" inputmode="numeric" value={v.uses ?? ''} /></label
		>
		<label class="field"
			><span class="legend">Uses of one payer</span><input
				name="usesEach"
				inputmode="numeric"
				value={v.usesEach ?? ''}
			/></label
		>
		{#if data.items.length}<label class="field col-span-3"
				><span class="legend">Only for these goods (none: for all)</span><select name="items" multiple size="4"
					>{#each data.items as one (one.id)}<option value={one.id}>{one.name}</option>{/each}</select
				></label
			>{/if}
		<div class="col-span-3 mt-3"><button class="button main">Add code</button></div>
	</form>
</Sheet>
<Workings />
