<script lang="ts">
	import { nameKey } from '$lib/core/lineup';
	import { Field, Sheet, Workings } from '$lib/ui';
	import { untrack } from 'svelte';
	import { superForm } from 'sveltekit-superforms';
	const { data } = $props();
	const { form, errors, enhance } = superForm(
		untrack(() => data.form),
		{ resetForm: false }
	);
	const choice = $derived(data.choices.find((one) => one.value === $form.carrier));
	const standbys = $derived(data.choices.filter((one) => one.method === choice?.method && one.value !== choice?.value));
	const twin = $derived(data.others.find((name) => nameKey(name) === nameKey($form.name)));
	const FUNDING = { debit: 'Debit', credit: 'Credit', prepaid: 'Prepaid', commercial: 'Commercial' } as Record<
		string,
		string
	>;
	const REGION = { domestic: 'Domestic', regional: 'Regional', international: 'International' } as Record<
		string,
		string
	>;

	let before = untrack(() => data.choices.find((one) => one.value === data.form.data.carrier));
	function changeCarrier() {
		if (!choice) return;
		// a name that nobody typed goes along
		if (!$form.name || $form.name === before?.payerName) $form.name = choice.payerName;
		before = choice;
		$form.currencies = data.till.currencies.filter((code) => choice.currencies.includes(code));
		$form.schemes = choice.schemes.map((one) => one.id);
		$form.fundings = [...choice.fundings] as typeof $form.fundings;
		$form.regions = [...choice.regions] as typeof $form.regions;
		$form.standby = '';
	}
</script>

<Sheet
	title={data.isNew ? 'New offer' : data.name}
	about="{data.till.name}: a change makes a draft; payers meet it once it is published"
	test={data.till.mode === 'test'}
>
	{#if data.choices.length === 0}
		<p class="note mt-4">
			Nothing can carry an offer yet. <a class="why" href="/connect/processors">Connect a processor</a> in {data.till
				.mode} mode, or <a class="why" href="/connect/offline/new">add a credit transfer</a>, first.
		</p>
	{:else}
		<form method="post" action="?/save" use:enhance>
			{#if $errors._errors}<p class="note clay mt-4" role="alert">{$errors._errors.join(' ')}</p>{/if}
			<input type="hidden" name="revision" bind:value={$form.revision} />
			<div class="grid max-w-[660px] grid-cols-2 gap-x-5">
				<Field
					label="Carried by"
					wrong={$errors.carrier}
					help={{
						what: 'The route: the connection or offline method that takes the money. Only those of this till’s mode are listed.'
					}}
				>
					{#snippet children(attributes)}
						<select {...attributes} name="carrier" bind:value={$form.carrier} onchange={changeCarrier}>
							{#each data.choices as one (one.value)}<option value={one.value}>{one.name}</option>{/each}
						</select>
					{/snippet}
				</Field>
				<Field
					label="Standby"
					wrong={$errors.standby}
					help={{ what: 'Steps in by itself while the route is paused or failing. It carries the same method.' }}
				>
					{#snippet children(attributes)}
						<select {...attributes} name="standby" bind:value={$form.standby} disabled={standbys.length === 0}>
							<option value="">{standbys.length ? 'none' : 'nothing else carries this'}</option>
							{#each standbys as one (one.value)}<option value={one.value}>{one.name}</option>{/each}
						</select>
					{/snippet}
				</Field>
				<Field
					label="Name for payers"
					wrong={$errors.name ??
						(twin
							? `“${twin}” stands in this line-up already. Where both meet, the lower one is withheld.`
							: undefined)}
					help={{ what: 'What the payer reads. Two offers that can meet must differ.', looks: 'Card' }}
				>
					{#snippet children(attributes)}<input {...attributes} name="name" bind:value={$form.name} />{/snippet}
				</Field>
				<Field
					label="What happens next, for the payer"
					wrong={$errors.note}
					help={{
						what: 'One line under the name: how certain the money is, and what you do then.',
						looks: 'Sure at once. We pack tomorrow.'
					}}
				>
					{#snippet children(attributes)}<input {...attributes} name="note" bind:value={$form.note} />{/snippet}
				</Field>
				<Field
					label="After paying"
					wrong={$errors.noteAfter}
					help={{ what: 'One line on the receipt.', looks: 'Your strings leave us tomorrow.' }}
				>
					{#snippet children(attributes)}<input
							{...attributes}
							name="noteAfter"
							bind:value={$form.noteAfter}
						/>{/snippet}
				</Field>
			</div>
			<fieldset class="mt-4">
				<legend class="legend">Currencies</legend>
				<div class="ticks">
					{#each data.till.currencies as code (code)}
						<label class:quiet={!choice?.currencies.includes(code)}
							><input
								type="checkbox"
								name="currencies"
								value={code}
								bind:group={$form.currencies}
								disabled={!choice?.currencies.includes(code)}
							/>
							{code}{choice?.currencies.includes(code) ? '' : `, not carried by ${choice?.name}`}</label
						>
					{/each}
				</div>
				{#if $errors.currencies?._errors}<span class="wrong" role="alert">{$errors.currencies._errors.join(' ')}</span
					>{/if}
			</fieldset>
			{#if choice && choice.schemes.length > 0}
				<div class="mt-4 grid max-w-[660px] grid-cols-3 gap-5">
					<fieldset>
						<legend class="legend">Schemes</legend>
						{#each choice.schemes as scheme (scheme.id)}<label class="block"
								><input type="checkbox" name="schemes" value={scheme.id} bind:group={$form.schemes} />
								{scheme.name}</label
							>{/each}
						{#if $errors.schemes?._errors}<span class="wrong" role="alert">{$errors.schemes._errors.join(' ')}</span
							>{/if}
					</fieldset>
					<fieldset>
						<legend class="legend">Funding</legend>
						{#each choice.fundings as funding (funding)}<label class="block"
								><input type="checkbox" name="fundings" value={funding} bind:group={$form.fundings} />
								{FUNDING[funding]}</label
							>{/each}
						{#if $errors.fundings?._errors}<span class="wrong" role="alert">{$errors.fundings._errors.join(' ')}</span
							>{/if}
					</fieldset>
					<fieldset>
						<legend class="legend">Region</legend>
						{#each choice.regions as region (region)}<label class="block"
								><input type="checkbox" name="regions" value={region} bind:group={$form.regions} />
								{REGION[region]}</label
							>{/each}
						{#if $errors.regions?._errors}<span class="wrong" role="alert">{$errors.regions._errors.join(' ')}</span
							>{/if}
					</fieldset>
				</div>
				<p class="sub mt-1">
					What {choice.name} does not carry is not listed. A card that is not taken is refused before any charge.
				</p>
			{/if}
			<div class="grid max-w-[660px] grid-cols-[110px_1fr_1fr] gap-x-5">
				<Field
					label="Limits in"
					wrong={$errors.boundCurrency}
					help={{
						what: 'A limit counts in its own currency; for payments in another one the home currency’s limit counts, at the day’s rate.'
					}}
				>
					{#snippet children(attributes)}
						<select {...attributes} name="boundCurrency" bind:value={$form.boundCurrency}>
							{#each data.till.currencies as code (code)}<option>{code}</option>{/each}
						</select>
					{/snippet}
				</Field>
				<Field
					label="Offered from"
					wrong={$errors.minimum}
					help={{ what: 'The smallest amount, included. Empty: any.', looks: '20.00' }}
				>
					{#snippet children(attributes)}<input
							{...attributes}
							name="minimum"
							inputmode="decimal"
							bind:value={$form.minimum}
						/>{/snippet}
				</Field>
				<Field label="Offered to" wrong={$errors.maximum} help={{ what: 'The largest amount, included. Empty: any.' }}>
					{#snippet children(attributes)}<input
							{...attributes}
							name="maximum"
							inputmode="decimal"
							bind:value={$form.maximum}
						/>{/snippet}
				</Field>
			</div>
			<div class="grid max-w-[660px] grid-cols-[160px_1fr] gap-x-5">
				<Field
					label="Payer’s country"
					wrong={$errors.countryRule}
					help={{
						what: 'Where the payer is, as the address tells. A payer of an unknown country does not meet an offer that asks for one.'
					}}
				>
					{#snippet children(attributes)}
						<select {...attributes} name="countryRule" bind:value={$form.countryRule}>
							<option value="any">any</option><option value="only">only these</option><option value="except"
								>all but these</option
							>
						</select>
					{/snippet}
				</Field>
				{#if $form.countryRule !== 'any'}
					<Field
						label="Countries"
						wrong={$errors.countries}
						help={{ what: 'Codes of two letters, with spaces between them.', looks: 'BE NL DE' }}
					>
						{#snippet children(attributes)}<input
								{...attributes}
								name="countries"
								class="mono"
								bind:value={$form.countries}
							/>{/snippet}
					</Field>
				{/if}
			</div>
			<label class="mt-4 block"><input type="checkbox" name="on" bind:checked={$form.on} /> The offer is on</label>
			<div class="mt-5 flex gap-2">
				<button class="button main" data-save
					>{data.isNew ? 'Add offer to the draft' : 'Save offer in the draft'}</button
				>
				{#if !data.isNew}<button class="button" formaction="?/remove">Remove offer</button>{/if}
				<a class="button" href="/accept/tills/{data.till.slug}">Leave it as it was</a>
			</div>
		</form>
	{/if}
</Sheet>
<Workings
	first={{
		title: 'When a payer meets it',
		about: 'All of these are checked, in this order, for every payer.',
		steps: [
			{ title: 'It is on, and its method is not paused' },
			{ title: 'Its route is verified, of the till’s mode, and working', sub: 'else its standby' },
			{ title: 'The account can carry method, currency and amount' },
			{ title: 'Till and offer take the currency' },
			{ title: 'The amount is within the limits', sub: 'both ends included' },
			{ title: 'Conditions on the payer hold' },
			{ title: 'Some card type is left' },
			{ title: 'Nothing offered above stands in its way' }
		]
	}}
/>
