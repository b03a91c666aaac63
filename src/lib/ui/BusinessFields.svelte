<script lang="ts">
	import Field from './Field.svelte';

	interface Props {
		values: { name: string; country: string; homeCurrency: string; timeZone: string; locale: string };
		errors: { name?: string[]; country?: string[]; homeCurrency?: string[]; timeZone?: string[]; locale?: string[] };
		countries: { code: string; name: string }[];
		currencies: readonly string[];
		zones: string[];
		/** ways to write sums and days, each with a sample */
		locales: { value: string; name: string }[];
	}
	let { values = $bindable(), errors, countries, currencies, zones, locales }: Props = $props();
</script>

<Field
	label="Name of the business"
	wrong={errors.name}
	help={{
		what: 'The name that payers read on checkouts, receipts and, shortened, on their statements.',
		looks: 'Wren & Alder Strings'
	}}
>
	{#snippet children(attributes)}<input
			{...attributes}
			name="name"
			autocomplete="organization"
			bind:value={values.name}
		/>{/snippet}
</Field>
<Field
	label="Country"
	wrong={errors.country}
	help={{
		what: 'Where the business is established. It decides which processors can be used and which cards count as domestic.'
	}}
>
	{#snippet children(attributes)}
		<select {...attributes} name="country" bind:value={values.country}>
			<option value="">Choose…</option>
			{#each countries as { code, name } (code)}<option value={code}>{name}</option>{/each}
		</select>
	{/snippet}
</Field>
<Field
	label="Home currency"
	wrong={errors.homeCurrency}
	help={{
		what: 'The currency the books are kept in. Limits that are set in it count for other currencies at the day’s rate.'
	}}
>
	{#snippet children(attributes)}
		<select {...attributes} name="homeCurrency" bind:value={values.homeCurrency}>
			<option value="">Choose…</option>
			{#each currencies as code (code)}<option>{code}</option>{/each}
		</select>
	{/snippet}
</Field>
<Field
	label="Time zone"
	wrong={errors.timeZone}
	help={{ what: 'Days, cut-offs and months are counted in it.', looks: 'Europe/Brussels' }}
>
	{#snippet children(attributes)}
		<select {...attributes} name="timeZone" bind:value={values.timeZone}>
			<option value="">Choose…</option>
			{#each zones as zone (zone)}<option>{zone}</option>{/each}
		</select>
	{/snippet}
</Field>
<Field
	label="How sums and days are written"
	wrong={errors.locale}
	help={{
		what: 'Sums and days are shown and typed so on every screen of the desk. Payers see them in their own language.'
	}}
>
	{#snippet children(attributes)}
		<select {...attributes} name="locale" bind:value={values.locale}>
			<option value="">As each browser is set</option>
			{#each locales as one (one.value)}<option value={one.value}>{one.name}</option>{/each}
		</select>
	{/snippet}
</Field>
