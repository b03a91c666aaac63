<script lang="ts">
	import { enhance } from '$app/forms';
	import { ConnectionSheet, Field, RateCardEditor, Said, Workings } from '$lib/ui';
	const { data, form } = $props();
</script>

<ConnectionSheet connection={data.connection} chooser={data.chooser}>
	<Said form={form as never} />
	<p class="mt-4">
		Versions:
		{#each data.versions as one, i (one.validFrom)}{i ? ', ' : ''}<a
				class={one.validFrom === data.shown ? 'font-semibold' : 'underline'}
				href="?version={one.validFrom}">from {one.validFrom}</a
			> <span class="quiet">({one.source}{one.confirmed ? '' : ', not confirmed'})</span>{/each}
	</p>
	{#if data.differs.length}
		<details class="mt-2">
			<summary class="cursor-pointer"
				>{data.differs.length} difference{data.differs.length === 1 ? '' : 's'} against the card of {data.before}</summary
			>
			<ul class="mt-1 list-disc pl-5">
				{#each data.differs as one (one)}<li>{one}</li>{/each}
			</ul>
		</details>
	{/if}
	{#if data.confirmed}
		<p class="quiet mt-2">
			Confirmed as agreed by {data.confirmed.by}, {new Date(data.confirmed.at).toLocaleDateString(data.locale, {
				timeZone: data.business.timeZone,
				dateStyle: 'medium'
			})}.
		</p>
	{:else}
		<form method="post" action="?/confirm" use:enhance class="note mt-3 flex items-center justify-between gap-3">
			<input type="hidden" name="version" value={data.shown} />
			<span
				>Read from {data.source}, not yet held against your contract. Confirm it, or correct it below and keep your
				version.</span
			>
			<button class="button">Confirm this rate card</button>
		</form>
	{/if}
	{#if data.troubles.length}
		<ul class="note clay mt-3">
			{#each data.troubles as one (one)}<li>{one}</li>{/each}
		</ul>
	{/if}
	{#key data.shown}
		<form
			method="post"
			action="?/keep"
			use:enhance={() =>
				async ({ update }) =>
					update({ reset: false })}
		>
			<RateCardEditor card={data.card} locale={data.locale} />
			{#if form && 'wrong' in form}<ul class="note clay mt-3" role="alert">
					{#each form.wrong ?? [] as one (one)}<li>{one}</li>{/each}
				</ul>{/if}
			<div class="mt-4 flex items-end gap-3">
				<div class="w-44">
					<Field
						label="Valid from"
						help={{ what: 'In the account’s time zone. A card holds until the next one begins.' }}
					>
						{#snippet children(attributes)}<input
								{...attributes}
								type="date"
								name="validFrom"
								value={data.today}
							/>{/snippet}
					</Field>
				</div>
				<button class="button main" data-save>Keep this version</button>
			</div>
		</form>
	{/key}
</ConnectionSheet>
<Workings
	first={{
		title: 'How a payment is priced',
		steps: [
			{ title: 'The card that is valid on the day of capture' },
			{ title: 'The line with the most conditions that fit', sub: 'two best ones make it ambiguous: not saved' },
			{ title: 'Percentage and fixed part', sub: 'clamped to at least and at most' },
			{ title: 'Interchange and scheme fees', sub: 'where a cost table passes them on' },
			{ title: 'Another currency, an intermediary' },
			{ title: 'Rounded', sub: 'once, or each part' }
		]
	}}
/>
