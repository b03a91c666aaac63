<script lang="ts">
	import { enhance } from '$app/forms';
	import { formatDay, formatMoment } from '$lib/core/calendar';
	import { Field, Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	let busy = $state(false);
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone);
	const many = (count: number) => count.toLocaleString(data.locale);
	const which = $derived(form && 'which' in form ? (form.which as { id: string; name: string }[]) : undefined);
	const troubles = $derived(
		form && 'troubles' in form ? (form.troubles as { line: number; says: string }[]) : undefined
	);
</script>

<Sheet
	title="Settlement files"
	about={data.known.count
		? `${data.known.count.toLocaleString(data.locale)} captured payments are known, ${formatDay(data.known.from!, data.locale)} to ${formatDay(data.known.to!, data.locale)}`
		: 'What processors settled; past payments are what a comparison is made of'}
>
	<Said form={form as never} />
	{#if troubles}
		<table class="mt-2">
			<thead><tr><th class="w-20">Line</th><th>What is wrong</th></tr></thead>
			<tbody
				>{#each troubles as one, i (i)}<tr><td class="mono">{one.line || 'file'}</td><td>{one.says}</td></tr
					>{/each}</tbody
			>
		</table>
	{/if}
	<form
		method="post"
		action="?/take"
		enctype="multipart/form-data"
		use:enhance={() => {
			busy = true;
			return async ({ update }) => {
				await update({ reset: false });
				busy = false;
			};
		}}
		class="grid max-w-[640px] items-end gap-x-4 gap-y-2 sm:grid-cols-[200px_1fr_auto]"
	>
		<Field
			label="Whose file"
			help={{
				what: 'The processor that handed it over; or the offline method whose receipts of the past you bring from your books.'
			}}
		>
			{#snippet children(attributes)}<select {...attributes} name="processor">
					<optgroup label="Processors">
						{#each data.processors as one (one.processor)}<option value={one.processor}>{one.name}</option>{/each}
					</optgroup>
					{#if data.offline.length}<optgroup label="Offline methods">
							{#each data.offline as one (one.id)}<option value="offline:{one.id}">{one.name}</option>{/each}
						</optgroup>{/if}
				</select>{/snippet}
		</Field>
		<Field
			label="File"
			help={{
				what: 'CSV in UTF-8, sums in minor units, times in UTC, a total per currency at its end. Taken whole or not at all; twice changes nothing.',
				looks: `${data.header.split(',').join(', ')}; and where it tells attempts: ${data.further.split(',').join(', ')}; and where refunds, disputes, charges and payouts are lines of their own: ${data.others}`
			}}
		>
			{#snippet children(attributes)}<input {...attributes} type="file" name="file" accept=".csv,text/csv" />{/snippet}
		</Field>
		{#if which}<Field
				label="Which account"
				help={{ what: 'Several accounts of this processor are connected; the file tells of one of them.' }}
			>
				{#snippet children(attributes)}<select {...attributes} name="connection">
						{#each which as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
					</select>{/snippet}
			</Field>{/if}
		<button class="button main" data-save disabled={busy}>{busy ? 'Reading…' : 'Import settlement file'}</button>
	</form>
	<table class="mt-5">
		<thead
			><tr
				><th>File</th><th>Whose</th><th class="n">Payments</th><th class="n">New</th><th class="n">Changed</th><th
					class="n">Declined</th
				><th>Imported</th><th>By</th></tr
			></thead
		>
		<tbody>
			{#each data.files as one (one.id)}
				<tr
					><td class="mono">{one.name}</td><td>{one.processor}</td><td class="n">{many(one.count)}</td><td class="n"
						>{one.progress === undefined ? many(one.fresh) : `${one.progress} % done`}</td
					><td class="n"
						>{one.changed ? many(one.changed) : ''}{#if one.clashes}<span class="no block"
								>{one.clashes} contradict</span
							>{/if}</td
					><td class="n">{one.declined ? many(one.declined) : ''}</td><td>{when(one.takenAt)}</td><td>{one.byUser}</td
					></tr
				>
			{:else}<tr><td colspan="8" class="quiet">None yet.</td></tr>{/each}
		</tbody>
	</table>
	{#if data.page > 1 || data.more}
		<nav class="mt-3 flex gap-4" aria-label="Pages of files">
			{#if data.page > 1}<a href="?page={data.page - 1}" rel="prev">Newer files</a>{/if}
			{#if data.more}<a href="?page={data.page + 1}" rel="next">Older files</a>{/if}
		</nav>
	{/if}
	{#if data.clashes.length}
		<h2 id="told-twice">Told twice, with different sums</h2>
		<p class="quiet">What was known first stays. Ask the processor which one is right.</p>
		<table class="mt-2">
			<thead
				><tr
					><th>What</th><th class="n">Known</th><th class="n">Told later</th><th>By file</th><th
						><span class="sr-only">More</span></th
					></tr
				></thead
			>
			<tbody>
				{#each data.clashes as one (one.id)}
					<tr
						><td>{one.what}</td><td class="n">{one.known}</td><td class="n">{one.told}</td><td class="mono"
							>{one.file}</td
						><td
							><form method="post" action="?/seen" use:enhance>
								<input type="hidden" name="id" value={one.id} /><button class="button small">I have looked at it</button
								>
							</form></td
						></tr
					>
				{/each}
			</tbody>
		</table>
	{/if}
	{#if data.sources.length}
		<h2>Names of places in the files</h2>
		<p class="quiet">Each belongs to one of your tills, also after the till is renamed.</p>
		<table class="mt-2 max-w-[640px]">
			<thead><tr><th>Name in the files</th><th class="n">Payments</th><th>Till</th></tr></thead>
			<tbody>
				{#each data.sources as one (one.source)}
					<tr>
						<td>{one.source}</td><td class="n">{many(one.count)}</td>
						<td
							><form method="post" action="?/map" use:enhance class="flex gap-2">
								<input type="hidden" name="source" value={one.source} />
								<select name="till" aria-label="Till that {one.source} belongs to" value={one.tillId ?? ''}>
									<option value="">none of my tills</option>
									{#each data.tills as till (till.id)}<option value={till.id}>{till.name}</option>{/each}
								</select>
								<button class="button small">Set till</button>
							</form></td
						>
					</tr>
				{/each}
			</tbody>
		</table>
	{/if}
</Sheet>
<Workings
	how={{
		title: 'How a file is checked',
		steps: [
			{ title: 'Encoding and columns', sub: 'UTF-8; the first line names them' },
			{ title: 'Each line by itself', sub: 'amounts, currencies, card types, times' },
			{ title: 'No payment twice', sub: 'within the file, or with another amount or currency than is known' },
			{
				title: 'What is known already',
				sub: 'later refunds, disputes and corrected fees are added to it; nothing is counted twice'
			},
			{ title: 'Declined attempts are kept separate', sub: 'they captured nothing; some are charged for' },
			{ title: 'Totals per currency', sub: 'a file without them was cut off' }
		]
	}}
/>
