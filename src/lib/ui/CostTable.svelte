<script lang="ts">
	import { FUNDINGS, REGIONS } from '$lib/core/cards';
	import { blankCost, type CostForm } from '$lib/core/fees';

	/** Interchange and scheme fees that are passed on: a row a scheme and funding, in per cent for each region. */
	let { costs = $bindable() }: { costs: CostForm[] } = $props();
	const PARTS = [
		['interchange', 'Interchange'],
		['schemeFee', 'Scheme fee']
	] as const;
	/** the next row begins as the last one: its scheme, and the funding that comes after */
	function add() {
		const last = costs.at(-1);
		const next = FUNDINGS[(FUNDINGS as readonly string[]).indexOf(last?.funding ?? '') + 1];
		costs = [...costs, blankCost(next ? (last?.scheme ?? '') : '', next ?? FUNDINGS[0])];
	}
</script>

{#if costs.length}
	<div class="overflow-x-auto">
		<table class="costs" aria-label="Cost table">
			<thead>
				<tr
					><th rowspan="2">Scheme</th><th rowspan="2">Funding</th>{#each REGIONS as region (region)}<th colspan="2"
							>{region}</th
						>{/each}<th rowspan="2"><span class="sr-only">Acts</span></th></tr
				>
				<tr
					>{#each REGIONS as region (region)}{#each PARTS as [part, title] (part)}<th class="n">{title} %</th
							>{/each}{/each}</tr
				>
			</thead>
			<tbody>
				{#each costs as cost, i (cost)}
					<tr>
						<td><input bind:value={cost.scheme} aria-label="Scheme of cost {i + 1}" class="!w-20" /></td>
						<td
							><select bind:value={cost.funding} aria-label="Funding of cost {i + 1}"
								>{#each FUNDINGS as one (one)}<option>{one}</option>{/each}</select
							></td
						>
						{#each REGIONS as region (region)}{#each PARTS as [part, title] (part)}<td
									><input
										bind:value={cost.regions[region][part]}
										inputmode="decimal"
										class="!w-14 text-right"
										aria-label="{title} of cost {i + 1}, {region}, percent"
									/></td
								>{/each}{/each}
						<td
							><button
								type="button"
								class="why"
								aria-label="Remove cost {i + 1}"
								onclick={() => (costs = costs.filter((one) => one !== cost))}>✕</button
							></td
						>
					</tr>
				{/each}
			</tbody>
		</table>
	</div>
{/if}
<button type="button" class="button small mt-1" onclick={add}>Add a row of costs</button>

<style>
	.costs td {
		padding: 2px 4px 2px 0;
	}
	.costs input,
	.costs select {
		padding: 2px 4px;
		font-size: 12px;
	}
	.costs select {
		width: 96px;
	}
	.costs th {
		padding-right: 6px;
		font-size: 11.5px;
		line-height: 1.25;
		vertical-align: bottom;
	}
	.costs th.n {
		width: 66px;
		text-align: left;
	}
</style>
