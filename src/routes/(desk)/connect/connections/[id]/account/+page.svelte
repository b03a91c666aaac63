<script lang="ts">
	import { enhance } from '$app/forms';
	import { ConnectionSheet, Said, Workings } from '$lib/ui';
	const { data, form } = $props();
	const c = $derived(data.connection);
	const what = $derived(data.chooser?.what ?? 'account');
</script>

<ConnectionSheet connection={c} chooser={data.chooser}>
	<Said {form} />
	{#if data.trouble}<p class="note clay mt-4" role="alert">{data.trouble}</p>{/if}
	<p class="quiet mt-4 max-w-[600px]">{data.chooser?.help}</p>
	<table class="mt-2 max-w-[640px]">
		<thead
			><tr
				><th>{what === 'account' ? 'Account' : 'Tier'}</th><th>What it is</th><th><span class="sr-only">More</span></th
				></tr
			></thead
		>
		<tbody>
			{#each data.choices as one (one.id)}
				<tr>
					<td><b>{one.name}</b><span class="sub mono">{one.id}</span></td>
					<td>{one.says}</td>
					<td class="n">
						{#if one.id === data.current}<b class="yes">✓ in use</b>
						{:else}<a class="button small" href="?choice={one.id}" data-sveltekit-noscroll>See what would change</a
							>{/if}
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
	{#if data.trial}
		<section class="note mt-4 max-w-[640px]" class:clay={data.trial.problem || data.trial.consequences.length > 0}>
			{#if data.trial.problem}<p>{data.trial.problem}</p>
			{:else}
				<b>With {data.trial.name} instead of {data.current}</b>
				<ul class="mt-1 list-disc pl-5">
					{#each data.trial.differences as one, at (at)}<li>{one}</li>{:else}<li>Abilities stay as they are.</li>{/each}
				</ul>
				<b class="mt-2 block">Tills</b>
				<ul class="list-disc pl-5">
					{#each data.trial.consequences as one, at (at)}<li>{one}</li>{:else}<li>No till is touched by it.</li>{/each}
				</ul>
				<form method="post" action="?/choose" use:enhance class="mt-3">
					<input type="hidden" name="choice" value={data.wanted} />
					{#if data.trial.consequences.length}<label class="mb-2 block"
							><input type="checkbox" name="meant" /> I have read what it does to tills, and mean it</label
						>{/if}
					<button class="button main" data-save>Use {data.trial.name} from now on</button>
					<a class="button" href="/connect/connections/{c.id}/account">Leave it as it is</a>
				</form>
			{/if}
		</section>
	{/if}
</ConnectionSheet>
<Workings
	how={{
		title: `Another ${what}`,
		steps: [
			{ title: 'Asked of the processor first', sub: 'what it can do, and what differs' },
			{ title: 'Held against every till', sub: 'offers that would lose a currency or a method are named' },
			{ title: 'Payments that were taken stay where they were', sub: 'they are refunded in the account they came in' }
		]
	}}
/>
