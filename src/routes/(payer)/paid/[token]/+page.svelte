<script lang="ts">
	import { page } from '$app/state';
	import PayerPage from '$lib/ui/PayerPage.svelte';
	import { payerWord, type PayerWord } from '$lib/ui/payerWords';
	import { invalidateAll } from '$app/navigation';
	import { onMount } from 'svelte';
	const { data } = $props();
	const say = (word: PayerWord, ...fill: string[]) => payerWord(data.language, word, ...fill);

	/** what was copied last */
	let copied = $state('');
	async function copy(title: string, text: string) {
		// where the browser does not let us, the text can still be marked by hand: nothing is claimed
		try {
			await navigator.clipboard.writeText(text);
			copied = title;
		} catch {
			copied = '';
		}
	}
	let heading = $state<HTMLElement>();

	onMount(() => {
		// whoever came here by paying reads on at what became of it
		heading?.querySelector<HTMLElement>('h2')?.focus();
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
						? say('transferOf', data.offline.left)
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
	<title>{say('receiptOf', title, data.reference)}</title>
	{#if data.asking || waiting}<noscript><meta http-equiv="refresh" content="4" /></noscript>{/if}
</svelte:head>

{#snippet fact(title: string, text: string, plain = text)}
	<div class="with-copy">
		<dt>{title}</dt>
		<dd>
			<span class:mono={plain !== text || /^[A-Z0-9]+$/.test(text)}>{text}</span>
			<button type="button" class="copy" aria-label={say('copyWhat', title)} onclick={() => copy(title, plain)}
				>{copied === title ? say('copied') : say('copy')}</button
			>
		</dd>
	</div>
{/snippet}

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
	<div bind:this={heading}>
		{#if data.asking}
			<h2 class="!mt-0 !text-[19px] outline-none" tabindex="-1">{say('asking', data.processor)}</h2>
			<p class="mt-2">
				{say('askingMore', data.processor)}
			</p>
		{:else if data.offline && data.stage === 'voided'}
			<h2 class="!mt-0 !text-[19px] outline-none" tabindex="-1">{say('otherWay')}</h2>
			<p class="mt-2">{say('notAwaited', data.offline.name)}</p>
		{:else if data.offline}
			{@const t = data.offline}
			{#if t.isPaid}
				<h2 class="!mt-0 !text-[19px] outline-none" tabindex="-1">
					<span class="yes" aria-hidden="true">✓</span>
					{say('received')}
				</h2>
				<p class="mt-2">{say('hasCome', t.came)} {data.noteAfter}</p>
			{:else}
				<h2 class="!mt-0 !text-[19px] outline-none" tabindex="-1">
					{t.transfers ? say('transferTo', t.left) : `${t.name}: ${t.left}`}
				</h2>
				{#if t.came}<p class="note mb-2">{say('cameLeft', t.came, t.left)}</p>{/if}
				<dl class="facts">
					{#if t.transfers}
						{@render fact(say('amount'), t.left, t.leftPlain)}
						{@render fact(say('holder'), t.holder)}
						{@render fact('IBAN', t.iban, t.iban.replace(/\s/g, ''))}
						{#if t.bic}{@render fact('BIC', t.bic)}{/if}
					{/if}
					{#if t.reference}{@render fact(say('reference'), t.reference, t.reference.replace(/\s/g, ''))}{/if}
					{#if t.until}<div>
							<dt>{t.transfers ? say('heldUntil') : say('payBy')}</dt>
							<dd>{t.until}</dd>
						</div>{/if}
				</dl>
				{#if t.code}
					<div class="mt-3 flex items-center gap-3">
						<img class="w-[132px] shrink-0" src={t.code} alt={say('transferCode')} id="transfer-code" />
						<p class="quiet text-[13px]">
							{say('scanTransfer')}
							<a class="mt-1 block underline" href={t.code} download="{data.reference}.png">{say('saveCode')}</a>
						</p>
					</div>
				{/if}
				<!-- eslint-disable-next-line svelte/no-at-html-tags (reduced to a few harmless tags when it was saved) -->
				{#if t.instructions}<div class="rich mt-3">{@html t.instructions}</div>{/if}
				{#if t.picture}<img class="mt-3 w-[132px]" src={t.picture} alt={say('scanCode')} />{/if}
				{#if t.afterNote}<p class="quiet mt-3 text-[13px]">{t.afterNote}</p>{/if}
				<p class="mt-4"><a class="underline" href={data.again}>{say('instead')}</a></p>
			{/if}
		{:else if waiting && data.next?.kind === 'code'}
			<h2 class="!mt-0 !text-[19px] outline-none" tabindex="-1">{say('approveApp')}</h2>
			<p class="mt-2 sm:hidden">
				<a class="go" href={data.next.address}>{say('openApp')}</a>
			</p>
			<div class="mt-3 hidden items-center gap-3 sm:flex">
				<img class="w-[160px] shrink-0" src={data.next.picture} alt={say('appCode')} />
				<p class="quiet text-[13px]">
					{say('scanApp')} <a class="underline" href={data.next.address}>{say('openHere')}</a>.
				</p>
			</div>
			<p class="quiet mt-3 text-[13px]">{say('goodUntil', data.next.until)}</p>
			<p class="mt-4"><a class="underline" href={data.again}>{say('instead')}</a></p>
		{:else if waiting && data.next?.kind === 'transfer'}
			<h2 class="!mt-0 !text-[19px] outline-none" tabindex="-1">
				{say('transferTo', `${data.sum.number} ${data.sum.currency}`)}
			</h2>
			<dl class="facts">
				{@render fact(say('amount'), `${data.sum.number} ${data.sum.currency}`, data.sum.plain)}
				{@render fact(say('holder'), data.next.holder)}
				{@render fact('IBAN', data.next.iban, data.next.iban.replace(/\s/g, ''))}
				{@render fact(say('reference'), data.next.reference, data.next.reference.replace(/\s/g, ''))}
			</dl>
			<p class="quiet mt-3 text-[13px]">{say('watches', data.processor)}</p>
			<p class="mt-4"><a class="underline" href={data.again}>{say('instead')}</a></p>
		{:else if waiting}
			<h2 class="!mt-0 !text-[19px] outline-none" tabindex="-1">{say('unfinished')}</h2>
			<p class="mt-2">{say('notTold', data.processor)}</p>
			{#if data.next?.kind === 'page'}<p class="mt-3">
					<a class="go" href={data.next.address}>{say('goOnAt', data.processor)}</a>
				</p>{/if}
			<p class="mt-4"><a class="underline" href={data.again}>{say('instead')}</a></p>
		{:else if ended}
			<h2 class="!mt-0 !text-[19px] outline-none" tabindex="-1">{say('notPaid')}</h2>
			<p class="mt-2">{say('failed')}{data.failure ? ` (${data.failure})` : ''} {say('nothingCharged')}</p>
			<p class="mt-4"><a class="underline" href={data.again}>{say('payAgain')}</a></p>
		{:else}
			<h2 class="!mt-0 !text-[19px] outline-none" tabindex="-1">
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
	</div>
	{#if !['requested', 'pending', 'authorised', 'failed', 'expired', 'voided'].includes(data.stage)}<p
			class="mt-3 text-[13px]"
		>
			<a class="underline" href="/paid/{page.params.token}/pdf">PDF</a>
		</p>{/if}
	{#if data.gratuity}<p class="quiet mt-3 text-[13px]">{say('withGratuity', data.gratuity)}</p>{/if}
	{#if data.landingText && !['requested', 'failed', 'expired', 'voided'].includes(data.stage)}<p
			class="mt-4 whitespace-pre-line"
		>
			{data.landingText}
		</p>{/if}
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
	.facts .with-copy dd {
		display: flex;
		align-items: baseline;
		justify-content: space-between;
		gap: 8px;
	}
	.copy {
		min-height: 24px;
		padding: 0 6px;
		font-size: 13px;
		text-decoration: underline;
		text-underline-offset: 2px;
		cursor: pointer;
	}
	@media print {
		.copy,
		.go {
			display: none;
		}
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
