<script lang="ts" module>
	/** One payment of a list, as it is shown. */
	export interface PaymentLine {
		id: number;
		reference: string;
		payer: string;
		at: number;
		till: string;
		mode: string;
		method: string;
		route: string;
		stage: string;
		reachedStep: number;
		brokenStep: number;
		amount: string;
		currency: string;
		expected: string;
		charged: string;
		differs: boolean;
		contradicts: boolean;
		net: string;
		feeCurrency: string;
	}
</script>

<script lang="ts">
	import { goto } from '$app/navigation';
	import StageStrip from './StageStrip.svelte';

	interface Props {
		lines: PaymentLine[];
		more: boolean;
		last?: string;
		text: string;
		locale: string;
		timeZone: string;
		/** path of this list, for paging */
		path: string;
	}
	const { lines, more, last, text, locale, timeZone, path }: Props = $props();
	const when = (ms: number) =>
		new Date(ms).toLocaleString(locale, {
			timeZone,
			day: 'numeric',
			month: 'short',
			hour: '2-digit',
			minute: '2-digit'
		});
</script>

<form method="get" action={path} class="mt-4 flex gap-2" role="search">
	<input
		name="q"
		value={text}
		placeholder="Reference, payer, processor’s id"
		aria-label="Search payments"
		class="!w-72"
	/>
	<button class="button">Search payments</button>
	{#if text}<a class="button" href={path}>Show all</a>{/if}
</form>
{#if lines.length}
	<table class="mt-3">
		<thead>
			<tr
				><th>Reference, payer</th><th>How far</th><th>Till, route</th><th class="n">Amount</th><th class="n"
					>Expected fee</th
				><th class="n">charged</th><th class="n">Net</th></tr
			>
		</thead>
		<tbody>
			{#each lines as line (line.id)}
				<tr class="hover:bg-paper cursor-pointer" onclick={() => goto(`/takings/payments/${line.id}`)}>
					<td
						><a
							data-row
							class="font-semibold underline decoration-transparent hover:decoration-current"
							href="/takings/payments/{line.id}">{line.reference}</a
						><span class="sub whitespace-nowrap"
							>{line.payer ? `${line.payer} · ` : ''}{when(line.at)}{#if line.contradicts}<span class="no ml-1"
									>contradictory</span
								>{/if}</span
						></td
					>
					<td><StageStrip reachedStep={line.reachedStep} brokenStep={line.brokenStep} stage={line.stage} /></td>
					<td
						>{line.till}{#if line.mode === 'test'}<span class="text-inkblue ml-1">Test</span>{/if}<span class="sub"
							>{line.method}{line.route ? `, ${line.route}` : ''}</span
						></td
					>
					<td class="n whitespace-nowrap">{line.amount}<span class="sub">{line.currency}</span></td>
					<td class="n">{line.expected}</td>
					<td class="n"
						>{#if line.differs}<span class="no">≠ {line.charged}</span>{:else}{line.charged}{/if}</td
					>
					<td class="n whitespace-nowrap">{line.net}<span class="sub">{line.net ? line.feeCurrency : ''}</span></td>
				</tr>
			{/each}
		</tbody>
	</table>
	{#if more}<p class="mt-3">
			<a class="button" href="{path}?{text ? `q=${encodeURIComponent(text)}&` : ''}before={last}">Older payments</a>
		</p>{/if}
{:else if text}
	<p class="mt-4">No payment’s reference, payer, mail or processor’s id begins with “{text}”.</p>
{:else}
	<p class="mt-4 max-w-prose">
		Payments will stand here as soon as somebody pays: how far each has come, what it cost, what is left. <a
			class="why"
			href="/accept">Choose a till</a
		> and build the first address.
	</p>
{/if}
