<script lang="ts">
	import { formatDay } from '$lib/core/calendar';
	import { Sheet, Workings } from '$lib/ui';
	const { data } = $props();
</script>

<Sheet
	title="Pay links"
	about="An address that never changes, and settings that may: goods, a fixed sum, or a sum that the payer names"
>
	{#snippet acts()}<a class="button main" href="/bill/links/new">Make a pay link</a>{/snippet}
	<table class="mt-3">
		<thead
			><tr
				><th>Link</th><th>Asks for</th><th class="n">Visits</th><th class="n">Starts</th><th class="n">Paid</th><th
					class="n">Brought</th
				><th>Left</th></tr
			></thead
		>
		<tbody>
			{#each data.links as one (one.id)}<tr
					><td
						><a class="font-semibold underline" data-row href="/bill/links/{one.id}">{one.name}</a><span class="sub"
							>{one.till}{one.test ? ', test' : ''}{one.isClosed ? ' · closed' : ''}{one.until
								? ` · until ${formatDay(one.until, data.locale)}`
								: ''}</span
						>{#each one.unmet as unmet (unmet.sum)}<span class="sub text-clay"
								>{unmet.count} met no way to pay, {unmet.sum}</span
							>{/each}</td
					><td>{one.asksFor}</td><td class="n">{one.visits}</td><td class="n">{one.starts}</td><td class="n"
						>{one.paid}</td
					><td class="n">{one.sums.join(', ')}</td><td>{one.left === null ? '' : `${one.left} of ${one.cap}`}</td></tr
				>{:else}<tr
					><td colspan="7" class="quiet"
						>No pay links yet. Make one for a workshop, a fair, a gift: its address can be sent, printed as a code, or
						put on a web page.</td
					></tr
				>{/each}
		</tbody>
	</table>
</Sheet>
<Workings />
