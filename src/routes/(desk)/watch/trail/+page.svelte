<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import type { Working } from '$lib/core/workings';
	import { Figure, Sheet, Workings } from '$lib/ui';
	const { data } = $props();
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone);
	const KINDS = ['business', 'connection', 'offline method', 'till', 'line-up', 'payment'];
	const show = (value: unknown) =>
		value === undefined || value === null ? '—' : typeof value === 'string' ? value : JSON.stringify(value);
	const working = (one: (typeof data.changes)[number]): Working => ({
		title: `${one.name}: ${one.act}`,
		about: `${one.by}, ${when(one.at)}`,
		steps: [...new Set([...Object.keys(one.before ?? {}), ...Object.keys(one.after ?? {})])].map((name) => ({
			title: name,
			sub: `${one.before ? `before: ${show(one.before[name]).slice(0, 400)} · ` : ''}after: ${one.after ? show(one.after[name]).slice(0, 400) : '—'}`
		}))
	});
</script>

<Sheet
	title="Who changed what"
	about="Every change to connections, methods, tills and line-ups. Secrets are never in it."
>
	<form method="get" class="mt-4 flex gap-2">
		<select name="kind" value={data.kind ?? ''} class="!w-52" aria-label="Kind of object">
			<option value="">everything</option>
			{#each KINDS as kind (kind)}<option>{kind}</option>{/each}
		</select>
		<button class="button">Show these changes</button>
	</form>
	<table class="mt-3">
		<thead><tr><th>When</th><th>Who</th><th>What</th><th>Change</th></tr></thead>
		<tbody>
			{#each data.changes as one (one.id)}
				<tr
					><td class="whitespace-nowrap">{when(one.at)}</td><td>{one.by}</td><td
						><b>{one.name}</b><span class="sub">{one.kind}</span></td
					><td><Figure working={working(one)}>{one.act}</Figure></td></tr
				>
			{:else}<tr><td colspan="4">Nothing of this kind was changed yet.</td></tr>{/each}
		</tbody>
	</table>
	{#if data.more}<p class="mt-3">
			<a
				class="button"
				href="/watch/trail?{data.kind ? `kind=${encodeURIComponent(data.kind)}&` : ''}before={data.last}"
				>Older changes</a
			>
		</p>{/if}
</Sheet>
<Workings
	><h2>Before and after</h2>
	<p class="quiet">Press a change: what differed stands here, with its value before and after.</p></Workings
>
