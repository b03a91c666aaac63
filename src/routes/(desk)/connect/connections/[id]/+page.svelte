<script lang="ts">
	import { enhance } from '$app/forms';
	import { formatDay, formatMoment } from '$lib/core/calendar';
	import { methodName } from '$lib/core/lineup';
	import type { Working } from '$lib/core/workings';
	import { ConnectionSheet, Figure, Said, Workings } from '$lib/ui';
	const { data, form } = $props();
	const c = $derived(data.connection);
	const when = (ms: number | null) => (ms ? formatMoment(ms, data.locale, data.business.timeZone) : 'never yet');
	const standing = $derived(
		c.paused ? 'Paused' : c.failing ? 'Failing' : c.verified ? 'Verified' : 'Not valid any more'
	);
	const takenWorking: Working = $derived({
		title: `${c.name}: what was taken`,
		about: `By the day of capture, over the last ${data.taken.days} days. Refunds are not taken off.`,
		steps: [
			...data.taken.sums.map((one) => ({
				title: one.method,
				sub: `${one.count.toLocaleString(data.locale)} payments`,
				sum: one.sum
			})),
			{ title: 'Payments that came', sum: data.taken.came.toLocaleString(data.locale), total: true as const },
			{ title: 'Of any kind, declined ones among them', sum: data.taken.count.toLocaleString(data.locale) }
		]
	});
	const stateWorking: Working = $derived({
		title: `${c.name}: ${standing.toLowerCase()}`,
		about: 'A connection carries payments when all three hold.',
		steps: [
			{
				mark: c.verified ? 'yes' : 'no',
				title: 'Verified',
				sub: `They were last tried at ${when(c.accountReadAt)}.`
			},
			{
				mark: c.paused ? 'no' : 'yes',
				title: 'Not paused',
				sub: c.paused ? 'Somebody paused it; the trail says who.' : 'Nobody paused it.'
			},
			{
				mark: c.failing ? 'no' : 'yes',
				title: 'Not failing',
				sub: 'Failing is: five technical errors in a row, or over half of at least twenty in ten minutes. Declines do not count.'
			},
			...data.changes.map((one) => ({ title: `${when(one.at)}: ${one.change}`, sub: one.why }))
		]
	});
</script>

<ConnectionSheet connection={c} chooser={data.chooser}>
	{#snippet acts()}
		<form method="post" action="?/reread" use:enhance><button class="button">Read the account again</button></form>
		<form method="post" action="?/pause" use:enhance>
			<button class="button">{c.paused ? `Resume ${c.name}` : `Pause ${c.name}`}</button>
		</form>
	{/snippet}
	<Said {form} />
	{#if data.isNew && !form?.says && !form?.trouble}
		<p class="note moss mt-4" role="status">
			<b>Connected and verified.</b>
			{#if c.missing}Notifications are still to be set up:
				<a class="why" href="/connect/connections/{c.id}/notifications">see which</a>.
			{:else}Notifications are set up at {c.name}.{/if}
			{#if data.usedBy.length === 0}Next: <a class="why" href="/accept/tills/new">set up a till</a> that uses it.{/if}
		</p>
	{/if}
	{#if data.differences.some((one) => one.isNew)}
		<div class="note mt-4">
			<b>What the account can do has changed</b>
			<ul class="mt-1">
				{#each data.differences.filter((one) => one.isNew) as one, nth (nth)}<li>
						{one.says} <span class="quiet">{when(one.at)}</span>
					</li>{/each}
			</ul>
			<form method="post" action="?/seen" use:enhance class="mt-1"><button class="why">I have seen it</button></form>
		</div>
	{/if}

	<table class="mt-4">
		<tbody>
			<tr><td class="quiet w-44">State</td><td><Figure working={stateWorking}>{standing}</Figure>, {c.mode}</td></tr>
			{#each data.given as one, at (at)}
				<tr
					><td class="quiet">{one.label}</td><td
						><span class="mono break-all">{one.value}</span
						>{#if data.chooser && one.label !== 'Public key' && (one.label === 'Account' || one.label === 'Tier')}<a
								class="why ml-2"
								href="/connect/connections/{c.id}/account">choose another</a
							>{/if}</td
					></tr
				>
			{/each}
			<tr
				><td class="quiet">{data.secretName}</td><td
					><span class="mono">•••• {c.secretLast4}</span><span class="sub"
						>Sealed.{c.keyMadeAt ? ` Made ${when(c.keyMadeAt)}.` : ''}
						<a class="underline" href="/connect/connections/{c.id}/keys">Put a new one in its place</a>, made at
						<a class="underline" href={data.console} target="_blank" rel="noreferrer">{c.name}’s console</a>.</span
					></td
				></tr
			>
			<tr>
				<td class="quiet">Notifications</td>
				<td>
					<a class="why" href="/connect/connections/{c.id}/notifications"
						>{c.missing ? `${c.missing} missing` : 'none missing'}</a
					>, last heard {when(c.hookHeardAt)}
				</td>
			</tr>
			<tr
				><td class="quiet">Taken</td><td
					><Figure working={takenWorking}
						>{data.taken.came.toLocaleString(data.locale)} payments in {data.taken.days} days</Figure
					></td
				></tr
			>
			<tr
				><td class="quiet">Used by</td><td
					>{#each data.usedBy as till, i (till.slug)}{i ? ', ' : ''}<a
							class="underline"
							href="/accept/tills/{till.slug}">{till.name}</a
						> <span class="quiet">({till.methods.join(', ').toLowerCase()})</span>{:else}no till yet{/each}</td
				></tr
			>
		</tbody>
	</table>

	<h2>
		What this account can do <span class="quiet font-sans text-[12px] font-normal"
			>read from {c.name}, {when(c.accountReadAt)}</span
		>
	</h2>
	<table>
		<thead><tr><th>Method</th><th>Currencies and limits</th><th>Card types</th><th>Entry</th></tr></thead>
		<tbody>
			{#each data.account.abilities as ability, i (ability.method)}
				<tr>
					<td><b>{methodName(ability.method)}</b></td>
					<td
						>{#each data.limits[i] ?? [] as limit, at (at)}<span class="block whitespace-nowrap">{limit}</span
							>{/each}</td
					>
					<td>
						{#if ability.cardTypes}
							{#each data.account.schemes as scheme (scheme.id)}<span class="chip">{scheme.name}</span>{/each}
							<span class="sub"
								>{[ability.cardTypes.fundings, ability.cardTypes.regions]
									.map((list) => (list === 'any' ? 'any' : list.join(', ')))
									.join(' · ')}</span
							>
						{:else}<span class="quiet">no card</span>{/if}
					</td>
					<td>{ability.entries.join(', ')}</td>
				</tr>
			{/each}
			{#each data.account.unable as one (one.method)}
				<tr><td class="quiet">{methodName(one.method)}</td><td colspan="3"><span class="no">✕</span> {one.says}</td></tr
				>
			{/each}
		</tbody>
	</table>
	<p class="quiet mt-2">
		Pays out after {data.account.payout.bankDays} bank days, cut-off {data.account.payout.cutOff}{data.account.payout
			.heldUntil
			? `; the first payouts are held until ${formatDay(data.account.payout.heldUntil, data.locale)}`
			: ''}. Refunds within {data.account.refundDays} days.
		{#if data.account.excludes.length}May not stand at one till with {data.account.excludes
				.map((one) => one[0]?.toUpperCase() + one.slice(1))
				.join(', ')}.{/if}
	</p>

	{#if data.card}
		<h2>
			Rate card <span class="quiet font-sans text-[12px] font-normal"
				>from {data.card.source}, valid from {formatDay(data.card.validFrom, data.locale)}</span
			>
		</h2>
		<table>
			<thead
				><tr><th>Kind of payment</th><th class="n">Percentage</th><th class="n">Fixed, {data.card.settlement}</th></tr
				></thead
			>
			<tbody
				>{#each data.card.lines as line, at (at)}<tr
						><td
							>{line.what}{#if line.bounds}<span class="sub">{line.bounds}</span>{/if}</td
						><td class="n">{line.percent}</td><td class="n">{line.fixed}</td></tr
					>{/each}
				{#each data.card.tiers as tier (tier.from)}<tr
						><td colspan="3" class="quiet">From {tier.from} a month: {tier.lines.join('; ')}</td></tr
					>{/each}</tbody
			>
		</table>
		<p class="quiet mt-2">
			{#if data.card.interchange}Interchange and scheme fees are passed on beside it, for {data.card.interchange} card types.{/if}
			{#if data.card.monthly}{data.card.monthly} {data.card.settlement} a month.{/if}
			Another currency than {data.card.settlement}: {data.card.conversion} more. When refunded, {c.name} keeps
			{data.card.keeps === 'all' ? 'the whole fee' : data.card.keeps === 'fixed' ? 'the fixed part' : 'nothing'}{data
				.card.refundFee
				? `, and takes ${data.card.refundFee}`
				: ''}.
		</p>
	{/if}
</ConnectionSheet>
<Workings first={stateWorking} />
