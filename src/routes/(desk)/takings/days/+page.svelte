<script lang="ts">
	import { counted } from '$lib/core/counted';
	import { formatDay } from '$lib/core/calendar';
	import { exponentOf } from '$lib/core/money';
	import { Chart, DayInput, Figure, Sheet, Workings } from '$lib/ui';
	import type { Working } from '$lib/core/workings';
	const { data } = $props();
	const scale = $derived(10 ** exponentOf(data.currency));
	const many = (count: number) => count.toLocaleString(data.locale);
	const shownParts = $derived(
		data.by === 'currency' ? data.parts.filter((part) => part.id === data.currency) : data.parts
	);
	const NAMES = { till: 'till', method: 'method', connection: 'connection', currency: 'currency' } as const;
	const left = $derived<Working>({
		title: `Left, ${data.currency}`,
		about: `${formatDay(data.from, data.locale)} to ${formatDay(data.to, data.locale)}, by the day of the capture.`,
		steps: [
			{
				title: 'Captured or received',
				sub: `${counted(data.sums.count, 'payment', data.locale)}`,
				sum: data.sums.taken
			},
			{ title: 'Refunded, disputed or returned', sum: `−${data.sums.back || '0'}` },
			{ title: 'Left', sub: 'before fees', sum: data.sums.left, total: true }
		]
	});
	const list = $derived(
		(day: string) => `/takings?${new URLSearchParams({ from: day, to: day, currency: data.currency })}`
	);
	const query = $derived(
		new URLSearchParams({ from: data.from, to: data.to, by: data.by, currency: data.currency }).toString()
	);
</script>

<Sheet title="Takings by day">
	{#snippet acts()}<a class="button" href="/takings/days/csv?{query}" download>Export as CSV</a>{/snippet}
	<p class="verdict">
		{#if data.sums.count}<Figure working={left}>{data.left} came and stayed</Figure> in these {data.lines.length} days, {data.average}
			a day on average.
			{#if data.best}The best day was {formatDay(data.best.day, data.locale)} with {data.best.taken}.{/if}
		{:else}No money came in these days, in {data.currency}.{/if}
	</p>
	{#if data.others.length}<p class="quiet">
			In other currencies: {data.others.map((one) => one.left).join(', ')}.
		</p>{/if}
	<form method="get" action="/takings/days" class="mt-3 flex flex-wrap items-end gap-3">
		<label><span class="legend">From</span><DayInput name="from" value={data.from} locale={data.locale} /></label>
		<label><span class="legend">To</span><DayInput name="to" value={data.to} locale={data.locale} /></label>
		<label
			><span class="legend">By</span><select name="by" value={data.by}
				>{#each data.choices as one (one)}<option value={one}>{NAMES[one]}</option>{/each}</select
			></label
		>
		{#if data.currencies.length > 1}<label
				><span class="legend">Currency</span><select name="currency" value={data.currency}
					>{#each data.currencies as one (one)}<option>{one}</option>{/each}</select
				></label
			>{/if}
		<button class="button" data-save>Show these days</button>
		{#if data.wrong}<span class="wrong" role="alert">{data.wrong}</span>{/if}
	</form>
	{#if data.sums.count}
		<Chart
			label="Captured a day by {NAMES[data.by]}, {data.currency}; the table below has the figures"
			option={({ quiet, rule, series }) => ({
				animation: false,
				color: series,
				grid: { left: 60, right: 10, top: 34, bottom: 26 },
				legend: { top: 0, left: 0, textStyle: { color: quiet }, itemWidth: 12, itemHeight: 10 },
				tooltip: {
					trigger: 'axis',
					valueFormatter: (value: number) =>
						`${value.toLocaleString(data.locale, { minimumFractionDigits: exponentOf(data.currency) })} ${data.currency}`
				},
				xAxis: {
					type: 'category',
					data: data.lines.map((line) => formatDay(line.day, data.locale)),
					axisLabel: { color: quiet },
					axisLine: { lineStyle: { color: rule } }
				},
				yAxis: {
					type: 'value',
					axisLabel: { color: quiet, formatter: (value: number) => value.toLocaleString(data.locale) },
					splitLine: { lineStyle: { color: rule } }
				},
				series: shownParts.map((part) => ({
					name: part.name,
					type: 'bar',
					stack: 'all',
					barMaxWidth: 22,
					data: data.lines.map((line) => (line.values[data.parts.indexOf(part)] ?? 0) / scale)
				}))
			})}
		/>
		<div class="wide-table" role="region" aria-label="Takings by day" tabindex="-1">
			<table class="mt-3">
				<thead
					><tr
						><th>Day</th><th class="n">Payments</th><th class="n">Captured</th><th class="n">Went back</th><th class="n"
							>Left</th
						>{#each shownParts as part (part.id)}<th class="n">{part.name}</th>{/each}</tr
					></thead
				>
				<tbody>
					{#each [...data.lines].reverse() as line (line.day)}
						<tr class={line.count ? '' : 'quiet'}
							><td class="whitespace-nowrap"
								>{#if line.count}<a class="underline" data-row href={list(line.day)}
										>{formatDay(line.day, data.locale)}</a
									>{:else}{formatDay(line.day, data.locale)}{/if}</td
							><td class="n">{line.count ? many(line.count) : ''}</td><td class="n">{line.taken}</td><td class="n"
								>{line.back}</td
							><td class="n font-semibold">{line.left}</td>{#each shownParts as part (part.id)}<td class="n"
									>{line.parts[data.parts.indexOf(part)]}</td
								>{/each}</tr
						>
					{/each}
				</tbody>
				<tfoot
					><tr class="font-semibold"
						><td>In all, {data.currency}</td><td class="n">{many(data.sums.count)}</td><td class="n"
							>{data.sums.taken}</td
						><td class="n">{data.sums.back}</td><td class="n"><Figure working={left}>{data.sums.left}</Figure></td
						>{#each shownParts as part (part.id)}<td class="n">{part.taken}</td>{/each}</tr
					></tfoot
				>
			</table>
		</div>
	{/if}
</Sheet>
<Workings
	first={{
		title: 'Still on its way',
		about: 'Of the thirty days before the last one, in every currency.',
		steps: data.way.map((one) => ({
			title: one.stage[0]!.toUpperCase() + one.stage.slice(1),
			sub: `${many(one.count)} payment${one.count === 1 ? '' : 's'}`,
			sum: one.sum
		})),
		...(data.way.length ? {} : { end: { tone: 'moss' as const, text: 'Nothing is on its way.' } })
	}}
/>
