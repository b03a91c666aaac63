<script lang="ts">
	import { Sheet, Verdict, WideTable, Workings } from '$lib/ui';
	const { data } = $props();
	const SAYS = { fine: 'fine', near: 'near the limit', over: 'over the limit' } as const;
	const OUTCOMES: Record<string, string> = { won: 'won', lost: 'lost', accepted: 'given up' };
</script>

<Sheet title="Disputes" about="Payments that payers dispute, until when you can answer, and what came of it">
	<Verdict verdict={data.verdict} />
	{#if data.open.length}
		<h2>Open</h2>
		<WideTable label="Open disputes">
			<table>
				<thead
					><tr
						><th>Payment</th><th>Reason</th><th>Answer until</th><th class="n">Amount</th><th class="n">Costs</th><th
							>Connection</th
						><th>Answered</th></tr
					></thead
				>
				<tbody
					>{#each data.open as one (one.id)}<tr
							><td
								><a
									data-row
									class="font-semibold underline decoration-transparent hover:decoration-current"
									href="/takings/disputes/{one.id}">{one.reference}</a
								><span class="sub">{one.payer}</span></td
							><td>{one.reason || 'not told'}</td><td class="whitespace-nowrap"
								>{#if one.answerBy}{one.answerBy}<span class="sub" class:text-clay={one.isLate}>{one.left}</span
									>{:else}not told{/if}<span class="sub">opened {one.opened}</span></td
							><td class="n whitespace-nowrap">{one.amount}</td><td class="n whitespace-nowrap">{one.cost}</td><td
								>{one.connection}<span class="sub">{one.method}</span></td
							><td>{one.answered || '–'}</td></tr
						>{/each}</tbody
				>
			</table>
		</WideTable>
	{/if}
	{#if data.rates.length}
		<h2>How often, in the last {data.days} days</h2>
		<WideTable label="Rate of disputes by connection, method and scheme">
			<table>
				<thead
					><tr
						><th>Connection, method, scheme</th><th class="n">Payments</th><th class="n">Disputes</th><th class="n"
							>Rate</th
						><th class="n">Lost</th><th>The scheme’s limit</th><th>Verdict</th><th class="n">Left before it</th></tr
					></thead
				>
				<tbody
					>{#each data.rates as one, at (at)}<tr
							><td>{one.what}</td><td class="n">{one.payments}</td><td class="n">{one.disputes}</td><td
								class="n font-semibold whitespace-nowrap">{one.rate}</td
							><td class="n whitespace-nowrap">{one.lost}</td><td class="whitespace-nowrap">{one.limit}</td><td
								><span class={one.verdict === 'fine' ? 'yes' : 'no'}>{SAYS[one.verdict]}</span></td
							><td class="n">{one.left}</td></tr
						>{/each}</tbody
				>
			</table>
		</WideTable>
	{/if}
	{#if data.closed.length}
		<h2>Over</h2>
		<table>
			<thead><tr><th>Payment</th><th>Reason</th><th>Opened</th><th class="n">Amount</th><th>Outcome</th></tr></thead>
			<tbody
				>{#each data.closed as one (one.id)}<tr
						><td
							><a class="why" href="/takings/disputes/{one.id}">{one.reference}</a><span class="sub">{one.payer}</span
							></td
						><td>{one.reason || 'not told'}</td><td class="whitespace-nowrap">{one.opened}</td><td
							class="n whitespace-nowrap">{one.amount}</td
						><td><span class={one.outcome === 'won' ? 'yes' : 'no'}>{OUTCOMES[one.outcome]}</span></td></tr
					>{/each}</tbody
			>
		</table>
	{/if}
</Sheet>
<Workings
	how={{
		title: 'How disputes are counted',
		steps: [
			{ title: 'Rate', sub: 'disputes to payments captured in these days' },
			{ title: 'Lost', sub: 'what will not come back: decided for the payer, or given up' },
			{ title: 'A scheme’s limit', sub: 'both the rate and enough disputes: few of them are never too many' }
		]
	}}
/>
