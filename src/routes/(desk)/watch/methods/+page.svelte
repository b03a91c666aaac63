<script lang="ts">
	import { enhance } from '$app/forms';
	import { Figure, Said, Sheet, Verdict, WideTable, Workings } from '$lib/ui';
	const { data, form } = $props();
	const use = $derived(data.use);
	const hasGivenUp = $derived(!!use?.rows.some((one) => one.givenUp));
	const hasBack = $derived(!!use?.rows.some((one) => one.back));
	const hasHand = $derived(!!use?.rows.some((one) => one.minutes));
</script>

<Sheet title="Use of methods" about="What each way to pay brings, costs, and how much work it makes">
	{#if !use}
		<p class="mt-3 max-w-prose">
			Nothing has been paid yet. Once payments come, this shows which methods are worth what they cost.
			<a class="why" href="/connect/files">Import a settlement file</a> of what was paid before.
		</p>
	{:else}
		<Verdict verdict={use.verdict} />
		<Said form={form as never} />
		<form method="get" class="mt-3 flex flex-wrap items-end gap-3">
			<label
				><span class="legend">Till</span><select name="till" value={use.till.slug}
					>{#each use.tills as one (one.value)}<option value={one.value}>{one.name}</option>{/each}</select
				></label
			>
			<label
				><span class="legend">From</span><select name="from" value={use.from}
					>{#each use.months as one (one.value)}<option value={one.value}>{one.name}</option>{/each}</select
				></label
			>
			<label
				><span class="legend">to</span><select name="to" value={use.to}
					>{#each use.months as one (one.value)}<option value={one.value}>{one.name}</option>{/each}</select
				></label
			>
			<label
				><span class="legend">Minutes for a receipt</span><input
					type="number"
					name="minutes"
					min="0"
					max="120"
					value={use.minutes}
					class="w-24"
				/></label
			>
			<label
				><span class="legend">Cost of capital, % a year</span><input
					name="capital"
					inputmode="decimal"
					value={use.capital}
					class="w-24"
				/></label
			>
			<button class="button">Show</button>
		</form>
		<h2>{use.till.name}, {use.period}</h2>
		<WideTable label="Use of methods at {use.till.name}">
			<table>
				<thead
					><tr
						><th>Method</th><th class="n">Payments</th><th class="n">Share</th><th class="n">Taken, {use.currency}</th
						><th class="n">Share</th><th class="n">Cost per 100</th><th class="n">Came to nothing</th
						>{#if hasGivenUp}<th class="n">Given up</th>{/if}<th class="n">Days to money</th>{#if hasBack}<th
								>Went back</th
							>{/if}{#if hasHand}<th class="n">By hand</th>{/if}</tr
					></thead
				>
				<tbody>
					{#each use.rows as one (one.method)}<tr
							><td
								><span class="whitespace-nowrap">{one.name}</span>{#if one.doubts.length}<span class="sub text-clay"
										>{one.doubts.join(', ')}</span
									>{/if}{#if one.offers.length}<form method="post" action="?/drop" use:enhance class="sub">
										<input type="hidden" name="till" value={use.till.slug} />
										<input type="hidden" name="method" value={one.method} />
										<input type="hidden" name="revision" value={use.revision} />
										<button class="why whitespace-nowrap" aria-label="Draft without {one.name}">Draft without it</button
										>
									</form>{:else}<span class="sub">not offered now</span>{/if}</td
							><td class="n">{one.paid}</td><td class="n">{one.share}</td><td class="n whitespace-nowrap"
								>{one.taken}</td
							><td class="n">{one.amountShare}</td><td class="n font-semibold"
								>{#if one.cost}<Figure working={one.working}>{one.cost}</Figure>{/if}</td
							><td class="n"
								>{one.failed}{#if one.failedShare}<span class="sub">{one.failedShare}</span>{/if}</td
							>{#if hasGivenUp}<td class="n">{one.givenUp}</td>{/if}<td class="n">{one.days}</td>{#if hasBack}<td
									>{one.back}</td
								>{/if}{#if hasHand}<td class="n">{one.minutes}</td>{/if}</tr
						>{/each}
				</tbody>
			</table>
		</WideTable>
		<p class="quiet mt-3">
			Cost is fees and what waiting for the money is worth. Given up are orders that chose it and brought no money, a
			day later. Days to money are those of the middle payment and of nine in ten, from the order, where both are known.
			Rare is below 2 % of the till’s payments. Dear is more than twice the till’s average, laborious five minutes a
			payment or more. A method is doubted only where it is rare and one of these. {use.hasDraft
				? 'There is a draft of this till already: leaving a method out changes it.'
				: ''}
		</p>
	{/if}
</Sheet>
<Workings />
