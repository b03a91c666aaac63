<script lang="ts">
	import Field from './Field.svelte';

	interface Props {
		start: {
			name: string;
			processor: string;
			methods: readonly string[];
			currencies: string;
			paysOutDays: number;
			note?: string;
		};
		methods: readonly { method: string; name: string }[];
	}
	/** What a candidate is and can do, as far as one knows before connecting it. */
	const { start, methods }: Props = $props();
</script>

<input type="hidden" name="processor" value={start.processor} />
<div class="grid max-w-[700px] gap-x-4 sm:grid-cols-[1fr_1fr_120px]">
	<Field label="Name" help={{ what: 'What you call the offer.', looks: 'Halfpenny, quote of May' }}>
		{#snippet children(attributes)}<input {...attributes} name="name" value={start.name} />{/snippet}
	</Field>
	<Field label="Currencies" help={{ what: 'Codes with spaces.', looks: 'EUR GBP' }}>
		{#snippet children(attributes)}<input
				{...attributes}
				name="currencies"
				class="mono"
				value={start.currencies}
			/>{/snippet}
	</Field>
	<Field label="Bank days" help={{ what: 'From the payment until the money is in the bank.' }}>
		{#snippet children(attributes)}<input
				{...attributes}
				name="paysOutDays"
				type="number"
				min="0"
				max="60"
				value={start.paysOutDays}
			/>{/snippet}
	</Field>
</div>
<fieldset class="mt-3">
	<legend class="legend">Carries</legend>
	<div class="ticks">
		{#each methods as one (one.method)}<label
				><input type="checkbox" name="methods" value={one.method} checked={start.methods.includes(one.method)} />
				{one.name}</label
			>{/each}
	</div>
</fieldset>
