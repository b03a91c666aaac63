<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import type { Verdict as VerdictParts } from '$lib/core/workings';
	import { Sheet, Verdict, WideTable, Workings } from '$lib/ui';
	const { data } = $props();
	const when = (ms: number | null) => (ms === null ? 'never' : formatMoment(ms, data.locale, data.business.timeZone));
	const many = (count: number) => count.toLocaleString(data.locale);
	const bad = $derived(data.endpoints.filter((one) => one.failingSince !== null || one.state === 'off'));
	const waiting = $derived(data.endpoints.reduce((all, one) => all + one.waiting, 0));
	const verdict = $derived<VerdictParts>(
		bad.length
			? [
					{ text: `Nothing reaches ${bad.map((one) => one.description || one.address).join(', ')}`, tone: 'clay' },
					{ text: `. ${many(waiting)} ${waiting === 1 ? 'event waits' : 'events wait'}.` }
				]
			: [
					{ text: 'Every endpoint hears what it asked for', tone: 'moss' },
					{ text: waiting ? `; ${many(waiting)} wait to be sent.` : '.' }
				]
	);
</script>

<Sheet title="Endpoints" about="Your own programs that are told of payments, invoices and what needs you">
	{#snippet acts()}<a class="button" href="/watch/endpoints/new">Add an endpoint</a><a
			class="button"
			href="/docs/events">Events and their fields</a
		>{/snippet}
	{#if data.endpoints.length}
		<Verdict {verdict} />
		<WideTable label="Endpoints" class="blocks">
			<table class="mt-4">
				<thead
					><tr
						><th>Endpoint</th><th>Events</th><th>State</th><th>Last delivered</th><th class="n">Waiting</th><th
							class="n">Given up</th
						></tr
					></thead
				>
				<tbody>
					{#each data.endpoints as one (one.id)}<tr
							><td class="min-w-64"
								><a
									data-row
									class="font-semibold underline decoration-transparent hover:decoration-current [overflow-wrap:anywhere]"
									href="/watch/endpoints/{one.id}">{one.address}</a
								><span class="sub">{one.description}</span></td
							><td data-label="Events">{one.kinds.length ? many(one.kinds.length) : 'all'}</td><td data-label="State"
								><span class={one.state === 'on' && one.failingSince === null ? 'yes' : 'no'}
									>{one.state === 'on' && one.failingSince !== null
										? `fails since ${when(one.failingSince)}`
										: one.state}</span
								>{#if one.says}<span class="sub">{one.says}</span>{/if}</td
							><td class="whitespace-nowrap" data-label="Last delivered">{when(one.deliveredAt)}</td><td
								class="n"
								data-label="Waiting"
								>{many(one.waiting)}{#if one.oldest !== null}<span class="sub whitespace-nowrap"
										>since {when(one.oldest)}</span
									>{/if}</td
							><td class="n" data-label="Given up">{many(one.failed)}</td></tr
						>{/each}
				</tbody>
			</table>
		</WideTable>
	{:else}
		<p class="mt-4 max-w-prose">
			No program is told of anything. Add an endpoint, and your shop or your books hear of payments, invoices and alerts
			as they happen.
		</p>
	{/if}
</Sheet>
<Workings
	how={{
		title: 'How events are told',
		steps: [
			{ title: 'At least once', sub: 'each event keeps its id at every try: who heard it before knows it' },
			{ title: 'Signed', sub: 'by Standard Webhooks, with the secret of the endpoint' },
			{ title: 'Any 2xx within 15 s', sub: 'is success; a redirect is not followed; 410 switches it off' },
			{ title: 'Tried again', sub: 'after 5 s, 5 min, 30 min, 2, 5, 10, 14, 20 and 24 h' },
			{ title: 'After a day of failures', sub: 'a mail comes; after three days it is paused, and events are kept' },
			{ title: 'In order by sequence', sub: 'of two events about one thing the larger sequence is the later' }
		]
	}}
/>
