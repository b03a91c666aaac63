<script lang="ts">
	import { enhance } from '$app/forms';
	import { Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	interface Preview {
		file: string;
		added: number;
		changed: number;
		groups: string[];
		lines: { name: string; key: string; isKnown: boolean }[];
	}
	const faults = $derived((form as { faults?: string[] } | null)?.faults ?? []);
	const preview = $derived((form as { preview?: Preview } | null)?.preview);
	const last = $derived(data.payers.at(-1));
	let file = $state<FileList>();
</script>

<Sheet
	title="Payers and groups"
	about="Buyers, clients, pupils, schools: what they owe, how they like to pay, and the groups that offers can ask for"
>
	{#snippet acts()}<a class="button" href="/bill/payers/csv" download>Export as CSV</a><a
			class="button main"
			href="/bill/payers/new">Add a payer</a
		>{/snippet}
	<Said form={form as never} />
	<form method="get" data-sveltekit-keepfocus class="mt-3">
		<label class="text-[12px]"
			><span class="quiet block">Name, company, mail or number holds</span><input
				name="q"
				value={data.q}
				class="!w-64"
			/></label
		>
	</form>
	{#if data.underWay}<p class="note mt-3" role="status">
			A file is being imported: {data.underWay.done.toLocaleString(data.locale)} of {data.underWay.of.toLocaleString(
				data.locale
			)} payers so far.
		</p>{/if}
	<table class="mt-3">
		<thead><tr><th>Payer</th><th>Country</th><th>Prefers</th><th>Groups</th><th class="n">Owes</th></tr></thead>
		<tbody>
			{#each data.payers as one (one.id)}
				<tr
					><td
						><a class="font-semibold underline" data-row href="/bill/payers/{one.id}">{one.company || one.name}</a><span
							class="sub"
							>{[one.company ? one.name : '', one.mail, one.number && `no. ${one.number}`]
								.filter(Boolean)
								.join(' · ')}</span
						></td
					><td>{one.country}</td><td
						>{one.prefers || (one.online === null ? '' : one.online ? 'has an online method' : 'no online method')}</td
					><td>{one.groups.join(', ')}</td><td class="n">{one.open}</td></tr
				>
			{:else}<tr
					><td colspan="5" class="quiet"
						>{data.q
							? 'No payer’s name, company, mail or number holds this.'
							: 'No payers yet. Add one, or import a file: each line a payer, known again by mail or number.'}</td
					></tr
				>{/each}
		</tbody>
	</table>
	{#if data.more && last}<p class="mt-2">
			<a
				class="button"
				href="?q={encodeURIComponent(data.q)}&after={encodeURIComponent(last.name)}&id={encodeURIComponent(last.id)}"
				>Next page</a
			>
		</p>{/if}

	{#if data.ending.count}<h2 id="cards-ending">Stored cards that end within 30 days: {data.ending.count}</h2>
		<table>
			<thead><tr><th>Payer</th><th>Card</th><th>Good until</th><th>Asked to keep a new one</th></tr></thead>
			<tbody
				>{#each data.ending.cards as one (one.id)}<tr
						><td><a class="underline" href="/bill/payers/{one.payerId}">{one.payer}</a></td><td>{one.name}</td><td
							>{one.until}</td
						><td>{one.asked || 'in a moment'}</td></tr
					>{/each}</tbody
			>
		</table>
		{#if data.ending.count > data.ending.cards.length}<p class="quiet">
				The first {data.ending.cards.length} are shown.
			</p>{/if}{/if}

	<h2>Import payers</h2>
	<p class="quiet max-w-prose">
		CSV in UTF-8. Columns: {data.columns}. All but the name and one of mail and number may be left out; groups stand
		apart by semicolons. Who is known by mail or number is changed, the others are new.
	</p>
	<form
		method="post"
		action="?/preview"
		enctype="multipart/form-data"
		use:enhance={() =>
			async ({ update }) =>
				update({ reset: false })}
		class="mt-2 flex flex-wrap items-end gap-2 text-[12px]"
	>
		<label
			><span class="sr-only">CSV file</span><input
				type="file"
				name="file"
				accept=".csv,text/csv"
				class="!w-auto"
				bind:files={file}
			/></label
		>
		<button class="button">Look at it first</button>
		<button class="button" class:main={!!preview} formaction="?/import" disabled={!file?.length}>Import payers</button>
	</form>
	{#if preview}
		<div class="note mt-3" role="status">
			<p>
				{preview.file}: {preview.added.toLocaleString(data.locale)} new, {preview.changed.toLocaleString(data.locale)} known
				payers will change{preview.groups.length ? `; new groups ${preview.groups.join(', ')}` : ''}. Nothing is changed
				yet.
			</p>
			<ul class="mt-1">
				{#each preview.lines as line, at (at)}<li>{line.name}, {line.key}: {line.isKnown ? 'known' : 'new'}</li>{/each}
			</ul>
		</div>
	{/if}
	{#if faults.length}<div class="note clay mt-3" role="alert">
			<p>Nothing was imported. What is wrong:</p>
			<ul class="list-disc pl-5">
				{#each faults as one, at (at)}<li>{one}</li>{/each}
			</ul>
		</div>{/if}

	<h2>Groups</h2>
	{#if form && 'groupWrong' in form}<p class="wrong" role="alert">{form.groupWrong}</p>{/if}
	<table>
		<tbody>
			{#each data.groups as one (one.id)}<tr
					><td>{one.name}</td><td class="n">{one.size} payer{one.size === 1 ? '' : 's'}</td><td class="n"
						><form method="post" action="?/ungroup" use:enhance>
							<input type="hidden" name="id" value={one.id} /><button
								class="why"
								aria-label="Remove the group {one.name}">Remove</button
							>
						</form></td
					></tr
				>{:else}<tr><td class="quiet">No groups yet.</td></tr>{/each}
		</tbody>
	</table>
	<form method="post" action="?/group" use:enhance class="mt-2 flex items-end gap-2">
		<label class="text-[12px]"
			><span class="quiet block">A new group</span><input
				name="group"
				class="!w-56"
				value={form && 'group' in form ? form.group : ''}
			/></label
		><button class="button">Add group</button>
	</form>
</Sheet>
<Workings
	how={{
		title: 'How a payer is known',
		steps: [
			{ title: 'By mail address', sub: 'as an order tells it; what the order itself says counts first' },
			{ title: 'By number', sub: 'your own number of them, where there is no mail address' },
			{ title: 'Not known', sub: 'a payer of no known group does not meet an offer that asks for one' }
		]
	}}
/>
