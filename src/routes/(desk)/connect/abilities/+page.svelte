<script lang="ts">
	import { Figure, Sheet, Workings } from '$lib/ui';
	const { data } = $props();
	const t = $derived(data.table);
	const day = (ms: number) =>
		new Date(ms).toLocaleString(data.locale, {
			timeZone: data.business.timeZone,
			day: 'numeric',
			month: 'short',
			hour: '2-digit',
			minute: '2-digit'
		});
</script>

<Sheet
	title="What each can do"
	about="Read from the connected accounts, again every six hours; nothing here is typed in"
>
	{#snippet acts()}<a class="button" href="/connect/abilities/csv" download>Export as CSV</a>{/snippet}
	{#if t.connections.length === 0}
		<p class="note mt-4">
			No account is connected yet. <a class="why" href="/connect/processors">Connect a processor</a>, and what it can do
			stands here.
		</p>
	{:else}
		<div class="table mt-4">
			<table>
				<thead>
					<tr>
						<th></th>
						{#each t.connections as one (one.id)}
							<th
								><a class="underline" href="/connect/connections/{one.id}">{one.name}</a>{#if one.mode === 'test'}<span
										class="text-inkblue block text-[11px]">test</span
									>{/if}</th
							>
						{/each}
					</tr>
				</thead>
				{#each t.groups as group, i (i)}
					<tbody>
						<tr class="group"
							><th colspan={t.connections.length + 1} scope="rowgroup">
								{group.name}{#if i === 1}<span class="ml-1.5 font-normal">for</span
									>{#each t.methods as one (one.method)}<a
											class="mx-1 font-normal {one.method === t.method ? 'font-semibold' : 'underline'}"
											aria-current={one.method === t.method ? 'true' : undefined}
											href="?method={one.method}"
											data-sveltekit-noscroll>{one.name.toLowerCase()}</a
										>{/each}{/if}
							</th></tr
						>
						{#each group.rows as row, at (at)}
							<tr>
								<th scope="row">{row.name}</th>
								{#each row.cells as cell, c (t.connections[c]?.id)}
									<td class:can={cell.is}
										><Figure working={cell.working}
											><span class={cell.is ? 'yes' : 'quiet'} aria-hidden="true">{cell.is ? '✓' : '–'}</span
											>{#if cell.text !== 'yes' && cell.text !== '–' && cell.text !== 'no'}<span class="text"
													>{cell.text}</span
												>{:else}<span class="sr-only">{cell.is ? 'yes' : 'no'}</span>{/if}</Figure
										></td
									>
								{/each}
							</tr>
						{/each}
					</tbody>
				{/each}
			</table>
		</div>
		<p class="quiet mt-3 text-[12px]">
			Last read: {t.connections.map((one) => `${one.name} ${day(one.readAt)}`).join(' · ')}
		</p>
	{/if}
</Sheet>
<Workings
	first={{
		title: 'Press any cell',
		about: 'It says what the account can do, or why not, and which tills use it.',
		steps: [
			{ mark: 'yes', title: 'in use', sub: 'a till offers it through this connection' },
			{ mark: 'no', title: 'not offered', sub: 'the processor does not have it' },
			{ mark: 'no', title: 'not enabled', sub: 'it is switched off for this account, at the processor' },
			{ mark: 'no', title: 'not here', sub: 'not for accounts of this country' },
			{ mark: 'no', title: 'approval awaited', sub: 'the processor still looks at it' }
		]
	}}
/>

<style>
	.table {
		overflow-x: auto;
	}
	table {
		table-layout: fixed;
		min-width: 640px;
	}
	thead th {
		font-size: 12px;
		vertical-align: bottom;
		padding-right: 6px;
		overflow-wrap: break-word;
	}
	thead th:first-child,
	tbody th[scope='row'] {
		width: 104px;
		font-weight: 400;
		vertical-align: top;
		padding-top: 3px;
	}
	.group th {
		padding-top: 14px;
		font-weight: 600;
		font-size: 12.5px;
	}
	td {
		padding: 3px 6px 3px 0;
		vertical-align: top;
		font-size: 12px;
		line-height: 1.35;
	}
	.text {
		display: block;
	}
	td :global(.why) {
		text-align: left;
		text-decoration-line: none;
	}
	td :global(.why:hover .text) {
		text-decoration: underline;
	}
</style>
