<script lang="ts">
	import { enhance } from '$app/forms';
	import { Field, Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	interface Typed {
		name: string;
		mail: string;
		country: string;
		online: string;
		groups: string[];
	}
	const typed = $derived(
		((form as { typed?: Typed } | null)?.typed ??
			data.edited ?? { name: '', mail: '', country: '', online: '', groups: [] }) as Typed
	);
	const errors = $derived(
		((form as { errors?: Record<string, string> } | null)?.errors ?? {}) as Record<string, string>
	);
	const faults = $derived((form as { faults?: string[] } | null)?.faults ?? []);
	const last = $derived(data.payers.at(-1));
</script>

<Sheet
	title="Payers and groups"
	about="Whom conditions of offers can tell apart: by group, country, and whether they have an online method"
>
	<Said form={form as never} />
	<div class="mt-3 flex flex-wrap items-end justify-between gap-3">
		<form method="get" data-sveltekit-keepfocus>
			<label class="text-[12px]"
				><span class="quiet block">Name or mail holds</span><input name="q" value={data.q} class="!w-56" /></label
			>
		</form>
		<form
			method="post"
			action="?/import"
			enctype="multipart/form-data"
			use:enhance
			class="flex items-end gap-2 text-[12px]"
		>
			<label
				><span class="quiet block">Take payers in from CSV: <span class="mono">{data.header}</span></span><input
					type="file"
					name="file"
					accept=".csv,text/csv"
					class="!w-auto"
				/></label
			>
			<button class="button">Take payers in</button>
		</form>
	</div>
	{#if data.underWay}<p class="note mt-3" role="status">
			A file is being imported: {data.underWay.done.toLocaleString(data.locale)} of {data.underWay.of.toLocaleString(
				data.locale
			)} payers so far.
		</p>{/if}
	{#if faults.length}<div class="note clay mt-3" role="alert">
			<p>Nothing was imported. What is wrong:</p>
			<ul class="list-disc pl-5">
				{#each faults as one, at (at)}<li>{one}</li>{/each}
			</ul>
		</div>{/if}
	<table class="mt-3">
		<thead
			><tr
				><th>Payer</th><th>Country</th><th>Online method</th><th>Groups</th><th
					><span class="sr-only">What can be done</span></th
				></tr
			></thead
		>
		<tbody>
			{#each data.payers as one (one.id)}
				<tr
					><td
						><a class="underline" data-row href="?payer={one.id}#payer">{one.name}</a><span class="sub">{one.mail}</span
						></td
					><td>{one.country}</td><td>{one.online === null ? 'not known' : one.online ? 'has one' : 'has none'}</td><td
						>{one.groups.join(', ')}</td
					><td class="n"
						><form method="post" action="?/remove" use:enhance>
							<input type="hidden" name="id" value={one.id} /><button class="why" aria-label="Remove {one.name}"
								>Remove</button
							>
						</form></td
					></tr
				>
			{:else}<tr
					><td colspan="5" class="quiet"
						>{data.q
							? 'No payer’s name or mail holds this.'
							: 'No payers yet. They are needed only where an offer asks for a group; add one below, or take a file in.'}</td
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
	<h2 id="payer">{data.edited ? `Change ${data.edited.name}` : 'Add a payer'}</h2>
	{#key data.edited?.id}
		<form method="post" action="?/save" use:enhance class="grid max-w-[640px] grid-cols-2 gap-x-4">
			<input type="hidden" name="id" value={data.edited?.id ?? ''} />
			<Field label="Name" wrong={errors.name}>
				{#snippet children(attributes)}<input {...attributes} name="name" value={typed.name} />{/snippet}
			</Field>
			<Field label="Mail" wrong={errors.mail} help={{ what: 'By it a payer is known at a till’s page.' }}>
				{#snippet children(attributes)}<input {...attributes} name="mail" value={typed.mail} />{/snippet}
			</Field>
			<Field label="Country" wrong={errors.country}>
				{#snippet children(attributes)}<select {...attributes} name="country" value={typed.country}>
						<option value="">not known</option>
						{#each data.countries as { code, name } (code)}<option value={code}>{name}</option>{/each}
					</select>{/snippet}
			</Field>
			<Field label="Online method" wrong={errors.online}>
				{#snippet children(attributes)}<select {...attributes} name="online" value={typed.online}>
						<option value="">not known</option><option value="yes">has one</option><option value="no">has none</option>
					</select>{/snippet}
			</Field>
			{#if data.groups.length}<fieldset class="ticks col-span-2">
					<legend class="legend">Groups</legend>
					{#each data.groups as one (one.id)}<label
							><input type="checkbox" name="groups" value={one.id} checked={typed.groups.includes(one.id)} />
							{one.name}</label
						>{/each}
				</fieldset>{/if}
			<div class="col-span-2 mt-3 flex gap-2">
				<button class="button main" data-save>{data.edited ? 'Save payer' : 'Add payer'}</button>
				{#if data.edited}<a class="button" href="/accept/payers">Leave it as it was</a>{/if}
			</div>
		</form>
	{/key}
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
			{ title: 'By mail address', sub: 'as the order tells it; what the order itself says counts first' },
			{ title: 'Not known', sub: 'a payer of no known group does not meet an offer that asks for one' }
		]
	}}
/>
