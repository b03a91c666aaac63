<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { DayInput, Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone);
	const KINDS = {
		connection: 'Connections',
		method: 'Methods',
		scheme: 'Card schemes',
		currency: 'Currencies'
	} as const;
	let picker = $state<HTMLFormElement>();
</script>

<Sheet title="Pause everywhere" about="A connection, a method, a card scheme or a currency, across all tills">
	<Said form={form as never} />
	{#if data.pauses.length}
		<h2>Paused now</h2>
		<table>
			<thead
				><tr
					><th>What</th><th>Since</th><th>Until</th><th>Why</th><th><span class="sr-only">What can be done</span></th
					></tr
				></thead
			>
			<tbody>
				{#each data.pauses as one (one.id)}
					<tr>
						<td><b>{one.name}</b><span class="sub">{one.kind}</span></td>
						<td>{when(one.at)}<span class="sub">{one.by}</span></td>
						<td>{one.until ? when(one.until) : 'resumed by hand'}</td>
						<td>{one.reason}</td>
						<td class="n"
							><form method="post" action="?/resume" use:enhance>
								<input type="hidden" name="id" value={one.id} /><button class="button small">Resume {one.name}</button>
							</form></td
						>
					</tr>
				{/each}
			</tbody>
		</table>
	{:else}<p class="quiet mt-4">Nothing is paused.</p>{/if}
	<form method="get" bind:this={picker} class="mt-5 max-w-[420px]" data-sveltekit-keepfocus>
		<label
			><span class="legend">What to pause</span><select
				name="what"
				value={data.chosen?.key ?? ''}
				onchange={() => picker?.requestSubmit()}
			>
				<option value="">choose</option>
				{#each Object.entries(KINDS) as [kind, title] (kind)}
					<optgroup label={title}>
						{#each data.things.filter((one) => one.kind === kind) as one (one.key)}<option
								value={one.key}
								disabled={one.paused}>{one.name}{one.paused ? ', paused already' : ''}</option
							>{/each}
					</optgroup>
				{/each}
			</select></label
		>
		<noscript><button class="button mt-2">Show what it does</button></noscript>
	</form>
	{#if data.chosen}
		<h2>What pausing {data.chosen.name} does</h2>
		{#if data.chosen.effects.length}
			<table>
				<thead><tr><th class="w-44">Till</th><th>Then</th></tr></thead>
				<tbody>
					{#each data.chosen.effects as one (one.slug)}
						<tr
							><td><a class="underline" data-row href="/accept/tills/{one.slug}">{one.till}</a></td><td
								>{#each one.says as line, at (at)}<span class="block" class:text-clay={line.includes('meet nothing')}
										>{line}</span
									>{/each}</td
							></tr
						>
					{/each}
				</tbody>
			</table>
		{:else}<p>No till offers it now: nothing changes for any payer.</p>{/if}
		<form method="post" action="?/pause" use:enhance class="mt-3 flex flex-wrap items-end gap-3">
			<input type="hidden" name="what" value={data.chosen.key} />
			<label class="text-[12px]"
				><span class="quiet block">Until ({data.business.timeZone}); empty: until resumed</span><DayInput
					name="until"
					value=""
					locale={data.locale}
					class="!w-auto"
				/></label
			>
			<label class="text-[12px]"
				><span class="quiet block">At</span><input name="untilTime" placeholder="hh:mm" class="!w-20" /></label
			>
			<label class="grow text-[12px]"><span class="quiet block">Why</span><input name="reason" maxlength="200" /></label
			>
			<button class="button main" data-save>Pause {data.chosen.name} everywhere</button>
		</form>
	{/if}
</Sheet>
<Workings
	how={{
		title: 'What pausing is',
		steps: [
			{ title: 'It is told first', sub: 'till by till: what steps in, what is withheld, who would meet nothing' },
			{ title: 'It holds at once', sub: 'payers who come from now on are answered so' },
			{ title: 'It ends', sub: 'by itself at its time, or when you resume it; line-ups are not touched' }
		]
	}}
/>
