<script lang="ts">
	import { enhance } from '$app/forms';
	import { Said, TillSheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	interface Fault {
		path: string;
		says: string;
	}
	const faults = $derived((form as { faults?: Fault[] } | null)?.faults ?? []);
	const looked = $derived((form as { looked?: { text: string; says: string[] } } | null)?.looked);
	const text = $derived((form as { text?: string } | null)?.text ?? '');
</script>

<TillSheet
	till={data.till}
	title="Copy and files"
	about="The line-up of {data.till.name} to other tills, as a template, as a file"
>
	<Said form={form as never} />
	<h2>To other tills</h2>
	{#if data.others.length}
		<form method="post" action="?/copy" use:enhance>
			<div class="ticks">
				{#each data.others as one (one.slug)}<label class:quiet={!one.fits}
						><input type="checkbox" name="to" value={one.slug} disabled={!one.fits} />
						{one.name}{one.fits ? '' : `, a ${one.mode} till`}</label
					>{/each}
			</div>
			<button class="button mt-2">Copy the line-up to them as drafts</button>
		</form>
	{:else}<p class="quiet">There is no other till yet.</p>{/if}
	<h2>Templates</h2>
	{#each data.templates as one (one.id)}
		<div class="border-rule flex items-center justify-between gap-2 border-b py-1.5">
			<span><b>{one.name}</b> <span class="quiet">kept by {one.by}</span></span>
			<span class="flex gap-2"
				><form method="post" action="?/begin" use:enhance>
					<input type="hidden" name="id" value={one.id} /><input type="hidden" name="revision" value={data.revision} />
					<button class="button small">Begin the draft from {one.name}</button>
				</form>
				<form method="post" action="?/drop" use:enhance>
					<input type="hidden" name="id" value={one.id} /><button
						class="why"
						aria-label="Remove the template {one.name}">Remove</button
					>
				</form></span
			>
		</div>
	{:else}<p class="quiet">None yet. A template is a line-up under a name, to begin others from.</p>{/each}
	<form method="post" action="?/keep" use:enhance class="mt-2 flex items-end gap-2">
		<label class="text-[12px]"><span class="quiet block">Name</span><input name="name" class="!w-56" /></label><button
			class="button">Keep this line-up as a template</button
		>
	</form>
	<h2>As a file</h2>
	<p class="flex flex-wrap items-center gap-2">
		{#if data.hasPublished}<a class="button" href="/accept/tills/{data.till.slug}/file/json" download
				>Export what is published</a
			>{/if}
		{#if data.hasDraft}<a class="button" href="/accept/tills/{data.till.slug}/file/json?which=draft" download
				>Export the draft</a
			>{/if}
		<a class="why" href="/api/v1/schemas/LineUp.json">Its JSON Schema</a>
	</p>
	{#if faults.length}<div class="note clay mt-3" role="alert">
			<p>Nothing was imported. What is wrong, by its place:</p>
			<ul>
				{#each faults as one, i (i)}<li><span class="mono text-[12px]">{one.path}</span>: {one.says}</li>{/each}
			</ul>
		</div>{/if}
	{#if looked}
		<section class="note mt-3">
			<b>What the file changes</b>
			<ul class="list-disc pl-5">
				{#each looked.says as one, at (at)}<li>{one}</li>{:else}<li>Nothing.</li>{/each}
			</ul>
			<form method="post" action="?/take" use:enhance class="mt-2">
				<input type="hidden" name="text" value={looked.text} /><input
					type="hidden"
					name="revision"
					value={data.revision}
				/>
				<button class="button main">Take it in as the draft</button>
			</form>
		</section>
	{/if}
	<form method="post" action="?/look" enctype="multipart/form-data" use:enhance class="mt-3 max-w-[640px]">
		<label class="block"
			><span class="legend">A file</span><input type="file" name="file" accept=".json,application/json" /></label
		>
		<label class="mt-2 block"
			><span class="legend">or its text</span><textarea
				name="text"
				rows="5"
				class="mono w-full text-[12px]"
				value={text}></textarea></label
		>
		<button class="button mt-2">Show what it changes</button>
	</form>
</TillSheet>
<Workings
	how={{
		title: 'What a file holds',
		steps: [
			{ title: 'The offers in their order', sub: 'with routes by name, conditions and texts; no secret is in it' },
			{ title: 'Routes by name', sub: 'are found among the connections of the till’s mode' },
			{ title: 'Nothing happens unseen', sub: 'what it changes is shown first, and it becomes a draft' }
		]
	}}
/>
