<script lang="ts">
	import { Field, Sheet, Workings } from '$lib/ui';
	import { untrack } from 'svelte';
	import { superForm } from 'sveltekit-superforms';
	const { data, form: answered } = $props();
	const { form, errors, enhance } = superForm(
		untrack(() => data.form),
		{ resetForm: false, applyAction: true }
	);
	let copied = $state(false);
	async function copy(address: string) {
		await navigator.clipboard.writeText(address);
		copied = true;
		setTimeout(() => (copied = false), 2000);
	}
</script>

<Sheet
	title="Build an address"
	about="{data.till.name}: one payer pays one sum under it, and cannot alter it"
	test={data.till.mode === 'test'}
>
	{#snippet acts()}<a class="button" href="/accept/tills/{data.till.slug}">Back to the line-up</a>{/snippet}
	{#if !data.published}<p class="note mt-4">
			No line-up is published yet: the address will work, and offer nothing.
		</p>{/if}
	<form method="post" use:enhance class="max-w-[600px]">
		{#if $errors._errors}<p class="note clay mt-4" role="alert">{$errors._errors.join(' ')}</p>{/if}
		<div class="grid grid-cols-[1fr_110px] gap-x-5">
			<Field
				label="Amount"
				wrong={$errors.amount}
				help={{
					what: 'What the payer owes, in digits with a point, exactly as many decimals as the currency has.',
					looks: '84.50, or 12800 for JPY'
				}}
			>
				{#snippet children(attributes)}<input
						{...attributes}
						name="amount"
						inputmode="decimal"
						bind:value={$form.amount}
					/>{/snippet}
			</Field>
			<Field label="Currency" wrong={$errors.currency}>
				{#snippet children(attributes)}
					<select {...attributes} name="currency" bind:value={$form.currency}
						>{#each data.till.currencies as code (code)}<option>{code}</option>{/each}</select
					>
				{/snippet}
			</Field>
		</div>
		<div class="grid grid-cols-2 gap-x-5">
			<Field
				label="Reference"
				wrong={$errors.reference}
				help={{ what: 'Your order or invoice number. Payments are found by it.', looks: 'WA-20417' }}
			>
				{#snippet children(attributes)}<input {...attributes} name="reference" bind:value={$form.reference} />
					{#if answered && 'canReplace' in answered && answered.canReplace}<label class="mt-1 block text-[13px]"
							><input type="checkbox" name="replace" /> It replaces the earlier order, whose address ends</label
						>{/if}{/snippet}
			</Field>
			<Field
				label="What for"
				wrong={$errors.purpose}
				help={{ what: 'In the payer’s words; it stands under the sum.', looks: 'Viola strings, one set' }}
			>
				{#snippet children(attributes)}<input {...attributes} name="purpose" bind:value={$form.purpose} />{/snippet}
			</Field>
			<Field label="Payer’s name" wrong={$errors.name}>
				{#snippet children(attributes)}<input
						{...attributes}
						name="name"
						autocomplete="off"
						bind:value={$form.name}
					/>{/snippet}
			</Field>
			<Field label="Payer’s mail" wrong={$errors.mail}>
				{#snippet children(attributes)}<input
						{...attributes}
						name="mail"
						type="email"
						autocomplete="off"
						bind:value={$form.mail}
					/>{/snippet}
			</Field>
			<Field label="Payer’s country, if known" wrong={$errors.country} help={{ what: 'Offers may ask for it.' }}>
				{#snippet children(attributes)}
					<select {...attributes} name="country" bind:value={$form.country}>
						<option value="">not known</option>
						{#each data.countries as { code, name } (code)}<option value={code}>{name}</option>{/each}
					</select>
				{/snippet}
			</Field>
		</div>
		<button class="button main mt-5" data-save>Build address</button>
	</form>
	{#if answered?.address}
		<h2>The address</h2>
		<p class="mono border-rule bg-paper border p-3 break-all" id="built">{answered.address}</p>
		<p class="mt-2 flex gap-2">
			<button class="button" onclick={() => copy(answered.address)}>{copied ? 'Copied' : 'Copy address'}</button>
			<a class="button" href={answered.address} target="_blank">Open the payer’s page</a>
		</p>
	{/if}
</Sheet>
<Workings
	how={{
		title: 'Why it cannot be altered',
		steps: [
			{
				title: 'Every field is signed',
				sub: 'amount, currency, reference, name, mail, country, purpose; HMAC-SHA-256 with this till’s own key'
			},
			{ title: 'Fields are percent-encoded UTF-8', sub: 'any name and any script arrives as it was written' },
			{ title: 'A changed or cut address is refused', sub: 'with a plain message, before anything is offered' },
			{ title: 'One order is paid once', sub: 'opened again, the address shows the receipt' }
		]
	}}
/>
