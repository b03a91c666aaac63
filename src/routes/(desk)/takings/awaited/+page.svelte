<script lang="ts">
	import { counted } from '$lib/core/counted';
	import { formatDay } from '$lib/core/calendar';
	import { Figure, Sheet, StageStrip, Workings } from '$lib/ui';
	const { data } = $props();
	const late = $derived(data.days.filter((one) => one.isLate));
	const next = $derived(data.days.find((one) => !one.isLate));
	const STEPS: Record<string, number> = { pending: 1, captured: 2, 'part refunded': 2 };
	const count = $derived(data.days.reduce((sum, one) => sum + one.payments.length, 0));
</script>

<Sheet title="Expected money">
	{#snippet acts()}
		{#if data.days.length}<a class="button" href="/takings/awaited/calendar" download>Export days to a calendar</a>{/if}
	{/snippet}
	<p class="verdict">
		{#if !data.days.length}Nothing is on its way from a processor: whatever was captured here has arrived.
		{:else if late.length}{late.every((one) => one.isWhole) ? '' : 'At least '}{data.late.join(', ')} should have been there
			by {formatDay(late.at(-1)!.day, data.locale)} and was not told yet. Ask the processor for its payout.
		{:else}{next!.isWhole ? '' : 'At least '}{next!.sums.join(', ')} come{next!.payments.length === 1 ? 's' : ''} next, on
			{formatDay(next!.day, data.locale)}.{/if}
	</p>
	{#if data.debits}<p class="quiet">
			{data.more ? 'At least ' : ''}{data.debits}
			{data.debits === 1 ? 'is a bank debit, which' : 'are bank debits, which'} the payer’s bank may still take back.
		</p>{/if}
	{#each data.days as day (day.day)}
		<h2>
			{formatDay(day.day, data.locale)}{#if day.isLate}<span class="no ml-2 text-[13px]">late</span>{/if}
			<span class="quiet ml-2 text-[14px] font-normal">{day.isWhole ? '' : 'at least '}{day.sums.join(' · ')}</span>
		</h2>
		<table>
			<thead class="sr-only"><tr><th>Payment</th><th>How far</th><th>Amount</th><th>Fulfil</th></tr></thead>
			<tbody>
				{#each day.payments as one (one.id)}
					<tr>
						<td
							><a data-row class="font-semibold underline" href="/takings/payments/{one.id}">{one.reference}</a><span
								class="sub">{[one.payer, one.method, one.route].filter(Boolean).join(' · ')}</span
							></td
						>
						<td><StageStrip reachedStep={STEPS[one.stage] ?? 1} stage={one.stage} /></td>
						<td class="n whitespace-nowrap">{one.amount}</td>
						<td
							><Figure working={one.certainty.working}>{one.certainty.fulfil.now ? 'fulfil now' : 'wait'}</Figure><span
								class="sub"
								>{one.certainty.fulfil.now
									? ''
									: one.certainty.fulfil.from
										? `until ${formatDay(one.certainty.fulfil.from, data.locale)}`
										: ''}</span
							></td
						>
					</tr>
				{/each}
			</tbody>
		</table>
	{:else}
		<p class="mt-4 max-w-prose">
			Payments that a processor has taken and not paid out yet will stand here, by the day on which the money is
			expected. <a class="why" href="/takings">See all payments</a>
		</p>
	{/each}
	{#if data.more}<p class="quiet mt-3">
			Only the oldest 2,000 payments are listed. <a class="why" href="/takings?stage=captured"
				>See all that are captured</a
			>
		</p>{/if}
</Sheet>
<Workings
	first={data.days[0]?.payments[0]?.certainty.working}
	how={{
		title: 'How an expected day is counted',
		steps: [
			{ title: 'From the capture', sub: 'by the account’s cut-off and time zone' },
			{ title: 'Over bank days', sub: 'by the bank calendar of the connection' },
			{ title: 'When to fulfil', sub: 'by the policy of the till' }
		],
		end: { tone: 'blue', text: `${counted(count, 'payment', data.locale)} expected.` }
	}}
/>
