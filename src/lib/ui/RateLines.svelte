<script lang="ts">
	import { blankLine, ENTRY_MODES, type LineForm } from '$lib/core/fees';
	import { FUNDINGS, REGIONS } from '$lib/core/cards';
	import { methodName, ONLINE_METHODS } from '$lib/core/lineup';

	/** The lines of a rate card: what each is for, and its price. */
	let { lines = $bindable(), currency, label }: { lines: LineForm[]; currency: string; label: string } = $props();
</script>

<div class="overflow-x-auto">
	<table class="lines" aria-label={label}>
		<thead
			><tr
				><th>Method</th><th>Scheme</th><th>Funding</th><th>Region</th><th>Currency</th><th>Entry</th><th class="n">%</th
				><th class="n">Fixed</th><th class="n">At least</th><th class="n">At most</th><th
					><span class="sr-only">More</span></th
				></tr
			></thead
		>
		<tbody>
			{#each lines as line, i (line)}
				<tr>
					<td
						><select bind:value={line.method} aria-label="Method of line {i + 1}"
							><option value="">any</option>{#each ONLINE_METHODS as one (one)}<option value={one}
									>{methodName(one).toLowerCase()}</option
								>{/each}</select
						></td
					>
					<td><input bind:value={line.scheme} placeholder="any" aria-label="Scheme of line {i + 1}" class="!w-16" /></td
					>
					<td
						><select bind:value={line.funding} aria-label="Funding of line {i + 1}"
							><option value="">any</option>{#each FUNDINGS as one (one)}<option>{one}</option>{/each}</select
						></td
					>
					<td
						><select bind:value={line.region} aria-label="Region of line {i + 1}"
							><option value="">any</option>{#each REGIONS as one (one)}<option>{one}</option>{/each}</select
						></td
					>
					<td
						><input
							bind:value={line.currency}
							placeholder="any"
							aria-label="Currency of line {i + 1}"
							class="w-14"
						/></td
					>
					<td
						><select bind:value={line.entry} aria-label="Entry of line {i + 1}"
							><option value="">any</option>{#each ENTRY_MODES as one (one)}<option>{one}</option>{/each}</select
						></td
					>
					{#each ['percentage', 'fixed', 'minimum', 'maximum'] as const as part (part)}
						<td
							><input
								bind:value={line[part]}
								inputmode="decimal"
								class="!w-13 text-right"
								aria-label="{{
									percentage: 'Percentage',
									fixed: 'Fixed',
									minimum: 'At least',
									maximum: 'At most'
								}[part]} of line {i + 1}, {part === 'percentage' ? 'percent' : currency}"
							/></td
						>
					{/each}
					<td
						><button
							type="button"
							class="why"
							aria-label="Remove line {i + 1}"
							onclick={() => (lines = lines.filter((one) => one !== line))}>✕</button
						></td
					>
				</tr>
			{/each}
		</tbody>
	</table>
</div>
<button type="button" class="button small mt-1" onclick={() => (lines = [...lines, blankLine()])}>Add a line</button>

<style>
	.lines td {
		padding: 2px 4px 2px 0;
	}
	.lines input,
	.lines select {
		padding: 2px 4px;
		font-size: 12px;
	}
	.lines select {
		width: 72px;
	}
	.lines td:first-child select {
		width: 104px;
	}
	.lines th {
		padding-right: 4px;
		white-space: nowrap;
		font-size: 11.5px;
	}
</style>
