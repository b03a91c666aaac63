<script lang="ts">
	import {
		clashingSituations,
		emptySituations,
		sayNotLooked,
		saySituation,
		singleSituations,
		type Coverage,
		type CoverageInput,
		type LineUp,
		type PastPayers,
		type Situation,
		type Weight
	} from '$lib/core/lineup';
	import { formatAmount } from '$lib/core/money';
	import { onMount, untrack } from 'svelte';

	interface Props {
		/** what is asked; undefined while what is typed is not right yet */
		input?: CoverageInput;
		locale: string;
		/** connections, offline methods and groups by id */
		names: Readonly<Record<string, string>>;
		slug: string;
		/** how many situations are listed at first */
		most?: number;
		/** who came to the till before, to count them */
		past?: readonly PastPayers[];
		/** the line-up before what is typed: what the change opens and closes stands first */
		before?: LineUp;
		/** a short form, for the margin */
		brief?: boolean;
	}
	const { input, locale, names, slug, most = 40, past = [], before, brief = false }: Props = $props();
	let found = $state.raw<Coverage>();
	let weights = $state.raw<readonly Weight[]>([]);
	let bounds = $state.raw<readonly boolean[]>([]);
	let opens = $state.raw<readonly Situation[]>([]);
	let closes = $state.raw<readonly Situation[]>([]);
	let ms = $state(0);
	let all = $state(false);
	let worker: Worker | undefined;
	let turn = 0;

	let isBusy = false;
	/** The latest question wins: one that nobody waits for any more is stopped. */
	const ask = (asked: CoverageInput) => {
		if (isBusy) {
			worker?.terminate();
			worker = undefined;
		}
		worker ??= started();
		isBusy = true;
		worker.postMessage({
			turn: ++turn,
			input: JSON.parse(JSON.stringify(asked)),
			past: JSON.parse(JSON.stringify(past)),
			...(before ? { before: JSON.parse(JSON.stringify(before)) } : {})
		});
	};
	function started(): Worker {
		const made = new Worker(new URL('../workers/coverage.ts', import.meta.url), { type: 'module' });
		made.onmessage = ({
			data
		}: MessageEvent<{
			turn: number;
			found: Coverage;
			weights: Weight[];
			bounds: boolean[];
			opens: Situation[];
			closes: Situation[];
			ms: number;
		}>) => {
			if (data.turn !== turn) return;
			({ found, weights, bounds, opens, closes } = data);
			ms = data.ms;
			isBusy = false;
		};
		return made;
	}
	onMount(() => {
		if (input) ask(input);
		return () => worker?.terminate();
	});
	$effect(() => {
		const asked = input;
		if (!asked) return;
		const timer = setTimeout(() => untrack(() => ask(asked)), 120);
		return () => clearTimeout(timer);
	});

	const empty = $derived(
		found ? emptySituations(found.situations).filter((one) => brief || !ownBounds.includes(one)) : []
	);
	/** what is empty before the change as well */
	const rest = $derived(
		empty.filter((one) => {
			const says = saySituation(one, locale, names);
			return !closes.some((other) => saySituation(other, locale, names) === says);
		})
	);
	const clashing = $derived(found ? clashingSituations(found.situations) : []);
	const single = $derived(found ? singleSituations(found.situations) : []);
	interface Weighed {
		one: Situation;
		weight: Weight;
	}
	const weighed = $derived<Weighed[]>(
		(found?.situations ?? [])
			.map((one, at) => ({ one, weight: weights[at] ?? { count: 0, met: 0, minor: 0 }, at }))
			.filter(({ at }) => brief || !bounds[at])
			.sort((a, b) => rank(a.one) - rank(b.one) || b.weight.count - a.weight.count || a.at - b.at)
	);
	const rank = (one: Situation) => (one.offers.length === 0 ? 0 : 1);
	/** empty only because the processors themselves take no such sums */
	const ownBounds = $derived((found?.situations ?? []).filter((_, at) => bounds[at]));
	const listed = $derived(all ? weighed : weighed.slice(0, most));
	const metNothing = $derived(weighed.reduce((sum, { weight }) => sum + weight.met, 0));
	const verdict = (one: Situation) =>
		one.offers.length === 0
			? 'nothing is offered'
			: one.beaten.some((other) => other.why === 'same-name')
				? 'two offers of one name meet'
				: one.carriers === 1
					? 'depends on one route'
					: '';
	const askAt = (one: Situation) => {
		const { context } = one;
		const query = new URLSearchParams({
			currency: one.currency,
			amount: String(context.minor),
			minor: 'yes',
			country: context.country ?? '',
			goods: context.goods ?? '',
			delivery: context.delivery ?? '',
			// in none of them is not the same as not known
			groups: context.groups ? context.groups.join(',') || 'none' : '',
			online: context.hasOnlineMethod === undefined ? '' : context.hasOnlineMethod ? 'yes' : 'no',
			domain: context.domain ?? '',
			ordered: context.orderedBy
		});
		return `/accept/tills/${slug}/ask?${query}`;
	};
	const RULES: Record<string, string> = {
		on: 'it is switched off',
		method: 'its method is paused',
		route: 'it has no working route',
		account: 'its account cannot carry it',
		currency: 'the till does not take its currencies',
		amount: 'no amount lies within its limits',
		payer: 'no payer meets its conditions',
		domain: 'no domain is proven for it',
		'card types': 'no card type is left',
		beside: 'an offer above it stands in its way'
	};
</script>

{#if !input}
	<p class="quiet">What is typed is not right yet; coverage is of what stood before.</p>
{/if}
{#if !found}
	<p class="quiet" aria-live="polite">Working out every situation …</p>
{:else}
	<p aria-live="polite" data-coverage={found.asked}>
		{#if empty.length}<b class="text-clay"
				>{empty.length} situation{empty.length === 1 ? '' : 's'} with nothing to pay by{metNothing
					? `: ${metNothing} payer${metNothing === 1 ? '' : 's'} met ${empty.length === 1 ? 'it' : 'them'} in ninety days`
					: ''}.</b
			>{:else}<b class:text-moss={!found.notLooked.length}
				>{found.notLooked.length ? 'No empty checkout in what was looked at.' : 'No payer meets an empty checkout.'}</b
			>{/if}
		{clashing.length ? `Two offers of one name meet in ${clashing.length}.` : ''}
		{single.length ? `${single.length} depend on one route.` : ''}
		<span class="quiet"
			>{found.asked.toLocaleString(locale)} classes of payers and amounts asked, in {ms.toFixed(0)} ms{found.notLooked
				.length
				? '.'
				: '; there are no others.'}</span
		>
	</p>
	{#each found.notLooked as one (one.currency)}<p class="note clay mt-2" role="status">
			{sayNotLooked(one, locale)} Fewer conditions on different things let it be proven.
		</p>{/each}
	{#each found.buried as one (one.id)}
		<p class="note mt-2">
			<b>{one.name}</b> never appears: {one.rules.map((rule) => RULES[rule]).join('; or ')}.
			<a class="why" href="/accept/tills/{slug}/offers/{one.id}">Change the offer</a>
		</p>
	{/each}
	{#if brief}
		{#snippet moved(title: string, list: readonly Situation[], bad: boolean)}
			{#if list.length}<p class="mt-2 font-semibold {bad ? 'text-clay' : 'text-moss'}">{title}</p>
				<ul>
					{#each list.slice(0, 5) as one, i (i)}<li class="border-rule border-t py-1">
							{saySituation(one, locale, names)}
						</li>{/each}
					{#if list.length > 5}<li class="quiet border-rule border-t py-1">and {list.length - 5} more</li>{/if}
				</ul>{/if}
		{/snippet}
		{@render moved('This change leaves with nothing', closes, true)}
		{@render moved('This change offers something to', opens, false)}
		<ul class="mt-2">
			{#each [...rest, ...clashing].slice(0, 5) as one, i (i)}<li class="border-rule border-t py-1">
					{saySituation(one, locale, names)}<span class="sub text-clay">{verdict(one)}</span>
				</li>{/each}
		</ul>
	{:else}
		<table class="mt-3">
			<thead
				><tr
					><th class="w-[38%]">Situation</th><th>Offered, in this order</th>{#if past.length}<th class="n w-36"
							>Payers in ninety days</th
						>{/if}</tr
				></thead
			>
			<tbody>
				{#each listed as { one, weight }, i (i)}
					<tr class:bad={one.offers.length === 0}>
						<td><a class="underline" data-row href={askAt(one)}>{saySituation(one, locale, names)}</a></td>
						<td
							>{#each one.offers as offer, at (offer.id)}{at ? ', ' : ''}{offer.name}
								<span class="quiet">({names[offer.carrier] ?? 'removed'})</span>{:else}<b class="text-clay">nothing</b>
								<a class="why" href={askAt(one)}>See the least change</a
								>{/each}{#if one.offers.length && verdict(one)}<span class="sub">{verdict(one)}</span
								>{/if}{#each one.beaten as other (other.id)}<span class="sub"
									>{other.name} is withheld: {other.why === 'same-name'
										? 'the name stands above it already'
										: 'its processor may not stand beside another one'}</span
								>{/each}</td
						>
						{#if past.length}<td class="n"
								>{#if weight.count}{weight.count.toLocaleString(locale)}<span class="sub"
										>{formatAmount({ minor: weight.minor, currency: one.currency }, locale)}{weight.met
											? `, ${weight.met} met nothing`
											: ''}</span
									>{/if}</td
							>{/if}
					</tr>
				{/each}
			</tbody>
		</table>
		{#if weighed.length > listed.length}<button class="button small mt-2" onclick={() => (all = true)}
				>Show all {weighed.length} situations</button
			>{/if}
		{#if ownBounds.length}<details class="mt-3">
				<summary class="cursor-pointer"
					>{ownBounds.length} more {ownBounds.length === 1 ? 'is' : 'are'} empty because the processors themselves take no
					such sums</summary
				>
				<ul class="mt-1">
					{#each ownBounds as one, i (i)}<li class="border-rule border-t py-1">
							<a class="underline" href={askAt(one)}>{saySituation(one, locale, names)}</a>
						</li>{/each}
				</ul>
			</details>{/if}
	{/if}
{/if}
