<script lang="ts">
	import { enhance } from '$app/forms';
	import PayerPage from '$lib/ui/PayerPage.svelte';
	import { hasPayerWord, payerWord, type PayerWord } from '$lib/ui/payerWords';
	import { onMount, untrack } from 'svelte';
	const { data, form } = $props();
	const open = $derived(data.ways.find((way) => way.id === data.open));
	const others = $derived(data.ways.filter((way) => way.id !== data.open));

	const t = (word: PayerWord, ...fill: string[]) => payerWord(data.language, word, ...fill);
	const lead = (method: string) => t(hasPayerWord(method) ? method : 'goOn');
	const whole = $derived(`${data.sum.number} ${data.sum.currency}`);
	// what the payer typed stays, whatever becomes of the try
	let told = $state(
		untrack(() => {
			const { name = '', street = '', postcode = '', city = '', phone = '', country = '' } = data.known ?? {};
			// a name alone is no address: where one may leave it out, nothing is begun for them
			const address =
				street && city ? { name, street, postcode, city } : { name: '', street: '', postcode: '', city: '' };
			return { ...address, country: country || data.country, phone, note: '' };
		})
	);
	const errors = $derived(((form && 'errors' in form && form.errors) || {}) as Record<string, string>);
	let says = $state<HTMLElement>();
	let first = $state<HTMLElement>();
	// after a decline reading goes on at what it says; after another way was chosen, at that way
	$effect(() => {
		if (form?.says) says?.focus();
	});
	let opened = untrack(() => data.open);
	$effect(() => {
		if (data.open === opened) return;
		opened = data.open;
		first?.focus();
	});
	let frame = $state<HTMLIFrameElement>();
	let cardForm = $state<HTMLFormElement>();
	let token = $state('');
	let height = $state(178);
	let ready = $state(false);
	let busy = $state(false);
	let keeps = $state(false);

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

<svelte:head><title>{t('payTo', whole, data.shop)}</title></svelte:head>

{#snippet field(name: string, title: string, kind: { type?: string; auto: string; must: boolean; most: number })}
	<label class="mt-2 block text-[13px]"
		>{title}<input
			name="told_{name}"
			type={kind.type ?? 'text'}
			autocomplete={kind.auto as 'name'}
			maxlength={kind.most}
			required={kind.must}
			aria-invalid={errors[`told_${name}`] ? 'true' : undefined}
			aria-describedby={errors[`told_${name}`] ? `wrong-${name}` : undefined}
			bind:value={told[name as 'phone']}
		/>{@render wrong(name)}</label
	>
{/snippet}
{#snippet wrong(name: string)}
	{#if errors[`told_${name}`]}<span class="wrong" id="wrong-{name}" role="alert">{errors[`told_${name}`]}</span>{/if}
{/snippet}
{#snippet keep(words: string)}
	{#if words}<label class="mt-3 flex items-start gap-2 text-[13px]"
			><input type="checkbox" name="keep" value="yes" class="mt-0.5 h-5 w-5 shrink-0" bind:checked={keeps} /><span
				>{words}</span
			></label
		>{/if}
{/snippet}
{#snippet details()}
	{#if data.gratuity.shares.length || data.gratuity.own}
		<fieldset class="mt-3">
			<legend class="text-[13px] font-semibold">{t('gratuity')}</legend>
			<div class="mt-1 flex flex-wrap gap-2 text-[13px]">
				<label class="share"><input type="radio" name="gratuity" value="" checked /> {t('noGratuity')}</label>
				{#each data.gratuity.shares as one (one.ppm)}<label class="share"
						><input type="radio" name="gratuity" value={one.ppm} /> {one.percent}, {one.sum}</label
					>{/each}
				{#if data.gratuity.own}<label class="share"
						>{#if data.gratuity.shares.length}<input type="radio" name="gratuity" value="own" />{/if}
						{t('ownGratuity', data.sum.currency)}
						<input name="gratuity_own" inputmode="decimal" class="!w-20" /></label
					>{/if}
			</div>
		</fieldset>
	{/if}
	{#if data.asks.address !== 'no'}
		{@const must = data.asks.address === 'must'}
		<fieldset class="mt-3">
			<legend class="text-[13px] font-semibold"
				>{t('address')}{#if !must}<span class="quiet font-normal">, {t('may')}</span>{/if}</legend
			>
			{@render field('name', t('personName'), { auto: 'shipping name', must, most: 120 })}
			{@render field('street', t('street'), { auto: 'shipping street-address', must, most: 160 })}
			<div class="grid grid-cols-[8rem_1fr] gap-x-3">
				{@render field('postcode', t('postcode'), { auto: 'shipping postal-code', must, most: 20 })}
				{@render field('city', t('city'), { auto: 'shipping address-level2', must, most: 80 })}
			</div>
			<label class="mt-2 block text-[13px]"
				>{t('country')}<select name="told_country" autocomplete="shipping country" bind:value={told.country}>
					{#each data.countries as one (one.code)}<option value={one.code}>{one.name}</option>{/each}
				</select>{@render wrong('country')}</label
			>
		</fieldset>
	{/if}
	{#if data.asks.phone !== 'no'}
		{@render field('phone', `${t('phone')}${data.asks.phone === 'may' ? `, ${t('may')}` : ''}`, {
			type: 'tel',
			auto: 'tel',
			must: data.asks.phone === 'must',
			most: 40
		})}
	{/if}
	{#if data.asks.note !== 'no'}
		<label class="mt-2 block text-[13px]"
			>{t('note')}{#if data.asks.note === 'may'}<span class="quiet">, {t('may')}</span>{/if}<textarea
				name="told_note"
				rows="2"
				maxlength="300"
				required={data.asks.note === 'must'}
				aria-invalid={errors.told_note ? 'true' : undefined}
				bind:value={told.note}></textarea>{@render wrong('note')}</label
		>
	{/if}
{/snippet}

<PayerPage
	shop={data.shop}
	colour={data.colour}
	test={data.test}
	sum={data.sum}
	logo={data.logo}
	about="{t('order', data.reference)}{data.purpose ? `, ${data.purpose}` : ''}"
>
	{#if form?.says}<p class="note clay mb-4" role="alert" tabindex="-1" bind:this={says}>{form.says}</p>{/if}
	{#if data.name || data.mail}<p class="quiet mb-3 text-[13px]">
			{t('for', [data.name, data.mail].filter(Boolean).join(', '))}
		</p>{/if}
	{#if data.signedInAs}<form method="post" action="/owed?/leave" class="quiet mb-3 text-[13px]">
			{t('signedInAs', data.signedInAs)}
			<button class="underline">{t('notYou')}</button>
		</form>{/if}
	{#if data.lines.length}<ul class="mb-3 text-[14px]">
			{#each data.lines as line, at (at)}<li class="border-rule flex justify-between gap-3 border-t py-1">
					<span>{line.quantity > 1 ? `${line.quantity} × ` : ''}{line.name}</span><span class="whitespace-nowrap"
						>{line.sum}</span
					>
				</li>{/each}
			<li class="border-rule flex justify-between gap-3 border-y py-1 font-semibold">
				<span>{t('total')}</span><span class="whitespace-nowrap">{data.sum.number} {data.sum.currency}</span>
			</li>
		</ul>{/if}
	{#if data.deliverTo}<p class="quiet mb-3 text-[13px]">{t('deliverTo', data.deliverTo)}</p>{/if}
	{#if open}
		<section aria-label={open.name}>
			<p tabindex="-1" bind:this={first} class="outline-none">
				<b>{open.name}</b> <span class="quiet">{open.schemes}</span>
			</p>
			{#if open.takes}<p class="quiet text-[13px]">{open.takes}</p>{/if}
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
					{@render keep(open.keep)}
					<input type="hidden" name="token" value={token} />
					{#key form}
						<iframe
							bind:this={frame}
							src={open.fields.address}
							title={open.method === 'card'
								? t('cardFields', open.processor ?? '')
								: t('wayFields', open.name, open.processor ?? '')}
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
			{:else if open.stored}
				<form
					method="post"
					use:enhance={() => {
						busy = true;
						return async ({ update }) => {
							await update({ reset: false });
							busy = false;
						};
					}}
				>
					<input type="hidden" name="way" value={open.id} />
					{@render details()}
					{#if open.descriptor}<p class="quiet mt-1 text-[13px]">{t('statement', open.descriptor)}</p>{/if}
					<button class="act" disabled={busy}>{busy ? t('wait') : t('payStored', whole, open.name)}</button>
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
					{@render keep(open.keep)}
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
						><b>{way.name}</b>{#if way.takes || way.note}<span class="quiet block text-[13px]"
								>{[way.takes, way.note].filter(Boolean).join(' ')}</span
							>{/if}</span
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
	{#each data.elsewhere as name, at (at)}<p class="quiet mt-2 text-[13px]">{t('storedElsewhere', name)}</p>{/each}
	{#if data.mayStore}<p class="mt-4 text-[13px]">
			<a class="underline" href="/owed?back={encodeURIComponent(data.back)}">{t('signInStored')}</a>
		</p>{/if}
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
	.share {
		display: inline-flex;
		align-items: center;
		gap: 6px;
		min-height: 32px;
		border: 1px solid var(--rule-strong);
		border-radius: 3px;
		padding: 4px 10px;
	}
	.choose {
		color: light-dark(var(--till), var(--brass));
		font-weight: 500;
		padding: 6px 0 6px 12px;
		text-decoration: underline;
		text-underline-offset: 3px;
	}
</style>
