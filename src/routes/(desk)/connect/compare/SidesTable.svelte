<script lang="ts">
	import { counted } from '$lib/core/counted';
	import { formatDay } from '$lib/core/calendar';
	import { formatDecimal } from '$lib/core/money';
	import type { Working } from '$lib/core/workings';
	import { Figure, WideTable } from '$lib/ui';
	import { addressWith, type Ready } from './address';
	const { data }: { data: Ready } = $props();

	const HOLE: Record<string, string> = {
		'not carried': 'its account cannot carry them',
		'no line': 'no line of its card covers them',
		ambiguous: 'two lines of its card fit them',
		'no rate': 'no exchange rate is known',
		'no cost': 'its cost table lacks them'
	};
	const PARTS = [
		['percentage', 'Percentage', 'what follows the amount, with interchange and clamps'],
		['fixed', 'Fixed', 'the fixed part of each payment'],
		['conversion', 'Conversion', 'what another currency adds'],
		['around', 'Refunds, disputes and the like', 'refunds, disputes, declined attempts, payouts'],
		['monthly', 'Monthly', undefined],
		['waiting', 'Waiting', undefined]
	] as const;
	const day = (one: string) => formatDay(one, data.locale);
	const many = (count: number) => count.toLocaleString(data.locale);
	const lookAt = (look: string) => ({ href: addressWith({ look, skip: '' }), label: 'Look at them' });

	const cellWorking = (method: (typeof data.methods)[number], at: number): Working => {
		const cell = method.cells[at]!;
		const side = data.sides[at]!;
		return {
			title: `${side.name}: ${method.name.toLowerCase()}`,
			about: `${day(data.period.from)} to ${day(data.period.to)}, each payment priced by the rate card ${side.versions ? `that was valid on its day, one of ${side.versions},` : side.validFrom ? `of ${day(side.validFrom)}` : 'that was quoted'} and the exchange rate of its day.`,
			steps: [
				{ title: 'Payments priced', sum: many(cell.count) },
				{ title: 'Volume', sum: cell.base },
				{ title: 'Fees of the payments', sum: cell.fee },
				...(cell.around
					? [
							{
								title: 'Refunds, disputes, declined attempts',
								sub: 'refunds less what they give back',
								sum: cell.around
							}
						]
					: []),
				{ title: 'Cost', sum: cell.cost, total: true },
				{
					title: 'Effective rate',
					sub: 'cost ÷ volume',
					sum: cell.bps === null ? '–' : `${formatDecimal(cell.bps, 2, data.locale)} bps`
				},
				...(cell.holes
					? [
							{
								mark: 'no' as const,
								title: `${many(cell.holes)} payments left out`,
								sub: `${cell.holeWhy
									.split(', ')
									.map((one) => HOLE[one] ?? one)
									.join('; ')}. In all ${cell.leftOut}, in ${data.currency} at the rates of ${day(data.period.to)}.`,
								sum: cell.leftOutHome
							}
						]
					: []),
				...(cell.rank
					? [
							{
								title: `Ranked ${cell.rank}`,
								sub: `over the ${many(cell.commonCount)} payments that all of those ranked can carry: ${cell.commonCost}, ${cell.commonBps == null ? '–' : formatDecimal(cell.commonBps, 2, data.locale)} bps`
							}
						]
					: []),
				{ title: 'Single payments', link: lookAt(`${side.id}~method~${method.method}`) }
			]
		};
	};
	const someLeftOut = $derived(data.methods.some((one) => one.cells.some((cell) => cell.count && cell.holes)));
	const methodWorking = (method: (typeof data.methods)[number]): Working => ({
		title: method.name,
		about: `${counted(method.count, 'payment', data.locale)} of ${method.volume} ${data.currency} in all, at the rates of ${day(data.period.to)}.`,
		steps: method.cells.map((cell, at) => ({
			title: data.sides[at]!.name,
			sub: cell.count
				? [
						cell.rank ? `no. ${cell.rank} of those that are ranked` : '',
						cell.holes ? `cannot carry ${many(cell.holes)}` : 'carries all of them'
					]
						.filter(Boolean)
						.join('; ')
				: 'cannot carry it',
			sum: cell.count ? cell.cost : '–'
		}))
	});
	const payoutWorking = (at: number): Working => {
		const { payouts } = data.totals[at]!.around;
		return {
			title: `${data.sides[at]!.name}: payouts`,
			about: 'One for each day, week or month on which money arrives, by its payout schedule.',
			steps: [
				{ title: 'Payouts', sum: many(payouts.count) },
				{ title: 'Cost', sum: payouts.fee, total: true }
			]
		};
	};
	const monthlyWorking = (at: number): Working => {
		const one = data.totals[at]!;
		return {
			title: `${data.sides[at]!.name}: monthly`,
			about: `${one.months} calendar months lie in the time, whole or in part; each is charged whole.`,
			steps: [
				{ title: 'Fee of every month', sum: one.monthlyFee },
				{ title: 'Missing to the minimum', sub: 'what the markup of a month lacks', sum: one.monthlyMinimum },
				{ title: 'Monthly', sum: one.monthly, total: true }
			]
		};
	};
	const waitingWorking = (at: number): Working => {
		const one = data.totals[at]!;
		return {
			title: `${data.sides[at]!.name}: waiting`,
			about: 'What the money is worth while it is on its way to the bank.',
			steps: [
				{ title: 'Volume', sum: one.base },
				{
					title: 'Calendar days on average',
					sub: `${one.bankDays} bank days from each capture, by the calendar of the euro`,
					sum: formatDecimal(one.averageWait, 2, data.locale)
				},
				{ title: 'Cost of capital', sum: `${data.capital} %` },
				{ title: 'Waiting', sub: 'volume × days ÷ 365 × cost of capital, rounded once', sum: one.waiting, total: true }
			]
		};
	};
	const totalWorking = (at: number): Working => {
		const one = data.totals[at]!;
		const { refunds, givenBack, disputes, declined, payouts } = one.around;
		const charges = [
			[counted(refunds.count, 'refund', data.locale), refunds.fee],
			['given back of fees', givenBack],
			[`${counted(disputes.count, 'dispute', data.locale)}, as if lost`, disputes.fee],
			[counted(declined.count, 'declined attempt', data.locale), declined.fee],
			[counted(payouts.count, 'payout', data.locale), payouts.fee]
		];
		return {
			title: `${data.sides[at]!.name}: in all`,
			about: `${many(one.count)} of ${counted(data.count, 'payment', data.locale)}; what it cannot carry is not in it.`,
			steps: [
				...PARTS.map(([part, title, sub]) => ({
					title,
					sub: part === 'around' ? charges.map(([what, sum]) => `${what}: ${sum}`).join('; ') : sub,
					sum: one.shown[part]
				})),
				{ title: 'In all', sum: one.total, total: true },
				{ title: 'Single payments', link: lookAt(`${data.sides[at]!.id}~all`) }
			]
		};
	};
</script>

<h2 id="money">Money, {data.currency}</h2>
<WideTable label="Cost of each processor">
	<table class="sides">
		<thead
			><tr
				><th scope="col">Method</th>{#each data.sides as side (side.id)}<th scope="col"
						><a class="underline" href={side.href}>{side.name}</a>{#if side.kind === 'candidate'}<span class="sub"
								>candidate</span
							>{/if}</th
					>{/each}</tr
			></thead
		>
		<tbody>
			{#each data.methods as method (method.method)}
				<tr
					><th scope="row"
						><Figure working={methodWorking(method)}>{method.name}</Figure><span class="sub"
							>{counted(method.count, 'payment', data.locale)}</span
						></th
					>
					{#each method.cells as cell, at (cell.side)}
						<td>
							{#if cell.count}
								<Figure working={cellWorking(method, at)}
									>{cell.cost}{#if cell.holes}<span class="text-clay" aria-label=", leaves out {many(cell.holes)}"
											>*</span
										>{/if}</Figure
								>
								<span class="sub" class:best={cell.rank === 1}
									>{cell.bps?.toFixed(0)} bps{cell.rank === 1 ? ', cheapest' : ''}</span
								>
							{:else}<Figure plain working={cellWorking(method, at)}
									><span class="quiet" aria-label="cannot carry it">–</span></Figure
								>{/if}
						</td>
					{/each}</tr
				>
			{:else}
				<tr
					><td colspan={data.sides.length + 1} class="quiet"
						>No captured payments in this time. <a class="why" href="/connect/files">Import settlement files</a>, or set
						a mix by hand below.</td
					></tr
				>
			{/each}
			{#if data.methods.length}
				{#if data.paysOut}<tr
						><th scope="row">Payouts</th>{#each data.totals as one, at (one.side)}<td
								><Figure working={payoutWorking(at)}>{one.around.payouts.fee}</Figure></td
							>{/each}</tr
					>{/if}
				<tr
					><th scope="row">Monthly</th>{#each data.totals as one, at (one.side)}<td
							><Figure working={monthlyWorking(at)}>{one.monthly}</Figure></td
						>{/each}</tr
				>
				<tr
					><th scope="row">Waiting</th>{#each data.totals as one, at (one.side)}<td
							><Figure working={waitingWorking(at)}>{one.waiting}</Figure></td
						>{/each}</tr
				>
				<tr class="total"
					><th scope="row">In all</th>{#each data.totals as one, at (one.side)}<td
							><Figure working={totalWorking(at)}>{one.total}</Figure><span class="sub"
								>{one.bps === null ? '' : `${one.bps.toFixed(0)} bps of ${many(one.count)}`}</span
							></td
						>{/each}</tr
				>
			{/if}
		</tbody>
	</table>
</WideTable>
<p class="quiet mt-1 text-[12px]">
	– cannot carry it{#if someLeftOut}
		· <span class="text-clay">*</span> leaves payments out that it cannot carry{/if} · bps: hundredths of a percent of the
	volume. Press a figure to see how it came about.
</p>
