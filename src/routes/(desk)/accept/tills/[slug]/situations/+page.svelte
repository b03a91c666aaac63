<script lang="ts">
	import { Coverage, TillSheet, Workings } from '$lib/ui';
	const { data } = $props();
</script>

<TillSheet
	till={data.till}
	about="Every situation a payer can be in, by the {data.which === 'draft'
		? 'draft'
		: `line-up in force${data.number ? `, version ${data.number}` : ''}`}"
>
	{#if data.both}
		<p class="mt-3">
			{#if data.which === 'draft'}<b>The draft</b> · <a class="underline" href="?which=published">what is published</a>
			{:else}<a class="underline" href="?which=draft">the draft</a> · <b>What is published</b>{/if}
		</p>
	{/if}
	{#each data.details as one, at (at)}
		<p class="note clay mt-3">
			{one} <a class="why" href="/accept/tills/{data.till.slug}/settings">Change what the till asks</a>
		</p>
	{/each}
	<div class="mt-3">
		{#if data.empty}<p class="quiet">
				No offers yet: every payer would meet an empty checkout. <a
					class="why"
					href="/accept/tills/{data.till.slug}/offers/new">Add the first offer</a
				>
			</p>
		{:else}<Coverage
				input={data.input}
				locale={data.locale}
				names={data.names}
				slug={data.till.slug}
				past={data.past}
			/>{/if}
	</div>
</TillSheet>
<Workings
	how={{
		title: 'Why there are no other situations',
		steps: [
			{
				title: 'Every condition is a step',
				sub: 'between two limits in play, nothing can change: amounts fall into the stretches between them'
			},
			{
				title: 'Payers fall into classes',
				sub: 'countries, groups, goods and the rest that no condition tells apart are one; not known is a class of its own'
			},
			{ title: 'Each class is asked once', sub: 'by the function that answers at the payer’s page' },
			{ title: 'Alike situations are told as one', sub: 'the worst stand first' }
		]
	}}
/>
