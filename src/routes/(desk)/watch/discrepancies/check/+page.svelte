<script lang="ts">
	import { DayInput, Sheet, Verdict, WideTable, Workings } from '$lib/ui';
	import JobProgress from '$lib/ui/JobProgress.svelte';
	const { data } = $props();
</script>

<Sheet title="Check a period" about="Every fee of these days, held again against the contract of its day">
	{#if data.pending}
		<JobProgress {...data.pending} what="months of connections" />
	{:else}
		{#if data.checked}<Verdict verdict={data.checked.verdict} />{/if}
		<form method="get" class="mt-3 flex flex-wrap items-end gap-3">
			<label
				><span class="legend">From</span><DayInput
					name="from"
					value={data.wrong ? data.typed.from : data.from}
					locale={data.locale}
				/></label
			>
			<label
				><span class="legend">to</span><DayInput
					name="to"
					value={data.wrong ? data.typed.to : data.to}
					locale={data.locale}
				/></label
			>
			<button class="button main">Check</button>
			<a class="button" href="/watch/discrepancies">Back to what is open</a>
		</form>
		{#if data.wrong}<p class="trouble mt-2" role="alert">{data.wrong}</p>{/if}
		{#if !data.checked && !data.wrong}<p class="quiet mt-3 max-w-2xl">
				What comes in is checked by itself. Here you check days of your choice once more: after you confirmed a
				contract, or before you close a month. It prices every payment again and changes nothing.
			</p>{/if}
		{#if data.checked}
			{#if data.checked.stale}<p class="note mt-3">
					{data.checked.stale.toLocaleString(data.locale)} of these payments are about to be priced again, since something
					about them changed. Check again in a moment.
				</p>{/if}
			{#if data.checked.causes.length}
				<h2>What differs</h2>
				<WideTable label="What differs">
					<table>
						<thead
							><tr
								><th class="min-w-[170px]">Cause</th><th>Connection</th><th>Seen</th><th class="n">Of</th><th class="n"
									>Too much</th
								><th class="n">Too little</th><th class="n">Difference</th><th>State</th></tr
							></thead
						>
						<tbody>
							{#each data.checked.causes as one (one.at)}<tr
									><td
										>{#if one.href}<a data-row class="font-semibold underline" href={one.href}>{one.says}</a>{:else}<b
												>{one.says}</b
											>{/if}<span class="sub">{one.kinds}</span></td
									><td>{one.connection}</td><td class="whitespace-nowrap"
										>{one.first}{#if one.last !== one.first}<span class="sub">to {one.last}</span>{/if}</td
									><td class="n whitespace-nowrap">{one.count}</td><td class="n whitespace-nowrap">{one.over}</td><td
										class="n whitespace-nowrap">{one.under}</td
									><td class="n font-semibold whitespace-nowrap">{one.difference}</td><td>{one.state ?? 'new'}</td></tr
								>{/each}
						</tbody>
					</table>
				</WideTable>
			{/if}
			{#if data.checked.connections.length}
				<h2>What was checked</h2>
				<WideTable label="What was checked">
					<table>
						<thead
							><tr
								><th>Connection</th><th class="n">Payments</th><th class="n">No price</th><th class="n">Fee not told</th
								><th class="n">Charges</th><th class="n">Agreed</th><th class="n">Charged</th><th class="n"
									>Difference</th
								></tr
							></thead
						>
						<tbody>
							{#each data.checked.connections as one (one.id)}<tr
									><td><a data-row class="underline" href={one.href}>{one.connection}</a></td><td class="n"
										>{one.payments}</td
									><td class="n">{one.unpriced}</td><td class="n">{one.untold}</td><td class="n">{one.charges}</td><td
										class="n whitespace-nowrap">{one.expected}</td
									><td class="n whitespace-nowrap">{one.charged}</td><td class="n font-semibold whitespace-nowrap"
										>{one.difference}</td
									></tr
								>{/each}
						</tbody>
					</table>
				</WideTable>
				<p class="quiet mt-2">Agreed and charged are the fees of payments; charges of accounts stand beside them.</p>
			{/if}
		{/if}
	{/if}
</Sheet>
<Workings />
