<script lang="ts">
	import { goto } from '$app/navigation';
	import { HARDLY, type ByHand, type MixAnswer } from '$lib/core/fees';
	import { exponentOf, formatDecimal, formatNumber } from '$lib/core/money';
	import type { Working } from '$lib/core/workings';
	import { Chart, Figure } from '$lib/ui';
	import { onMount, untrack } from 'svelte';
	import { addressWith, type Ready } from './address';
	const { data }: { data: Ready } = $props();

	const say = (minor: number) => formatNumber({ minor: Math.round(minor), currency: data.currency }, data.locale);
	const major = $derived(10 ** exponentOf(data.currency));
	let volume = $state(untrack(() => data.byHand.volume));
	let average = $state(untrack(() => data.byHand.average));
	let shares = $state(untrack(() => [...data.byHand.shares]));
	let pair = $state(untrack(() => [...data.byHand.pair] as [number, number]));
	let along = $state(untrack(() => data.byHand.along));
	// a slider stands at its nearest step, and is not bound: what was not moved stays what the period was
	const whole = $derived(shares.reduce((a, b) => a + b, 0) || 1);
	const asked: ByHand = $derived({
		mix: { volume, average, shares: shares.map((one) => one / whole) },
		pair: [...pair],
		along
	});

	// the server answers what the address says; what moves after is worked out beside the page
	let answer = $state.raw<MixAnswer>(untrack(() => data.answer));
	let shown = $state.raw<ByHand>(untrack(() => asked));
	let worker: Worker | undefined;
	let turn = 0;
	let busy = false;
	let waiting: ByHand | undefined;
	function ask(next: ByHand) {
		if (busy) waiting = next;
		else {
			busy = true;
			worker?.postMessage({ turn: ++turn, asked: JSON.parse(JSON.stringify(next)) });
			shownNext = next;
		}
	}
	let shownNext: ByHand | undefined;
	onMount(() => {
		worker = new Worker(new URL('../../../../lib/workers/mix.ts', import.meta.url), { type: 'module' });
		worker.onmessage = ({ data: told }: MessageEvent<{ turn: number; answer: MixAnswer }>) => {
			answer = told.answer;
			if (shownNext) shown = shownNext;
			busy = false;
			// only the latest of what was moved meanwhile is asked for
			const next = waiting;
			waiting = undefined;
			if (next) ask(next);
		};
		return () => worker?.terminate();
	});
	let first = true;
	$effect(() => {
		const next = asked;
		if (first) first = false;
		else untrack(() => ask(next));
	});
	// another period brings another mix and another answer
	$effect(() => {
		const { mix, answer: anew, byHand } = data;
		untrack(() => {
			if (shares.length !== mix.groups.length) shares = [...byHand.shares];
			worker?.postMessage({ given: JSON.parse(JSON.stringify(mix)) });
			// what was moved meanwhile is not undone by an answer to what stood in the address before
			const isAsAnswered =
				volume === byHand.volume &&
				average === byHand.average &&
				along === byHand.along &&
				shares.join() === byHand.shares.join() &&
				pair.join() === byHand.pair.join();
			if (!isAsAnswered) return ask(asked);
			answer = anew;
			shown = asked;
		});
	});

	const asPeriod = $derived(data.mix.groups.map((group) => Math.round(group.share * 1000)).join('-'));
	/** what differs from how it begins stands in the address, so that it can be sent */
	function keep() {
		const unless = (value: string, otherwise: string) => (value === otherwise ? '' : value);
		void goto(
			addressWith({
				volume: unless(String(volume), String(data.mix.volume)),
				average: unless(String(average), String(data.mix.average)),
				shares: unless(shares.join('-'), asPeriod),
				pair: unless(pair.join('-'), '0-1'),
				along: unless(String(along), 'volume')
			}),
			{ replaceState: true, noScroll: true, keepFocus: true }
		);
	}
	function asItWas() {
		volume = data.mix.volume;
		average = data.mix.average;
		shares = data.mix.groups.map((group) => Math.round(group.share * 1000));
		void goto(addressWith({ volume: '', average: '', shares: '' }), {
			replaceState: true,
			noScroll: true,
			keepFocus: true
		});
	}

	const working = (at: number): Working => {
		const one = answer.priced[at]!;
		return {
			title: `${data.sides[at]!.name}: a month of this mix`,
			about:
				'Amounts are the spread of your own payments, scaled to the average; what is around payments (refunds, disputes, declined attempts) is not in it.',
			steps: [
				...data.mix.groups.flatMap((group, g) => {
					const { fee, volume: base, carried } = one.groups[g]!;
					if (!shown.mix.shares[g]) return [];
					return [
						{
							mark: carried < 1 - HARDLY ? ('no' as const) : undefined,
							title: group.name,
							sub: `${((shown.mix.volume / shown.mix.average) * shown.mix.shares[g]!).toFixed(0)} payments; it carries ${carried < 1 - HARDLY ? `${(100 * carried).toFixed(0)} %, ` : 'all, '}${say(base)}`,
							sum: say(fee)
						}
					];
				}),
				{ title: 'Fees', sum: say(one.fees), total: true },
				{ title: 'Monthly', sub: 'with what is missing to its minimum', sum: say(one.monthly) },
				{ title: 'A month in all', sum: say(one.total), total: true }
			]
		};
	};

	const even = $derived(answer.even);
	const unit = $derived(
		shown.along === 'volume'
			? 'payments a month'
			: shown.along === 'average'
				? `${data.currency} on average`
				: `‰ ${data.mix.groups[shown.along]?.name ?? ''}`
	);
	const ordinal = (n: number) => {
		const rest = n % 100;
		const ending = rest > 10 && rest < 14 ? 'th' : (['th', 'st', 'nd', 'rd'][n % 10] ?? 'th');
		return `${n.toLocaleString(data.locale)}${ending}`;
	};
	const sayAt = (at: number) =>
		shown.along === 'volume'
			? `the ${ordinal(at)} payment of a month`
			: shown.along === 'average'
				? `${say(at)} ${data.currency} on average`
				: `a share of ${formatDecimal(at / 10, 1, data.locale)} %`;
	const nameOf = (which: 0 | 1) => data.sides[shown.pair[which]]?.name ?? '';
</script>

<h2 id="by-hand">A mix by hand</h2>
<p class="quiet">
	Begins as the period was. Amounts keep the spread of your own payments, scaled to the average; each kind is priced
	once, so the answer moves with the slider.
	<button type="button" class="why" onclick={asItWas}>Set it back to the period</button>
</p>
<div class="mt-2 grid max-w-[700px] grid-cols-2 gap-x-8 gap-y-1 text-[12.5px]">
	<label
		>Volume a month <b class="float-right">{say(volume)}</b><input
			type="range"
			min={Math.min(50_000, data.mix.volume)}
			max={Math.max(20_000_000, data.mix.volume * 4)}
			step="1000"
			value={volume}
			oninput={(event) => (volume = Number(event.currentTarget.value))}
			onchange={keep}
			class="w-full"
		/></label
	>
	<label
		>Average payment <b class="float-right">{say(average)}</b><input
			type="range"
			min={Math.min(200, data.mix.average)}
			max={Math.max(60_000, data.mix.average * 6)}
			step="10"
			value={average}
			oninput={(event) => (average = Number(event.currentTarget.value))}
			onchange={keep}
			class="w-full"
		/></label
	>
	{#each data.mix.groups as group, g (g)}
		<label
			>{group.name} <b class="float-right">{formatDecimal((100 * (shares[g] ?? 0)) / whole, 1, data.locale)} %</b><input
				type="range"
				min="0"
				max="1000"
				value={shares[g]}
				oninput={(event) => (shares[g] = Number(event.currentTarget.value))}
				onchange={keep}
				class="w-full"
			/></label
		>
	{/each}
</div>
<table class="mt-3 max-w-[700px]" data-by-hand>
	<thead
		><tr
			><th>Side</th><th class="n">Fees</th><th class="n">Monthly</th><th class="n">A month in all</th><th
				><span class="sr-only">What it cannot carry</span></th
			></tr
		></thead
	>
	<tbody>
		{#each data.sides as side, i (side.id)}
			{@const one = answer.priced[i]}
			{#if one}<tr
					><td>{side.name}</td><td class="n"><Figure working={working(i)}>{say(one.fees)}</Figure></td><td class="n"
						><Figure working={working(i)}>{say(one.monthly)}</Figure></td
					><td class="n"
						><b class:best={answer.cheapest.includes(i)}><Figure working={working(i)}>{say(one.total)}</Figure></b></td
					><td class="text-clay"
						>{one.hole > HARDLY ? `cannot carry ${(100 * one.hole).toFixed(0)} % of the payments` : ''}</td
					></tr
				>{/if}
		{/each}
	</tbody>
</table>

<h2 id="break-even">Break-even</h2>
<div class="flex flex-wrap items-end gap-3 text-[12.5px]">
	{#each [0, 1] as const as n (n)}
		<label
			><span class="legend">{n ? 'against' : 'From when on is'}</span><select
				bind:value={pair[n]}
				onchange={keep}
				class="!w-auto"
				>{#each data.sides as side, i (side.id)}<option value={i}>{side.name}</option>{/each}</select
			></label
		>
	{/each}
	<label
		><span class="legend">cheaper, along</span><select bind:value={along} onchange={keep} class="!w-auto"
			><option value="volume">the number of payments</option><option value="average">the average payment</option
			>{#each data.mix.groups as group, g (g)}<option value={g}>the share of {group.name}</option>{/each}</select
		></label
	>
</div>
{#if !even}<p class="quiet mt-2">
		{pair[0] === pair[1]
			? 'Choose two different ones.'
			: typeof along === 'number'
				? 'One of the two cannot carry that kind of payment, so its share cannot be moved between them.'
				: 'Choose two that can carry something in common.'}
	</p>
{:else}
	<ul class="mt-2" aria-live="polite">
		{#each even.crossings as one, nth (nth)}<li>
				From {sayAt(one.at)} on, <b>{nameOf(one.above)}</b> is cheaper; below it, {nameOf(one.above === 0 ? 1 : 0)}.
			</li>{:else}<li>
				They never cross between {sayAt(even.from)} and {sayAt(even.to)}{even.cheaper === undefined
					? ': they cost the same.'
					: ''}{#if even.cheaper !== undefined}: <b>{nameOf(even.cheaper)}</b> is the cheaper throughout.{/if}
			</li>{/each}
		{#if even.leaves > HARDLY}<li class="quiet">
				Over what both can carry; {(100 * even.leaves).toFixed(0)} % of the payments are left out.
			</li>{/if}
	</ul>
	<Chart
		label="Cost a month of both sides along {unit}"
		option={({ ink, quiet, rule, series }) => ({
			color: series,
			grid: { left: 70, right: 20, top: 30, bottom: 40 },
			legend: { top: 0, icon: 'roundRect', itemHeight: 10, textStyle: { color: ink } },
			tooltip: { trigger: 'axis' },
			xAxis: {
				type: 'value',
				name: unit,
				nameLocation: 'middle',
				nameGap: 26,
				nameTextStyle: { color: quiet },
				min: even.from,
				max: even.to,
				axisLabel: {
					color: quiet,
					formatter: (at: number) => (shown.along === 'average' ? String(at / major) : String(at))
				},
				splitLine: { show: false }
			},
			yAxis: { type: 'value', axisLabel: { color: quiet }, splitLine: { lineStyle: { color: rule } } },
			series: even.lines.map((line, i) => ({
				name: nameOf(i as 0 | 1),
				type: 'line',
				showSymbol: false,
				data: line.map((cost, at) => [even.points[at], cost / major]),
				...(i === 0
					? {
							markPoint: {
								symbol: 'circle',
								symbolSize: 9,
								label: { show: false },
								data: even.crossings.map((one) => ({ coord: [one.at, one.cost / major] }))
							}
						}
					: {})
			}))
		})}
	/>
{/if}
