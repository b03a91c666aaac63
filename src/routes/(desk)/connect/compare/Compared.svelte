<script lang="ts">
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { commonMix, crossings, priceMix, type Mix } from '$lib/core/fees';
	import { formatNumber } from '$lib/core/money';
	import type { Working } from '$lib/core/workings';
	import { Chart, Figure, Sheet, Workings } from '$lib/ui';
	import { untrack } from 'svelte';
	import { SvelteURLSearchParams } from 'svelte/reactivity';
	import type { PageData } from './$types';
	type Ready = Extract<PageData, { mix: unknown }>;
	const { data }: { data: Ready } = $props();
	let filter = $state<HTMLFormElement>();
	const chosen = $derived(data.sides.map((side) => side.id));

	/** The address with something else in it; what is empty leaves it. */
	function address(changes: Record<string, string>): string {
		const query = new SvelteURLSearchParams(page.url.searchParams);
		for (const [name, value] of Object.entries(changes)) {
			if (value) query.set(name, value);
			else query.delete(name);
		}
		return `?${query}`;
	}
	const toggle = (id: string) =>
		goto(address({ with: (chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id]).join(',') }), {
			keepFocus: true,
			noScroll: true
		});
	const say = (minor: number) => formatNumber({ minor: Math.round(minor), currency: data.currency }, data.locale);
	const PARTS = [
		['percentage', 'Percentage'],
		['fixed', 'Fixed'],
		['conversion', 'Conversion'],
		['monthly', 'Monthly'],
		['waiting', 'Waiting']
	] as const;
	const HOLE: Record<string, string> = {
		'not carried': 'its account cannot carry them',
		'no line': 'no line of its card covers them',
		ambiguous: 'two lines of its card fit them',
		'no rate': 'no exchange rate is known',
		'no cost': 'its cost table lacks them'
	};

	const cellWorking = (method: (typeof data.methods)[number], at: number): Working => {
		const cell = method.cells[at]!;
		const side = data.sides[at]!;
		return {
			title: `${side.name}: ${method.name.toLowerCase()}`,
			about: `${data.period.from} to ${data.period.to}, each payment priced by the card of ${side.validFrom || 'the quote'} and the rate of its day.`,
			steps: [
				{ title: 'Payments priced', sum: String(cell.count) },
				{ title: 'Volume', sum: cell.base },
				{ title: 'Cost', sum: cell.fee, total: true },
				{ title: 'Effective rate', sub: 'cost ÷ volume', sum: cell.bps === null ? '–' : `${cell.bps.toFixed(2)} bps` },
				...(cell.holes
					? [
							{
								mark: 'no' as const,
								title: `${cell.holes} payments left out`,
								sub: cell.holeWhy
									.split(', ')
									.map((one) => HOLE[one] ?? one)
									.join('; ')
							}
						]
					: []),
				...(cell.rank
					? [
							{
								title: `Ranked ${cell.rank}`,
								sub: `over the ${cell.commonCount} payments that all of those ranked can carry: ${cell.commonFee}, ${cell.commonBps?.toFixed(2)} bps`
							}
						]
					: []),
				{
					title: 'Single payments',
					link: { href: address({ look: `${side.id}~${method.method}` }), label: 'Look at them' }
				}
			]
		};
	};
	const totalWorking = (at: number): Working => {
		const one = data.totals[at]!;
		return {
			title: `${data.sides[at]!.name}: in all`,
			about: `${one.count} of ${data.count} payments; what it cannot carry is not in it.`,
			steps: [
				...PARTS.map(([part, title]) => ({
					title,
					sub:
						part === 'waiting'
							? `volume × calendar days to the bank ÷ 365 × ${data.capital} %`
							: part === 'percentage'
								? 'what follows the amount, with interchange and clamps'
								: undefined,
					sum: one.shown[part]
				})),
				{ title: 'In all', sum: one.total, total: true }
			]
		};
	};

	// by hand
	let volume = $state(untrack(() => Number(page.url.searchParams.get('volume')) || data.mix.volume));
	let average = $state(untrack(() => Number(page.url.searchParams.get('average')) || data.mix.average));
	let shares = $state(
		untrack(() => {
			const given = (page.url.searchParams.get('shares') ?? '').split('-').map(Number);
			return given.length === data.mix.groups.length && given.every((one) => one >= 0)
				? given
				: data.mix.groups.map((group) => Math.round(group.share * 1000));
		})
	);
	const whole = $derived(shares.reduce((a, b) => a + b, 0) || 1);
	const mix: Mix = $derived({ volume, average, shares: shares.map((one) => one / whole) });
	const priced = $derived(data.mix.sides.map((side) => priceMix(side, data.mix.groups, mix, data.mix.rates)));
	const cheapest = $derived(Math.min(...priced.filter((one) => one.hole < 0.005).map((one) => one.total)));
	function keepMix() {
		void goto(address({ volume: String(volume), average: String(average), shares: shares.join('-') }), {
			replaceState: true,
			noScroll: true,
			keepFocus: true
		});
	}

	// break-even
	let along = $state<'volume' | 'average' | number>('volume');
	let pair = $state<[number, number]>([0, 1]);
	const axis = $derived.by(() => {
		if (along === 'volume')
			return { from: 1, to: Math.max(100, Math.round((volume / average) * 4)), unit: 'payments a month' };
		if (along === 'average')
			return { from: 100, to: Math.max(20_000, average * 6), unit: `${data.currency} on average` };
		return { from: 0, to: 1000, unit: `‰ ${data.mix.groups[along]?.name ?? ''}` };
	});
	/** what both of the pair can carry; over nothing else are they compared */
	const both = $derived.by(() => {
		const [a, b] = [data.mix.sides[pair[0]], data.mix.sides[pair[1]]];
		return a && b && a !== b ? commonMix([a, b], data.mix.groups, mix.shares) : undefined;
	});
	const even = $derived.by(() => {
		if (!both?.groups.length) return undefined;
		const { groups, sides, shares: own, from } = both;
		const mixAt = (at: number): Mix => {
			if (along === 'volume') return { volume: at * average, average, shares: own };
			const all: Mix = { volume: volume * both.part, average, shares: own };
			if (along === 'average') return { ...all, average: at };
			const moved = from.indexOf(along);
			const rest = 1 - (own[moved] ?? 0);
			return {
				...all,
				shares: own.map((share, g) => (g === moved ? at / 1000 : rest > 0 ? (share * (1 - at / 1000)) / rest : 0))
			};
		};
		const costAt = (side: 0 | 1, at: number) => priceMix(sides[side], groups, mixAt(at), data.mix.rates).total;
		const points = Array.from({ length: 61 }, (_, i) => Math.round(axis.from + ((axis.to - axis.from) * i) / 60));
		return {
			points,
			lines: ([0, 1] as const).map((side) => points.map((at) => Math.round(costAt(side, at)) / 100)),
			crossings: crossings(
				data.sides[pair[0]]!.name,
				data.sides[pair[1]]!.name,
				(at) => costAt(0, at) - costAt(1, at),
				[axis.from, axis.to]
			).map((one) => ({ ...one, cost: Math.round(costAt(0, one.at)) / 100 })),
			leaves: 1 - both.part
		};
	});
	const sayAt = (at: number) =>
		along === 'volume'
			? `the ${at}${at % 10 === 1 && at % 100 !== 11 ? 'st' : at % 10 === 2 && at % 100 !== 12 ? 'nd' : at % 10 === 3 && at % 100 !== 13 ? 'rd' : 'th'} payment of a month`
			: along === 'average'
				? `${say(at)} ${data.currency} on average`
				: `a share of ${(at / 10).toFixed(1)} %`;
</script>

<Sheet
	title="Side by side"
	about="{data.count.toLocaleString(data.locale)} captured payments of the business, {data.period.from} to {data.period
		.to}, through each rate card"
>
	{#snippet acts()}
		<a class="button" href="/connect/compare/csv?{page.url.searchParams}" download>Export as CSV</a>
		<a class="button" href="/connect/compare/pdf?{page.url.searchParams}" download>Export as PDF</a>
		<a class="button" href="/connect/candidates/new">Add a candidate</a>
	{/snippet}
	<form
		method="get"
		bind:this={filter}
		class="mt-3 flex flex-wrap items-end gap-3"
		data-sveltekit-keepfocus
		data-sveltekit-noscroll
	>
		<input type="hidden" name="with" value={chosen.join(',')} />
		<label class="text-[12px]"
			><span class="quiet block">From</span><input
				type="date"
				name="from"
				value={data.period.from}
				onchange={() => filter?.requestSubmit()}
				class="!w-auto"
			/></label
		>
		<label class="text-[12px]"
			><span class="quiet block">To</span><input
				type="date"
				name="to"
				value={data.period.to}
				onchange={() => filter?.requestSubmit()}
				class="!w-auto"
			/></label
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
		<div class="mt-3 overflow-x-auto">
			<table class="sides">
				<thead
					><tr
						><th></th>{#each data.sides as side (side.id)}<th
								><a class="underline" href={side.href}>{side.name}</a>{#if side.kind === 'candidate'}<span class="sub"
										>candidate</span
									>{/if}</th
							>{/each}</tr
					></thead
				>
				<tbody>
					<tr class="group"><th colspan={data.sides.length + 1}>Money, {data.currency}</th></tr>
					{#each data.methods as method (method.method)}
						<tr
							><th scope="row"
								>{method.name}<span class="sub">{method.count.toLocaleString(data.locale)} payments</span></th
							>
							{#each method.cells as cell, at (cell.side)}
								<td>
									{#if cell.count}
										<Figure working={cellWorking(method, at)}>{cell.fee}</Figure>
										<span class="sub" class:best={cell.rank === 1}
											>{cell.bps?.toFixed(0)} bps{cell.rank
												? ` · ${cell.rank === 1 ? 'cheapest' : `no. ${cell.rank}`}`
												: ''}</span
										>
										{#if cell.holes}<span class="sub text-clay"
												>leaves out {cell.holes.toLocaleString(data.locale)}</span
											>{/if}
									{:else}<Figure working={cellWorking(method, at)}><span class="quiet">hole</span></Figure>{/if}
								</td>
							{/each}</tr
						>
					{:else}
						<tr
							><td colspan={data.sides.length + 1} class="quiet"
								>No captured payments in this time. <a class="why" href="/connect/files">Take settlement files in</a>,
								or set a mix by hand below.</td
							></tr
						>
					{/each}
					{#if data.methods.length}
						<tr
							><th scope="row">Monthly</th>{#each data.totals as one (one.side)}<td>{one.monthly}</td>{/each}</tr
						>
						<tr
							><th scope="row">Waiting</th>{#each data.totals as one (one.side)}<td>{one.waiting}</td>{/each}</tr
						>
						<tr class="total"
							><th scope="row">In all</th>{#each data.totals as one, at (one.side)}<td
									><Figure working={totalWorking(at)}>{one.total}</Figure><span class="sub"
										>{one.bps === null
											? ''
											: `${one.bps.toFixed(0)} bps of ${one.count.toLocaleString(data.locale)}`}</span
									></td
								>{/each}</tr
						>
					{/if}
					<tr class="group"><th colspan={data.sides.length + 1}>Terms</th></tr>
					{#each [['carries', 'Carries'], ['currencies', 'Currencies'], ['connects', 'Connects by'], ['bankDays', 'To the bank'], ['refunds', 'A refund'], ['disputes', 'A dispute'], ['monthly', 'A month'], ['hooks', 'Notifications']] as const as [part, name] (part)}
						<tr
							><th scope="row">{name}</th>{#each data.sides as side (side.id)}<td class="text-[12px]"
									>{side.terms[part]}</td
								>{/each}</tr
						>
					{/each}
				</tbody>
			</table>
		</div>
		{#if data.single}
			<section class="note mt-3">
				<b>{data.single.side}: the latest payments by {data.single.method}</b>
				<a class="why float-right" href={address({ look: '' })} data-sveltekit-noscroll>Close</a>
				<table class="mt-1">
					<tbody
						>{#each data.single.rows as one (one.row)}<tr
								><td>{one.day}</td><td class="n">{one.amount}</td><td class="n"
									>{one.fee === null ? 'cannot carry it' : one.fee}</td
								></tr
							>{/each}</tbody
					>
				</table>
			</section>
		{/if}
		{#if data.methods.length}
			<h2>What the cost is made of</h2>
			<Chart
				label="Cost of each side, split into percentage, fixed, conversion, monthly and waiting"
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
						data: data.totals.map((one) => one.split[part] / 100)
					}))
				})}
			/>
			<h2>
				Cost by kind of payment <span class="quiet font-sans text-[12px] font-normal">basis points of its volume</span>
			</h2>
			<div class="overflow-x-auto">
				<table class="sides">
					<thead
						><tr
							><th></th>{#each data.sides as side (side.id)}<th class="n">{side.name}</th>{/each}</tr
						></thead
					>
					<tbody
						>{#each data.kinds as kind (kind.name)}<tr
								><th scope="row">{kind.name}<span class="sub">{kind.count.toLocaleString(data.locale)}</span></th
								>{#each kind.bps as bps, i (i)}<td class="n"
										>{#if bps === null}<span class="quiet">hole</span>{:else}<span
												class:best={bps === Math.min(...kind.bps.filter((one) => one !== null))}>{bps.toFixed(2)}</span
											>{/if}</td
									>{/each}</tr
							>{/each}</tbody
					>
				</table>
			</div>
		{/if}

		{#if data.mix.groups.length}
			<h2>A mix by hand</h2>
			<p class="quiet">
				Begins as the period was. Amounts keep the spread of your own payments, scaled to the average; each kind is
				priced once, so the answer moves with the slider.
			</p>
			<div class="mt-2 grid max-w-[700px] grid-cols-2 gap-x-8 gap-y-1 text-[12.5px]">
				<label
					>Volume a month <b class="float-right">{say(volume)}</b><input
						type="range"
						min="50000"
						max={Math.max(20_000_000, data.mix.volume * 4)}
						step="1000"
						bind:value={volume}
						onchange={keepMix}
						class="w-full"
					/></label
				>
				<label
					>Average payment <b class="float-right">{say(average)}</b><input
						type="range"
						min="200"
						max={Math.max(60_000, data.mix.average * 6)}
						step="10"
						bind:value={average}
						onchange={keepMix}
						class="w-full"
					/></label
				>
				{#each data.mix.groups as group, g (group.name)}
					<label
						>{group.name} <b class="float-right">{((100 * shares[g]!) / whole).toFixed(1)} %</b><input
							type="range"
							min="0"
							max="1000"
							bind:value={shares[g]}
							onchange={keepMix}
							class="w-full"
						/></label
					>
				{/each}
			</div>
			<table class="mt-3 max-w-[700px]">
				<thead
					><tr
						><th>Side</th><th class="n">Fees</th><th class="n">Monthly</th><th class="n">A month in all</th><th
						></th></tr
					></thead
				>
				<tbody>
					{#each data.sides as side, i (side.id)}
						<tr
							><td>{side.name}</td><td class="n">{say(priced[i]!.fees)}</td><td class="n">{say(priced[i]!.monthly)}</td
							><td class="n"><b class:best={priced[i]!.total === cheapest}>{say(priced[i]!.total)}</b></td><td
								class="text-clay"
								>{priced[i]!.hole > 0.005
									? `cannot carry ${(100 * priced[i]!.hole).toFixed(0)} % of the payments`
									: ''}</td
							></tr
						>
					{/each}
				</tbody>
			</table>

			<h2 id="break-even">Break-even</h2>
			<div class="flex flex-wrap items-end gap-3 text-[12.5px]">
				{#each [0, 1] as const as n (n)}
					<label
						><span class="legend">{n ? 'against' : 'From when on is'}</span><select bind:value={pair[n]} class="!w-auto"
							>{#each data.sides as side, i (side.id)}<option value={i}>{side.name}</option>{/each}</select
						></label
					>
				{/each}
				<label
					><span class="legend">cheaper, along</span><select bind:value={along} class="!w-auto"
						><option value="volume">the number of payments</option><option value="average">the average payment</option
						>{#each data.mix.groups as group, g (group.name)}<option value={g}>the share of {group.name}</option
							>{/each}</select
					></label
				>
			</div>
			{#if !even}<p class="quiet mt-2">Choose two that can carry something in common.</p>{/if}
			{#if even}
				<ul class="mt-2" aria-live="polite">
					{#each even.crossings as one (one.at)}<li>
							From {sayAt(one.at)} on, <b>{one.above}</b> is cheaper; below it, {one.below}.
						</li>{:else}<li>They never cross between {sayAt(axis.from)} and {sayAt(axis.to)}.</li>{/each}
					{#if even.leaves > 0.005}<li class="quiet">
							Over what both can carry; {(100 * even.leaves).toFixed(0)} % of the payments are left out.
						</li>{/if}
				</ul>
				<Chart
					label="Cost a month of both sides along {axis.unit}"
					option={({ ink, quiet, rule, series }) => ({
						color: series,
						grid: { left: 70, right: 20, top: 30, bottom: 40 },
						legend: { top: 0, textStyle: { color: ink } },
						tooltip: { trigger: 'axis' },
						xAxis: {
							type: 'value',
							name: axis.unit,
							nameLocation: 'middle',
							nameGap: 26,
							min: axis.from,
							max: axis.to,
							axisLabel: {
								color: quiet,
								formatter: (at: number) => (along === 'average' ? String(at / 100) : String(at))
							},
							splitLine: { show: false }
						},
						yAxis: { type: 'value', axisLabel: { color: quiet }, splitLine: { lineStyle: { color: rule } } },
						series: even.lines.map((line, i) => ({
							name: data.sides[pair[i]!]!.name,
							type: 'line',
							showSymbol: false,
							data: line.map((cost, at) => [even.points[at], cost]),
							...(i === 0
								? {
										markPoint: {
											symbol: 'circle',
											symbolSize: 9,
											label: { show: false },
											data: even.crossings.map((one) => ({ coord: [one.at, one.cost] }))
										}
									}
								: {})
						}))
					})}
				/>
			{/if}
		{/if}
	{/if}
</Sheet>
<Workings
	first={{
		title: 'How it is worked out',
		about: 'Press any figure: it opens down to single payments.',
		steps: [
			{ title: 'Each payment by itself', sub: 'through each card, at the rate of its day, tiers counted by the month' },
			{ title: 'What a side cannot carry is a hole', sub: 'named, and left out of its sum' },
			{ title: 'Ranked within a method', sub: 'over the kinds that all of those ranked can carry' },
			{ title: 'Waiting costs, too', sub: `calendar days to the bank, at ${data.capital} % a year` }
		]
	}}
/>

<style>
	.sides {
		table-layout: fixed;
		min-width: 640px;
	}
	.sides thead th {
		font-size: 12px;
		vertical-align: bottom;
	}
	.sides th:first-child {
		width: 122px;
	}
	.sides tbody th[scope='row'] {
		font-weight: 400;
		vertical-align: top;
		padding-top: 5px;
	}
	.sides .group th {
		padding-top: 14px;
		font-weight: 600;
	}
	.sides td {
		vertical-align: top;
		padding-right: 8px;
		overflow-wrap: anywhere;
	}
	.total td,
	.total th {
		border-top: 1px solid var(--ink);
	}
	.best {
		color: var(--moss);
		font-weight: 600;
	}
</style>
