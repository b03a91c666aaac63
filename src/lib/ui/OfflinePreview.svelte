<script lang="ts">
	import { RECEIPT, receiptLines } from '$lib/core/references';

	interface Props {
		shop: string;
		values: { kind: string; name: string; holder: string; instructions: string; afterNote: string };
		sample: {
			sum: string;
			reference: string;
			iban: string;
			code?: string;
			picture?: string;
			until: string;
			plain: string;
		};
	}
	/** One offline method as payers read it: on the page, in the mail, on paper. */
	const { shop, values, sample }: Props = $props();
	const lines = $derived(receiptLines(values.afterNote));
	const transfers = $derived(values.kind === 'credit-transfer');
</script>

<div class="grid grid-cols-3 gap-4 text-[12.5px]">
	<figure class="border-rule border p-3">
		<figcaption class="sub mb-1">On the page</figcaption>
		<b>{transfers ? `Transfer ${sample.sum} to` : `${values.name}: ${sample.sum}`}</b>
		{#if transfers}<p>{values.holder}<span class="mono block text-[11px]">{sample.iban}</span></p>{/if}
		{#if sample.reference}<p class="mono text-[11px]">{sample.reference}</p>{/if}
		{#if sample.code}<img class="my-1 w-20" src={sample.code} alt="Sample of the transfer QR" />{/if}
		<!-- eslint-disable-next-line svelte/no-at-html-tags (typed by the administrator here; reduced when it is saved) -->
		<div class="rich">{@html values.instructions}</div>
		{#if sample.picture}<img class="my-1 w-20" src={sample.picture} alt="Sample of the code to scan" />{/if}
		{#if values.afterNote}<p class="quiet mt-1">{values.afterNote}</p>{/if}
	</figure>
	<figure class="border-rule border p-3">
		<figcaption class="sub mb-1">In the mail</figcaption>
		<p class="quiet">From {shop}</p>
		<p class="border-rule mb-1 border-b pb-1"><b>Your order WAS-4175: how to pay</b></p>
		<p class="whitespace-pre-line">
			{sample.sum}, {values.name}{transfers ? `\n${values.holder}\n${sample.iban}` : ''}{sample.reference
				? `\nReference ${sample.reference}`
				: ''}{sample.until ? `\nBy ${sample.until}` : ''}
		</p>
		<p class="mt-1 whitespace-pre-line">{sample.plain}</p>
		{#if values.afterNote}<p class="mt-1">{values.afterNote}</p>{/if}
	</figure>
	<figure class="border-rule border p-3">
		<figcaption class="sub mb-1">On paper</figcaption>
		<div class="mono text-[11px] leading-[1.35] whitespace-pre">
			{shop.slice(0, RECEIPT.columns)}
			{'-'.repeat(RECEIPT.columns)}
			{values.name.slice(0, 20).padEnd(20)}{sample.sum.padStart(12)}
			{'-'.repeat(RECEIPT.columns)}
			{#each lines as line, i (i)}<span class={i >= RECEIPT.lines ? 'bg-clay-soft text-clay' : ''}>{line}</span>
			{/each}
		</div>
		{#if lines.length > RECEIPT.lines}<p class="wrong" role="alert">
				{lines.length - RECEIPT.lines} line{lines.length - RECEIPT.lines === 1 ? '' : 's'} too long for the receipt.
			</p>{/if}
	</figure>
</div>
