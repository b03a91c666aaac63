<script lang="ts">
	import { formatDecimal } from '$lib/core/money';
	import type { Working } from '$lib/core/workings';
	import { Chart, Figure, WideTable } from '$lib/ui';
	import { addressWith, type Ready } from './address';
	const { data }: { data: Ready } = $props();
	type Kind = Ready['kinds'][number];

	const leastOf = (kind: Kind) => Math.min(...kind.cells.flatMap(({ bps }) => (bps === null ? [] : [bps])));
	/** a shape a side, so that colour is not all that tells them apart */
	const SHAPES = ['circle', 'rect', 'triangle', 'diamond', 'emptyCircle', 'emptyRect', 'emptyTriangle'];
	const working = (kind: Kind, at: number): Working => {
		const cell = kind.cells[at]!;
		const side = data.sides[at]!;
		return {
			title: `${side.name}: ${kind.name.toLowerCase()}`,
			about: `${cell.count.toLocaleString(data.locale)} of ${kind.count.toLocaleString(data.locale)} payments of this kind, priced one by one.`,
			steps: [
				{ title: 'Volume', sum: cell.base },
				{ title: 'Fees of the payments', sum: cell.fee },
				...(cell.around ? [{ title: 'Refunds, disputes, declined attempts', sum: cell.around }] : []),
				{ title: 'Cost', sum: cell.cost, total: true },
				{
					title: 'Effective rate',
					sub: 'cost ÷ volume',
					sum: cell.bps === null ? '–' : `${formatDecimal(cell.bps, 2, data.locale)} bps`
				},
				{
					title: 'Single payments',
					link: { href: addressWith({ look: `${side.id}~kind~${kind.name}`, skip: '' }), label: 'Look at them' }
				}
			]
		};
	};
</script>

<Chart
	label="Basis points that each side costs of each kind of payment; the table below has the figures"
	height={70 + data.kinds.length * 22}
	option={({ ink, quiet, rule, series }) => ({
		color: series,
		grid: { left: 170, right: 20, top: 34, bottom: 24 },
		legend: { top: 0, textStyle: { color: ink }, itemWidth: 10, itemHeight: 10 },
		tooltip: {
			trigger: 'item',
			formatter: ({ seriesName, value }: { seriesName: string; value: [number, string] }) =>
				`${seriesName}, ${value[1]}: ${formatDecimal(value[0], 2, data.locale)} bps`
		},
		xAxis: {
			type: 'value',
			axisLabel: { color: quiet, formatter: '{value} bps' },
			splitLine: { lineStyle: { color: rule } }
		},
		yAxis: {
			type: 'category',
			inverse: true,
			data: data.kinds.map((kind) => kind.name),
			axisLabel: { color: ink },
			axisTick: { show: false },
			splitLine: { show: true, lineStyle: { color: rule } }
		},
		series: data.sides.map((side, at) => ({
			name: side.name,
			type: 'scatter',
			symbol: SHAPES[at % SHAPES.length],
			symbolSize: 10,
			data: data.kinds.flatMap((kind) => {
				const { bps } = kind.cells[at]!;
				return bps === null ? [] : [[bps, kind.name]];
			})
		}))
	})}
/>
<WideTable label="Cost by kind of payment">
	<table class="sides">
		<thead
			><tr
				><th scope="col">Kind of payment</th>{#each data.sides as side (side.id)}<th scope="col" class="n"
						>{side.name}</th
					>{/each}</tr
			></thead
		>
		<tbody
			>{#each data.kinds as kind, nth (nth)}{@const least = leastOf(kind)}<tr
					><th scope="row">{kind.name}<span class="sub">{kind.count.toLocaleString(data.locale)}</span></th
					>{#each kind.cells as cell, at (at)}<td class="n"
							>{#if cell.bps === null}<span class="quiet" aria-label="cannot carry it">–</span>{:else}<span
									class:best={cell.bps === least}
									><Figure working={working(kind, at)}>{formatDecimal(cell.bps, 2, data.locale)}</Figure></span
								>{/if}</td
						>{/each}</tr
				>{/each}</tbody
		>
	</table>
</WideTable>
