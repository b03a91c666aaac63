<script lang="ts">
	import { enhance } from '$app/forms';
	import { readIban } from '$lib/core/references';
	import { Field, Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const errors = $derived((form && 'errors' in form ? form.errors : {}) as Record<string, string>);
	const typed = $derived((form && 'values' in form ? form.values : {}) as Record<string, string>);
	let iban = $state('');
	const read = $derived(iban.replace(/\s/g, '').length >= 15 ? readIban(iban) : undefined);
</script>

<Sheet title="Bank accounts" about="Where processors pay out to; each has one currency">
	<Said form={form as never} />
	<table class="mt-4">
		<thead
			><tr
				><th>Account</th><th>IBAN</th><th>Currency</th><th>Paid out to by</th><th
					><span class="sr-only">What can be done</span></th
				></tr
			></thead
		>
		<tbody>
			{#each data.accounts as one (one.id)}
				<tr>
					<td><b>{one.name}</b><span class="sub">{one.holder}</span></td>
					<td class="mono"
						>{one.iban}{#if one.bic}<span class="sub">{one.bic}</span>{/if}</td
					>
					<td>{one.currency}</td>
					<td
						>{#each one.usedBy as row, i (row.id)}{i ? ', ' : ''}<a
								class="underline"
								href="/connect/connections/{row.id}/settings">{row.name}</a
							>{:else}<span class="quiet">no connection yet</span>{/each}</td
					>
					<td class="n">
						<form method="post" action="?/remove" use:enhance>
							<input type="hidden" name="id" value={one.id} /><button class="why">Remove {one.name}</button>
						</form>
					</td>
				</tr>
			{:else}
				<tr><td colspan="5" class="quiet">None yet. A processor asks for one before it pays out.</td></tr>
			{/each}
		</tbody>
	</table>
	<h2>Add a bank account</h2>
	<form
		method="post"
		action="?/add"
		use:enhance={() =>
			async ({ result, update }) => {
				await update({ reset: result.type === 'success' });
				if (result.type === 'success') iban = '';
			}}
		class="grid max-w-[640px] grid-cols-2 gap-x-5"
	>
		<Field label="Name" wrong={errors.name} help={{ what: 'What you know it by.', looks: 'Current account' }}>
			{#snippet children(attributes)}<input {...attributes} name="name" value={typed.name ?? ''} />{/snippet}
		</Field>
		<Field label="Holder" wrong={errors.holder} help={{ what: 'The name the account is held in.' }}>
			{#snippet children(attributes)}<input
					{...attributes}
					name="holder"
					value={typed.holder ?? data.holder}
				/>{/snippet}
		</Field>
		<div id="iban">
			<Field
				label="IBAN"
				wrong={errors.iban ?? (read && 'problem' in read ? read.problem : undefined)}
				hint={read && 'iban' in read ? 'Length, form and check digits fit.' : undefined}
				help={{
					what: 'Its check digits are tried as you type (ISO 13616).',
					where: 'On your bank’s statement, or in its app',
					looks: 'BE68 5390 0754 7034'
				}}
			>
				{#snippet children(attributes)}<input
						{...attributes}
						name="iban"
						class="mono"
						autocomplete="off"
						bind:value={iban}
					/>{/snippet}
			</Field>
		</div>
		<Field label="BIC, if one is asked for" wrong={errors.bic} help={{ what: 'The code of your bank.' }}>
			{#snippet children(attributes)}<input {...attributes} name="bic" class="mono" value={typed.bic ?? ''} />{/snippet}
		</Field>
		<Field label="Currency" wrong={errors.currency} help={{ what: 'What comes in is in it.' }}>
			{#snippet children(attributes)}<select
					{...attributes}
					name="currency"
					value={typed.currency ?? data.homeCurrency}
				>
					{#each data.currencies as code (code)}<option>{code}</option>{/each}
				</select>{/snippet}
		</Field>
		<div class="col-span-2"><button class="button main mt-4" data-save>Add bank account</button></div>
	</form>
</Sheet>
<Workings
	how={{
		title: 'Several accounts',
		about: 'A connection pays out to one of them, of the currency that it settles in.',
		steps: [
			{ title: 'One per currency is usual', sub: 'so that nothing is exchanged twice' },
			{ title: 'Chosen under each connection’s settings' }
		]
	}}
/>
