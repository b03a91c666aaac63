<script lang="ts">
	import { WideTable } from '$lib/ui';
	import type { Ready } from './address';
	/** What each side says of itself: what it carries, how it connects, how soon it pays. */
	const { data }: { data: Pick<Ready, 'sides'> } = $props();
	const ROWS = [
		['carries', 'Carries'],
		['currencies', 'Currencies'],
		['connects', 'Connects by'],
		['bankDays', 'To the bank'],
		['refunds', 'A refund'],
		['disputes', 'A dispute'],
		['declined', 'A declined attempt'],
		['monthly', 'A month'],
		['hooks', 'Notifications']
	] as const;
</script>

<h2 id="terms">Terms</h2>
<WideTable label="Terms">
	<table class="sides">
		<thead
			><tr
				><th scope="col">Term</th>{#each data.sides as side (side.id)}<th scope="col"
						><a class="underline" href={side.href}>{side.name}</a></th
					>{/each}</tr
			></thead
		>
		<tbody>
			{#each ROWS as [part, name] (part)}
				<tr
					><th scope="row">{name}</th>{#each data.sides as side (side.id)}<td class="text-[12px]">{side.terms[part]}</td
						>{/each}</tr
				>
			{/each}
		</tbody>
	</table>
</WideTable>
