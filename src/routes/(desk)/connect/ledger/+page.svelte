<script lang="ts">
	import { enhance } from '$app/forms';
	import { Field, Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const errors = $derived((form && 'errors' in form ? form.errors : {}) as Record<string, string>);
	const typed = $derived((form && 'values' in form ? form.values : {}) as Record<string, string>);
	const KINDS = { asset: 'Asset', liability: 'Liability', income: 'Income', expense: 'Expense' } as const;
</script>

<Sheet title="Chart of accounts" about="Ledger accounts to choose clearing and fee accounts from, per connection">
	<Said form={form as never} />
	<form method="post" action="?/save" use:enhance class="flex max-w-[700px] items-end gap-3">
		<div class="w-28">
			<Field label="Number" wrong={errors.number} help={{ what: 'As your bookkeeper numbers it.', looks: '5800' }}>
				{#snippet children(attributes)}<input
						{...attributes}
						name="number"
						class="mono"
						value={typed.number ?? ''}
					/>{/snippet}
			</Field>
		</div>
		<div class="flex-1">
			<Field
				label="Name"
				wrong={errors.name}
				help={{ what: 'What is booked on it. A number that is there gets this name.' }}
			>
				{#snippet children(attributes)}<input {...attributes} name="name" value={typed.name ?? ''} />{/snippet}
			</Field>
		</div>
		<div class="w-32">
			<Field label="Kind" wrong={errors.kind} help={{ what: 'Clearing is an asset, fees are an expense.' }}>
				{#snippet children(attributes)}<select {...attributes} name="kind" value={typed.kind ?? 'asset'}>
						{#each Object.entries(KINDS) as [value, name] (value)}<option {value}>{name}</option>{/each}
					</select>{/snippet}
			</Field>
		</div>
		<button class="button main" data-save>Keep account</button>
	</form>
	<table class="mt-4 max-w-[700px]">
		<thead
			><tr
				><th>Number</th><th>Name</th><th>Kind</th><th>Used by</th><th><span class="sr-only">What can be done</span></th
				></tr
			></thead
		>
		<tbody>
			{#each data.accounts as one (one.number)}
				<tr>
					<td class="mono">{one.number}</td><td>{one.name}</td><td>{KINDS[one.kind as 'asset']}</td>
					<td class="quiet">{one.usedBy}</td>
					<td class="n">
						<form method="post" action="?/remove" use:enhance>
							<input type="hidden" name="number" value={one.number} /><button class="why"
								>Remove<span class="sr-only"> {one.number}</span></button
							>
						</form>
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
</Sheet>
<Workings
	how={{
		title: 'What is booked where',
		steps: [
			{ title: 'A payment', sub: 'clearing account of its connection, against receivable' },
			{ title: 'Its fee', sub: 'fee account, against clearing' },
			{ title: 'A payout', sub: 'bank, against clearing: what is left on clearing is in transit' }
		]
	}}
/>
