<script lang="ts">
	import Field from './Field.svelte';

	interface Values {
		name: string;
		mode: 'test' | 'live';
		currencies: string[];
		colour: string;
		domain: string;
	}
	interface Props {
		values: Values;
		errors: { name?: string[]; currencies?: { _errors?: string[] } };
		choices: readonly string[];
		colours: readonly { value: string; name: string }[];
		/** web domains of the business */
		domains: readonly string[];
		/** the mode is fixed once the till is there */
		fixedMode?: boolean;
	}
	let { values = $bindable(), errors, choices, colours, domains, fixedMode = false }: Props = $props();
</script>

<Field
	label="Name"
	wrong={errors.name}
	help={{ what: 'What you call this place. Its address is made of it.', looks: 'Web shop' }}
>
	{#snippet children(attributes)}<input {...attributes} name="name" bind:value={values.name} />{/snippet}
</Field>
{#if fixedMode}
	<input type="hidden" name="mode" value={values.mode} />
{:else}
	<fieldset class="mt-3">
		<legend class="legend">For</legend>
		<div class="ticks">
			<label><input type="radio" name="mode" value="live" bind:group={values.mode} /> Live payments</label>
			<label><input type="radio" name="mode" value="test" bind:group={values.mode} /> Test payments only</label>
		</div>
		<span class="sub">It stays so: test and live payments never mix at one till.</span>
	</fieldset>
{/if}
<fieldset class="mt-3">
	<legend class="legend">Currencies it takes</legend>
	<div class="ticks">
		{#each choices as code (code)}<label
				><input type="checkbox" name="currencies" value={code} bind:group={values.currencies} /> {code}</label
			>{/each}
	</div>
	{#if errors.currencies?._errors}<span class="wrong" role="alert">{errors.currencies._errors.join(' ')}</span>{/if}
</fieldset>
<fieldset class="mt-3">
	<legend class="legend">Colour of the payer’s page</legend>
	<div class="ticks">
		{#each colours as { value, name } (value)}
			<label
				><input type="radio" name="colour" {value} bind:group={values.colour} /><span
					class="inline-block h-4 w-6 rounded-[3px]"
					style:background={value}
				></span>
				{name}</label
			>
		{/each}
	</div>
</fieldset>
{#if domains.length || values.domain}
	<Field
		label="Web domain"
		help={{
			what: 'The domain on which payers see this till. Device wallets want a proof there, and some methods a code on its page.',
			where: 'Domains are added under Connect, Domains.'
		}}
	>
		{#snippet children(attributes)}
			<select {...attributes} name="domain" bind:value={values.domain}>
				<option value="">this address</option>
				{#each [...new Set([...domains, ...(values.domain ? [values.domain] : [])])] as domain (domain)}<option
						>{domain}</option
					>{/each}
			</select>
		{/snippet}
	</Field>
{/if}
