<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { Index, Sheet, Workings } from '$lib/ui';
	const { data } = $props();
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
							<td class="n !py-2"><a class="button" data-row href={need.href}>{need.act}</a></td>
						</tr>
					{/each}
				</tbody>
			</table>
		</div>
	{:else if !data.steps.length}
		<p class="mt-5 text-[15px]">Nothing needs you. Money comes in, notifications arrive, fees are as promised.</p>
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
			{ title: 'Notifications', sub: 'stuck ones; connections never heard' },
			{ title: 'Tills', sub: 'drafts, unpublished line-ups, payers who met nothing this week' },
			{ title: 'Fees', sub: 'the last 90 days: charged against the contract' }
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
