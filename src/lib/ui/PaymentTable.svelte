<script lang="ts" module>
	import { formatMoment } from '$lib/core/calendar';
	/** One payment of a list, as it is shown. */
	export interface PaymentLine {
		id: number;
		reference: string;
		payer: string;
		at: number;
		capturedAt?: number;
		till: string;
		mode: string;
		method: string;
		route: string;
		card: string;
		processorId: string;
		stage: string;
		reachedStep: number;
		brokenStep: number;
		amount: string;
		refunded: string;
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
		/** which columns stand beside reference and payer */
		columns: readonly string[];
		locale: string;
		timeZone: string;
	}
	const { lines, columns, locale, timeZone }: Props = $props();
	const when = (ms: number) => formatMoment(ms, locale, timeZone);
	const has = (column: string) => columns.includes(column);
</script>

<div class="wide-table blocks" role="region" aria-label="Payments" tabindex="-1">
	<table class="mt-3">
		<thead>
			<tr>
				<th>Reference, payer</th>
				{#if has('stage')}<th>How far</th>{/if}
				{#if has('place')}<th>Till, route</th>{/if}
				{#if has('card')}<th>Card</th>{/if}
				{#if has('captured')}<th>Captured</th>{/if}
				{#if has('amount')}<th class="n">Amount</th>{/if}
				{#if has('refunded')}<th class="n">Refunded</th>{/if}
				{#if has('expected')}<th class="n">Expected fee</th>{/if}
				{#if has('charged')}<th class="n">Charged fee</th>{/if}
				{#if has('net')}<th class="n">Net</th>{/if}
				{#if has('id')}<th>Processor’s id</th>{/if}
			</tr>
		</thead>
		<tbody>
			{#each lines as line (line.id)}
				<tr class="hover:bg-paper cursor-pointer" onclick={() => goto(`/takings/payments/${line.id}`)}>
					<td
						><a
							data-row
							class="font-semibold underline decoration-transparent hover:decoration-current"
							href="/takings/payments/{line.id}">{line.reference || `Payment ${line.id}`}</a
						><span class="sub"
							>{line.payer ? `${line.payer} · ` : ''}{when(line.at)}{#if line.contradicts}<span class="no ml-1"
									>contradictory</span
								>{/if}</span
						></td
					>
					{#if has('stage')}<td
							><StageStrip reachedStep={line.reachedStep} brokenStep={line.brokenStep} stage={line.stage} /></td
						>{/if}
					{#if has('place')}<td
							>{line.till}{#if line.mode === 'test'}<span class="text-inkblue ml-1">Test</span>{/if}<span class="sub"
								>{line.method}{line.route && line.route !== line.method ? `, ${line.route}` : ''}</span
							></td
						>{/if}
					{#if has('card')}<td>{line.card}</td>{/if}
					{#if has('captured')}<td class="whitespace-nowrap">{line.capturedAt ? when(line.capturedAt) : ''}</td>{/if}
					{#if has('amount')}<td class="n whitespace-nowrap" data-label="Amount"
							>{line.amount} <span class="sub">{line.currency}</span></td
						>{/if}
					{#if has('refunded')}<td class="n whitespace-nowrap" class:none={!line.refunded} data-label="Refunded"
							>{line.refunded} <span class="sub">{line.refunded ? line.currency : ''}</span></td
						>{/if}
					{#if has('expected')}<td class="n whitespace-nowrap" class:none={!line.expected} data-label="Expected fee"
							>{line.expected} <span class="sub">{line.expected ? line.feeCurrency : ''}</span></td
						>{/if}
					{#if has('charged')}<td class="n whitespace-nowrap" class:none={!line.charged} data-label="Charged fee"
							>{#if line.differs}<span class="no">≠ {line.charged}</span>{:else}{line.charged}{/if}<span class="sub"
								>{line.charged ? line.feeCurrency : ''}</span
							></td
						>{/if}
					{#if has('net')}<td class="n whitespace-nowrap" class:none={!line.net} data-label="Net"
							>{line.net} <span class="sub">{line.net ? line.feeCurrency : ''}</span></td
						>{/if}
					{#if has('id')}<td class="mono">{line.processorId}</td>{/if}
				</tr>
			{/each}
		</tbody>
	</table>
</div>
