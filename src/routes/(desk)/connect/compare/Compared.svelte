<script lang="ts">
	import { formatDay } from '$lib/core/calendar';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { exponentOf } from '$lib/core/money';
	import { Chart, DayInput, Sheet, Verdict, Workings } from '$lib/ui';
	import { addressWith, type Ready } from './address';
	import ByHand from './ByHand.svelte';
	import Happened from './Happened.svelte';
	import KindsTable from './KindsTable.svelte';
	import Looked from './Looked.svelte';
	import SidesTable from './SidesTable.svelte';
	import TermsTable from './TermsTable.svelte';
	const { data }: { data: Ready } = $props();
	let filter = $state<HTMLFormElement>();
	const chosen = $derived(data.sides.map((side) => side.id));
	const toggle = (id: string) =>
		goto(
			addressWith({
				with: (chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id]).join(','),
				// places of sides say nothing once the sides are others
				pair: ''
			}),
			{ keepFocus: true, noScroll: true }
		);
	/** what the form does not show itself, but an address that is sent must keep */
	const kept = $derived(
		['volume', 'average', 'shares', 'pair', 'along'].flatMap((name) => {
			const value = page.url.searchParams.get(name);
			return value ? [{ name, value }] : [];
		})
	);
	const parts = $derived([
		['#money', 'Money'],
		...(data.methods.length
			? [
					['#made-of', 'What it is made of'],
					['#by-kind', 'By kind of payment']
				]
			: []),
		...(data.mix.groups.length
			? [
					['#by-hand', 'A mix by hand'],
					['#break-even', 'Break-even']
				]
			: []),
		['#terms', 'Terms']
	] as const);
	const PARTS = [
		['percentage', 'Percentage'],
		['fixed', 'Fixed'],
		['conversion', 'Conversion'],
		['around', 'Refunds and the like'],
		['monthly', 'Monthly'],
		['waiting', 'Waiting']
	] as const;
</script>

<Sheet title="Side by side">
	{#snippet acts()}
		<a class="button" href="/connect/compare/csv?{page.url.searchParams}" download>Export as CSV</a>
		<a class="button" href="/connect/compare/pdf?{page.url.searchParams}" download>Export as PDF</a>
		<a class="button" href="/connect/candidates/new">Add a candidate</a>
	{/snippet}
	<Verdict verdict={data.verdict} />
	<p class="quiet mt-1">
		{data.count.toLocaleString(data.locale)} captured payments of yours, {formatDay(data.period.from, data.locale)} to {formatDay(
			data.period.to,
			data.locale
		)}, priced one by one through each rate card{data.cards === 'then' ? ', as it was on its day' : ''}.
	</p>
	{#if data.offline.count}<p class="quiet">
			{data.offline.count.toLocaleString(data.locale)} more came by offline methods, without a processor’s fee: {data.offline.sums.join(
				', '
			)}.
		</p>{/if}
	<form
		method="get"
		bind:this={filter}
		class="mt-3 flex flex-wrap items-end gap-3"
		data-sveltekit-keepfocus
		data-sveltekit-noscroll
	>
		<input type="hidden" name="with" value={chosen.join(',')} />
		{#each kept as one, at (at)}<input type="hidden" name={one.name} value={one.value} />{/each}
		<label class="text-[12px]"
			><span class="quiet block">From</span><DayInput
				name="from"
				value={data.period.from}
				locale={data.locale}
				onday={() => filter?.requestSubmit()}
				class="!w-28"
			/></label
		>
		<label class="text-[12px]"
			><span class="quiet block">To</span><DayInput
				name="to"
				value={data.period.to}
				locale={data.locale}
				onday={() => filter?.requestSubmit()}
				class="!w-28"
			/></label
		>
		<label class="text-[12px]"
			><span class="quiet block">Rate cards</span><select
				name="cards"
				value={data.cards}
				onchange={() => filter?.requestSubmit()}
				class="!w-52"
				><option value="today">today’s, for all payments</option><option value="then">as they were on each day</option
				></select
			></label
		>
		<label class="text-[12px]"
			><span class="quiet block">Cost of capital, % a year</span><input
				name="capital"
				inputmode="decimal"
				value={data.capital}
				onchange={() => filter?.requestSubmit()}
				class="!w-24"
			/></label
		>
		<fieldset class="ticks !mt-0 text-[12px]">
			<legend class="sr-only">Sides</legend>
			{#each data.all as one (one.id)}<label class:quiet={!one.fits}
					><input
						type="checkbox"
						checked={chosen.includes(one.id)}
						disabled={!one.fits}
						onchange={() => toggle(one.id)}
					/>
					{one.name}{one.kind === 'candidate' ? ', candidate' : ''}{one.fits
						? ''
						: ', settles in another currency'}</label
				>{/each}
		</fieldset>
	</form>

	{#if data.sides.length === 0}
		<p class="note mt-4">
			There is nothing to compare yet. <a class="why" href="/connect/processors">Connect a processor</a>, or
			<a class="why" href="/connect/candidates/new">add a candidate</a> with the prices it quoted.
		</p>
	{:else}
		<nav class="parts" aria-label="Parts of this page">
			{#each parts as [href, name] (href)}<a {href}>{name}</a>{/each}
		</nav>
		<SidesTable {data} />
		{#if data.methods.length}<Happened {data} />{/if}
		{#if data.looked}<Looked looked={data.looked} />{/if}
		{#if data.methods.length}
			<h2 id="made-of">What the cost is made of</h2>
			<Chart
				label="Cost of each side, split into percentage, fixed, conversion, refunds and the like, monthly and waiting"
				height={60 + data.sides.length * 34}
				option={({ ink, quiet, rule, series }) => ({
					color: series,
					grid: { left: 130, right: 20, top: 30, bottom: 24 },
					legend: { top: 0, textStyle: { color: ink }, itemHeight: 10 },
					tooltip: { trigger: 'axis', axisPointer: { type: 'shadow' } },
					xAxis: { type: 'value', axisLabel: { color: quiet }, splitLine: { lineStyle: { color: rule } } },
					yAxis: {
						type: 'category',
						inverse: true,
						data: data.sides.map((side) => side.name),
						axisLabel: { color: ink }
					},
					series: PARTS.map(([part, title]) => ({
						name: title,
						type: 'bar',
						stack: 'cost',
						data: data.totals.map((one) => one.split[part] / 10 ** exponentOf(data.currency))
					}))
				})}
			/>
			<h2 id="by-kind">
				Cost by kind of payment <span class="quiet font-sans text-[12px] font-normal"
					>basis points of its volume, with its refunds, disputes and declined attempts</span
				>
			</h2>
			<KindsTable {data} />
		{/if}
		{#if data.mix.groups.length}<ByHand {data} />{/if}
		<TermsTable {data} />
	{/if}
</Sheet>
<Workings
	how={{
		title: 'How the comparison is worked out',
		steps: [
			{ title: 'Each payment by itself', sub: 'through each card, at the rate of its day, tiers counted by the month' },
			{ title: 'What a processor cannot carry', sub: 'is named, and left out of its sum' },
			{ title: 'Ranked within a method', sub: 'over the kinds that all of those ranked can carry' },
			{ title: 'Waiting costs, too', sub: `calendar days to the bank, at ${data.capital} % a year` }
		]
	}}
/>
