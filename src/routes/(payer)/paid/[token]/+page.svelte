<script lang="ts">
	import PayerPage from '$lib/ui/PayerPage.svelte';
	import { payerWord, type PayerWord } from '$lib/ui/payerWords';
	import { invalidateAll } from '$app/navigation';
	import { onMount } from 'svelte';
	const { data } = $props();
	const say = (word: PayerWord, ...fill: string[]) => payerWord(data.language, word, ...fill);

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
			? say('asking', data.processor)
			: data.offline
				? data.offline.isPaid
					? say('received')
					: data.offline.transfers
						? say('transferTo', data.offline.left)
						: say('ordered')
				: ended
					? say('notPaid')
					: waiting
						? say('unfinished')
						: data.stage === 'refunded'
							? say('paidRefunded')
							: data.stage === 'pending'
								? say('signed')
								: say('paid')
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
	about="{say('order', data.reference)}{data.purpose ? `, ${data.purpose}` : ''}{data.outside
		? ` · ${say('yourNumber', data.outside)}`
		: ''}"
>
	{#if data.asking}
		<h2 class="!mt-0 !text-[19px]">{say('asking', data.processor)}</h2>
		<p class="mt-2">
			{say('askingMore', data.processor)}
		</p>
	{:else if data.offline && data.stage === 'voided'}
		<h2 class="!mt-0 !text-[19px]">{say('otherWay')}</h2>
		<p class="mt-2">{say('notAwaited', data.offline.name)}</p>
	{:else if data.offline}
		{@const t = data.offline}
		{#if t.isPaid}
			<h2 class="!mt-0 !text-[19px]"><span class="yes" aria-hidden="true">✓</span> {say('received')}</h2>
			<p class="mt-2">{say('hasCome', t.came)} {data.noteAfter}</p>
		{:else}
			<h2 class="!mt-0 !text-[19px]">{t.transfers ? say('transferTo', t.left) : `${t.name}: ${t.left}`}</h2>
			{#if t.came}<p class="note mb-2">{say('cameLeft', t.came, t.left)}</p>{/if}
			<dl class="facts">
				{#if t.transfers}
					<div>
						<dt>{say('holder')}</dt>
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
						<dt>{say('reference')}</dt>
						<dd class="mono">{t.reference}</dd>
					</div>{/if}
				{#if t.until}<div>
						<dt>{t.transfers ? say('heldUntil') : say('payBy')}</dt>
						<dd>{t.until}</dd>
					</div>{/if}
			</dl>
			{#if t.code}
				<div class="mt-3 flex items-center gap-3">
					<img class="w-[132px] shrink-0" src={t.code} alt="Transfer QR code" id="transfer-code" />
					<p class="quiet text-[13px]">{say('scanTransfer')}</p>
				</div>
			{/if}
			<!-- eslint-disable-next-line svelte/no-at-html-tags (reduced to a few harmless tags when it was saved) -->
			{#if t.instructions}<div class="rich mt-3">{@html t.instructions}</div>{/if}
			{#if t.picture}<img class="mt-3 w-[132px]" src={t.picture} alt="Code to scan" />{/if}
			{#if t.afterNote}<p class="quiet mt-3 text-[13px]">{t.afterNote}</p>{/if}
			<p class="mt-4"><a class="underline" href={data.again}>{say('instead')}</a></p>
		{/if}
	{:else if waiting && data.next?.kind === 'code'}
		<h2 class="!mt-0 !text-[19px]">{say('approveApp')}</h2>
		<p class="mt-2 sm:hidden">
			<a class="go" href={data.next.address}>{say('openApp')}</a>
		</p>
		<div class="mt-3 hidden items-center gap-3 sm:flex">
			<img class="w-[160px] shrink-0" src={data.next.picture} alt="Code for the bank app" />
			<p class="quiet text-[13px]">
				{say('scanApp')} <a class="underline" href={data.next.address}>{say('openHere')}</a>.
			</p>
		</div>
		<p class="quiet mt-3 text-[13px]">{say('goodUntil', data.next.until)}</p>
		<p class="mt-4"><a class="underline" href={data.again}>{say('instead')}</a></p>
	{:else if waiting && data.next?.kind === 'transfer'}
		<h2 class="!mt-0 !text-[19px]">{say('transferTo', `${data.sum.number} ${data.sum.currency}`)}</h2>
		<dl class="facts">
			<div>
				<dt>{say('holder')}</dt>
				<dd>{data.next.holder}</dd>
			</div>
			<div>
				<dt>IBAN</dt>
				<dd class="mono">{data.next.iban}</dd>
			</div>
			<div>
				<dt>{say('reference')}</dt>
				<dd class="mono">{data.next.reference}</dd>
			</div>
		</dl>
		<p class="quiet mt-3 text-[13px]">{say('watches', data.processor)}</p>
		<p class="mt-4"><a class="underline" href={data.again}>{say('instead')}</a></p>
	{:else if waiting}
		<h2 class="!mt-0 !text-[19px]">{say('unfinished')}</h2>
		<p class="mt-2">{say('notTold', data.processor)}</p>
		{#if data.next?.kind === 'page'}<p class="mt-3">
				<a class="go" href={data.next.address}>{say('goOnAt', data.processor)}</a>
			</p>{/if}
		<p class="mt-4"><a class="underline" href={data.again}>{say('instead')}</a></p>
	{:else if ended}
		<h2 class="!mt-0 !text-[19px]">{say('notPaid')}</h2>
		<p class="mt-2">{data.failure || say('failed')} {say('nothingCharged')}</p>
		<p class="mt-4"><a class="underline" href={data.again}>{say('payAgain')}</a></p>
	{:else}
		<h2 class="!mt-0 !text-[19px]">
			<span class="yes" aria-hidden="true">✓</span>
			{data.stage === 'refunded'
				? say('paidRefunded')
				: data.stage === 'pending'
					? say('signed')
					: data.stage === 'authorised'
						? say('agreed')
						: say('paid')}
		</h2>
		{#if data.refunded}<p class="note mt-2">{say('wasRefunded', data.refunded)}</p>{/if}
		{#if data.noteAfter}<p class="mt-2">{data.noteAfter}</p>{/if}
		<dl class="facts">
			<div>
				<dt>{say('on')}</dt>
				<dd>{data.day}</dd>
			</div>
			{#if data.card}
				<div>
					<dt>{say('card')}</dt>
					<dd>{data.card.scheme}, {say('ending', data.card.last4)}</dd>
				</div>
			{/if}
			<div>
				<dt>{say('with')}</dt>
				<dd>{data.way}</dd>
			</div>
			{#if data.descriptor}<div>
					<dt>{say('onStatement')}</dt>
					<dd class="mono">{data.descriptor}</dd>
				</div>{/if}
			<div>
				<dt>{say('reference')}</dt>
				<dd class="mono">{data.reference}</dd>
			</div>
		</dl>
		<p class="quiet mt-3 text-[13px]">{say('receipt')}</p>
	{/if}
	{#if data.landing && !['requested', 'failed', 'expired', 'voided'].includes(data.stage)}
		<p class="mt-5"><a class="underline" href={data.landing}>{say('back', data.shop)}</a></p>
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
