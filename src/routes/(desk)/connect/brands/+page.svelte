<script lang="ts">
	import { enhance } from '$app/forms';
	import { Field, Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const errors = $derived((form && 'errors' in form ? form.errors : {}) as Record<string, string>);
	const typed = $derived((form && 'values' in form ? form.values : {}) as Record<string, string>);
	const editing = $derived(data.brands.find((one) => one.id === data.editing));
	const value = (name: 'name' | 'country' | 'homeCurrency' | 'colour' | 'statementName') =>
		typed[name] ?? editing?.[name] ?? '';
</script>

<Sheet
	title="Brands"
	about="Faces of the business, each with a country, a home currency, a look and a statement name of its own"
>
	<Said form={form as never} />
	<table class="mt-4">
		<thead
			><tr
				><th>Brand</th><th>Country</th><th>Home currency</th><th>On statements</th><th
					><span class="sr-only">More</span></th
				></tr
			></thead
		>
		<tbody>
			<tr>
				<td><b>{data.first.name}</b><span class="sub">The business itself; changed under Details</span></td>
				<td>{data.first.country}</td><td>{data.first.homeCurrency}</td><td class="quiet">per connection</td><td></td>
			</tr>
			{#each data.brands as one (one.id)}
				<tr>
					<td
						><span class="mr-2 inline-block h-3 w-3 rounded-[2px]" style:background={one.colour}></span><b>{one.name}</b
						></td
					>
					<td>{one.country}</td><td>{one.homeCurrency}</td><td class="mono">{one.statementName}</td>
					<td class="n whitespace-nowrap">
						<a class="underline" href="?brand={one.id}" data-row>Change</a>
						<form method="post" action="?/remove" use:enhance class="inline">
							<input type="hidden" name="id" value={one.id} /><button class="why ml-3">Remove {one.name}</button>
						</form>
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
	<h2>{editing ? `Change ${editing.name}` : 'Add a brand'}</h2>
	{#key data.editing}
		<form method="post" action="?/save" use:enhance class="max-w-[640px]">
			<input type="hidden" name="id" value={editing?.id ?? ''} />
			<div class="grid grid-cols-2 gap-x-5">
				<Field label="Name" wrong={errors.name} help={{ what: 'The name that payers know this face by.' }}>
					{#snippet children(attributes)}<input {...attributes} name="name" value={value('name')} />{/snippet}
				</Field>
				<Field
					label="On statements"
					wrong={errors.statementName}
					help={{ what: 'What payers should read on their statements.', looks: 'WREN ALDER BOWS' }}
				>
					{#snippet children(attributes)}<input
							{...attributes}
							name="statementName"
							class="mono"
							value={value('statementName')}
						/>{/snippet}
				</Field>
				<Field
					label="Country"
					wrong={errors.country}
					help={{ what: 'Merchant accounts of this country can be connected once a brand is there.' }}
				>
					{#snippet children(attributes)}<select {...attributes} name="country" value={value('country')}>
							<option value="">Choose…</option>
							{#each data.countries as one (one.code)}<option value={one.code}>{one.name}</option>{/each}
						</select>{/snippet}
				</Field>
				<Field label="Home currency" wrong={errors.homeCurrency} help={{ what: 'The currency its prices are in.' }}>
					{#snippet children(attributes)}<select {...attributes} name="homeCurrency" value={value('homeCurrency')}>
							<option value="">Choose…</option>
							{#each data.currencies as code (code)}<option>{code}</option>{/each}
						</select>{/snippet}
				</Field>
			</div>
			<fieldset class="mt-3">
				<legend class="legend">Colour</legend>
				<div class="ticks">
					{#each data.colours as one (one.value)}<label
							><input
								type="radio"
								name="colour"
								value={one.value}
								checked={(value('colour') || data.colours[0].value) === one.value}
							/>
							<span class="inline-block h-4 w-6 rounded-[3px]" style:background={one.value}></span>
							{one.name}</label
						>{/each}
				</div>
			</fieldset>
			<button class="button main mt-4" data-save>{editing ? 'Save brand' : 'Add brand'}</button>
			{#if editing}<a class="button ml-2" href="/connect/brands">Leave it as it was</a>{/if}
		</form>
	{/key}
</Sheet>
<Workings
	how={{
		title: 'What a brand does',
		steps: [
			{
				title: 'Lets accounts of its country be connected',
				sub: 'others are refused: they could not take your payments'
			},
			{ title: 'Gives a till its look and name' },
			{ title: 'Gives statements a name that payers know' }
		]
	}}
/>
