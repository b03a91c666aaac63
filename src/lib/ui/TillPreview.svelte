<script lang="ts">
	import { LANGUAGE_NAMES, payerWord } from './payerWords';

	interface Props {
		shop: string;
		values: {
			currencies: string[];
			colour: string;
			heading: string;
			button: string;
			languages: ('en' | 'nl' | 'fr' | 'de')[];
			logo: string;
			asksAddress: string;
			asksPhone: string;
			asksNote: string;
		};
	}
	/** A payer's page as it becomes while its till is set up: what is typed, in the first language of the page. */
	const { shop, values }: Props = $props();
	const language = $derived(values.languages[0] ?? 'en');
	const asks = $derived(
		[['address', values.asksAddress] as const, ['phone', values.asksPhone] as const, ['note', values.asksNote] as const]
			.filter(([, rule]) => rule !== 'no')
			.map(([name, rule]) => `${payerWord(language, name)}${rule === 'may' ? `, ${payerWord(language, 'may')}` : ''}`)
	);
</script>

<h2>The payer’s page, as it becomes</h2>
<figure class="border-rule-strong mt-2 border" aria-label="Preview of the payer’s page" lang={language}>
	<div class="p-3 text-[#f6f2e8]" style:background={values.colour}>
		{#if values.logo}<img src={values.logo} alt="" class="mb-1 max-h-7" />{/if}
		<b class="font-display text-[14px]">{values.heading || shop}</b>
		<p class="font-display mt-2 text-[24px] leading-tight">
			84.50 <span class="text-[13px]">{values.currencies[0] ?? 'EUR'}</span>
		</p>
		<p class="text-[12px]">{payerWord(language, 'order', 'WA-1042')}</p>
	</div>
	<div class="p-3">
		{#each asks as one (one)}<p class="text-[12px]">{one}</p>
			<div class="border-rule-strong mb-2 h-6 border"></div>{/each}
		<p class="rounded-[3px] p-2 text-center font-semibold text-white" style:background={values.colour}>
			{values.button || payerWord(language, 'payCard')}
		</p>
	</div>
</figure>
<p class="quiet mt-2 text-[12px]">
	In {values.languages.map((one) => LANGUAGE_NAMES[one]).join(', ') || 'English'}; the sum is a sample.
</p>
