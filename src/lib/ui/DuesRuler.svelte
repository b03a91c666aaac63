<script lang="ts">
	interface Due {
		readonly day: string;
		readonly says: string;
		readonly sum: string;
		readonly paid: number;
		readonly coming: number;
		readonly isLate: boolean;
	}
	interface Props {
		dues: readonly Due[];
		today: { readonly day: string; readonly says: string };
	}
	/** A line of days with a notch for each due: filled as money is placed, hatched while it is on its way; today is a thin line. */
	const { dues, today }: Props = $props();
	const at = (day: string) => Date.parse(`${day}T00:00:00Z`);
	const range = $derived.by(() => {
		const all = [...dues.map((due) => at(due.day)), at(today.day)];
		const [from, to] = [Math.min(...all), Math.max(...all)];
		const pad = Math.max((to - from) * 0.08, 3 * 86_400_000);
		return [from - pad, to + pad] as const;
	});
	const x = (day: string) => 4 + ((at(day) - range[0]) / (range[1] - range[0])) * 92;
	const few = $derived(dues.length <= 6);
</script>

<figure class="ruler" class:tall={few} aria-label="Dues">
	<div class="line"></div>
	<div class="today" class:late={x(today.day) > 70} style:left="{x(today.day)}%">
		{#if !dues.some((due) => due.day === today.day)}<span>{today.says}</span>{/if}
	</div>
	{#each dues as due, n (n)}
		<div class="due" style:left="{x(due.day)}%">
			{#if few}<span class="says" class:text-clay={due.isLate}>{due.sum}<br />{due.says}</span>{/if}
			<span
				class="notch"
				class:late={due.isLate}
				title="{due.sum}, {due.says}"
				style:--paid="{due.paid * 100}%"
				style:--coming="{(due.paid + due.coming) * 100}%"
			></span>
		</div>
	{/each}
	<figcaption class="sr-only">
		{#each dues as due, n (n)}{due.says}: {due.sum}, {due.paid >= 1
				? 'paid'
				: due.coming > 0
					? 'on its way'
					: due.isLate
						? 'overdue'
						: 'open'}.
		{/each}
	</figcaption>
</figure>

<style>
	.ruler {
		position: relative;
		height: 44px;
		margin: 14px 0 10px;
	}
	.ruler.tall {
		height: 74px;
	}
	.line {
		position: absolute;
		inset: auto 0 6px;
		border-top: 1px solid var(--rule-strong);
	}
	.today {
		position: absolute;
		top: 0;
		bottom: 0;
		border-left: 2px solid var(--brass);
	}
	.today span {
		position: absolute;
		left: 5px;
		top: -3px;
		white-space: nowrap;
		font-size: 11px;
		color: var(--quiet);
	}
	.today.late span {
		left: auto;
		right: 5px;
	}
	.due {
		position: absolute;
		bottom: 7px;
		transform: translateX(-50%);
		text-align: center;
	}
	.says {
		display: block;
		font-size: 12px;
		line-height: 1.25;
		white-space: nowrap;
		margin-bottom: 3px;
	}
	.notch {
		display: block;
		width: 14px;
		height: 16px;
		margin: 0 auto;
		border: 1px solid var(--moss);
		background:
			linear-gradient(to top, var(--moss) var(--paid), transparent var(--paid)),
			linear-gradient(to top, transparent var(--paid), transparent var(--paid)),
			linear-gradient(to top, transparent var(--coming), var(--sheet) var(--coming)),
			repeating-linear-gradient(115deg, var(--moss) 0 2px, var(--sheet) 2px 5px);
	}
	.notch.late {
		border-color: var(--clay);
	}
</style>
