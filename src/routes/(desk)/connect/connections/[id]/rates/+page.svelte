<script lang="ts">
	import { enhance } from '$app/forms';
	import { formatDay, inZone } from '$lib/core/calendar';
	import { ConnectionSheet, DayInput, Field, RateCardEditor, Said, Verdict, Workings } from '$lib/ui';
	import RateCardReading from '$lib/ui/RateCardReading.svelte';
	const { data, form } = $props();
</script>

<ConnectionSheet connection={data.connection} chooser={data.chooser}>
	<Said form={form as never} />
	<p class="mt-4">
		{#if !data.hasContract}No contract yet: nothing is expected of {data.connection.name}’s fees.{/if}
		{#each data.versions as one, i (one.key)}{i ? ', ' : ''}<a
				class={one.key === data.shown.key ? 'font-semibold' : 'underline'}
				href="?version={one.key}"
				>{one.role === 'contract' ? 'contract' : 'proposal'} from {formatDay(one.validFrom, data.locale)}</a
			> <span class="quiet">({one.source})</span>{/each}
	</p>
	{#if data.change && data.differs.length}<Verdict verdict={data.change} />{/if}
	{#if data.differs.length}
		<details class="mt-2" open={data.shown.isProposal}>
			<summary class="cursor-pointer"
				>{data.differs.length} difference{data.differs.length === 1 ? '' : 's'} against the contract of {formatDay(
					data.before ?? '',
					data.locale
				)}</summary
			>
			<ul class="mt-1 list-disc pl-5">
				{#each data.differs as one, nth (nth)}<li>{one}</li>{/each}
			</ul>
		</details>
	{/if}
	{#if data.shown.isProposal}
		<form method="post" action="?/confirm" use:enhance class="note mt-3 flex items-center justify-between gap-3">
			<input type="hidden" name="version" value={data.shown.validFrom} />
			<span
				>This is what {data.source} says. Until you confirm it, nothing is expected by it{data.hasContract
					? ', and fees are held against your contract'
					: ''}.</span
			>
			<span class="flex gap-2">
				<button class="button main">Confirm this rate card</button>
				{#if data.hasContract}<button class="button" formaction="?/decline">Keep the contract</button>{/if}
			</span>
		</form>
	{:else if data.confirmed}
		<p class="quiet mt-2">
			Confirmed as agreed by {data.confirmed.by}, {formatDay(
				inZone(new Date(data.confirmed.at), data.business.timeZone).day,
				data.locale
			)}.
		</p>
	{/if}
	{#if data.troubles.length}
		<ul class="note clay mt-3">
			{#each data.troubles as one, at (at)}<li>{one}</li>{/each}
		</ul>
	{/if}
	<RateCardReading card={data.card} locale={data.locale} />
	{#key data.shown.key}
		<details class="mt-5" open={!!form && 'wrong' in form}>
			<summary class="button cursor-pointer">Change the rate card</summary>
			<form
				method="post"
				action="?/keep"
				use:enhance={() =>
					async ({ update }) =>
						update({ reset: false })}
			>
				<RateCardEditor card={data.card} locale={data.locale} />
				{#if form && 'wrong' in form}<ul class="note clay mt-3" role="alert">
						{#each form.wrong ?? [] as one, at (at)}<li>{one}</li>{/each}
					</ul>{/if}
				<div class="mt-4 flex items-end gap-3">
					<div class="w-44">
						<Field
							label="Valid from"
							help={{ what: 'In the account’s time zone. A card holds until the next one begins.' }}
						>
							{#snippet children(attributes)}<DayInput
									{...attributes}
									name="validFrom"
									value={data.today}
									locale={data.locale}
								/>{/snippet}
						</Field>
					</div>
					<button class="button main" data-save>Keep as the contract</button>
				</div>
			</form>
		</details>
	{/key}
</ConnectionSheet>
<Workings
	how={{
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
