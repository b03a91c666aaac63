<script lang="ts">
	import { enhance } from '$app/forms';
	import { Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const when = (ms: number) =>
		new Date(ms).toLocaleString(data.locale, {
			timeZone: data.business.timeZone,
			dateStyle: 'medium',
			timeStyle: 'short'
		});
</script>

<Sheet
	title="History of {data.till.name}"
	about="Every published line-up: by whom, when and why"
	test={data.till.mode === 'test'}
>
	{#snippet acts()}<a class="button" href="/accept/tills/{data.till.slug}">Back to the line-up</a>{/snippet}
	{#if form?.problems}<p class="note clay mt-4" role="alert">{form.problems.join(' ')}</p>{/if}
	{#if form?.says}<p class="note moss mt-4" role="status">{form.says}</p>{/if}
	{#if data.versions.length}
		<table class="mt-4">
			<thead><tr><th class="w-16">Version</th><th class="w-44">Published</th><th>What changed</th><th></th></tr></thead>
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
</Sheet>
<Workings
	first={{
		title: 'Going back',
		steps: [
			{ title: 'It is one step', sub: 'the earlier line-up becomes a new version, and payers meet it at once' },
			{ title: 'Nothing is lost', sub: 'the version you leave stays here' }
		]
	}}
/>
