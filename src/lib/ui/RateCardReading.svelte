<script lang="ts">
	import { percent, sayLine, type RateCard, type RateLine } from '$lib/core/fees';
	import { formatAmount } from '$lib/core/money';
	import { sayCountries } from '$lib/core/places';

	/** A rate card as one reads a contract: what is charged for what, and what else there is. */
	const { card, locale }: { card: RateCard; locale: string } = $props();
	const sum = (minor: number) => formatAmount({ minor, currency: card.settlement }, locale);
	/** a line's price in words: `1.35 % + 0.18 EUR, at least 0.20 EUR` */
	const price = ({ percentage, fixed, minimum, maximum }: RateLine) =>
		[
			[percentage ? percent(percentage, locale) : '', fixed ? sum(fixed) : ''].filter(Boolean).join(' + ') || 'nothing',
			minimum === undefined ? '' : `at least ${sum(minimum)}`,
			maximum === undefined ? '' : `at most ${sum(maximum)}`
		]
			.filter(Boolean)
			.join(', ');
	const named = (text: string) => text[0]!.toUpperCase() + text.slice(1);
	const KEEPS = {
		all: 'keeps the whole fee',
		fixed: 'gives back the percentage, keeps the fixed part',
		nothing: 'gives back the whole fee'
	} as const;
	const rest = $derived([
		['A refund', `${KEEPS[card.refund.keeps]}${card.refund.fee ? `, and charges ${sum(card.refund.fee)}` : ''}`],
		[
			'A dispute',
			card.dispute.fee
				? `${sum(card.dispute.fee)}${card.dispute.returnedWhenWon ? ', given back when it is won' : ', also when it is won'}`
				: 'no charge'
		],
		['A declined attempt', card.declined ? sum(card.declined) : 'no charge'],
		['A payout', card.payout ? sum(card.payout) : 'no charge'],
		[
			'A month',
			[
				card.monthly.fee ? sum(card.monthly.fee) : '',
				card.monthly.minimum ? `at least ${sum(card.monthly.minimum)} of fees` : ''
			]
				.filter(Boolean)
				.join(', ') || 'no charge'
		],
		['Another currency', card.conversion ? `${percent(card.conversion, locale)} more` : 'no more'],
		...(card.intermediary ? [['An intermediary', `${percent(card.intermediary, locale)} of every payment`]] : []),
		['Settles in', card.settlement],
		[
			'Rounded',
			`${card.rounding === 'total' ? 'once' : 'each part'}, ${{ 'half-up': 'halves up', 'half-even': 'halves to even', up: 'upwards' }[card.mode]}`
		],
		...(card.areas.length
			? [['Regional', `cards issued in ${card.areas.map((area) => sayCountries(area)).join('; or in ')}`]]
			: [])
	] as [string, string][]);
</script>

{#snippet lines(list: readonly RateLine[])}
	{#each list as line, at (at)}<tr><th scope="row">{named(sayLine(line))}</th><td>{price(line)}</td></tr>{/each}
{/snippet}

<table class="reading mt-3">
	<thead><tr><th scope="col">For</th><th scope="col">{card.costs ? 'Markup' : 'Charged'}</th></tr></thead>
	<tbody>{@render lines(card.lines)}</tbody>
	{#if card.tiers}
		{#each card.tiers.steps as step, at (at)}
			<tbody>
				<tr class="group"
					><th colspan="2" scope="rowgroup"
						>From {sum(step.from)} in a month, {card.tiers.way === 'band'
							? 'for what lies above it'
							: 'for the whole month'}</th
					></tr
				>
				{@render lines(step.lines)}
			</tbody>
		{/each}
	{/if}
	<tbody>
		<tr class="group"><th colspan="2" scope="rowgroup">What else there is</th></tr>
		{#each rest as [name, says] (name)}<tr><th scope="row">{name}</th><td>{says}</td></tr>{/each}
	</tbody>
</table>
{#if card.costs?.length}
	<details class="mt-2">
		<summary class="cursor-pointer">Interchange and scheme fees passed on: {card.costs.length} card types</summary>
		<table class="reading mt-1">
			<thead><tr><th>Card type</th><th class="n">Interchange</th><th class="n">Scheme fee</th></tr></thead>
			<tbody>
				{#each card.costs as one, at (at)}<tr
						><th scope="row">{named(one.scheme)}, {one.funding}, {one.region}</th><td class="n"
							>{percent(one.interchange, locale)}</td
						><td class="n">{percent(one.schemeFee, locale)}</td></tr
					>{/each}
			</tbody>
		</table>
	</details>
{/if}

<style>
	.reading th[scope='row'] {
		width: 42%;
		font-weight: 400;
		color: var(--ink);
		font-size: 13px;
		vertical-align: top;
		border-bottom: 1px solid var(--rule);
		padding-block: 5px;
	}
	.reading td {
		padding-block: 5px;
	}
	.reading .group th {
		padding-top: 16px;
		font-weight: 600;
		color: var(--ink);
		font-size: 13px;
	}
</style>
