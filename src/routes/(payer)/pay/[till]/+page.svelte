<script lang="ts">
	import { enhance } from '$app/forms';
	import PayerPage from '$lib/ui/PayerPage.svelte';
	import { hasPayerWord, payerWord, type PayerWord } from '$lib/ui/payerWords';
	import { onMount } from 'svelte';
	const { data, form } = $props();
	const open = $derived(data.ways.find((way) => way.id === data.open));
	const others = $derived(data.ways.filter((way) => way.id !== data.open));

	const t = (word: PayerWord, ...fill: string[]) => payerWord(data.language, word, ...fill);
	const lead = (method: string) => t(hasPayerWord(method) ? method : 'goOn');
	const whole = $derived(`${data.sum.number} ${data.sum.currency}`);
	// what the payer typed stays, whatever becomes of the try
	let told = $state({ address: '', phone: '', note: '' });
	const asked = $derived((['address', 'phone', 'note'] as const).filter((name) => data.asks[name] !== 'no'));
	let frame = $state<HTMLIFrameElement>();
	let cardForm = $state<HTMLFormElement>();
	let token = $state('');
	let height = $state(178);
	let ready = $state(false);
	let busy = $state(false);

	/** Asks the processor's card fields for a token; they answer by a message. */
	function pay(event?: SubmitEvent) {
		if (token) return;
		event?.preventDefault();
		if (busy || !open?.fields) return;
		busy = true;
		frame?.contentWindow?.postMessage({ to: 'card-fields', act: 'read' }, open.fields.origin);
	}

	onMount(() => {
		const hear = ({ origin, data: told }: MessageEvent) => {
			if (origin !== open?.fields?.origin || told?.from !== 'card-fields') return;
			if (told.is === 'height') height = Math.min(400, Math.max(120, Number(told.height)));
			if (told.is === 'ready') ready = true;
			if (told.is === 'refused') busy = false;
			if (told.is === 'enter') cardForm?.requestSubmit();
			if (told.is === 'token') {
				token = String(told.token);
				setTimeout(() => cardForm?.requestSubmit());
			}
		};
		addEventListener('message', hear);
		ready = true;
		return () => removeEventListener('message', hear);
	});
</script>

<svelte:head><title>{data.sum.number} {data.sum.currency} to {data.shop}</title></svelte:head>

{#snippet details()}
	{#each asked as name, at (at)}
		<label class="mt-2 block text-[13px]"
			>{t(name)}{#if data.asks[name] === 'may'}<span class="quiet">, {t('may')}</span>{/if}
			{#if name === 'phone'}<input
					name="told_{name}"
					type="tel"
					autocomplete="tel"
					maxlength="40"
					required={data.asks[name] === 'must'}
					bind:value={told[name]}
				/>{:else}<textarea
					name="told_{name}"
					rows="2"
					maxlength="300"
					autocomplete={name === 'address' ? 'street-address' : 'off'}
					required={data.asks[name] === 'must'}
					bind:value={told[name]}></textarea>{/if}</label
		>
	{/each}
{/snippet}

<PayerPage
	shop={data.shop}
	colour={data.colour}
	test={data.test}
	sum={data.sum}
	logo={data.logo}
	about="{t('order', data.reference)}{data.purpose ? `, ${data.purpose}` : ''}"
>
	{#if form?.says}<p class="note clay mb-4" role="alert">{form.says}</p>{/if}
	{#if data.name || data.mail}<p class="quiet mb-3 text-[13px]">
			{t('for', [data.name, data.mail].filter(Boolean).join(', '))}
		</p>{/if}
	{#if data.lines.length}<ul class="mb-3 text-[14px]">
			{#each data.lines as line, at (at)}<li class="border-rule flex justify-between gap-3 border-t py-1">
					<span>{line.quantity > 1 ? `${line.quantity} × ` : ''}{line.name}</span><span class="whitespace-nowrap"
						>{line.sum}</span
					>
				</li>{/each}
		</ul>{/if}
	{#if data.deliverTo}<p class="quiet mb-3 text-[13px]">{t('deliverTo', data.deliverTo)}</p>{/if}
	{#if open}
		<section aria-label={open.name}>
			<p><b>{open.name}</b> <span class="quiet">{open.schemes}</span></p>
			{#if open.fields}
				<form
					method="post"
					bind:this={cardForm}
					onsubmit={pay}
					use:enhance={({ cancel }) => {
						if (!token) return cancel();
						return async ({ update }) => {
							await update({ reset: false });
							token = '';
							busy = false;
						};
					}}
				>
					<input type="hidden" name="way" value={open.id} />
					{@render details()}
					<input type="hidden" name="token" value={token} />
					{#key form}
						<iframe
							bind:this={frame}
							src={open.fields.address}
							title="{open.method === 'card' ? 'Card fields' : open.name}, by {open.processor}"
							class="mt-2 block w-full"
							style:height="{height}px"
						></iframe>
					{/key}
					<p class="quiet text-[13px]">
						{t('fields', open.processor ?? '')}
						{#if open.descriptor}{t('statement', open.descriptor)}{/if}
					</p>
					<noscript><p class="note mt-3">{t('script')}</p></noscript>
					<button class="act" disabled={!ready || busy}
						>{busy
							? t('wait')
							: data.button || (open.method === 'card' ? t('payCard') : t('payWith', open.name))}</button
					>
				</form>
			{:else if open.offline}
				<form method="post" use:enhance>
					<input type="hidden" name="way" value={open.id} />
					{@render details()}
					<button class="act"
						>{open.method === 'credit-transfer' ? t('transfer', whole) : t('chooseWay', open.name)}</button
					>
				</form>
			{:else}
				<form
					method="post"
					use:enhance={() => {
						busy = true;
						return async ({ result, update }) => {
							// a page of the processor is another site: the browser goes there itself
							if (result.type === 'redirect' && /^https?:/.test(result.location)) location.href = result.location;
							else {
								await update({ reset: false });
								busy = false;
							}
						};
					}}
				>
					<input type="hidden" name="way" value={open.id} />
					{@render details()}
					<p class="quiet mt-1 text-[13px]">
						{t('at', lead(open.method), open.processor ?? '')}
					</p>
					<button class="act" disabled={busy}>{busy ? t('wait') : data.button || t('pay', whole)}</button>
				</form>
			{/if}
			{#if open.note}<p class="quiet mt-2 text-[13px]">{open.note}</p>{/if}
		</section>
	{:else}
		<p class="note clay">
			<b>{t('nothing', whole)}</b>
			{t('told', data.reference)}
		</p>
	{/if}
	{#if others.length}
		<h2 class="!mt-6 !font-sans">{t('other')}</h2>
		<ul>
			{#each others as way (way.id)}
				<li class="border-rule grid grid-cols-[1fr_auto] items-center gap-x-3 border-t py-2.5">
					<span
						><b>{way.name}</b>{#if way.note}<span class="quiet block text-[13px]">{way.note}</span>{/if}</span
					>
					<a
						class="choose"
						href="?{data.query}&way={way.id}"
						data-sveltekit-noscroll
						aria-label={t('chooseWay', way.name)}>{t('choose')}</a
					>
				</li>
			{/each}
		</ul>
	{/if}
	{#if data.cancelTo}<p class="mt-5">
			<a class="underline" href={data.cancelTo} rel="external">{t('giveUp', data.shop)}</a>
		</p>{/if}
</PayerPage>

<style>
	.act {
		display: block;
		width: 100%;
		background: var(--till);
		color: #fff;
		text-align: center;
		padding: 13px;
		border-radius: 3px;
		font-weight: 600;
		margin-top: 12px;
		cursor: pointer;
	}
	.act[disabled] {
		opacity: 0.7;
		cursor: default;
	}
	.choose {
		color: light-dark(var(--till), var(--brass));
		font-weight: 500;
		padding: 6px 0 6px 12px;
		text-decoration: underline;
		text-underline-offset: 3px;
	}
</style>
