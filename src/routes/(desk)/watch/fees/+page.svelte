<script lang="ts">
	import { exponentOf } from '$lib/core/money';
	import { Chart, DayInput, Figure, Sheet, Verdict, WideTable, Workings } from '$lib/ui';
	import { drawStreams } from './streams';
	const { data } = $props();
	const scale = $derived('asked' in data && data.asked ? 10 ** exponentOf(data.asked.currency) : 1);
	const query = (change: Record<string, string>) =>
		'asked' in data ? `?${new URLSearchParams({ ...data.asked, ...change })}` : '';
</script>

<Sheet title="Fees over time">
	{#if 'none' in data}
		<p class="mt-3 max-w-prose">
			No processor has captured anything yet. Once payments come, or <a class="why" href="/connect/files"
				>a settlement file is imported</a
			>, this shows what is paid per 100, month by month, and why it changes.
		</p>
	{:else}
		<Verdict verdict={data.verdict} />
		<form method="get" class="mt-3 flex flex-wrap items-end gap-3">
			<label
				><span class="legend">From</span><DayInput
					name="from"
					value={data.asked.from}
					locale={data.locale}
					class="!w-28"
				/></label
			>
			<label
				><span class="legend">to</span><DayInput
					name="to"
					value={data.asked.to}
					locale={data.locale}
					class="!w-28"
				/></label
			>
			<label
				><span class="legend">Against, from</span><DayInput
					name="againstFrom"
					value={data.asked.againstFrom}
					locale={data.locale}
					class="!w-28"
				/></label
			>
			<label
				><span class="legend">to</span><DayInput
					name="againstTo"
					value={data.asked.againstTo}
					locale={data.locale}
					class="!w-28"
				/></label
			>
			<label
				><span class="legend">By</span><select name="by" value={data.asked.by}
					>{#each data.by as one (one.value)}<option value={one.value}>{one.name}</option>{/each}</select
				></label
			>
			{#if data.currencies.length > 1}<label
					><span class="legend">Currency</span><select name="currency" value={data.asked.currency}
						>{#each data.currencies as one (one)}<option>{one}</option>{/each}</select
					></label
				>{/if}
			<button class="button">Compare</button>
			<span class="flex flex-wrap gap-2"
				>{#each data.spans as one (one.name)}<a class="button" class:main={one.isShown} href={one.href}>{one.name}</a
					>{/each}</span
			>
			{#if data.wrong}<span class="wrong" role="alert">{data.wrong}</span>{/if}
		</form>

		<h2>By month</h2>
		<Chart
			label="Fees per 100 and what was captured, by month, {data.asked.currency}; the table below has the figures"
			height={220}
			option={({ quiet, rule, series }) => ({
				color: series,
				grid: { left: 64, right: 52, top: 34, bottom: 26 },
				legend: { top: 0, left: 0, itemGap: 28, textStyle: { color: quiet }, itemWidth: 14, itemHeight: 10 },
				tooltip: { trigger: 'axis' },
				xAxis: {
					type: 'category',
					data: data.months.map((one) => one.month),
					axisLabel: { color: quiet },
					axisLine: { lineStyle: { color: rule } }
				},
				yAxis: [
					{
						type: 'value',
						name: '',
						axisLabel: { color: quiet, formatter: (value: number) => value.toLocaleString(data.locale) },
						splitLine: { lineStyle: { color: rule } }
					},
					{
						type: 'value',
						axisLabel: { color: quiet, formatter: (value: number) => value.toLocaleString(data.locale) },
						splitLine: { show: false }
					}
				],
				series: [
					{
						name: `captured, ${data.asked.currency}`,
						type: 'bar',
						barMaxWidth: 26,
						itemStyle: { color: rule },
						data: data.months.map((one) => one.gross / scale)
					},
					{
						name: 'fees per 100',
						type: 'line',
						yAxisIndex: 1,
						symbolSize: 5,
						data: data.months.map((one) => (one.gross > 0 ? one.bps / 100 : null))
					}
				]
			})}
		/>

		{#await data.forecast}<p class="quiet mt-3">Working out what this month will come to …</p>{:then forecast}
			{#if forecast}<p class="mt-3 text-[15px]" data-forecast>
					{#if forecast.least === forecast.most}{forecast.month} comes to
						<b><Figure working={forecast.working}>{forecast.fee}</Figure></b>: {forecast.per100} per 100 of {forecast.volume}.
					{:else}{forecast.month} will come to about <b><Figure working={forecast.working}>{forecast.fee}</Figure></b>,
						between {forecast.least} and {forecast.most}: {forecast.per100} per 100 of {forecast.volume}.{/if}
				</p>{/if}
		{/await}

		{#if data.bridge}
			<h2>{data.period} against {data.against}</h2>
			<table class="mt-2 max-w-xl" aria-label="The change">
				<tbody>
					<tr
						><td class="whitespace-nowrap">{data.against}</td><td class="n">{data.bridge.from}</td><td class="quiet"
							>fees per 100 captured</td
						></tr
					>
					<tr
						><td>Mix</td><td class="n">{data.bridge.mix}</td><td class="quiet">other shares of kinds of payment</td></tr
					>
					<tr
						><td>Price</td><td class="n">{data.bridge.price}</td><td class="quiet">the same kinds, charged otherwise</td
						></tr
					>
					<tr
						><td>Account</td><td class="n">{data.bridge.account}</td><td class="quiet"
							>months, payouts and other charges that belong to no payment</td
						></tr
					>
					<tr class="font-semibold"
						><td class="whitespace-nowrap">{data.period}</td><td class="n">{data.bridge.to}</td><td></td></tr
					>
				</tbody>
			</table>
			{#if data.bridge.steps.length}
				<details class="mt-3">
					<summary>{data.bridge.behind} behind it</summary>
					<WideTable label="Kinds of payment behind the change">
						<table>
							<thead
								><tr
									><th>Kind</th><th class="n">Mix</th><th class="n">Price</th><th class="n">Per 100 before</th><th
										class="n">after</th
									><th class="n">Captured before</th><th class="n">after</th></tr
								></thead
							>
							<tbody>
								{#each data.bridge.steps as one (one.key)}<tr
										><td><a class="underline" href={one.href}>{one.name}</a></td><td class="n">{one.mix}</td><td
											class="n">{one.price}</td
										><td class="n">{one.before}</td><td class="n">{one.after}</td><td class="n">{one.volumeBefore}</td
										><td class="n">{one.volumeAfter}</td></tr
									>{/each}
							</tbody>
							<tfoot
								><tr class="font-semibold"
									><td>In all</td><td class="n">{data.bridge.mix}</td><td class="n">{data.bridge.price}</td><td
										colspan="4"
									></td></tr
								></tfoot
							>
						</table>
					</WideTable>
				</details>
			{/if}
		{/if}

		<h2>{data.period} by {data.by.find((one) => one.value === data.asked.by)?.name}</h2>
		<WideTable label="Fees by {data.asked.by}">
			<table>
				<thead
					><tr
						><th>{data.by.find((one) => one.value === data.asked.by)?.name}</th><th class="n">Payments</th><th class="n"
							>Captured</th
						><th class="n">Fees</th><th class="n">Share</th><th class="n">Per 100</th><th class="n">before</th><th
							class="n">Not as agreed</th
						></tr
					></thead
				>
				<tbody>
					{#each data.groups.rows as one (one.id)}<tr
							><td>{one.name}</td><td class="n">{one.count}</td><td class="n whitespace-nowrap">{one.gross}</td><td
								class="n whitespace-nowrap">{one.fee}</td
							><td class="n">{one.share}</td><td class="n font-semibold">{one.per100}</td><td class="n quiet"
								>{one.before}</td
							><td class="n text-clay"
								>{#if one.difference}<a class="underline" href="/watch/discrepancies">{one.difference}</a>{/if}</td
							></tr
						>{/each}
					{#if data.groups.account}<tr
							><td>Charges of the accounts</td><td></td><td></td><td class="n whitespace-nowrap"
								>{data.groups.account}</td
							><td colspan="4"></td></tr
						>{/if}
				</tbody>
				<tfoot
					><tr class="font-semibold"
						><td>In all</td><td class="n">{data.groups.total.count}</td><td class="n whitespace-nowrap"
							>{data.groups.total.gross}</td
						><td class="n whitespace-nowrap">{data.groups.total.fee}</td><td></td><td class="n"
							>{data.groups.total.per100}</td
						><td></td><td></td></tr
					></tfoot
				>
			</table>
		</WideTable>

		{#await data.parts}<p class="quiet mt-3">Splitting the fees into their parts …</p>{:then parts}
			<h2>What they are made of</h2>
			<table class="max-w-xl" aria-label="Parts of the fees">
				<tbody
					>{#each parts.rows as one (one.name)}<tr
							><td>{one.name}<span class="sub">{one.says}</span></td><td class="n whitespace-nowrap">{one.sum}</td></tr
						>{/each}</tbody
				>
				<tfoot><tr class="font-semibold"><td>In all</td><td class="n whitespace-nowrap">{parts.total}</td></tr></tfoot>
			</table>
		{/await}

		{#if data.streams.length}
			<h2>Where the money goes</h2>
			<Chart
				label="From till by method to connection, and from there to the bank and to fees; the table below has the figures"
				height={Math.max(240, 40 * new Set(data.streams.map((one) => one.till)).size + 80)}
				option={({ ink, rule, series }) => drawStreams(data.streams, scale, data.locale, { ink, rule, series })}
			/>
			<details class="mt-2">
				<summary class="why inline-block">As a table, with the payments of each</summary>
				<WideTable label="Where the money goes">
					<table class="mt-2">
						<thead
							><tr
								><th>Till</th><th>Method</th><th>Connection</th><th class="n">Captured</th><th class="n">Fees</th><th
									class="n">To the bank</th
								></tr
							></thead
						>
						<tbody
							>{#each data.streams as one, at (at)}<tr
									><td>{one.till}</td><td><a class="underline" href={one.href}>{one.method}</a></td><td
										>{one.connection}</td
									><td class="n whitespace-nowrap">{one.shownGross}</td><td class="n whitespace-nowrap"
										>{one.shownFee}</td
									><td class="n whitespace-nowrap">{one.shownBank}</td></tr
								>{/each}</tbody
						>
					</table>
				</WideTable>
			</details>
		{/if}

		<details class="mt-4">
			<summary>All months as a table</summary>
			<table class="mt-2">
				<thead
					><tr><th>Month</th><th class="n">Captured</th><th class="n">Fees</th><th class="n">Per 100</th></tr></thead
				>
				<tbody>
					{#each [...data.months].reverse() as one (one.month)}<tr class:font-semibold={one.isIn}
							><td
								><a class="underline" href={query({ from: one.month, to: one.month, againstFrom: '', againstTo: '' })}
									>{one.name}</a
								></td
							><td class="n">{one.shownGross}</td><td class="n">{one.shownFee}</td><td class="n">{one.per100}</td></tr
						>{/each}
				</tbody>
			</table>
		</details>
		<p class="quiet mt-3">
			Fees are those that processors charged, less what they gave back for refunds; where one has not told yet, what the
			contract says. Months are those of the account’s time zone. What was captured is in the account’s own currency.
		</p>
	{/if}
</Sheet>
<Workings />
