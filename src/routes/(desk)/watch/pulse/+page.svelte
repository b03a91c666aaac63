<script lang="ts">
	import { enhance } from '$app/forms';
	import { Chart, DayInput, Said, Sheet, Verdict, WideTable, Workings } from '$lib/ui';
	const { data, form } = $props();
	const chart = $derived(data.chart);
</script>

<Sheet title="Pulse" about="Whether processors tell as much as they usually do">
	{#if !data.rows.length}
		<p class="mt-4 max-w-prose">
			No live connection is there to listen to. <a class="why" href="/connect">Connect a processor</a>: from then on
			this shows what it tells, how late, and when it falls silent.
		</p>
	{:else}
		<Verdict verdict={data.verdict} />
		<Said form={form as never} />
		<WideTable label="Connections">
			<table class="mt-4">
				<thead
					><tr
						><th>Connection</th><th>Heard last</th><th class="n">Expected since</th><th>Silence</th><th class="n"
							>Payments a month</th
						><th class="n">Found within</th><th class="n">Delay, median</th><th class="n">99 of 100 within</th><th
							class="n">Doubles</th
						><th class="n">Refused</th></tr
					></thead
				>
				<tbody>
					{#each data.rows as one (one.id)}<tr aria-current={chart?.id === one.id ? 'true' : undefined}
							><td
								><a
									data-row
									class="font-semibold underline decoration-transparent hover:decoration-current"
									href="?of={one.id}">{one.name}</a
								></td
							><td class="whitespace-nowrap">{one.last}</td><td class="n">{one.expected}</td><td
								><span class={one.isSilent ? 'no' : ''}>{one.verdict}</span></td
							><td class="n">{one.monthly}</td><td class="n whitespace-nowrap">{one.slowest}</td><td
								class="n whitespace-nowrap">{one.median}</td
							><td class="n whitespace-nowrap">{one.slow}</td><td class="n">{one.doubles}</td><td class="n"
								>{one.refused}</td
							></tr
						>{/each}
				</tbody>
			</table>
		</WideTable>

		{#if chart && chart.hours.length}
			<h2>{chart.name}, the last seven days</h2>
			<Chart
				label="Payments told of hour by hour by {chart.name}, and what is usual; the table below has the days"
				height={200}
				option={({ quiet, rule, series }) => ({
					color: series,
					grid: { left: 40, right: 12, top: 30, bottom: 26 },
					legend: { top: 0, left: 0, textStyle: { color: quiet }, itemWidth: 14, itemHeight: 10 },
					tooltip: { trigger: 'axis' },
					xAxis: {
						type: 'category',
						data: chart.hours,
						axisLabel: {
							color: quiet,
							interval: (at: number) => chart.starts[at] !== '',
							formatter: (_hour: string, at: number) => chart.starts[at]!
						},
						axisTick: { interval: (at: number) => chart.starts[at] !== '' },
						axisLine: { lineStyle: { color: rule } }
					},
					yAxis: { type: 'value', axisLabel: { color: quiet }, splitLine: { lineStyle: { color: rule } } },
					series: [
						{ name: 'Came', type: 'bar', data: chart.received },
						{ name: 'Usual', type: 'line', step: 'middle', symbol: 'none', data: chart.expected }
					]
				})}
			/>
			<details class="mt-2">
				<summary class="why inline-block">As a table</summary>
				<table class="mt-2">
					<thead><tr><th>Day</th><th class="n">Came</th><th class="n">Usual</th></tr></thead>
					<tbody
						>{#each chart.days as one (one.day)}<tr
								><td>{one.day}</td><td class="n">{one.received}</td><td class="n">{one.expected}</td></tr
							>{/each}</tbody
					>
				</table>
			</details>
		{/if}

		{#if data.missing.length}
			<h2>Not told of</h2>
			<table aria-label="Notifications that are missing">
				<thead
					><tr
						><th>Connection</th><th>Missing</th><th>Without the first</th><th><span class="sr-only">Acts</span></th></tr
					></thead
				>
				<tbody
					>{#each data.missing as one (one.id)}<tr
							><td><a class="underline" href={one.href}>{one.name}</a></td><td>{one.notices.join(', ')}</td><td
								>{one.breaks}</td
							><td
								>{#if one.oneStep}<form method="post" action="?/setUp" use:enhance>
										<input type="hidden" name="connection" value={one.id} /><button
											class="button"
											aria-label="Set up what {one.name} does not tell of">Set up</button
										>
									</form>{:else}<a class="button" href={one.href}>By hand</a>{/if}</td
							></tr
						>{/each}</tbody
				>
			</table>
		{/if}

		<h2>Silences</h2>
		{#if data.silences.length}
			<WideTable label="Silences">
				<table>
					<thead
						><tr
							><th>Connection</th><th>From</th><th>To</th><th class="n">Length</th><th class="n">Expected</th><th
								>By chance</th
							><th>The gap</th></tr
						></thead
					>
					<tbody>
						{#each data.silences as one (one.id)}<tr
								><td>{one.connection}</td><td class="whitespace-nowrap">{one.from}</td><td class="whitespace-nowrap"
									>{#if one.to}{one.to}{:else}<span class="no">still silent</span>{/if}</td
								><td class="n whitespace-nowrap">{one.length}</td><td class="n">{one.expected}</td><td>{one.chance}</td
								><td
									>{#if one.isDismissed}it was none{:else if one.filled}<span class="yes">filled</span><span class="sub"
											>{one.filled}</span
										>{:else}<div class="flex flex-wrap gap-3">
											<form method="post" action="?/fill" use:enhance>
												<input type="hidden" name="silence" value={one.id} />
												<button class="button small" aria-label="Fill the gap of {one.connection} from {one.from}"
													>Fill it by asking</button
												>
											</form>
											<form method="post" action="?/dismiss" use:enhance>
												<input type="hidden" name="silence" value={one.id} />
												<button class="why" aria-label="The silence of {one.connection} from {one.from} was none"
													>It was none</button
												>
											</form>
										</div>{/if}</td
								></tr
							>{/each}
					</tbody>
				</table>
			</WideTable>
		{:else}<p class="quiet">None was found in the last five weeks.</p>{/if}

		<h2>Awaited</h2>
		{#if data.awaited.length}
			<table>
				<thead
					><tr
						><th>Payment</th><th>Connection</th><th>Method</th><th class="n">Amount</th><th>Begun</th><th class="n"
							>99 of 100 within</th
						><th><span class="sr-only">Acts</span></th></tr
					></thead
				>
				<tbody
					>{#each data.awaited as one (one.id)}<tr
							><td><a class="why" href="/takings/payments/{one.id}">{one.reference || one.id}</a></td><td
								>{one.connection}</td
							><td>{one.method}</td><td class="n whitespace-nowrap">{one.amount}</td><td class="whitespace-nowrap"
								>{one.since}</td
							><td class="n">{one.usually}</td><td
								><form method="post" action="?/ask" use:enhance>
									<input type="hidden" name="payment" value={one.id} />
									<button class="why" aria-label="Ask after {one.reference || one.id}">Ask</button>
								</form></td
							></tr
						>{/each}</tbody
				>
			</table>
			{#if data.awaitedMore}<p class="quiet mt-2">
					{data.awaitedMore.toLocaleString(data.locale)} more wait too long; the longest stand here.
				</p>{/if}
		{:else}<p class="quiet">Nothing that was begun here waits longer than usual for its answer.</p>{/if}

		<h2>Ask for a span</h2>
		<form method="post" action="?/fill" class="flex flex-wrap items-end gap-3" use:enhance>
			<label
				><span class="legend">Connection</span><select name="connection"
					>{#each data.rows as one (one.id)}<option value={one.id}>{one.name}</option>{/each}</select
				></label
			>
			<label><span class="legend">From</span><DayInput name="from" value="" locale={data.locale} /></label>
			<label><span class="legend">to</span><DayInput name="to" value="" locale={data.locale} /></label>
			<button class="button">Ask</button>
		</form>

		<h2>When silence is an alert</h2>
		<form
			method="post"
			action="?/accept"
			class="flex flex-wrap items-end gap-3"
			use:enhance={() =>
				({ update }) =>
					update({ reset: false })}
		>
			<label
				><span class="legend">False alerts a month that you accept, for each connection</span><input
					name="falseAlerts"
					inputmode="decimal"
					class="w-24"
					value={data.accepted}
				/></label
			>
			<button class="button">Save</button>
		</form>
		<p class="quiet mt-2">
			Fewer false alerts mean that a real silence is found later: the table says how late at most, worked out on what
			came in the last four weeks.
		</p>
	{/if}
</Sheet>
<Workings
	how={{
		title: 'How silence is told',
		steps: [
			{
				title: 'What is usual',
				sub: 'payments told of, by hour of the week, in the last four weeks; known silences left out'
			},
			{ title: 'No verdict', sub: 'where fewer than 50 payments, or two weeks, are known' },
			{ title: 'Expected since', sub: 'what usually comes between the last arrival and now' },
			{
				title: 'By chance',
				sub: 'where so many are expected, none at all comes with probability e to the power of minus that'
			},
			{ title: 'An alert', sub: 'where chance is rarer than the false alerts that you accept' },
			{
				title: 'Filling',
				sub: 'the processor is asked after every payment it may have told of; what comes late changes nothing twice'
			}
		]
	}}
/>
