<script lang="ts">
	import type { Working } from '$lib/core/workings';
	import { Figure } from '$lib/ui';
	import { addressWith, type Ready } from './address';
	const { data }: { data: Ready } = $props();
	type Kind = Ready['kinds'][number];

	const leastOf = (kind: Kind) => Math.min(...kind.cells.flatMap(({ bps }) => (bps === null ? [] : [bps])));
	const working = (kind: Kind, at: number): Working => {
		const cell = kind.cells[at]!;
		const side = data.sides[at]!;
		return {
			title: `${side.name}: ${kind.name.toLowerCase()}`,
			about: `${cell.count.toLocaleString(data.locale)} of ${kind.count.toLocaleString(data.locale)} payments of this kind, priced one by one.`,
			steps: [
				{ title: 'Volume', sum: cell.base },
				{ title: 'Fees of the payments', sum: cell.fee },
				...(cell.around ? [{ title: 'Around them', sum: cell.around }] : []),
				{ title: 'Cost', sum: cell.cost, total: true },
				{ title: 'Effective rate', sub: 'cost ÷ volume', sum: cell.bps === null ? '–' : `${cell.bps.toFixed(2)} bps` },
				{
					title: 'Single payments',
					link: { href: addressWith({ look: `${side.id}~kind~${kind.name}`, skip: '' }), label: 'Look at them' }
				}
			]
		};
	};
</script>

<div class="overflow-x-auto">
	<table class="sides">
		<thead
			><tr
				><th></th>{#each data.sides as side (side.id)}<th class="n">{side.name}</th>{/each}</tr
			></thead
		>
		<tbody
			>{#each data.kinds as kind (kind.name)}{@const least = leastOf(kind)}<tr
					><th scope="row">{kind.name}<span class="sub">{kind.count.toLocaleString(data.locale)}</span></th
					>{#each kind.cells as cell, at (at)}<td class="n"
							>{#if cell.bps === null}<span class="quiet">hole</span>{:else}<span class:best={cell.bps === least}
									><Figure working={working(kind, at)}>{cell.bps.toFixed(2)}</Figure></span
								>{/if}</td
						>{/each}</tr
				>{/each}</tbody
		>
	</table>
</div>
