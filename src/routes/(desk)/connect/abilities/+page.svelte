<script lang="ts">
	import { Figure, Sheet, Verdict, WideTable, Workings } from '$lib/ui';
	import type { AbilityMark, AbilityRow } from '$lib/server/accept/abilities';
	import { formatMoment } from '$lib/core/calendar';
	const { data } = $props();
	const t = $derived(data.table);
	const MARKS: Readonly<Record<AbilityMark, { mark: string; says: string; tone: string }>> = {
		used: { mark: '●', says: 'a till uses it', tone: 'text-moss' },
		can: { mark: '○', says: 'it could, and no till uses it', tone: 'text-ink' },
		there: { mark: '◇', says: 'switched off, not approved, or not for your country', tone: 'text-clay' },
		no: { mark: '–', says: 'not offered', tone: 'quiet' }
	};
	type Column = (typeof data.table.connections)[number];
</script>

{#snippet head(first: string, columns: readonly Column[])}
	<thead>
		<tr>
			<th scope="col">{first}</th>
			{#each columns as one (one.id)}
				<th scope="col"
					><a class="underline" href="/connect/connections/{one.id}">{one.name}</a>{#if one.mode === 'test'}<span
							class="text-inkblue block text-[11px]">test</span
						>{/if}</th
				>
			{/each}
		</tr>
	</thead>
{/snippet}
{#snippet line(row: AbilityRow, columns: readonly Column[])}
	<tr>
		<th scope="row">{row.name}</th>
		{#each row.cells as cell, c (columns[c]?.id)}
			{@const { mark, says, tone } = MARKS[cell.mark]}
			<td
				><Figure plain working={cell.working}
					><span class={tone} aria-hidden="true">{mark}</span><span class="sr-only">{says}</span>{#if cell.text}<span
							class="text">{cell.text}</span
						>{/if}</Figure
				></td
			>
		{/each}
	</tr>
{/snippet}

<Sheet title="What each can do">
	{#snippet acts()}<a class="button" href="/connect/abilities/csv" download>Export as CSV</a>{/snippet}
	{#if t.connections.length === 0}
		<p class="note mt-4">
			No account is connected yet. <a class="why" href="/connect/processors">Connect a processor</a>, and what it can do
			stands here.
		</p>
	{:else}
		<Verdict verdict={t.verdict} />
		<p class="quiet mt-1">Read from the connected accounts, again every six hours. Nothing here is typed in.</p>
		<WideTable label="Methods by account" class="mt-4">
			<table class="abilities">
				{@render head('Method', t.connections)}
				<tbody
					>{#each t.rows as row, at (at)}{@render line(row, t.connections)}{/each}</tbody
				>
			</table>
		</WideTable>
		<p class="quiet mt-1 text-[12px]">
			{#each Object.values(MARKS) as one, at (at)}{at ? ' · ' : ''}<span class={one.tone}>{one.mark}</span>
				{one.says}{/each}. Press a mark to see why.
		</p>
		<h2>
			One method in detail <span class="quiet font-sans text-[12px] font-normal">by those that can carry it</span>
		</h2>
		<nav class="ticks" aria-label="Method in detail">
			{#each t.methods as one (one.method)}<a
					class="inline-flex min-h-[24px] items-center {one.method === t.method ? 'font-semibold' : 'underline'}"
					aria-current={one.method === t.method ? 'true' : undefined}
					href="?method={one.method}"
					data-sveltekit-noscroll>{one.name}</a
				>{/each}
		</nav>
		{#if t.able.length}
			<WideTable label="One method in detail" class="mt-2">
				<table class="abilities">
					{@render head(t.methods.find((one) => one.method === t.method)?.name ?? '', t.able)}
					{#each t.groups as group, i (i)}
						<tbody>
							<tr class="group"><th colspan={t.able.length + 1} scope="rowgroup">{group.name}</th></tr>
							{#each group.rows as row, at (at)}{@render line(row, t.able)}{/each}
						</tbody>
					{/each}
				</table>
			</WideTable>
		{:else}<p class="quiet mt-2">None of your accounts can carry it now; the marks above say why.</p>{/if}
		<p class="quiet mt-3 text-[12px]">
			Last read: {t.connections
				.map(
					(one) =>
						`${one.name}${one.mode === 'test' ? ', test,' : ''} ${formatMoment(one.readAt, data.locale, data.business.timeZone)}`
				)
				.join(' · ')}
		</p>
	{/if}
</Sheet>
<Workings
	how={{
		title: 'Where a no comes from',
		steps: [
			{ mark: 'no', title: 'Not offered', sub: 'the processor does not have it at all' },
			{
				mark: 'no',
				title: 'Switched off or not approved',
				sub: 'to be changed at the processor: in its console, or by its support'
			},
			{ mark: 'no', title: 'Not for your country', sub: 'the processor does not give it to accounts of your country' }
		]
	}}
/>

<style>
	.abilities {
		width: auto;
		min-width: 100%;
	}
	.abilities th:first-child {
		min-width: 96px;
	}
	.abilities thead th {
		padding-right: 8px;
		font-size: 11.5px;
	}
	tbody th[scope='row'] {
		font-weight: 400;
		vertical-align: top;
		padding-top: 4px;
		color: var(--ink);
	}
	.group th {
		padding-top: 14px;
		font-weight: 600;
		font-size: 12.5px;
	}
	td {
		padding: 1px 8px 1px 0;
		vertical-align: top;
		font-size: 12px;
		line-height: 1.35;
	}
	.text {
		margin-left: 5px;
	}
	td :global(.why) {
		display: inline-flex;
		align-items: center;
		min-width: 24px;
		min-height: 24px;
		text-align: left;
		text-decoration-line: none;
	}
	td :global(.why:hover .text) {
		text-decoration: underline;
	}
</style>
