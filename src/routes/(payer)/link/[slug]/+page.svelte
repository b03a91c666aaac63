<script lang="ts">
	import { enhance } from '$app/forms';
	import PayerPage from '$lib/ui/PayerPage.svelte';
	import { billWord, type BillWord } from '$lib/ui/billWords';
	const { data, form } = $props();
	const l = $derived(data.link);
	const t = (word: BillWord, ...fill: string[]) => billWord(data.language, word, ...fill);
	const told = $derived(
		(form ?? {}) as { says?: string; errors?: Record<string, string>; typed?: Record<string, string> }
	);
	const errors = $derived(told.errors ?? {});
	const typed = (name: string, first = '') => told.typed?.[name] ?? first;
	const lead =
		() =>
		async ({
			result,
			update
		}: {
			result: { type: string; location?: string };
			update: (how: { reset: boolean }) => Promise<void>;
		}) => {
			if (result.type === 'redirect' && result.location) location.href = result.location;
			else await update({ reset: false });
		};
	const act = $derived(l.button === 'own' ? l.ownButton : t(l.button as BillWord));
	const ENDS = { closed: 'closed', over: 'over', full: 'full' } as const;
</script>

<svelte:head><title>{l.title} · {data.shop}</title></svelte:head>

{#snippet box(name: string, label: string, asks: string, kind: { type?: string; auto?: string; first?: string } = {})}
	{#if asks !== 'no'}<label class="mt-2 block text-[13px]"
			>{label}{#if asks === 'may'}<span class="quiet">, {t('may')}</span>{/if}<input
				{name}
				type={kind.type ?? 'text'}
				autocomplete={(kind.auto ?? 'off') as 'name'}
				value={typed(name, kind.first)}
				required={asks === 'must'}
				aria-invalid={errors[name] ? 'true' : undefined}
			/>{#if errors[name]}<span class="wrong" role="alert">{errors[name]}</span>{/if}</label
		>{/if}
{/snippet}

<PayerPage shop={data.shop} colour={data.colour} test={data.test} logo={data.logo} sum={l.sum} about={l.title}>
	{#if told.says}<p class="note clay mb-4" role="alert">{told.says}</p>{/if}
	{#if l.picture}<img src={l.picture} alt="" class="mb-3 max-h-48 w-full object-cover" />{/if}
	{#if l.about}<p class="mb-3 whitespace-pre-line">{l.about}</p>{/if}
	{#if data.end}<p class="note">{t(ENDS[data.end])}</p>
	{:else if !data.canBePaid}<p class="note clay">{t('nothingNow')}</p>
	{:else}
		{#if l.left !== null && l.left <= 10}<p class="quiet">
				{l.left === 1 ? t('onePlaceLeft') : t('placesLeft', String(l.left))}
			</p>{/if}
		<form method="post" use:enhance={lead as never}>
			{#if l.asksFor === 'goods'}
				<ul>
					{#each l.goods as one (one.id)}<li
							class="border-rule grid grid-cols-[1fr_auto] items-center gap-3 border-t py-2.5"
						>
							<span class="flex items-start gap-3"
								>{#if one.picture}<img src={one.picture} alt="" class="h-12 w-12 object-cover" />{/if}<span
									><b>{one.name}</b><span class="quiet block text-[13px]"
										>{one.price}{one.about ? `, ${one.about}` : ''}</span
									></span
								></span
							>
							{#if one.isSoldOut}<span class="quiet">{t('soldOut')}</span>
							{:else if one.fixed}<span>1 ×</span>
							{:else if !l.several}<input
									type="radio"
									name="chosen"
									value={one.id}
									aria-label={one.name}
									checked={typed('chosen') === one.id}
									class="h-5 w-5"
								/>
							{:else}<input
									class="n !w-20"
									type="number"
									min="0"
									max={one.most}
									name="quantity-{one.id}"
									aria-label="{t('howMany')}: {one.name}"
									value={typed(
										`quantity-${one.id}`,
										l.filled.quantity && l.goods.length === 1 ? l.filled.quantity : ''
									)}
								/>{/if}
						</li>{/each}
				</ul>
			{:else if l.asksFor === 'free sum'}
				<label class="mt-2 block text-[13px]"
					>{t('howMuch', l.currency)}<input
						name="sum"
						inputmode="decimal"
						class="!text-[22px]"
						value={typed('sum', l.told)}
						readonly={!!l.told}
					/></label
				>
				{#if l.free.least && l.free.most}<p class="quiet text-[13px]">
						{t('between', l.free.least, l.free.most)}
					</p>{:else if l.free.least}<p class="quiet text-[13px]">
						{t('atLeast', l.free.least)}
					</p>{:else if l.free.most}<p class="quiet text-[13px]">{t('atMost', l.free.most)}</p>{/if}
				{#if l.free.suggested.length && !l.told}<div class="mt-2 flex flex-wrap gap-2">
						{#each l.free.suggested as one (one.plain)}<label class="suggested"
								><input type="radio" name="suggested" value={one.plain} /> {one.says}</label
							>{/each}
					</div>{/if}
			{/if}
			{@render box('name', t('name'), l.asks.name, { auto: 'name', first: l.filled.name })}
			{@render box('mail', t('mail'), l.asks.mail, { type: 'email', auto: 'email', first: l.filled.mail })}
			{@render box('phone', t('phone'), l.asks.phone, { type: 'tel', auto: 'tel', first: l.filled.phone })}
			{@render box('taxNumber', t('taxNumber'), l.asks.taxNumber)}
			{#if l.asks.address !== 'no'}
				{@render box('street', t('street'), l.asks.address, { auto: 'street-address' })}
				<div class="grid grid-cols-[8rem_1fr] gap-x-3">
					{@render box('postcode', t('postcode'), l.asks.address, { auto: 'postal-code' })}
					{@render box('city', t('city'), l.asks.address, { auto: 'address-level2' })}
				</div>
				<label class="mt-2 block text-[13px]"
					>{t('country')}<select name="country" autocomplete="country" value={typed('country', data.country)}
						>{#each data.countries as one (one.code)}<option value={one.code}>{one.name}</option>{/each}</select
					></label
				>
			{/if}
			{#each l.fields as field (field.id)}
				<label class="mt-2 block text-[13px]"
					>{field.label}{#if !field.must}<span class="quiet">, {t('may')}</span>{/if}
					{#if field.kind === 'choice'}<select
							name="field-{field.id}"
							value={typed(`field-${field.id}`, field.value)}
							aria-invalid={errors[`field-${field.id}`] ? 'true' : undefined}
							><option value=""></option>{#each field.choices as choice (choice)}<option>{choice}</option
								>{/each}</select
						>
					{:else}<input
							name="field-{field.id}"
							type={field.kind === 'date' ? 'date' : 'text'}
							inputmode={field.kind === 'number' ? 'decimal' : undefined}
							value={typed(`field-${field.id}`, field.value)}
							required={field.must}
							aria-invalid={errors[`field-${field.id}`] ? 'true' : undefined}
						/>{/if}
					{#if errors[`field-${field.id}`]}<span class="wrong" role="alert">{errors[`field-${field.id}`]}</span
						>{/if}</label
				>
			{/each}
			{#if l.takesCodes}{@render box('code', t('discountCode'), 'may')}{/if}
			<button class="act">{act}</button>
		</form>
	{/if}
</PayerPage>

<style>
	.act {
		display: block;
		width: 100%;
		text-align: center;
		padding: 13px;
		border-radius: 3px;
		font-weight: 600;
		margin-top: 14px;
		cursor: pointer;
		background: var(--till);
		color: #fff;
	}
	.suggested {
		border: 1px solid var(--rule-strong);
		border-radius: 3px;
		padding: 8px 12px;
		display: inline-flex;
		gap: 6px;
		align-items: center;
		min-height: 44px;
	}
</style>
