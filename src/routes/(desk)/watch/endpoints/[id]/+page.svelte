<script lang="ts">
	import { enhance } from '$app/forms';
	import { formatMoment } from '$lib/core/calendar';
	import { DayInput, Said, Sheet, WideTable, Workings } from '$lib/ui';
	import EndpointFields from '../EndpointFields.svelte';
	const { data, form } = $props();
	const when = (ms: number | null) =>
		ms === null ? 'never' : formatMoment(ms, data.locale, data.business.timeZone, 'seconds');
	const errors = $derived<Record<string, string>>(
		form && 'errors' in form ? (form.errors as Record<string, string>) : {}
	);
	const typed = $derived(
		form && 'typed' in form
			? (form.typed as { address: string; description: string; kinds: string[] })
			: { address: data.address, description: data.description, kinds: data.kinds }
	);
	const pretty = $derived(data.looked ? JSON.stringify(JSON.parse(data.looked.body), null, 2) : '');
	let testing = $state(false);
	const shows = (state: string) => `?${state ? `state=${encodeURIComponent(state)}` : ''}`;
</script>

<Sheet title={data.description || 'Endpoint'} about={data.address}>
	{#snippet acts()}
		<form
			method="post"
			action="?/test"
			use:enhance={() => {
				testing = true;
				return async ({ update }) => {
					testing = false;
					await update();
				};
			}}
		>
			<button class="button main" disabled={testing}>{testing ? 'Sending a test…' : 'Send a test'}</button>
		</form>
		<form method="post" action={data.state === 'on' ? '?/pause' : '?/resume'} use:enhance>
			<button class="button">{data.state === 'on' ? 'Pause' : 'Switch on'}</button>
		</form>
	{/snippet}
	<p class="mt-3">
		<span class={data.state === 'on' && data.failingSince === null ? 'yes' : 'no'}
			>{data.state === 'on'
				? data.failingSince === null
					? 'On'
					: `On, but nothing reaches it since ${when(data.failingSince)}`
				: data.state === 'off'
					? 'Switched off'
					: 'Paused'}</span
		>{data.says ? `: ${data.says}` : '.'} Last delivered: {when(data.deliveredAt)}.
	</p>
	<Said form={form as never} />
	{#if form && 'secret' in form && form.secret}
		<section class="note moss mt-4" role="status">
			<p><b>The new secret.</b> It is shown this once. The one before is good for a week beside it.</p>
			<p class="mono mt-2 text-[13px] break-all" id="secret">{form.secret}</p>
		</section>
	{/if}

	<h2>Log</h2>
	<nav class="flex flex-wrap gap-3" aria-label="Which deliveries">
		{#each [['', 'all'], ['waiting', 'waiting'], ['delivered', 'delivered'], ['given up', 'given up']] as [state, name] (state)}<a
				class="why"
				aria-current={data.filter === state ? 'page' : undefined}
				href={shows(state!)}>{name}</a
			>{/each}
	</nav>
	{#if data.deliveries.length}
		<WideTable label="Deliveries" class="blocks">
			<table class="mt-2">
				<thead
					><tr
						><th>Event</th><th>State</th><th class="n">Tries</th><th>Answer</th><th><span class="sr-only">Act</span></th
						></tr
					></thead
				>
				<tbody>
					{#each data.deliveries as one (one.id)}<tr
							aria-current={data.looked?.delivery === one.id ? 'true' : undefined}
							><td
								><a
									data-row
									class="mono text-[13px] font-semibold underline decoration-transparent hover:decoration-current"
									href="?{data.filter ? `state=${encodeURIComponent(data.filter)}&` : ''}delivery={one.id}"
									>{one.kind}</a
								><span class="sub">ev-{one.event}</span></td
							><td class="whitespace-nowrap" data-label="State"
								><span class={one.state === 'delivered' ? 'yes' : one.state === 'given up' ? 'no' : ''}
									>{one.state}</span
								><span class="sub"
									>{one.doneAt !== null
										? when(one.doneAt)
										: one.tries
											? `next try ${when(one.nextAt)}`
											: 'is next'}</span
								></td
							><td class="n" data-label="Tries">{one.tries}</td><td class="max-w-96 break-words" data-label="Answer"
								>{one.says}</td
							><td
								>{#if one.state !== 'waiting' || one.tries}<form method="post" action="?/again" use:enhance>
										<input type="hidden" name="delivery" value={one.id} />
										<button class="why whitespace-nowrap" aria-label="Send {one.kind} ev-{one.event} again"
											>Send again</button
										>
									</form>{/if}</td
							></tr
						>{/each}
				</tbody>
			</table>
		</WideTable>
		{#if data.more}<p class="mt-3">
				<a class="button" href="?{data.filter ? `state=${encodeURIComponent(data.filter)}&` : ''}before={data.last}"
					>Older deliveries</a
				>
			</p>{/if}
	{:else}
		<p class="quiet mt-2">{data.filter ? 'None.' : 'Nothing was sent yet. Send a test.'}</p>
	{/if}
	{#if data.looked}
		<section class="note mt-4">
			<h3 class="mono text-[14px]">{data.looked.kind}</h3>
			<pre class="mono mt-2 overflow-x-auto text-[13px]">{pretty}</pre>
			<h3 class="mt-3">Tries</h3>
			{#if data.looked.tries.length}
				<ol class="mt-1">
					{#each data.looked.tries as one (one.id)}<li>
							{when(one.at)}, after {one.tookMs} ms: {one.says}
						</li>{/each}
				</ol>
			{:else}<p class="quiet">None yet.</p>{/if}
		</section>
	{/if}

	<h2>Send a span again</h2>
	<form method="post" action="?/again" class="flex flex-wrap items-end gap-3" use:enhance>
		<label><span class="legend">From</span><DayInput name="from" value="" locale={data.locale} /></label>
		<label><span class="legend">to</span><DayInput name="to" value="" locale={data.locale} /></label>
		<label
			><span class="legend">Which</span><select name="what"
				><option value="failed">those given up</option><option value="all">all that it wants to hear</option></select
			></label
		>
		<button class="button">Send again</button>
	</form>

	<h2>Settings</h2>
	<form
		method="post"
		action="?/save"
		use:enhance={() =>
			({ update }) =>
				update({ reset: false })}
	>
		{#if errors.kinds}<p class="wrong" role="alert">{errors.kinds}</p>{/if}
		{#key data.id}<EndpointFields start={typed} {errors} />{/key}
		<p class="mt-3"><button class="button" data-save>Save</button></p>
	</form>
	<div class="mt-5 flex flex-wrap gap-3">
		<form method="post" action="?/rotate" use:enhance><button class="button">Give it a new secret</button></form>
		<form
			method="post"
			action="?/remove"
			use:enhance={({ cancel }) => {
				if (!confirm('Remove this endpoint? It is told of nothing more.')) cancel();
			}}
		>
			<button class="button">Remove</button>
		</form>
	</div>
	{#if data.oldUntil}<p class="quiet mt-2">The secret before is good until {when(data.oldUntil)}.</p>{/if}
</Sheet>
<Workings
	how={{
		title: 'Sending again',
		steps: [
			{ title: 'The same id', sub: 'who heard the event before knows it by its id' },
			{ title: 'A new signature', sub: 'with the time of this try, and every secret that is valid now' },
			{ title: 'Added', sub: `${when(data.createdAt)}, by ${data.createdBy}` }
		]
	}}
/>
