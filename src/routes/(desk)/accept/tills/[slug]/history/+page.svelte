<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { TillSheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone);
</script>

<TillSheet till={data.till} title="History of {data.till.name}" about="Every published line-up: by whom, when and why">
	{#if form?.problems}<p class="note clay mt-4" role="alert">{form.problems.join(' ')}</p>{/if}
	{#if form?.says}<p class="note moss mt-4" role="status">{form.says}</p>{/if}
	{#if data.versions.length > 1}
		<form method="get" class="mt-4 flex flex-wrap items-end gap-3" data-sveltekit-keepfocus>
			{#each [['from', 'Compare version'], ['to', 'with version']] as const as [name, title] (name)}
				<label class="text-[12px]"
					><span class="quiet block">{title}</span><select {name} class="!w-auto" value={String(data.pair[name])}>
						{#each data.versions as one (one.number)}<option value={String(one.number)}>{one.number}</option>{/each}
					</select></label
				>
			{/each}
			<button class="button">Compare versions</button>
		</form>
		{#if data.between}
			<section class="note mt-3">
				<b>From version {data.pair.from} to version {data.pair.to}</b>
				<ul class="list-disc pl-5">
					{#each data.between as one, nth (nth)}<li>{one}</li>{:else}<li>Nothing differs.</li>{/each}
				</ul>
			</section>
		{/if}
	{/if}
	{#if data.versions.length}
		<table class="mt-4">
			<thead
				><tr
					><th class="w-16">Version</th><th class="w-44">Published</th><th>What changed</th><th
						><span class="sr-only">More</span></th
					></tr
				></thead
			>
			<tbody>
				{#each data.versions as one (one.number)}
					<tr>
						<td><b>{one.number}</b></td>
						<td>{when(one.at)}<span class="sub">{one.by}</span></td>
						<td
							>{one.says.join(' ') || 'Nothing against the one before.'}{#if one.reason}<span class="sub"
									>{one.reason}</span
								>{/if}</td
						>
						<td class="n">
							{#if one.state === 'published'}<span class="yes">in force</span>
							{:else}<form method="post" use:enhance>
									<input type="hidden" name="number" value={one.number} /><button class="button small"
										>Go back to version {one.number}</button
									>
								</form>{/if}
						</td>
					</tr>
				{/each}
			</tbody>
		</table>
	{:else}<p class="mt-4">Nothing was published yet.</p>{/if}
</TillSheet>
<Workings
	how={{
		title: 'Going back',
		steps: [
			{ title: 'It is one step', sub: 'the earlier line-up becomes a new version, and payers meet it at once' },
			{ title: 'Nothing is lost', sub: 'the version you leave stays here' }
		]
	}}
/>
