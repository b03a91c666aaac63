<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { DayInput, ConnectionSheet, Field, Said, Workings } from '$lib/ui';
	const { data, form } = $props();
	const c = $derived(data.connection);
	const errors = $derived((form && 'errors' in form ? form.errors : {}) as Record<string, string>);
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone);
	/** tomorrow at this time, as the box wants it, in the business's zone */
	const tomorrow = $derived(
		new Intl.DateTimeFormat('sv-SE', {
			timeZone: data.business.timeZone,
			dateStyle: 'short',
			timeStyle: 'short'
		})
			.format(Date.now() + 86_400_000)
			.replace(' ', 'T')
	);
	let whenTo = $state<'later' | 'now'>('later');
	let ending = $state(false);
	let busy = $state(false);
	const what = $derived(data.hasConsent ? 'consent' : 'keys');
</script>

<ConnectionSheet connection={c} chooser={data.chooser}>
	<Said form={form as never} />
	<h2>Put new {data.hasConsent ? 'credentials' : 'keys'} in place</h2>
	{#if c.oldUntil}
		<p class="note mt-2">
			The old ones (•••• {c.oldLast4}) are valid beside the new ones until <b>{when(c.oldUntil)}</b>; then they are
			ended at
			{c.name}.
		</p>
		<form method="post" action="?/retire" use:enhance class="mt-2">
			<button class="button">End the old ones now</button>
		</form>
	{:else}
		<p class="quiet max-w-[600px]">
			{c.keyDays === null ? 'Their age is not known.' : `The ones in use are ${c.keyDays} days old.`}
			Make new ones at <a class="underline" href={data.console} target="_blank" rel="noreferrer">{c.name}’s console</a>;
			do not revoke the old ones there, that happens from here.
		</p>
		{#if data.hasConsent}
			{#if data.draftSays}<p class="note clay mt-2" role="alert">{data.draftSays}</p>{/if}
			<p class="mt-2">
				{#if data.consented}<b class="yes">✓ A new consent was given.</b> It is put in place below.{:else}First give
					consent once more on {c.name}’s page{data.fields.length ? ', or only paste a new token' : ''}.{/if}
			</p>
			<form method="post" action="?/consent" class="mt-2">
				<button class="button">Go to {c.name} and give consent</button>
			</form>
		{/if}
		<form
			method="post"
			action="?/rotate"
			class="max-w-[560px]"
			use:enhance={() => {
				busy = true;
				return async ({ update, result }) => {
					await update({ reset: result.type === 'success' });
					busy = false;
				};
			}}
		>
			{#each data.fields as field, at (at)}
				<Field
					label="New {field.label.toLowerCase()}"
					wrong={errors[field.name]}
					help={{ what: 'Of the same account and mode.', where: field.where, looks: field.looks }}
				>
					{#snippet children(attributes)}<input
							{...attributes}
							name={field.name}
							type={field.secret ? 'password' : 'text'}
							class="mono"
							autocomplete="off"
							spellcheck="false"
						/>{/snippet}
				</Field>
			{/each}
			<fieldset class="mt-3">
				<legend class="legend">The old ones end</legend>
				<div class="ticks">
					<label><input type="radio" name="when" value="later" bind:group={whenTo} /> at a time that I choose</label>
					<label><input type="radio" name="when" value="now" bind:group={whenTo} /> at once</label>
				</div>
				{#if whenTo === 'later'}
					<label class="mt-1 block max-w-60"
						><span class="sr-only">Until, day</span><DayInput
							name="until"
							value={tomorrow.slice(0, 10)}
							locale={data.locale}
							aria-invalid={errors.until ? 'true' : undefined}
						/></label
					>
					<label class="mt-1 block max-w-60"
						><span class="sr-only">Until, time</span><input
							name="untilTime"
							value={tomorrow.slice(11, 16)}
							placeholder="hh:mm"
						/></label
					>
					<span class="sub">{data.business.timeZone}</span>
				{/if}
				{#if errors.until}<span class="wrong" role="alert">{errors.until}</span>{/if}
			</fieldset>
			<button class="button main mt-4" data-save disabled={busy}
				>{busy ? `Asking ${c.name}…` : `Put new ${what === 'keys' ? 'keys' : 'credentials'} in place`}</button
			>
		</form>
	{/if}

	<h2>Name</h2>
	<form
		method="post"
		action="?/rename"
		use:enhance={() =>
			async ({ update }) =>
				update({ reset: false })}
		class="flex max-w-[420px] items-end gap-3"
	>
		<div class="flex-1">
			<Field label="What you call this connection" wrong={errors.name} help={{ what: 'Shown wherever it is chosen.' }}>
				{#snippet children(attributes)}<input {...attributes} name="name" value={c.name} />{/snippet}
			</Field>
		</div>
		<button class="button">Rename</button>
	</form>

	<h2>Disconnect</h2>
	{#if !ending && !form?.trouble}
		<button class="button" onclick={() => (ending = true)}>See what disconnecting would hurt</button>
	{:else}
		<form method="post" action="?/disconnect" use:enhance class="note clay max-w-[640px]">
			<b>What disconnecting {c.name} would hurt</b>
			<ul class="mt-1 list-disc pl-5">
				{#each data.hurt as one, nth (nth)}<li>{one}</li>{:else}<li>
						No till uses it and no payment is awaited.
					</li>{/each}
			</ul>
			<p class="mt-2">
				Its notifications and credentials are ended at {c.name}. Payments and their history stay here; connecting the
				same account again goes on with them.
			</p>
			<label class="mt-2 block"><input type="checkbox" name="sure" /> I have read this list</label>
			{#if form && 'down' in form}<label class="block"
					><input type="checkbox" name="anyway" /> Disconnect here all the same; I end its credentials at {c.name} by hand</label
				>{/if}
			<div class="mt-3 flex gap-2">
				<button class="button">Disconnect {c.name}</button>
				<button type="button" class="button main" onclick={() => (ending = false)}>Keep it connected</button>
			</div>
		</form>
	{/if}
</ConnectionSheet>
<Workings
	how={{
		title: 'Rotating without a gap',
		steps: [
			{ title: 'New ones are tried first', sub: 'they must open the same account' },
			{ title: 'Both are valid for a while', sub: 'charges under way and notifications of either kind go through' },
			{ title: 'The old ones are ended', sub: 'at the time that you chose, at the processor' },
			{ title: 'A reminder after a year', sub: 'under Needs you' }
		]
	}}
/>
