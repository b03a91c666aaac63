<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { Index, Said, Sheet, WideTable, Workings } from '$lib/ui';
	const { data, form } = $props();
	const nextStep = $derived(data.steps.find((one) => !one.isDone));
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone);
</script>

<Index
	label="Needs you"
	groups={[
		{
			name: data.business.name,
			items: [
				{
					name: 'Needs you',
					href: '/needs-you',
					state: data.needs.length ? `${data.needs.length} thing${data.needs.length === 1 ? '' : 's'}` : 'nothing'
				}
			]
		}
	]}
/>
<Sheet title="Needs you" about={data.needs.length ? 'What needs a decision, and what to press' : undefined}>
	{#if data.steps.length}
		<section class="mt-4" aria-labelledby="first">
			<h2 id="first">
				To the first payment <span class="quiet font-sans text-[12px] font-normal"
					>{data.steps.filter((one) => one.isDone).length} of {data.steps.length} done</span
				>
			</h2>
			<ol data-first-steps>
				{#each data.steps as one, at (one.title)}
					<li class="border-rule flex flex-wrap items-center gap-x-3 gap-y-1 border-t py-2.5">
						<span class="w-5 text-center {one.isDone ? 'yes' : 'quiet'}"
							><span aria-hidden="true">{one.isDone ? '✓' : at + 1}</span><span class="sr-only"
								>{one.isDone ? 'done' : 'to do'}</span
							></span
						>
						<span class="min-w-[14rem] flex-1"
							><b class:quiet={one.isDone}>{one.title}</b>{#if !one.isDone}<span class="sub">{one.why}</span>{/if}</span
						>
						{#if !one.isDone}<a class="button" class:main={one === nextStep} data-row href={one.href}>{one.act}</a>{/if}
					</li>
				{/each}
			</ol>
		</section>
	{/if}
	<Said form={form as never} />
	{#if data.needs.length}
		<div class="needs mt-4">
			<table>
				<thead class="sr-only"><tr><th>What needs you</th><th>Figure</th><th>Act</th></tr></thead>
				<tbody>
					{#each data.needs as need (need.id)}
						<tr>
							<td class="!py-3">
								<span class="flex gap-2 text-[14px]">
									<span class={need.urgent ? 'no' : 'quiet'} aria-hidden="true">{need.urgent ? '!' : '·'}</span>
									<span
										>{#if need.urgent}<span class="sr-only">Urgent: </span>{/if}{need.says}</span
									>
								</span>
							</td>
							<td class="n !py-3 font-semibold whitespace-nowrap">{need.figure}</td>
							<td class="n !py-2"
								><a class="button" data-row href={need.href}>{need.act}</a>
								<form method="post" action="?/later" use:enhance class="sub">
									<input type="hidden" name="cause" value={need.id} /><input type="hidden" name="days" value="1" />
									<button
										class="why inline-flex min-h-[24px] items-center"
										aria-label="Not before tomorrow: {need.says}">Not before tomorrow</button
									>
								</form></td
							>
						</tr>
					{/each}
				</tbody>
			</table>
		</div>
	{:else if !data.steps.length}
		<p class="mt-5 text-[15px]">Nothing needs you. Money comes in, notifications arrive, fees are as promised.</p>
	{/if}
	{#if data.putOff.length}
		<details class="mt-4">
			<summary class="why inline-block">{data.putOff.length} put off</summary>
			<ul class="mt-1 list-none p-0">
				{#each data.putOff as one (one.cause)}<li class="flex flex-wrap gap-3 py-1">
						<span class="quiet"
							>{one.says} <span class="sub">not before {when(one.untilAt)}, by {one.untilBy}</span></span
						>
						<form method="post" action="?/again" use:enhance>
							<input type="hidden" name="cause" value={one.cause} />
							<button class="why" aria-label="Show again: {one.says}">Show again</button>
						</form>
					</li>{/each}
			</ul>
		</details>
	{/if}
	{#if data.way.length}
		<h2>Money on its way</h2>
		<WideTable label="Money on its way, by currency">
			<table>
				<thead
					><tr
						><th>Currency</th><th class="n">Owed on invoices</th><th class="n">Authorised</th><th class="n">Pending</th
						><th class="n">Captured</th><th class="n">Settled, not paid out</th></tr
					></thead
				>
				<tbody
					>{#each data.way as one (one.currency)}<tr
							><td>{one.currency}</td
							>{#each [one.owed, one.authorised, one.pending, one.captured, one.settled] as sum, at (at)}<td
									class="n whitespace-nowrap">{sum}</td
								>{/each}</tr
						>{/each}</tbody
				>
			</table>
		</WideTable>
	{/if}
	{#if data.ahead.length}
		<h2>By itself in the next seven days</h2>
		<table>
			<thead class="sr-only"><tr><th>What happens</th><th>Figure</th></tr></thead>
			<tbody
				>{#each data.ahead as one, at (at)}<tr
						><td><a class="why" href={one.href}>{one.says}</a></td><td class="n whitespace-nowrap">{one.figure}</td></tr
					>{/each}</tbody
			>
		</table>
	{/if}
	{#if data.demoNow !== undefined}
		<form method="post" action="?/pass" use:enhance class="note mt-8 flex flex-wrap items-center gap-3">
			<span class="grow">Demo clock: {when(data.demoNow)}</span>
			{#each ['day', 'week', 'month'] as step (step)}<button class="button small" name="step" value={step}
					>Pass a {step}</button
				>{/each}
		</form>
	{/if}
</Sheet>
<Workings
	how={{
		title: 'What is looked at',
		steps: [
			{ title: 'Connections', sub: 'keys that are no longer valid, failing or paused ones, keys older than a year' },
			{ title: 'Outcomes', sub: 'charges and refunds whose answer was lost' },
			{ title: 'Money', sub: 'orders that were paid twice; what was told of a payment and does not fit' },
			{ title: 'Notifications', sub: 'stuck ones, silence, answers that do not come; endpoints that nothing reaches' },
			{ title: 'Tills', sub: 'drafts, unpublished line-ups, payers who met nothing this week' },
			{ title: 'Fees', sub: 'charged otherwise than agreed' },
			{ title: 'The order', sub: 'what is urgent first, then by what is at stake in the home currency' },
			{ title: 'What was settled', sub: 'and by whom', link: { href: '/watch/alerts', label: 'See the alerts' } }
		]
	}}
/>

<style>
	/* on a phone each line is a block: what, its figure, and the act below */
	@media (max-width: 760px) {
		.needs :is(table, tbody, tr, td) {
			display: block;
		}
		.needs tr {
			border-bottom: 1px solid var(--rule);
			padding: 6px 0 12px;
		}
		.needs td {
			border: 0;
			padding: 4px 0 !important;
			text-align: left;
		}
	}
</style>
