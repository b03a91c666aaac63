<script lang="ts">
	import { Sheet, Verdict, WideTable, Workings } from '$lib/ui';
	const { data } = $props();
	const open = $derived(data.rows.filter((one) => !one.isClosed));
	const closed = $derived(data.rows.filter((one) => one.isClosed));
	const lists = $derived(
		[
			{ name: 'Open', rows: open, empty: 'None.' },
			{ name: 'Settled or accepted', rows: closed, empty: '' }
		].map((one) => ({
			...one,
			// columns that nothing needs are left out
			hasUnder: one.rows.some((row) => row.under),
			hasBack: one.rows.some((row) => row.corrected)
		}))
	);
</script>

<Sheet title="Fee check" about="What processors charged, against the contracts that were confirmed">
	{#snippet acts()}<a class="button" href="/watch/discrepancies/check">Check a period</a>{/snippet}
	<Verdict verdict={data.verdict} />
	{#each lists as list (list.name)}
		{#if list.rows.length || list.empty}
			<h2>{list.name}</h2>
			{#if list.rows.length}
				<WideTable label="Discrepancies: {list.name}">
					<table>
						<thead
							><tr
								><th class="min-w-[170px]">Cause</th><th>Connection</th><th>Seen</th><th class="n">Of</th><th class="n"
									>Too much</th
								>{#if list.hasUnder}<th class="n">Too little</th>{/if}{#if list.hasBack}<th class="n">Came back</th
									>{/if}<th class="n">Left</th><th>State</th></tr
							></thead
						>
						<tbody>
							{#each list.rows as one (one.id)}<tr
									><td
										><a data-row class="font-semibold underline" href="/watch/discrepancies/{one.id}"
											>{one.cause.replaceAll(' %', '\u00a0%')}</a
										><span class="sub">{one.kinds.join('; ')}</span></td
									><td>{one.connection}</td><td class="whitespace-nowrap"
										>{one.first}{#if one.last !== one.first}<span class="sub">to {one.last}</span>{/if}</td
									><td class="n whitespace-nowrap">{one.counted}</td><td class="n whitespace-nowrap">{one.over}</td
									>{#if list.hasUnder}<td class="n whitespace-nowrap">{one.under}</td>{/if}{#if list.hasBack}<td
											class="n whitespace-nowrap">{one.corrected}</td
										>{/if}<td class="n font-semibold whitespace-nowrap">{one.remaining}</td><td>{one.state}</td></tr
								>{/each}
						</tbody>
					</table>
				</WideTable>
			{:else}<p class="quiet mt-2">{list.empty}</p>{/if}
		{/if}
	{/each}
	{#if data.unpriced.length}
		<h2>Not checked</h2>
		<p class="quiet mt-2">Nothing is expected of these, so nothing can be said of their fees.</p>
		<table class="mt-2">
			<thead
				><tr><th>Connection</th><th>Months</th><th class="n">Of</th><th class="n">Fees charged</th><th>Why</th></tr
				></thead
			>
			<tbody>
				{#each data.unpriced as one (one.id)}<tr
						><td><a class="underline" href="/connect/connections/{one.connectionId}/rates">{one.connection}</a></td><td
							>{one.from}{one.to === one.from ? '' : ` to ${one.to}`}</td
						><td class="n whitespace-nowrap">{one.count}</td><td class="n">{one.fee}</td><td>{one.why}</td></tr
					>{/each}
			</tbody>
		</table>
	{/if}
</Sheet>
<Workings />
