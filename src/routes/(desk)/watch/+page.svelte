<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import type { Verdict as VerdictParts } from '$lib/core/workings';
	import { enhance } from '$app/forms';
	import { DayInput, Said, Sheet, Verdict, Workings } from '$lib/ui';
	const { data, form } = $props();
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone, 'seconds');
	const many = (count: number) => count.toLocaleString(data.locale);
	const verdict = $derived<VerdictParts>(
		data.counts.stuck
			? [
					{ text: `${many(data.counts.stuck)} of ${many(data.counts.all)} notifications are stuck`, tone: 'clay' },
					{ text: ': they do not fit what is known here. ' },
					...(data.state === 'stuck' ? [] : [{ text: 'See what is stuck', href: '/watch?state=stuck' }])
				]
			: [
					{ text: 'Nothing is stuck', tone: 'moss' },
					{
						text: `: all ${many(data.counts.all)} notifications that came found their place${data.counts.waiting ? `, but ${many(data.counts.waiting)} that are tried again by themselves` : ''}.`
					}
				]
	);
	const STATES = {
		stored: 'stored, work is next',
		unconfirmed: 'not confirmed yet',
		retry: 'does not fit yet',
		stuck: 'stuck',
		done: 'done'
	} as const;
	const WHY: Record<string, string> = {
		forged: 'not signed with the connection’s secret',
		old: 'a timestamp more than five minutes off',
		malformed: 'signature headers or text incomplete'
	};
</script>

<Sheet title={data.state === 'stuck' ? 'Stuck arrivals' : data.state === 'retry' ? 'Waiting arrivals' : 'Arrivals'}>
	{#if data.counts.all}<Verdict {verdict} />
		<Said form={form as never} />
		<form method="get" class="mt-3 flex flex-wrap items-end gap-3" role="search">
			{#if data.state}<input type="hidden" name="state" value={data.state} />{/if}
			<label
				><span class="legend">Words of the payload</span><input
					name="find"
					type="search"
					maxlength="200"
					class="w-72"
					value={data.find}
				/></label
			>
			<button class="button">Find</button>
			{#if data.find}<a class="why" href="/watch{data.state ? `?state=${data.state}` : ''}">Show all</a>{/if}
		</form>{/if}
	{#if data.arrivals.length}
		<table class="mt-4">
			<thead><tr><th>Arrived</th><th>From</th><th>What</th><th>State</th><th>Effect</th></tr></thead>
			<tbody>
				{#each data.arrivals as one (one.id)}
					<tr>
						<td class="whitespace-nowrap">{when(one.receivedAt)}</td>
						<td>{one.connection}</td>
						<td
							><a
								data-row
								class="font-semibold underline decoration-transparent hover:decoration-current"
								href="/watch/arrivals/{one.id}">{one.topic}</a
							></td
						>
						<td class="whitespace-nowrap"
							><span class={one.state === 'stuck' ? 'no' : one.state === 'done' ? 'yes' : ''}>{STATES[one.state]}</span
							>{#if one.tries > 1}<span class="sub">{one.tries} tries</span
								>{/if}{#if one.took !== undefined && one.tries <= 1}<span class="sub">{one.took} after</span>{/if}</td
						>
						<td>{one.says}</td>
					</tr>
				{/each}
			</tbody>
		</table>
		{#if data.more}<p class="mt-3">
				<a
					class="button"
					href="/watch?{data.state ? `state=${data.state}&` : ''}{data.find
						? `find=${encodeURIComponent(data.find)}&`
						: ''}before={data.last}">Older arrivals</a
				>
			</p>{/if}
	{:else if data.find}
		<p class="mt-4">No payload has these words. What came in the last moments may still be worked on.</p>
	{:else if data.state}
		<p class="mt-4">None: every arrival has found its place.</p>
	{:else}
		<p class="mt-4 max-w-prose">
			What processors tell will stand here as it comes. <a class="why" href="/connect/processors">Connect a processor</a
			>: its notifications are set up in the same step.
		</p>
	{/if}
	{#if data.counts.all}
		<details class="mt-5">
			<summary class="why inline-block">Run a span again</summary>
			<form method="post" action="?/again" class="mt-2 flex flex-wrap items-end gap-3" use:enhance>
				<label
					><span class="legend">Connection</span><select name="connection"
						>{#each data.from as one (one.id)}<option value={one.id}
								>{one.name}{one.mode === 'test' ? ', test' : ''}</option
							>{/each}</select
					></label
				>
				<label><span class="legend">From</span><DayInput name="from" value="" locale={data.locale} /></label>
				<label><span class="legend">to</span><DayInput name="to" value="" locale={data.locale} /></label>
				<button class="button">Run again</button>
			</form>
			<p class="quiet mt-1">What was done before is not done twice.</p>
		</details>
	{/if}
</Sheet>
<Workings
	first={data.refused.length
		? {
				title: 'Refused',
				about: 'Notifications without a right signature are counted, and not stored.',
				steps: data.refused.map((one) => ({
					mark: 'no' as const,
					title: `${one.connection}, ${one.day}`,
					sub: WHY[one.reason] ?? one.reason,
					sum: String(one.count)
				}))
			}
		: undefined}
/>
