<script lang="ts">
	import { enhance } from '$app/forms';
	import { RateCardEditor, Sheet, Workings } from '$lib/ui';
	import CandidateFields from '$lib/ui/CandidateFields.svelte';
	const { data, form } = $props();
</script>

<Sheet
	title="Add a candidate"
	about="A processor that is only considered: its prices as it quoted them, to compare before connecting"
>
	<p class="quiet mt-3">
		Start from {#each data.processors as one, i (one.processor)}{i ? ', ' : ''}<a
				class="underline"
				href="?processor={one.processor}"
				data-sveltekit-noscroll>{one.name}</a
			>{/each}.
	</p>
	{#key data.start.processor}
		<form
			method="post"
			use:enhance={() =>
				async ({ update }) =>
					update({ reset: false })}
		>
			<CandidateFields start={data.start} methods={data.methods} />
			<h2>Rate card</h2>
			<RateCardEditor card={data.card} locale={data.locale} />
			{#if form?.wrong}<ul class="note clay mt-3" role="alert">
					{#each form.wrong as one, at (at)}<li>{one}</li>{/each}
				</ul>{/if}
			<button class="button main mt-4" data-save>Add candidate</button>
		</form>
	{/key}
</Sheet>
<Workings
	how={{
		title: 'Before you connect',
		steps: [
			{ title: 'Write down what was quoted', sub: 'lines, tiers, charges around the payment' },
			{ title: 'Try one payment', sub: 'its workings stand here' },
			{ title: 'Put it side by side', sub: 'with what you have, on your own payments' }
		]
	}}
/>
