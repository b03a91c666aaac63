<script lang="ts">
	import { formatDay, inZone } from '$lib/core/calendar';
	import { Sheet, Workings } from '$lib/ui';
	const { data } = $props();
	const when = (ms: number) => formatDay(inZone(new Date(ms), data.business.timeZone).day, data.locale);
</script>

<Sheet title="Record a receipt" about="Cash, a card at the door, a transfer, a cheque: choose the order that was paid">
	<form method="get" class="mt-3 flex gap-2" role="search">
		<input
			name="q"
			type="search"
			value={data.text}
			placeholder="Order or payer"
			aria-label="Search orders to be paid"
			class="!py-2.5"
		/>
		<button class="button">Search</button>
	</form>
	<ul class="mt-3">
		{#each data.lines as line (line.id)}
			<li>
				<a data-row href="/takings/receive/{line.id}" class="row"
					><span
						><b>{line.payer || line.reference}</b><span class="sub"
							>{line.reference} · {line.method} · {when(line.at)}{line.isPart ? ' · a part has come' : ''}</span
						></span
					><span class="font-display text-[17px] font-semibold whitespace-nowrap">{line.missing}</span></a
				>
			</li>
		{:else}
			<li class="mt-4">
				{data.text
					? `Nothing that is still to be paid offline is called “${data.text}”.`
					: 'Nothing is still to be paid by an offline method. Orders will stand here as soon as payers choose one.'}
			</li>
		{/each}
	</ul>
	{#if data.lines.length === 100}<p class="quiet mt-2">The newest hundred. Search for older ones.</p>{/if}
</Sheet>
<Workings
	how={{
		title: 'How to record a receipt',
		about: `${data.lines.length} order${data.lines.length === 1 ? '' : 's'} ${data.text ? 'like this' : 'in all'}.`,
		steps: [
			{ title: 'Choose the order', sub: 'the sum that is missing stands beside it' },
			{ title: 'Choose how it was paid', sub: 'change the sum where a part or more came' },
			{ title: 'Record it', sub: 'a receipt that was a mistake is reversed, and stays to be seen' }
		]
	}}
/>

<style>
	.row {
		display: grid;
		grid-template-columns: 1fr auto;
		align-items: center;
		gap: 12px;
		min-height: 56px;
		padding: 8px 2px;
		border-top: 1px solid var(--rule);
		text-decoration: none;
	}
</style>
