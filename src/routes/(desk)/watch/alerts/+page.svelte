<script lang="ts">
	import { enhance } from '$app/forms';
	import { formatMoment } from '$lib/core/calendar';
	import type { Verdict as VerdictParts } from '$lib/core/workings';
	import { Said, Sheet, Verdict, WideTable, Workings } from '$lib/ui';
	const { data, form } = $props();
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone);
	const rules = $derived(form && 'typed' in form && form.typed ? form.typed : data.rules);
	const wrong = $derived<Partial<Record<'urgentTo' | 'digestTo' | 'discrepancyFrom', string>>>(
		(form && 'wrong' in form && form.wrong) || {}
	);
	const open = $derived(
		data.open
			? `${data.open.toLocaleString(data.locale)} ${data.open === 1 ? 'alert is' : 'alerts are'} open.`
			: 'No alert is open.'
	);
	const verdict = $derived<VerdictParts>(
		data.rules.urgentTo
			? [{ text: `${data.rules.urgentTo}: told at once of what is urgent`, tone: 'moss' }, { text: `. ${open}` }]
			: [{ text: 'Nobody is told by mail of what is urgent', tone: 'clay' }, { text: `. ${open}` }]
	);
	const HOURS = Array.from({ length: 24 }, (_, hour) => hour);
	const clock = (hour: number) => `${String(hour).padStart(2, '0')}:00`;
</script>

<Sheet title="Alerts" about="Who is told of what needs you, and what was settled">
	<Verdict {verdict} />
	<Said form={form as never} />
	<h2>Who is told</h2>
	<form
		method="post"
		use:enhance={() =>
			({ update }) =>
				update({ reset: false })}
	>
		<label class="block max-w-xl"
			><span class="legend">Mail addresses that are told at once of what is urgent</span><input
				name="urgentTo"
				class="w-full"
				placeholder="ilse@wrenalder.example"
				value={rules.urgentTo}
				aria-invalid={wrong.urgentTo ? 'true' : undefined}
			/>{#if wrong.urgentTo}<span class="wrong" role="alert">{wrong.urgentTo}</span>{/if}</label
		>
		<label class="mt-3 block max-w-xl"
			><span class="legend">Fees charged otherwise than agreed are urgent from, {data.currency}</span><input
				name="discrepancyFrom"
				inputmode="decimal"
				class="w-32"
				value={rules.discrepancyFrom}
				aria-invalid={wrong.discrepancyFrom ? 'true' : undefined}
			/>{#if wrong.discrepancyFrom}<span class="wrong block" role="alert">{wrong.discrepancyFrom}</span>{/if}</label
		>
		<div class="mt-3 flex flex-wrap items-end gap-3">
			<label
				><span class="legend">No mail from</span><select name="quietFrom" value={String(rules.quietFrom)}
					>{#each HOURS as hour (hour)}<option value={String(hour)}>{clock(hour)}</option>{/each}</select
				></label
			>
			<label
				><span class="legend">to</span><select name="quietTo" value={String(rules.quietTo)}
					>{#each HOURS as hour (hour)}<option value={String(hour)}>{clock(hour)}</option>{/each}</select
				></label
			>
		</div>
		<div class="mt-3 flex flex-wrap items-end gap-3">
			<label
				><span class="legend">A summary</span><select name="digest" value={rules.digest}
					><option value="never">never</option><option value="daily">every day</option><option value="weekly"
						>every Monday</option
					></select
				></label
			>
			<label
				><span class="legend">at</span><select name="digestHour" value={String(rules.digestHour)}
					>{#each HOURS as hour (hour)}<option value={String(hour)}>{clock(hour)}</option>{/each}</select
				></label
			>
			<label class="grow max-w-md"
				><span class="legend">to</span><input
					name="digestTo"
					class="w-full"
					value={rules.digestTo}
					aria-invalid={wrong.digestTo ? 'true' : undefined}
				/>{#if wrong.digestTo}<span class="wrong" role="alert">{wrong.digestTo}</span>{/if}</label
			>
		</div>
		<p class="mt-3"><button class="button" data-save>Save</button></p>
	</form>

	<h2>Settled</h2>
	{#if data.closed.length}
		<WideTable label="What was settled">
			<table>
				<thead><tr><th>What it was</th><th class="n">Figure</th><th>Since</th><th>Settled</th></tr></thead>
				<tbody
					>{#each data.closed as one (one.id)}<tr
							><td>{one.says}</td><td class="n">{one.figure}</td><td class="whitespace-nowrap"
								>{when(one.openedAt)}{#if one.times > 1}<span class="sub">changed {one.times - 1} times</span>{/if}</td
							><td class="whitespace-nowrap"
								>{when(one.closedAt)}<span class="sub">{one.closedBy || 'by itself'}</span></td
							></tr
						>{/each}</tbody
				>
			</table>
		</WideTable>
		{#if data.more}<p class="mt-3"><a class="button" href="?before={data.last}">Older ones</a></p>{/if}
	{:else}<p class="quiet">Nothing was settled yet.</p>{/if}
</Sheet>
<Workings
	how={{
		title: 'How alerts work',
		steps: [
			{ title: 'One cause is one alert', sub: 'what repeats is counted in it, not told again' },
			{ title: 'It closes itself', sub: 'once its cause is gone' },
			{ title: 'Quiet hours', sub: 'what begins in them is told after them, if it is still there' },
			{ title: 'Put off', sub: 'on Needs you, until tomorrow; then it is told again if it is still there' }
		]
	}}
/>
