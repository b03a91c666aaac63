<script lang="ts">
	import { enhance } from '$app/forms';
	import { page } from '$app/state';
	import { DayInput, Said, Sheet, Verdict, WideTable, Workings } from '$lib/ui';
	import JobProgress from '$lib/ui/JobProgress.svelte';
	const { data, form } = $props();
	const routing = $derived(data.routing);
	const drafts = $derived(form && 'drafts' in form ? form.drafts : undefined);
	/** an action keeps the question of the address */
	const act = (name: string) => {
		const rest = page.url.search.replace(/^\?(\/\w+&?)?/, '');
		return `?/${name}${rest ? `&${rest}` : ''}`;
	};
</script>

<Sheet
	title="Cheapest routing"
	about="Which connection should carry which till, method and currency, so that it costs least"
>
	{#if data.pending}
		<JobProgress {...data.pending} what="steps: rate cards, then the search" />
	{:else if routing}
		<Verdict verdict={routing.verdict} />
		<Said form={form as never} />
		{#if drafts}
			<p class="note mt-3" role="status">
				Drafts are ready at
				{#each drafts as till, at (till.slug)}{at ? ', ' : ' '}<a href="/accept/tills/{till.slug}/replay">{till.name}</a
					>{/each}. Look at their replay and situations, then publish them there.
			</p>
		{/if}
		<form method="get" class="mt-3 flex flex-wrap items-end gap-3">
			<label
				><span class="legend">From</span><DayInput name="from" value={data.period.from} locale={data.locale} /></label
			>
			<label><span class="legend">to</span><DayInput name="to" value={data.period.to} locale={data.locale} /></label>
			<label
				><span class="legend">Keep at most</span><select name="most" value={String(data.most ?? '')}
					><option value="">any number of connections</option>{#each routing.connections as _, at (at)}<option
							value={String(at + 1)}>{at + 1} {at ? 'connections' : 'connection'}</option
						>{/each}</select
				></label
			>
			<label
				><span class="legend">Share of payers who change</span><select name="share" value={String(data.share)}
					>{#each data.shares as one (one)}<option value={String(one)}>{one} %</option>{/each}</select
				></label
			>
			<button class="button">Show</button>
		</form>

		{#if routing.moves.length}
			<h2>Moves</h2>
			<form
				method="post"
				action={act('draft')}
				use:enhance={() =>
					({ update }) =>
						update({ reset: false })}
				id="draft"
			></form>
			<WideTable label="Moves that save">
				<table>
					<thead
						><tr
							><th><span class="sr-only">Chosen</span></th><th>Till</th><th>Method</th><th>From</th><th>To</th><th
								class="n">Payments</th
							><th class="n">Taken</th><th class="n">Saves alone</th><th><span class="sr-only">Act</span></th></tr
						></thead
					>
					<tbody>
						{#each routing.moves as one (one.group)}<tr
								><td
									><input
										type="checkbox"
										name="move"
										value={one.group}
										form="draft"
										checked={!one.isWorse}
										aria-label="{one.till}, {one.what} to {one.to}"
									/></td
								><td>{one.till}</td><td
									>{one.what}{#if one.isMixed}<span class="sub">offers of it go different ways; the first counts</span
										>{/if}</td
								><td>{one.from}</td><td class="font-semibold">{one.to}</td><td class="n">{one.payments}</td><td
									class="n whitespace-nowrap">{one.taken}</td
								><td class="n whitespace-nowrap" class:text-clay={one.isWorse}>{one.saves}</td><td
									><form method="post" action={act('refuse')} use:enhance>
										<input type="hidden" name="till" value={one.tillId} />
										<input type="hidden" name="method" value={one.method} />
										<input type="hidden" name="currency" value={one.currency} />
										<input type="hidden" name="connection" value={one.toId} />
										<button class="why" aria-label="Refuse the move of {one.what} at {one.till} to {one.to}"
											>Refuse</button
										>
									</form></td
								></tr
							>{/each}
					</tbody>
					<tfoot
						><tr
							><td></td><td colspan="6">All of them together</td><td class="n whitespace-nowrap font-semibold"
								>{routing.together}</td
							><td></td></tr
						></tfoot
					>
				</table>
			</WideTable>
			<p class="mt-3">
				<button class="button" form="draft">Make drafts of it</button>
			</p>
			<p class="quiet mt-2">
				Nothing changes for payers before a draft is published. Each move is priced alone, all else as it is today:
				where tiers, minimums or monthly fees count, together they save another sum than one by one.
			</p>
		{:else if !routing.isEmpty}
			<h2>Moves</h2>
			<p class="quiet">No move makes it cheaper.</p>
		{/if}
		{#if routing.refused.length}
			<h2>Refused</h2>
			<ul class="list-none p-0">
				{#each routing.refused as one, at (at)}<li class="flex flex-wrap gap-3">
						<span>{one.says}</span>
						<form method="post" action={act('refuse')} use:enhance>
							<input type="hidden" name="allow" value="yes" />
							<input type="hidden" name="till" value={one.till} />
							<input type="hidden" name="method" value={one.method} />
							<input type="hidden" name="currency" value={one.currency} />
							<input type="hidden" name="connection" value={one.connection} />
							<button class="why" aria-label="Allow {one.says}">Allow again</button>
						</form>
					</li>{/each}
			</ul>
		{/if}

		{#if data.promises.length}
			<h2>Promised and saved</h2>
			<WideTable label="What was promised and what was saved">
				<table>
					<thead
						><tr
							><th>Move</th><th>Since</th><th>Month</th><th class="n">Payments</th><th class="n">Promised a month</th
							><th class="n">Saved</th><th class="n">Promised per 100 payments</th><th class="n"
								>Saved per 100 payments</th
							></tr
						></thead
					>
					<tbody>
						{#each data.promises as one, place (place)}
							{#each one.months.length ? one.months : [undefined] as month, at (month?.month ?? '')}<tr
									><td
										>{#if !at}<a href="/accept/tills/{one.slug}">{one.till}</a>, {one.what}<span class="sub"
												>{one.from} to {one.to}</span
											>{/if}</td
									><td>{at ? '' : one.state}</td><td>{month?.month ?? ''}</td><td class="n">{month?.payments ?? ''}</td
									><td class="n whitespace-nowrap">{one.promised}</td><td class="n whitespace-nowrap font-semibold"
										>{month?.saved ?? ''}</td
									><td class="n whitespace-nowrap">{one.promisedPer100}</td><td class="n whitespace-nowrap"
										>{month?.per100 ?? ''}</td
									></tr
								>{/each}
						{/each}
					</tbody>
				</table>
			</WideTable>
			<p class="quiet mt-2">
				Saved is what the payments of the month would have cost at the connection before, by its rate card, less the
				fees that were charged for them.
			</p>
		{/if}

		{#if !routing.isEmpty}
			<h2>What each connection would cost</h2>
			<WideTable label="Cost of each till, method and currency at each connection">
				<table>
					<thead
						><tr
							><th>Till</th><th>Method</th><th class="n">Payments</th>{#each routing.connections as name, at (at)}<th
									class="n">{name}</th
								>{/each}</tr
						></thead
					>
					<tbody>
						{#each routing.rows as row, place (place)}<tr
								><td class="whitespace-nowrap">{row.till}</td><td class="whitespace-nowrap">{row.what}</td><td class="n"
									>{row.payments}</td
								>{#each row.cells as cell, at (at)}<td class="n whitespace-nowrap" title={cell.note}
										><span class:font-semibold={cell.isFound}>{cell.cost || '–'}</span
										>{#if cell.isToday || cell.isFound}<span class="sub"
												>{[cell.isToday ? 'today' : '', cell.isFound ? 'cheapest' : '']
													.filter(Boolean)
													.join(', ')}</span
											>{:else if cell.cost && cell.note}<span class="sub whitespace-normal">{cell.note}</span>{/if}</td
									>{/each}</tr
							>{/each}
					</tbody>
					<tfoot
						><tr
							><td colspan="3">Today, {routing.total.today}</td>{#each routing.totals as one, at (at)}<td
									class="n whitespace-nowrap">{one.today}</td
								>{/each}</tr
						>{#if routing.total.found}<tr
								><td colspan="3">Cheapest, {routing.total.found}</td>{#each routing.totals as one, at (at)}<td
										class="n whitespace-nowrap">{one.found}</td
									>{/each}</tr
							>{/if}</tfoot
					>
				</table>
			</WideTable>
			<p class="quiet mt-2">
				A dash stands where a connection cannot carry all of these payments. With tiers a cell is the least it can cost;
				the sums below count tiers, monthly fees and minimums.
				{#if routing.leftOut.length}<span class="block">Left out: {routing.leftOut.join('; ')}.</span>{/if}
				{#if routing.apartByCurrency.length}<span class="block"
						>Not compared, as their fees are in another currency: {routing.apartByCurrency.join(', ')}.</span
					>{/if}
			</p>

			<h2>Payers who would change to a cheaper method</h2>
			{#if routing.shifts.length}
				<WideTable label="Moving payers to a cheaper method">
					<table>
						<thead
							><tr
								><th>Till</th><th>From</th><th>To</th><th class="n">Fees today</th><th class="n">If all paid so</th><th
									class="n">Saved if {routing.share} % change</th
								></tr
							></thead
						>
						<tbody>
							{#each routing.shifts as one, at (at)}<tr
									><td>{one.till}</td><td>{one.from}</td><td>{one.to}</td><td class="n whitespace-nowrap">{one.now}</td
									><td class="n whitespace-nowrap">{one.then}</td><td class="n whitespace-nowrap font-semibold"
										>{one.saves}</td
									></tr
								>{/each}
						</tbody>
					</table>
				</WideTable>
				<p class="quiet mt-2">
					The same payments, priced as the other method is paid at this till, at the connection that carries it today.
					Fees only: what payers do cannot be promised.
				</p>
			{:else}
				<p class="quiet">No till offers a cheaper method in the same currency.</p>
			{/if}
		{/if}
	{/if}
</Sheet>
<Workings />
