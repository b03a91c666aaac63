<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const a = $derived(data.arrival);
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone, 'seconds');
</script>

<Sheet title={a.topic} about="From {a.connection}, {when(a.receivedAt)}">
	{#snippet acts()}
		<form method="post" use:enhance><button class="button" class:main={a.state === 'stuck'}>Run again</button></form>
	{/snippet}
	{#if form?.says}<p class="note moss mt-4" role="status">{form.says}</p>{/if}
	{#if a.state === 'stuck'}<p class="note clay mt-4">
			<b>Stuck after {a.tries} tries.</b>
			{a.says} It holds up no other.
		</p>
	{:else if a.state === 'retry'}<p class="note mt-4">{a.says} Tried again {when(a.nextAt)}.</p>{/if}
	<table class="mt-4">
		<tbody>
			<tr
				><td class="quiet w-36">Effect</td><td
					>{a.says || 'none yet'}{#if data.payment}{a.says.endsWith('.') ? ' See ' : ', '}<a
							class="underline"
							href="/takings/payments/{data.payment.id}">{data.payment.reference || 'its payment'}</a
						>{/if}</td
				></tr
			>
			<tr
				><td class="quiet">Tries</td><td
					>{a.tries}{#if a.took}, done {a.took} after it came{/if}</td
				></tr
			>
			<tr><td class="quiet">Event</td><td class="mono">{a.eventId}</td></tr>
		</tbody>
	</table>
	<h2>Headers</h2>
	<table>
		<tbody
			>{#each a.headers as [name, value] (name)}<tr
					><td class="mono quiet w-48">{name}</td><td class="mono break-all">{value}</td></tr
				>{/each}</tbody
		>
	</table>
	<h2>Payload</h2>
	<!-- svelte-ignore a11y_no_noninteractive_tabindex (a block that scrolls must be reachable by keyboard) -->
	<pre class="mono bg-paper border-rule overflow-x-auto border p-3" tabindex="0">{a.body}</pre>
</Sheet>
<Workings
	first={{
		title: 'How it was checked',
		about: 'On the raw bytes, before it was stored.',
		steps: data.checks.map((one) => ({
			mark: one.ok ? ('yes' as const) : ('no' as const),
			title: one.step,
			sub: one.says
		}))
	}}
/>
