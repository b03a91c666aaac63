<script lang="ts">
	import { enhance } from '$app/forms';
	import PayerPage from '$lib/ui/PayerPage.svelte';
	import { onMount } from 'svelte';
	const { data, form } = $props();
	const open = $derived(data.ways.find((way) => way.id === data.open));
	const others = $derived(data.ways.filter((way) => way.id !== data.open));

	const LEADS: Record<string, string> = {
		'bank-redirect': 'You approve the payment on your bank’s page',
		'account-wallet': 'You sign in to your wallet',
		'bank-debit': 'You sign a mandate for this debit',
		'pay-later': 'You agree to the monthly parts',
		'bank-app': 'You approve the payment in your bank’s app',
		'credit-transfer': 'You see where to transfer to'
	};
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

<PayerPage
	shop={data.shop}
	colour={data.colour}
	test={data.test}
	sum={data.sum}
	about="Order {data.reference}{data.purpose ? `, ${data.purpose}` : ''}"
>
	{#if form?.says}<p class="note clay mb-4" role="alert">{form.says}</p>{/if}
	{#if data.name || data.mail}<p class="quiet mb-3 text-[13px]">
			For {[data.name, data.mail].filter(Boolean).join(', ')}
		</p>{/if}
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
						These boxes belong to {open.processor}; the shop never sees the number.
						{#if open.descriptor}Your statement will say {open.descriptor}.{/if}
					</p>
					<noscript><p class="note mt-3">Card fields need JavaScript. The other ways work without it.</p></noscript>
					<button class="act" disabled={!ready || busy}
						>{busy ? 'One moment…' : open.method === 'card' ? 'Pay by card' : `Pay with ${open.name}`}</button
					>
				</form>
			{:else if open.offline}
				<form method="post" use:enhance>
					<input type="hidden" name="way" value={open.id} />
					<button class="act"
						>{open.method === 'credit-transfer'
							? `Show me how to transfer ${data.sum.number} ${data.sum.currency}`
							: `Choose ${open.name}`}</button
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
					<p class="quiet mt-1 text-[13px]">
						{LEADS[open.method] ?? 'You go on'} at {open.processor}, and come back here.
					</p>
					<button class="act" disabled={busy}
						>{busy ? 'One moment…' : `Pay ${data.sum.number} ${data.sum.currency}`}</button
					>
				</form>
			{/if}
			{#if open.note}<p class="quiet mt-2 text-[13px]">{open.note}</p>{/if}
		</section>
	{:else}
		<p class="note clay">
			<b>There is no way to pay {data.sum.number} {data.sum.currency} here just now.</b> The shop has been told. Please
			ask them how you may pay; order {data.reference} is not lost.
		</p>
	{/if}
	{#if others.length}
		<h2 class="!mt-6 !font-sans">Or another way</h2>
		<ul>
			{#each others as way (way.id)}
				<li class="border-rule grid grid-cols-[1fr_auto] items-center gap-x-3 border-t py-2.5">
					<span
						><b>{way.name}</b>{#if way.note}<span class="quiet block text-[13px]">{way.note}</span>{/if}</span
					>
					<a class="choose" href="?{data.query}&way={way.id}" data-sveltekit-noscroll aria-label="Choose {way.name}"
						>Choose</a
					>
				</li>
			{/each}
		</ul>
	{/if}
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
