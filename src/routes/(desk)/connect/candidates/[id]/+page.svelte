<script lang="ts">
	import { enhance } from '$app/forms';
	import { RateCardEditor, Said, Sheet, Workings } from '$lib/ui';
	import CandidateFields from '$lib/ui/CandidateFields.svelte';
	const { data, form } = $props();
</script>

<Sheet title={data.start.name} about="Candidate: considered, not connected">
	{#snippet acts()}
		<a class="button" href="/connect/compare?with={data.id}">Put it side by side</a>
		<form method="post" action="?/remove" use:enhance><button class="button">Remove candidate</button></form>
	{/snippet}
	<Said form={form as never} />
	{#if data.isNew && !form}<p class="note moss mt-4" role="status">
			<b>Added.</b> Next: <a class="why" href="/connect/compare?with={data.id}">put it side by side</a> with what you have.
		</p>{/if}
	<form
		method="post"
		action="?/save"
		use:enhance={() =>
			async ({ update }) =>
				update({ reset: false })}
	>
		<CandidateFields start={data.start} methods={data.methods} />
		<h2>Rate card</h2>
		<RateCardEditor card={data.card} locale={data.locale} />
		{#if form && 'wrong' in form}<ul class="note clay mt-3" role="alert">
				{#each form.wrong ?? [] as one, at (at)}<li>{one}</li>{/each}
			</ul>{/if}
		<button class="button main mt-4" data-save>Save candidate</button>
	</form>
</Sheet>
<Workings
	how={{
		title: 'A candidate',
		steps: [{ title: 'Stands in comparisons like a connection' }, { title: 'Carries no payment' }]
	}}
/>
