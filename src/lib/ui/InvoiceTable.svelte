<script lang="ts">
	import Figure from './Figure.svelte';
	import WideTable from './WideTable.svelte';
	import { useMargin } from './workings.svelte';
	import type { Working } from '$lib/core/workings';

	interface Line {
		readonly id: number;
		readonly kind: string;
		readonly number: string;
		readonly payer: string;
		readonly payerId: string;
		readonly currency: string;
		readonly total: string;
		readonly open: string;
		readonly coming: string;
		readonly state: string;
		readonly late: number;
		readonly due: string;
		readonly day: string;
		readonly until: string;
		readonly sent: string;
		readonly opened: string;
		readonly message: string;
		readonly till: string;
		readonly test: boolean;
		readonly outside: string;
		readonly held: boolean;
	}
	interface Sum {
		readonly currency: string;
		readonly count: string;
		readonly asked: string;
		readonly placed: string;
		readonly credited: string;
		readonly coming: string;
		readonly open: string;
		readonly working: Working;
	}
	interface Props {
		lines: readonly Line[];
		sums: readonly Sum[];
		columns: readonly string[];
		/** columns by their names */
		names: Readonly<Record<string, string>>;
		kind: 'invoice' | 'quote' | 'credit note';
		empty: string;
		next?: string;
		/** ids that are ticked, for acts on many */
		ticked?: number[];
		proof?: string;
		/** what the list is narrowed to, as its address says it */
		query: string;
		/** whether the list shows what is open where its address says nothing */
		opens?: boolean;
		/** whether somebody chose the columns; on a phone the sums come before those that nobody chose */
		chosen?: boolean;
	}
	/** A list of what is owed: a line an invoice, what all of it adds up to, and its proof. */
	let {
		lines,
		sums,
		columns,
		names,
		kind,
		empty,
		next,
		ticked = $bindable([]),
		proof,
		query,
		opens = false,
		chosen = false
	}: Props = $props();
	const isQuote = $derived(kind === 'quote');
	/** on a phone there is room for one sum: what is open */
	const isOpenFirst = $derived(kind === 'invoice' && !chosen);
	/** unless somebody chose the columns, the sums come first where there is little room */
	const spare = (column: string): string =>
		chosen || column === 'state' ? '' : ['sent', 'opened'].includes(column) ? 'max-[1180px]:hidden' : 'max-sm:hidden';
	/** and a column that holds nothing here is left out */
	const isNeeded = (column: string) =>
		chosen || column === 'state' || !lines.length || lines.some((one) => one[column as 'sent']);
	const shown = $derived(
		columns.filter((one) => one in names && !(isQuote && ['due', 'coming'].includes(one)) && isNeeded(one))
	);
	const margin = useMargin();
	let proven = $state<{ agrees: boolean; working: Working }>();
	let failed = $state('');
	async function prove() {
		failed = '';
		try {
			const answer = await fetch(proof!);
			if (!answer.ok) throw new Error(String(answer.status));
			const told = (await answer.json()) as { agrees: boolean; working: Working };
			proven = told;
			margin.show(() => told.working);
		} catch {
			failed = 'It could not be added up just now. Try again.';
		}
	}
	const tickAll = (on: boolean) => (ticked = on ? lines.map((one) => one.id) : []);
</script>

<WideTable label="Documents" class="mt-3">
	<table>
		<thead
			><tr
				><th
					><label class="inline-flex min-h-[24px] min-w-[24px] items-center"
						><input
							type="checkbox"
							aria-label="Choose all of this page"
							checked={lines.length > 0 && ticked.length === lines.length}
							onchange={(event) => tickAll(event.currentTarget.checked)}
						/></label
					></th
				><th>Number</th><th>Payer</th>{#each shown as column (column)}<th
						class={spare(column)}
						class:n={column === 'coming'}>{names[column]}</th
					>{/each}{#if isQuote}<th>Good until</th>{/if}<th class="n" class:max-sm:hidden={isOpenFirst}>Total</th
				>{#if kind === 'invoice'}<th class="n">Open</th>{/if}</tr
			></thead
		>
		<tbody>
			{#each lines as one (one.id)}
				<tr
					><td
						><label class="inline-flex min-h-[24px] min-w-[24px] items-center"
							><input
								type="checkbox"
								aria-label="Choose {one.number || 'the draft'} of {one.payer}"
								value={one.id}
								checked={ticked.includes(one.id)}
								onchange={(event) =>
									(ticked = event.currentTarget.checked ? [...ticked, one.id] : ticked.filter((id) => id !== one.id))}
							/></label
						></td
					><td
						><a data-row class="font-semibold whitespace-nowrap underline" href="/bill/invoices/{one.id}"
							>{one.number || 'Draft'}</a
						>{#if one.day}<span class="sub">{one.day}</span>{/if}</td
					><td
						>{#if one.payerId}<a href="/bill/payers/{one.payerId}">{one.payer || 'no name'}</a>{:else}{one.payer ||
								'no payer yet'}{/if}</td
					>{#each shown as column (column)}<td class={spare(column)} class:n={column === 'coming'}
							>{#if column === 'state'}{one.state}{#if one.late}<span class="sub text-clay"
										>overdue {one.late} day{one.late === 1 ? '' : 's'}</span
									>{/if}{#if one.coming && !columns.includes('coming')}<span class="sub">{one.coming} on its way</span
									>{/if}{#if one.held}<span class="sub">held</span>{/if}{#if one.test}<span class="sub">test</span
									>{/if}{:else if column === 'due'}<span class:text-clay={one.late > 0}>{one.due}</span>{:else}{one[
									column as 'sent'
								]}{/if}</td
						>{/each}{#if isQuote}<td>{one.until}</td>{/if}<td class="n" class:max-sm:hidden={isOpenFirst}
						><span class="whitespace-nowrap">{one.total} <span class="quiet">{one.currency}</span></span></td
					>{#if kind === 'invoice'}<td class="n font-semibold"
							>{one.open}{#if isOpenFirst && one.open}<span class="quiet font-normal sm:hidden"
									>&nbsp;{one.currency}</span
								>{/if}</td
						>{/if}</tr
				>
			{:else}<tr><td colspan="12" class="quiet">{empty}</td></tr>{/each}
		</tbody>
	</table>
</WideTable>
{#if next}<p class="mt-2"><a class="button" href={next}>Next page</a></p>{/if}
{#if lines.length}
	<form method="post" action="/bill/pdfs" class="mt-2">
		<input type="hidden" name="kind" value={kind} />
		<input type="hidden" name="query" value={query} />
		{#if opens}<input type="hidden" name="open" value="1" />{/if}
		{#each ticked as id (id)}<input type="hidden" name="id" value={id} />{/each}
		<button class="why"
			>{ticked.length ? `PDFs of the ${ticked.length} chosen` : 'PDFs of all that this list finds'}</button
		>
	</form>
{/if}
{#if sums.length}
	<div class="mt-4">
		<WideTable label="Sums of this list">
			<table>
				<thead
					><tr
						><th>In all</th><th class="n">Documents</th><th class="n">Asked</th>{#if kind === 'invoice'}<th class="n"
								>Placed</th
							><th class="n">Credited</th><th class="n">On its way</th><th class="n">Open</th>{/if}</tr
					></thead
				>
				<tbody>
					{#each sums as one (one.currency)}<tr
							><td>{one.currency}</td><td class="n">{one.count}</td><td class="n">{one.asked}</td
							>{#if kind === 'invoice'}<td class="n">{one.placed}</td><td class="n">{one.credited}</td><td class="n"
									>{one.coming}</td
								><td class="n font-semibold"><Figure working={one.working}>{one.open}</Figure></td>{/if}</tr
						>{/each}
				</tbody>
			</table>
		</WideTable>
	</div>
	{#if proof}<p class="mt-2" aria-live="polite">
			{#if proven}<button type="button" class="why" onclick={() => proven && margin.show(() => proven!.working)}
					>{proven.agrees ? 'It adds up from every side' : 'It does not add up'}</button
				>{:else}<button type="button" class="why" onclick={prove}>Prove what is owed from every side</button>{/if}
			{#if failed}<span class="text-clay">{failed}</span>{/if}
		</p>{/if}
{/if}
