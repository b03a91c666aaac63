<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { StageStrip, TillSheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const typed = $derived(form?.typed ?? {});
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone);
</script>

<TillSheet
	till={data.till}
	title="Trial payment"
	about="{data.till.name}: a payment from end to end, in test mode, by the draft or by what is published"
>
	{#if data.shown}
		{@const one = data.shown}
		<section class="note mt-4" aria-label="This trial">
			<p><b>By {one.state}</b></p>
			<ol class="mt-1 list-decimal pl-5">
				<li>
					<a class="underline" href={one.address} target="_blank" rel="noreferrer"
						>Open the payer’s page of this trial</a
					>
					{#if one.card}and give the card <b class="mono" id="trial-card">{one.card}</b>, any later expiry, any code{:else}and
						choose the way you want to try{/if}.
				</li>
				<li>
					{#if one.payment}The payment: <StageStrip
							reachedStep={one.payment.reachedStep}
							brokenStep={one.payment.brokenStep}
							stage={one.payment.stage}
						/>
						<a class="underline" href="/takings/payments/{one.payment.id}">{one.payment.way}</a
						>{#if one.payment.failure}, {one.payment.failure}{/if}{:else}<span class="quiet"
							>The payment will stand here once it begins.</span
						>{/if}
				</li>
				<li>
					{#if one.arrivals.length}Heard of it: {#each one.arrivals as arrival, i (arrival.id)}{i ? ', ' : ''}<a
								class="underline"
								href="/watch/arrivals/{arrival.id}">{arrival.topic || 'a notification'}</a
							>{/each}{:else}<span class="quiet">Notifications of it will stand here as they come.</span>{/if}
				</li>
				<li>
					{#if one.payment}<a class="underline" href="/paid/{one.payment.token}" target="_blank" rel="noreferrer"
							>What the payer reads afterwards</a
						>{:else}<span class="quiet">What the payer reads afterwards will be linked here.</span>{/if}
				</li>
			</ol>
		</section>
	{/if}
	{#if form?.trouble}<p class="note clay mt-4" role="alert">{form.trouble}</p>{/if}
	{#if data.untried.length}
		<p class="note mt-4">
			{data.untried.join(', ')}
			{data.untried.length === 1 ? 'is' : 'are'} not connected in test mode, so what {data.untried.length === 1
				? 'it carries'
				: 'they carry'} cannot be tried. <a class="why" href="/connect/processors">Connect in test mode</a>
		</p>
	{/if}
	{#if data.hasDraft || data.hasPublished}
		<form method="post" use:enhance class="mt-4 grid max-w-[640px] grid-cols-3 items-end gap-3">
			<label
				><span class="legend">Amount</span><input
					name="amount"
					inputmode="decimal"
					required
					value={typed.amount ?? '25.00'}
				/></label
			>
			<label
				><span class="legend">Currency</span><select name="currency" value={typed.currency ?? data.currencies[0]}>
					{#each data.currencies as code (code)}<option>{code}</option>{/each}
				</select></label
			>
			<label
				><span class="legend">Payer’s country</span><select name="country" value={typed.country ?? ''}>
					<option value="">not known</option>
					{#each data.countries as { code, name } (code)}<option value={code}>{name}</option>{/each}
				</select></label
			>
			<label
				><span class="legend">By</span><select
					name="which"
					value={typed.which ?? (data.hasDraft ? 'draft' : 'published')}
				>
					{#if data.hasDraft}<option value="draft">the draft</option>{/if}
					{#if data.hasPublished}<option value="published">what is published</option>{/if}
				</select></label
			>
			<label class="col-span-2"
				><span class="legend">Outcome</span><select name="outcome" value={typed.outcome ?? 'approved'}>
					{#each data.outcomes as one (one.value)}<option value={one.value}>{one.says}</option>{/each}
				</select></label
			>
			<label><span class="legend">Goods</span><input name="goods" value={typed.goods ?? ''} /></label>
			<label><span class="legend">Delivery</span><input name="delivery" value={typed.delivery ?? ''} /></label>
			<button class="button main" data-save>Begin a trial payment</button>
		</form>
	{:else}
		<p class="quiet mt-4">
			There is no line-up to try yet. <a class="why" href="/accept/tills/{data.till.slug}/offers/new"
				>Add the first offer</a
			>
		</p>
	{/if}
	{#if data.trials.length}
		<h2>Tried before</h2>
		<table>
			<thead><tr><th class="w-44">When</th><th>By</th><th>Wanted</th><th>Came to</th></tr></thead>
			<tbody>
				{#each data.trials as one (one.id)}<tr
						><td
							><a class="underline" data-row href="?trial={one.id}">{when(one.at)}</a><span class="sub">{one.by}</span
							></td
						><td>{one.state}</td><td>{one.outcome}</td><td
							>{#if one.payment}{one.payment.way}, {one.payment.stage}{:else}<span class="quiet">not paid</span
								>{/if}</td
						></tr
					>{/each}
			</tbody>
		</table>
	{/if}
</TillSheet>
<Workings
	how={{
		title: 'What a trial is',
		steps: [
			{ title: 'The till’s own page', sub: 'with the line-up you choose, for an order of its own' },
			{
				title: 'No money',
				sub: 'every live connection is replaced by the test connection of the same processor; without one, its offers are withheld'
			},
			{
				title: 'Real messages',
				sub: 'the processor’s test side takes the payment and notifies, as it would in earnest'
			},
			{ title: 'It is kept separate', sub: 'its payment carries the word Test, and no figure counts it' }
		]
	}}
/>
