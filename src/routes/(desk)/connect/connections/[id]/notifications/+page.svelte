<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { methodName } from '$lib/core/lineup';
	import type { Verdict as VerdictParts } from '$lib/core/workings';
	import { ConnectionSheet, Said, Verdict, Workings } from '$lib/ui';
	const { data, form } = $props();
	const c = $derived(data.connection);
	const n = $derived(data.needed);
	const when = (ms: number | null) =>
		ms ? formatMoment(ms, data.locale, data.business.timeZone, 'seconds') : 'never yet';
	const FEATURE: Record<string, string> = {
		cards: 'cards',
		'capture-later': 'taking money later',
		'bank-debit': 'bank debits',
		transfers: 'matched transfers',
		'payer-pages': 'ways that payers finish elsewhere',
		bills: 'invoices and pay links',
		payouts: 'payouts'
	};
	const able = $derived(n.needed.filter((one) => n.sends.includes(one.notice)));
	const verdict = $derived<VerdictParts>([
		n.missing.length
			? {
					text: `${n.missing.length} of ${able.length} notifications that you need ${n.missing.length === 1 ? 'is' : 'are'} not switched on`,
					tone: 'clay' as const,
					working: {
						title: 'Missing, and what breaks',
						steps: able
							.filter((one) => !one.subscribed)
							.map((one) => ({ mark: 'no' as const, title: one.notice, sub: one.breaks }))
					}
				}
			: { text: `All ${able.length} notifications that you need are switched on`, tone: 'moss' as const },
		n.missing.length
			? {
					text: n.oneStep
						? `: set them up below in one step.`
						: `: switch them on at ${c.name}, and tick them off below.`
				}
			: { text: c.hookHeardAt ? '.' : ', but none has come yet: ask for a test notification.' }
	]);
	const cannot = $derived(n.needed.filter((one) => !n.sends.includes(one.notice)));
</script>

<ConnectionSheet connection={c} chooser={data.chooser}>
	{#snippet acts()}
		<form method="post" action="?/test" use:enhance><button class="button">Ask for a test notification</button></form>
	{/snippet}
	<Said {form} />
	<Verdict {verdict} />
	<p class="quiet mt-1">
		Last heard <b>{when(c.hookHeardAt)}</b> at <span class="mono break-all select-all">{n.address}</span>
		{#if data.refused.length}<span class="text-clay block"
				>Refused: {data.refused.map((one) => `${one.count} ${one.reason} on ${one.day}`).join(', ')}</span
			>{/if}
	</p>

	<h2>
		Needed and subscribed <span class="quiet font-sans text-[12px] font-normal"
			>for {n.methods.map((one) => methodName(one).toLowerCase()).join(', ')} and payouts</span
		>
	</h2>
	<form
		method="post"
		action="?/tick"
		use:enhance={() =>
			async ({ update }) =>
				update({ reset: false })}
	>
		<table>
			<thead
				><tr
					>{#if n.byHand}<th class="w-8"><span class="sr-only">Choose</span></th>{/if}<th>Notification</th><th
						>Because of</th
					><th>Subscribed</th><th>Without it</th></tr
				></thead
			>
			<tbody>
				{#each able as one (one.notice)}
					<tr>
						{#if n.byHand}<td
								><input
									type="checkbox"
									name="notice"
									value={one.notice}
									checked={n.byHand.ticked.includes(one.notice)}
									aria-label="{n.byHand.names[one.notice] ?? one.notice} is switched on"
								/></td
							>{/if}
						<td
							><b>{one.notice}</b>{#if n.byHand?.names[one.notice]}<span class="sub mono"
									>{n.byHand.names[one.notice]}</span
								>{/if}</td
						>
						<td
							>{FEATURE[one.because]}{#each one.also as other (other.because)}<span class="sub"
									>{FEATURE[other.because]}</span
								>{/each}</td
						>
						<td
							>{#if one.subscribed}<span class="yes">✓ yes</span>{:else}<b class="no">✕ missing</b>{/if}</td
						>
						<td class={one.subscribed ? 'quiet' : ''}
							>{one.breaks}{#each one.also.filter((other) => other.because === 'bills') as other (other.because)}; {other.breaks}{/each}</td
						>
					</tr>
				{/each}
			</tbody>
		</table>
		{#if n.byHand}
			<p class="mt-2 max-w-[600px]">{n.byHand.where}</p>
			<button class="button mt-2" data-save>Keep what I ticked off</button>
		{/if}
	</form>
	{#if n.noise.length}<p class="note mt-3">
			Noise, not needed: {n.noise.join(', ')}. {n.oneStep
				? 'Setting them up again leaves it out.'
				: 'It may be switched off there.'}
		</p>{/if}
	{#if cannot.length}<p class="quiet mt-2">
			{c.name} has no notification for {cannot.map((one) => one.notice).join(', ')}; what happens there is found out by
			asking.
		</p>{/if}
	<div class="mt-3 flex gap-2">
		{#if n.oneStep}
			<form method="post" action="?/setUp" use:enhance>
				<button class="button" class:main={n.missing.length > 0}>Set up just what is needed at {c.name}</button>
			</form>
		{/if}
		<form method="post" action="?/read" use:enhance>
			<button class="button">Read what is switched on there</button>
		</form>
	</div>

	{#if n.troubleMail !== undefined}
		<h2>When nothing gets here</h2>
		<p class="quiet mt-1">{c.name} tries again, and mails somebody when that goes on.</p>
		<form
			method="post"
			action="?/mail"
			class="mt-2 flex flex-wrap items-end gap-2"
			use:enhance={() =>
				async ({ update }) =>
					update({ reset: false })}
		>
			<label class="block w-72"
				><span class="legend">Mail goes to</span>
				<input
					name="mail"
					type="text"
					inputmode="email"
					value={form && 'mail' in form ? form.mail : n.troubleMail}
					aria-invalid={form && 'mailWrong' in form ? 'true' : undefined}
					aria-describedby={form && 'mailWrong' in form ? 'mail-wrong' : undefined}
				/></label
			>
			<button class="button">Set it at {c.name}</button>
			{#if form && 'mailWrong' in form}<span id="mail-wrong" class="wrong w-full" role="alert">{form.mailWrong}</span
				>{/if}
		</form>
	{/if}

	<h2>Came last</h2>
	<table>
		<tbody>
			{#each data.arrivals as one (one.id)}
				<tr
					><td class="whitespace-nowrap">{when(one.receivedAt)}</td><td
						><a class="underline" href="/watch/arrivals/{one.id}">{one.topic || 'not worked on yet'}</a></td
					><td>{one.state}</td><td class="quiet">{one.says}</td></tr
				>
			{:else}<tr><td class="quiet">Nothing has come yet.</td></tr>{/each}
		</tbody>
	</table>
	<p class="mt-2"><a class="underline" href="/watch?connection={c.id}">All arrivals of {c.name}</a></p>
</ConnectionSheet>
<Workings
	first={{
		title: 'How needed is worked out',
		about: `From the methods that tills route to ${c.name}; before any does, from all that the account can carry.`,
		steps: n.methods.map((one) => ({ title: methodName(one) })),
		end: n.missing.length
			? { tone: 'clay', text: `${n.missing.length} missing: ${n.missing.join(', ')}.` }
			: { tone: 'moss', text: 'All that is needed is subscribed.' }
	}}
/>
