<script lang="ts">
	import { Dialog } from 'bits-ui';
	let { open = $bindable(false) } = $props();
	const KEYS = [
		['Ctrl K', 'Find or do anything'],
		['/', 'Filter the index'],
		['j  k', 'Next, previous'],
		['Enter', 'Open'],
		['g then c a b t w', 'Connect, Accept, Bill, Takings, Watch'],
		['g then n', 'Needs you'],
		['w', 'Fold or unfold the workings'],
		['p', 'See it as a payer'],
		['s', 'Save'],
		['Alt ↑ ↓', 'Move an offer'],
		['?', 'This list']
	];
</script>

<Dialog.Root bind:open>
	<Dialog.Portal>
		<Dialog.Overlay class="fixed inset-0 z-40 bg-black/40" />
		<Dialog.Content
			class="bg-sheet border-rule-strong fixed top-[14vh] left-1/2 z-50 w-[430px] -translate-x-1/2 rounded-[3px] border p-5 shadow-xl"
		>
			<Dialog.Title class="font-display text-[17px] font-semibold">Keys</Dialog.Title>
			<table class="mt-2">
				<tbody>
					{#each KEYS as [key, says] (key)}<tr><td class="mono whitespace-nowrap">{key}</td><td>{says}</td></tr>{/each}
				</tbody>
			</table>
			<Dialog.Close class="button mt-4">Close the list</Dialog.Close>
		</Dialog.Content>
	</Dialog.Portal>
</Dialog.Root>
