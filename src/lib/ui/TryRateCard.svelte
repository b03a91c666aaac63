<script lang="ts">
	import { FUNDINGS, REGIONS } from '$lib/core/cards';
	import { ENTRY_MODES, isPriced, kindOf, priceOne, priceSteps, sayUnpriced, type RateCard } from '$lib/core/fees';
	import { hasCard, methodName, ONLINE_METHODS } from '$lib/core/lineup';
	import { AmountError, findRate, formatAmount, isCurrency, readTypedAmount } from '$lib/core/money';
	import type { Working } from '$lib/core/workings';
	import { useMargin } from './workings.svelte';

	/** Prices one payment by what stands in the editor, with its workings. */
	const { card, locale }: { card?: RateCard; locale: string } = $props();
	let tried = $state({
		amount: '84.50',
		currency: '',
		rate: '',
		method: 'card',
		scheme: 'corvid',
		funding: 'debit',
		region: 'domestic',
		entry: 'online',
		before: ''
	});
	const margin = useMargin();
	const settlement = $derived(card?.settlement ?? '');
	const currency = $derived(tried.currency.trim().toUpperCase() || settlement);
	const foreign = $derived(currency !== settlement);
	/** those that the card speaks of */
	const schemes = $derived([
		...new Set(
			[...(card?.costs ?? []), ...(card?.lines ?? []).map((line) => line.when)].flatMap(({ scheme }) =>
				scheme ? [scheme] : []
			)
		)
	]);
	const withCard = $derived(hasCard(tried.method as never));

	const trial = $derived.by((): { says: string; working?: Working } => {
		if (!card) return { says: 'The card must be right first.' };
		if (!isCurrency(currency)) return { says: `${currency} is no currency.` };
		if (foreign && !/^\d{1,9}([.,]\d{1,12})?$/.test(tried.rate.trim()))
			return { says: `Type what 1 ${currency} is in ${settlement} on the day.` };
		try {
			const paid = readTypedAmount(tried.amount, currency).amount;
			const before = tried.before.trim() ? readTypedAmount(tried.before, settlement).amount.minor : 0;
			const rate = foreign
				? findRate(
						[
							{
								day: '2000-01-01',
								from: currency,
								to: settlement,
								rate: tried.rate.trim().replace(',', '.'),
								source: 'typed here'
							}
						],
						currency,
						settlement,
						'2000-01-01'
					)
				: undefined;
			if (foreign && !rate) return { says: 'A rate is above zero.' };
			const kind = kindOf({
				method: tried.method,
				currency,
				entry: tried.entry as 'online',
				...(withCard
					? {
							scheme: tried.scheme || 'unknown',
							funding: tried.funding as 'debit',
							region: tried.region as 'domestic'
						}
					: {})
			});
			const priced = priceOne(card, kind, paid, rate, before);
			if (!isPriced(priced)) return { says: sayUnpriced(priced) };
			const steps = priceSteps(priced, paid, locale);
			return {
				says: steps.at(-1)?.sum ?? '',
				working: {
					title: `Trying ${formatAmount(paid, locale)}`,
					about: card.tiers
						? `After ${formatAmount({ minor: before, currency: settlement }, locale)} of the month’s volume.`
						: undefined,
					steps
				}
			};
		} catch (error) {
			if (error instanceof AmountError) return { says: error.message };
			throw error;
		}
	});
</script>

<section class="note mt-4 max-w-[700px]" aria-label="Try it">
	<b>Try it</b>
	<div class="mt-1 flex flex-wrap items-end gap-2">
		<label
			><span class="legend">Amount</span><input class="!w-24" inputmode="decimal" bind:value={tried.amount} /></label
		>
		<label
			><span class="legend">Currency</span><input
				class="mono !w-20"
				bind:value={tried.currency}
				placeholder={settlement}
				maxlength="3"
			/></label
		>
		{#if foreign}<label
				><span class="legend">1 {currency} in {settlement}</span><input
					class="!w-20"
					inputmode="decimal"
					bind:value={tried.rate}
					placeholder="0.9213"
				/></label
			>{/if}
		<label
			><span class="legend">Method</span><select bind:value={tried.method} class="!w-auto"
				>{#each ONLINE_METHODS as one (one)}<option value={one}>{methodName(one)}</option>{/each}</select
			></label
		>
		<label
			><span class="legend">Entry</span><select bind:value={tried.entry} class="!w-auto"
				>{#each ENTRY_MODES as one (one)}<option>{one}</option>{/each}</select
			></label
		>
		{#if withCard}
			<label
				><span class="legend">Scheme</span><input
					class="!w-24"
					bind:value={tried.scheme}
					list="schemes-to-try"
				/><datalist id="schemes-to-try"
					>{#each schemes as one (one)}<option value={one}></option>{/each}</datalist
				></label
			>
			<label
				><span class="legend">Funding</span><select bind:value={tried.funding} class="!w-auto"
					>{#each FUNDINGS as one (one)}<option>{one}</option>{/each}</select
				></label
			>
			<label
				><span class="legend">Region</span><select bind:value={tried.region} class="!w-auto"
					>{#each REGIONS as one (one)}<option>{one}</option>{/each}</select
				></label
			>
		{/if}
		{#if card?.tiers}<label
				><span class="legend">After so much of the month</span><input
					class="!w-28"
					inputmode="decimal"
					bind:value={tried.before}
					placeholder="0.00"
				/></label
			>{/if}
		<p class="font-display pb-1 text-[17px]" aria-live="polite">
			{#if trial.working}<button type="button" class="why" onclick={() => margin.show(() => trial.working!)}
					>{trial.says}</button
				>{:else}<span class="text-clay text-[13px]">{trial.says}</span>{/if}
		</p>
	</div>
</section>
