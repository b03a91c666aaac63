<script lang="ts">
	import PayerPage from '$lib/ui/PayerPage.svelte';
	import { invalidateAll } from '$app/navigation';
	import { onMount } from 'svelte';
	const { data } = $props();

	onMount(() => {
		const timer = setInterval(() => {
			if (data.asking || waiting) void invalidateAll();
		}, 2000);
		return () => clearInterval(timer);
	});
	const ended = $derived(['failed', 'voided', 'expired'].includes(data.stage));
	/** money of a processor that is on its way, or for which the payer has something to do yet */
	const waiting = $derived(!data.offline && data.stage === 'requested');
	const title = $derived(
		data.asking
			? 'We are asking'
			: data.offline
				? data.offline.isPaid
					? 'Received'
					: data.offline.transfers
						? 'How to transfer'
						: 'Ordered'
				: ended
					? 'Not paid'
					: waiting
						? 'Not finished yet'
						: data.stage === 'refunded'
							? 'Refunded'
							: data.stage === 'pending'
								? 'Under way'
								: 'Paid'
	);
</script>

<svelte:head>
	<title>{title} · {data.reference}</title>
	{#if data.asking}<noscript><meta http-equiv="refresh" content="4" /></noscript>{/if}
</svelte:head>

<PayerPage
	shop={data.shop}
	logo={data.logo}
	colour={data.colour}
	test={data.test}
	sum={data.sum}
	about="Order {data.reference}{data.purpose ? `, ${data.purpose}` : ''}"
>
	{#if data.asking}
		<h2 class="!mt-0 !text-[19px]">We are asking {data.processor} whether you were charged</h2>
		<p class="mt-2">
			The answer to your payment was lost on its way. Please do not pay again: nothing else begins before {data.processor}
			has told us, and this page then says what happened.
		</p>
	{:else if data.offline && data.stage === 'voided'}
		<h2 class="!mt-0 !text-[19px]">Paid another way</h2>
		<p class="mt-2">{data.offline.name} is not waited for any longer.</p>
	{:else if data.offline}
		{@const t = data.offline}
		{#if t.isPaid}
			<h2 class="!mt-0 !text-[19px]"><span class="yes" aria-hidden="true">✓</span> Received, thank you</h2>
			<p class="mt-2">{t.came} has come. {data.noteAfter}</p>
		{:else}
			<h2 class="!mt-0 !text-[19px]">{t.transfers ? `Transfer ${t.left} to` : `${t.name}: ${t.left}`}</h2>
			{#if t.came}<p class="note mb-2">{t.came} has come already; {t.left} is still missing.</p>{/if}
			<dl class="facts">
				{#if t.transfers}
					<div>
						<dt>Account holder</dt>
						<dd>{t.holder}</dd>
					</div>
					<div>
						<dt>IBAN</dt>
						<dd class="mono">{t.iban}</dd>
					</div>
					{#if t.bic}<div>
							<dt>BIC</dt>
							<dd class="mono">{t.bic}</dd>
						</div>{/if}
				{/if}
				{#if t.reference}<div>
						<dt>Reference</dt>
						<dd class="mono">{t.reference}</dd>
					</div>{/if}
				{#if t.until}<div>
						<dt>{t.transfers ? 'Held until' : 'To be paid by'}</dt>
						<dd>{t.until}</dd>
					</div>{/if}
			</dl>
			{#if t.code}
				<div class="mt-3 flex items-center gap-3">
					<img class="w-[132px] shrink-0" src={t.code} alt="Transfer QR code" id="transfer-code" />
					<p class="quiet text-[13px]">Your bank’s app can read this: account, sum and reference fill themselves in.</p>
				</div>
			{/if}
			<!-- eslint-disable-next-line svelte/no-at-html-tags (reduced to a few harmless tags when it was saved) -->
			{#if t.instructions}<div class="rich mt-3">{@html t.instructions}</div>{/if}
			{#if t.picture}<img class="mt-3 w-[132px]" src={t.picture} alt="Code to scan" />{/if}
			{#if t.afterNote}<p class="quiet mt-3 text-[13px]">{t.afterNote}</p>{/if}
			<p class="mt-4"><a class="underline" href={data.again}>Pay another way instead</a></p>
		{/if}
	{:else if waiting && data.next?.kind === 'code'}
		<h2 class="!mt-0 !text-[19px]">Approve it in your bank’s app</h2>
		<p class="mt-2 sm:hidden">
			<a class="go" href={data.next.address}>Open the bank app</a>
		</p>
		<div class="mt-3 hidden items-center gap-3 sm:flex">
			<img class="w-[160px] shrink-0" src={data.next.picture} alt="Code for the bank app" />
			<p class="quiet text-[13px]">
				Scan it with your bank’s app, or <a class="underline" href={data.next.address}>open the app on this device</a>.
			</p>
		</div>
		<p class="quiet mt-3 text-[13px]">Good until {data.next.until}. This page goes on by itself.</p>
		<p class="mt-4"><a class="underline" href={data.again}>Pay another way instead</a></p>
	{:else if waiting && data.next?.kind === 'transfer'}
		<h2 class="!mt-0 !text-[19px]">Transfer {data.sum.number} {data.sum.currency} to</h2>
		<dl class="facts">
			<div>
				<dt>Account holder</dt>
				<dd>{data.next.holder}</dd>
			</div>
			<div>
				<dt>IBAN</dt>
				<dd class="mono">{data.next.iban}</dd>
			</div>
			<div>
				<dt>Reference</dt>
				<dd class="mono">{data.next.reference}</dd>
			</div>
		</dl>
		<p class="quiet mt-3 text-[13px]">{data.processor} watches the account: this page tells when it has come.</p>
		<p class="mt-4"><a class="underline" href={data.again}>Pay another way instead</a></p>
	{:else if waiting}
		<h2 class="!mt-0 !text-[19px]">Not finished yet</h2>
		<p class="mt-2">{data.processor} has not told us that you paid. Nothing was charged so far.</p>
		{#if data.next?.kind === 'page'}<p class="mt-3">
				<a class="go" href={data.next.address}>Go on at {data.processor}</a>
			</p>{/if}
		<p class="mt-4"><a class="underline" href={data.again}>Pay another way instead</a></p>
	{:else if ended}
		<h2 class="!mt-0 !text-[19px]">Not paid</h2>
		<p class="mt-2">{data.failure || 'The payment did not go through.'} Nothing was charged.</p>
		<p class="mt-4"><a class="underline" href={data.again}>Pay again, or another way</a></p>
	{:else}
		<h2 class="!mt-0 !text-[19px]">
			<span class="yes" aria-hidden="true">✓</span>
			{data.stage === 'refunded'
				? 'Paid, and refunded'
				: data.stage === 'pending'
					? 'Signed, thank you: the money is under way'
					: data.stage === 'authorised'
						? 'Agreed, thank you'
						: 'Paid, thank you'}
		</h2>
		{#if data.refunded}<p class="note mt-2">{data.refunded} was refunded.</p>{/if}
		{#if data.noteAfter}<p class="mt-2">{data.noteAfter}</p>{/if}
		<dl class="facts">
			<div>
				<dt>On</dt>
				<dd>{data.day}</dd>
			</div>
			{#if data.card}
				<div>
					<dt>Card</dt>
					<dd>{data.card.scheme}, ending in {data.card.last4}</dd>
				</div>
			{/if}
			<div>
				<dt>With</dt>
				<dd>{data.way}</dd>
			</div>
			{#if data.descriptor}<div>
					<dt>On your statement</dt>
					<dd class="mono">{data.descriptor}</dd>
				</div>{/if}
			<div>
				<dt>Reference</dt>
				<dd class="mono">{data.reference}</dd>
			</div>
		</dl>
		<p class="quiet mt-3 text-[13px]">This page is your receipt; its address stays good.</p>
	{/if}
	{#if data.landing && !['requested', 'failed', 'expired', 'voided'].includes(data.stage)}
		<p class="mt-5"><a class="underline" href={data.landing}>Back to {data.shop}</a></p>
	{/if}
</PayerPage>

<style>
	.go {
		display: block;
		background: var(--till);
		color: #fff;
		text-align: center;
		padding: 13px;
		border-radius: 3px;
		font-weight: 600;
	}
	.facts {
		margin-top: 12px;
		border-bottom: 1px solid var(--rule);
	}
	.facts div {
		display: grid;
		grid-template-columns: 130px 1fr;
		gap: 8px;
		border-top: 1px solid var(--rule);
		padding: 7px 0;
	}
	.facts dt {
		color: var(--quiet);
		font-size: 13px;
	}
	.facts dd {
		overflow-wrap: anywhere;
	}
	.facts dd.mono {
		font-size: 14px;
	}
</style>
