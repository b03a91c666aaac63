<script lang="ts">
	import { formatDay, formatMoment, inZone } from '$lib/core/calendar';
	import type { Working } from '$lib/core/workings';
	import { DayInput, Figure, Sheet, Workings } from '$lib/ui';
	const { data } = $props();
	type Change = (typeof data.changes)[number];
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone, 'seconds');
	const dayOf = (ms: number) => inZone(new Date(ms), data.business.timeZone).day;
	const timeOf = (ms: number) =>
		new Intl.DateTimeFormat(data.locale, {
			hour: '2-digit',
			minute: '2-digit',
			timeZone: data.business.timeZone
		}).format(ms);
	const show = (value: unknown) =>
		value === undefined || value === null ? '—' : typeof value === 'string' ? value : JSON.stringify(value);
	const working = (one: Change): Working => ({
		title: `${one.name}: ${one.act}`,
		about: `${one.by}, ${when(one.at)}`,
		steps: [...new Set([...Object.keys(one.before ?? {}), ...Object.keys(one.after ?? {})])].map((name) => ({
			title: name,
			sub: `${one.before ? `before: ${show(one.before[name]).slice(0, 400)} · ` : ''}after: ${one.after ? show(one.after[name]).slice(0, 400) : '—'}`
		}))
	});
	/** Changes as they are read: a day and a person once, and what one did several times in a row in one line. */
	interface Group {
		readonly key: number;
		readonly day: string;
		readonly by: string;
		readonly lines: Change[][];
	}
	const groups = $derived.by(() => {
		const list: Group[] = [];
		for (const one of data.changes) {
			const day = dayOf(one.at);
			let group = list.at(-1);
			if (!group || group.day !== day || group.by !== one.by)
				list.push((group = { key: one.id, day, by: one.by, lines: [] }));
			const line = group.lines.at(-1);
			if (line && line[0]!.act === one.act && line[0]!.kind === one.kind) line.push(one);
			else group.lines.push([one]);
		}
		return list;
	});
	const older = $derived(
		new URLSearchParams({
			...(data.kind ? { kind: data.kind } : {}),
			...(data.who ? { who: data.who } : {}),
			...(data.until && !data.wrong ? { until: data.until } : {}),
			before: String(data.last)
		}).toString()
	);
	const many = (count: number, kind: string) => `${count} ${kind}${kind.endsWith('s') ? '' : 's'}`;
</script>

<Sheet title="Audit trail" about="Every change: by whom, when, and what it was before. Secrets are never in it.">
	<form method="get" class="mt-4 flex flex-wrap items-end gap-2">
		<label
			><span class="legend">Of what</span><select name="kind" value={data.kind ?? ''} class="!w-44">
				<option value="">everything</option>
				{#each data.kinds as kind (kind)}<option>{kind}</option>{/each}
			</select></label
		>
		<label
			><span class="legend">By whom</span><select name="who" value={data.who ?? ''} class="!w-44">
				<option value="">everybody</option>
				{#each data.people as one (one)}<option>{one}</option>{/each}
			</select></label
		>
		<label
			><span class="legend">Up to the day</span><DayInput
				name="until"
				value={data.until}
				locale={data.locale}
				class="!w-32"
			/></label
		>
		<button class="button">Show these changes</button>
	</form>
	{#if data.wrong}<p class="wrong mt-1" role="alert">{data.wrong}</p>{/if}
	{#each groups as group (group.key)}
		<h2>{formatDay(group.day, data.locale)}, {group.by}</h2>
		<table>
			<thead class="sr-only"><tr><th>Time</th><th>Change</th><th>Of what</th></tr></thead>
			<tbody>
				{#each group.lines as line (line[0]!.id)}
					<tr>
						<td class="quiet w-16 whitespace-nowrap">{timeOf(line[0]!.at)}</td>
						<td class="w-[42%]">{line[0]!.act}</td>
						<td
							>{#if line.length > 1}<details>
									<summary class="cursor-pointer">{many(line.length, line[0]!.kind)}</summary>
									{#each line as one (one.id)}<span class="block"
											><Figure working={working(one)}>{one.name}</Figure>
											<span class="quiet">{timeOf(one.at)}</span></span
										>{/each}
								</details>{:else}<Figure working={working(line[0]!)}>{line[0]!.name}</Figure>
								<span class="quiet">{line[0]!.kind}</span>{/if}</td
						>
					</tr>
				{/each}
			</tbody>
		</table>
	{:else}<p class="mt-4">Nothing was changed that fits this choice.</p>{/each}
	{#if data.more}<p class="mt-3">
			<a class="button" href="/watch/trail?{older}">Older changes</a>
		</p>{/if}
</Sheet>
<Workings
	how={{
		title: 'What is kept of a change',
		steps: [
			{ title: 'Who, when, what', sub: 'with every value before and after; press a name to see them' },
			{ title: 'Never a secret', sub: 'keys and passwords are left out before it is written' }
		]
	}}
/>
