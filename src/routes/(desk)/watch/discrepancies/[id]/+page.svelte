<script lang="ts">
	import { enhance } from '$app/forms';
	import { page } from '$app/state';
	import { Said, Sheet, WideTable, Workings } from '$lib/ui';
	const { data, form } = $props();
	const SAID: Record<string, string> = {
		found: 'Found',
		note: 'Note',
		sent: 'Sent to the processor',
		agreed: 'The processor agreed',
		settled: 'Settled',
		accepted: 'Accepted',
		open: 'Opened again',
		corrected: 'Corrected',
		changed: 'Changed'
	};
</script>

<Sheet title={data.cause} about={[data.connection, data.kinds.join('; ')].filter(Boolean).join(' · ')}>
	{#snippet acts()}<a class="button" href="/watch/discrepancies/{data.id}/csv" download>Evidence as CSV</a><a
			class="button main"
			href="/watch/discrepancies/{data.id}/letter"
			target="_blank"
			rel="noopener">Letter as PDF</a
		>{/snippet}
	<p class="verdict">
		<b class:text-clay={!data.isClosed}>{data.remaining}</b> of {data.found}{data.under ? ` less ${data.under}` : ''}
		is left, from {data.counted}{data.first === data.last
			? ` of ${data.first}`
			: ` between ${data.first} and ${data.last}`}.
	</p>
	<Said form={form as never} />
	<p class="mt-2">
		{data.why}
		{#if data.isOfAccount}Corrections come as adjustments in a settlement file.{:else if data.ofAll > data.count}In
			these days {data.connection} charged {(data.ofAll - data.count).toLocaleString(data.locale)} more payments of these
			kinds, as agreed.{:else}It was all payments of these kinds in these days.{/if}
	</p>

	{#if data.lines}<p class="mt-2">
			Agreed is the line {data.lines.agreed}. Charged was the line {data.lines.charged}.
		</p>{/if}

	<h2>What to do</h2>
	<form method="post" action="?/work" use:enhance class="mt-2 max-w-2xl">
		<input type="hidden" name="from" value={data.state} />
		<p>It is <b>{data.state}</b>.</p>
		<label class="mt-2 block"
			><span class="legend">Note</span><textarea name="text" rows="2" class="w-full" maxlength="2000"
				>{(form as { typed?: string } | null)?.typed ?? ''}</textarea
			></label
		>
		<p class="mt-2 flex flex-wrap gap-2">
			{#each data.acts as one, at (one.state)}<button
					class="button"
					class:main={at === 0}
					name="state"
					value={one.state}>{one.name}</button
				>{/each}<button class="button" name="state" value="">Only keep the note</button>
		</p>
	</form>

	<h2>What happened</h2>
	<ol class="mt-2">
		{#each data.notes as one (one.id)}<li class="mb-1">
				<span class="quiet">{one.when}, {one.by}:</span>
				{SAID[one.act] ?? one.act}{#if one.text}. {one.text}{/if}
			</li>{/each}
	</ol>

	<h2>{data.isOfAccount ? 'Charges' : 'Payments'}</h2>
	<WideTable label="{data.isOfAccount ? 'Charges' : 'Payments'} behind it">
		<table>
			<thead
				><tr
					><th>Processor’s id</th><th>Day</th>{#if !data.isOfAccount}<th>Card</th><th class="n">Amount</th>{/if}<th
						class="n">Agreed</th
					><th class="n">Charged</th><th class="n">Difference</th><th class="n">Came back</th></tr
				></thead
			>
			<tbody>
				{#each data.payments as one (one.place)}<tr
						><td
							>{#if one.id}<a data-row class="underline" href="/takings/payments/{one.id}"
									>{one.processorId || one.id}</a
								>{:else}{one.processorId}{/if}</td
						><td>{one.day}</td>{#if !data.isOfAccount}<td>{one.card}</td><td class="n">{one.amount}</td>{/if}<td
							class="n">{one.expected}</td
						><td class="n">{one.charged}</td><td class="n font-semibold">{one.difference}</td><td class="n"
							>{one.corrected}</td
						></tr
					>{/each}
			</tbody>
		</table>
	</WideTable>
	{#if data.next}<p class="mt-2"><a class="button" href="{page.url.pathname}?after={data.next}">Next page</a></p>{/if}
</Sheet>
<Workings />
