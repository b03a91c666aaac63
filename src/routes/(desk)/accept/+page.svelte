<script lang="ts">
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import type { Verdict as VerdictParts, Working } from '$lib/core/workings';
	import { Figure, Sheet, Verdict, WideTable, Workings } from '$lib/ui';
	import { SvelteURLSearchParams } from 'svelte/reactivity';
	const { data } = $props();
	const { grid } = $derived(data);

	/** The address with something else in it. */
	function set(name: string, value: string) {
		const query = new SvelteURLSearchParams(page.url.searchParams);
		if (value) query.set(name, value);
		else query.delete(name);
		void goto(`?${query}`, { keepFocus: true, noScroll: true });
	}
	type Mark = (typeof data.grid.rows)[number]['cells'][number]['marks'][number];
	/** Marks of one cell that read alike are told as one: what differs is only the currency or till. */
	const joined = (marks: readonly Mark[]) => {
		const keyOf = (one: Mark) => `${one.under} ${one.through} ${one.trouble} ${one.standby} ${one.conditions}`;
		return [...new Set(marks.map(keyOf))].map((key) => marks.filter((one) => keyOf(one) === key));
	};
	const working = (row: string, column: string, marks: readonly Mark[]): Working => ({
		title: `${row}, ${column}`,
		steps: marks.map((one) => ({
			mark: one.trouble ? ('no' as const) : ('yes' as const),
			title: `${[one.under, one.text].filter(Boolean).join(' ')}: ${one.says[0]}`,
			sub: [...(one.trouble ? [`Not now: ${one.trouble}.`] : []), ...one.says.slice(1)].join('\n') || 'No condition.',
			link: { href: one.href, label: 'Open the offer' }
		}))
	});
	const notTaken = (row: (typeof grid.rows)[number], column: (typeof grid.columns)[number]): Working => ({
		title: `${row.under ? `${row.under}, ` : ''}${row.name}, ${column.name}`,
		steps: [
			{
				mark: 'no',
				title: 'Not accepted',
				sub: 'no offer that is on takes it here',
				...(column.leastChange && !row.under
					? {
							link: {
								href: column.leastChange.replace('METHOD', row.key.split(' ')[0]!),
								label: 'See the least change that offers it'
							}
						}
					: {})
			}
		]
	});
	const verdict = $derived<VerdictParts>(
		grid.nothing.length
			? [
					{
						text: `${grid.nothing.length} till and currency pair${grid.nothing.length === 1 ? ' has' : 's have'} nothing to pay by`,
						tone: 'clay',
						working: {
							title: 'Nothing to pay by',
							about: 'The till takes the currency, and no offer of its published line-up does, or none works now.',
							steps: grid.nothing.map((one) => ({
								mark: 'no' as const,
								title: `${one.name}, ${one.currency}`,
								link: { href: one.href, label: 'See the least change' }
							}))
						}
					},
					{
						text: `: ${grid.nothing
							.slice(0, 3)
							.map((one) => `${one.name} in ${one.currency}`)
							.join(', ')}${grid.nothing.length > 3 ? ' and more' : ''}.`
					}
				]
			: grid.rows.length
				? [
						{ text: 'Every published till has something to pay by in each of its currencies.', tone: 'moss' },
						{ text: ' Limits and conditions can still leave a payer with nothing: see each till’s situations.' }
					]
				: [{ text: 'No verdict yet: nothing that is published fits this choice.' }]
	);
	const filtered = $derived(Object.values(data.filter).some(Boolean));
</script>

<Sheet title="All tills">
	{#snippet acts()}
		<a class="button" href="/accept/pauses">Pause everywhere</a>
		<a class="button" href="/accept/csv?{data.query}" download>Export as CSV</a>
		<a class="button main" href="/accept/tills/new">Set up a till</a>
	{/snippet}
	{#if grid.tills.length === 0}
		<p class="mt-5 max-w-prose">
			A till is any place where someone pays: a web checkout, a counter, an invoice. Here will stand what each of them
			takes, in which currency, through whom.
		</p>
		<p class="mt-3"><a class="button" href="/accept/tills/new">Set up the first till</a></p>
	{:else}
		<Verdict {verdict} />
		<div class="filters mt-3 flex flex-wrap items-end gap-x-2 gap-y-2 text-[12px]">
			<fieldset class="ticks !mt-0">
				<legend class="quiet">Across</legend>
				{#each data.pivots as one (one)}<label
						><input
							type="radio"
							checked={data.across === one}
							onchange={() => set('across', one === 'till' ? '' : one)}
						/>
						{one}</label
					>{/each}
			</fieldset>
			{#each [['till', 'Till', grid.tills.map( (one) => [one.slug, one.name] )], ['currency', 'Currency', grid.currencies.map( (one) => [one, one] )], ['method', 'Method', grid.methods.map( (one) => [one.value, one.name] )], ['connection', 'Connection', grid.connections.map( (one) => [one.id, one.name] )]] as const as [name, title, options] (name)}
				<label
					><span class="quiet block">{title}</span><select
						value={data.filter[name]}
						onchange={(event) => set(name, event.currentTarget.value)}
					>
						<option value="">all</option>
						{#each options as [value, text] (value)}<option {value}>{text}</option>{/each}
					</select></label
				>
			{/each}
		</div>
		<WideTable label="What each till accepts" class="mt-3">
			<table class="grid-of">
				<thead>
					<tr>
						<th class="stick">Method</th>
						{#each grid.columns as column (column.key)}<th class:test={column.test}
								>{#if column.href}<a class="underline" data-row href={column.href}>{column.name}</a
									>{:else}{column.name}{/if}
								<span class="sub">{column.test ? 'Test, ' : ''}{column.sub}</span></th
							>{/each}
					</tr>
				</thead>
				<tbody>
					{#each grid.rows as row, at (row.key)}
						{#if row.under && row.under !== grid.rows[at - 1]?.under}<tr
								><th class="stick" scope="rowgroup" colspan={grid.columns.length + 1}>{row.under}</th></tr
							>{/if}
						<tr>
							<th class="stick" class:pl={row.under} scope="row"
								>{row.name}{#if row.sub}<span class="sub">{row.sub}</span>{/if}</th
							>
							{#each row.cells as cell, c (c)}
								<td>
									{#each joined(cell.marks) as marks, i (i)}
										<span class="block" class:off={!!marks[0]!.trouble}>
											<Figure working={working(row.name, grid.columns[c]!.name, marks)}
												>{marks[0]!.under}
												{marks.map((one) => one.text).join(data.across === 'currency' ? ', ' : ' ')}</Figure
											><span class="sub"
												>{[
													data.across === 'connection' ? '' : marks[0]!.through,
													marks[0]!.standby ? 'standby' : '',
													marks[0]!.conditions ? 'if' : '',
													marks[0]!.trouble
												]
													.filter(Boolean)
													.join(' · ')}</span
											>
										</span>
									{:else}<Figure plain working={notTaken(row, grid.columns[c]!)}
											><span class="quiet" aria-label="not accepted">–</span></Figure
										>{/each}
								</td>
							{/each}
						</tr>
					{:else}
						<tr
							><td colspan={grid.columns.length + 1} class="quiet"
								>{filtered
									? 'Nothing is accepted that fits this choice.'
									: 'No till has a published line-up yet: payers meet nothing anywhere.'}</td
							></tr
						>
					{/each}
				</tbody>
			</table>
		</WideTable>
		<p class="quiet mt-2 text-[12px]">
			“if”: under conditions · –: not accepted. Press a cell to see what it takes, through whom and under which
			conditions.
		</p>
		{#each grid.tills.filter((one) => one.empty) as one (one.slug)}
			<p class="note mt-2">
				{one.name} is not published: payers meet nothing there.
				<a class="why" href="/accept/tills/{one.slug}">See its line-up</a>
			</p>
		{/each}
	{/if}
</Sheet>
<Workings
	how={{
		title: 'How to read the grid',
		steps: [
			{ title: 'Published line-ups', sub: 'drafts do not count' },
			{ title: 'What a cell says', sub: 'the currencies, or tills, in which it is taken, and who carries it now' },
			{ title: 'A standby', sub: 'is named where it carries at the moment' }
		]
	}}
/>

<style>
	.filters select {
		width: 104px;
		padding-block: 3px;
		font-size: 12px;
	}
	.grid-of :global(button.why) {
		text-align: left;
	}
	.grid-of th[scope='row'] {
		border-bottom: 1px solid var(--rule);
	}
	.grid-of th,
	.grid-of td {
		vertical-align: top;
		padding-right: 10px;
		min-width: 92px;
		text-align: left;
	}
	.stick {
		position: sticky;
		left: 0;
		background: var(--sheet);
		min-width: 120px;
	}
	.pl {
		padding-left: 12px;
		font-weight: 400;
	}
	.off {
		color: var(--clay);
	}
	th.test {
		border-left: 2px dashed var(--inkblue);
		padding-left: 6px;
	}
</style>
