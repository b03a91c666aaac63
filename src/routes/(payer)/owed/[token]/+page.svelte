<script lang="ts">
	import { enhance } from '$app/forms';
	import PayerPage from '$lib/ui/PayerPage.svelte';
	import { billWord, type BillWord } from '$lib/ui/billWords';
	const { data, form } = $props();
	const p = $derived(data.page);
	const t = (word: BillWord, ...fill: string[]) => billWord(data.language, word, ...fill);
	const lower = (text: string) => text[0]!.toLowerCase() + text.slice(1);
	const told = $derived((form ?? {}) as { says?: string; kept?: string });
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
</script>

<svelte:head><title>{t('owed')} · {data.shop}</title></svelte:head>

<PayerPage shop={data.shop} colour={data.colour} test={data.test} logo={data.logo} about={t('forWhom', p.name)}>
	{#if told.says}<p class="note clay mb-4" role="alert">{told.says}</p>{/if}
	{#if told.kept}<p class="note moss mb-4" role="status">{told.kept}</p>{/if}
	<h1 class="!text-[22px]">{p.owed.length ? t('owed') : t('owedNothing')}</h1>
	{#each p.owed as one (one.currency)}
		<section class="mt-3" aria-label={one.currency}>
			<p class="sum">{one.sum}</p>
			{#if one.coming}<p class="note moss mt-2">{t('coming', one.coming)}</p>{/if}
			<form method="post" action="?/pay" use:enhance={lead as never}>
				<input type="hidden" name="currency" value={one.currency} />
				<ul class="mt-2">
					{#each one.invoices as invoice (invoice.id)}<li
							class="border-rule grid grid-cols-[auto_1fr_auto] items-start gap-2 border-t py-2.5"
						>
							<input
								type="checkbox"
								name="invoice"
								value={invoice.id}
								aria-label="{t('choose')}: {invoice.number}"
								class="mt-1 h-5 w-5"
								checked={one.invoices.length === 1}
							/>
							<span
								><a class="font-semibold underline" href="/invoice/{invoice.token}">{invoice.number}</a>
								{invoice.purpose}<span class="block text-[13px]" class:text-clay={invoice.isLate}
									>{t('dueBy', invoice.open, invoice.due)}{invoice.isLate ? `, ${t('overdue')}` : ''}</span
								>{#if invoice.coming}<span class="block text-[13px]">{t('coming', invoice.coming)}</span
									>{/if}{#if invoice.debit}<span class="block text-[13px]"
										>{t('debitFrom', invoice.debit.sum, invoice.debit.day, invoice.debit.account)}</span
									>{/if}</span
							><span class="whitespace-nowrap">{invoice.open}</span>
						</li>{/each}
				</ul>
				{#if one.rest}
					<button class="act" name="all" value="yes">{t('payAll', one.rest)}</button>
					{#if one.invoices.length > 1}<button class="second">{t('paySeveral')}</button>{/if}
				{/if}
			</form>
		</section>
	{/each}
	{#if p.canSwitch}<form method="post" action="?/prefers" use:enhance={lead as never} class="mt-4">
			<fieldset>
				<legend class="text-[13px]">{t('prefers')}</legend>
				<div class="mt-1 flex flex-wrap gap-2">
					{#each [['online', t('online')], ['offline', t('offline')], ['', t('noMatter')]] as [value, says] (value)}<button
							name="prefers"
							{value}
							class="choice"
							aria-pressed={p.details.prefers === value}>{says}</button
						>{/each}
				</div>
			</fieldset>
		</form>{/if}
	{#if p.credit.length}<p class="note mt-4">{t('credit', p.credit.join(', '))}</p>{/if}
	{#if p.quotes.length}<h2>{t('quotes')}</h2>
		<ul>
			{#each p.quotes as one (one.token)}<li class="border-rule flex justify-between gap-3 border-t py-2">
					<span
						><a class="underline" href="/invoice/{one.token}">{one.number}</a><span class="quiet block text-[13px]"
							>{t('goodUntil', one.until)}</span
						></span
					><span>{one.total}</span>
				</li>{/each}
		</ul>{/if}
	<h2>{t('stored')}</h2>
	{#if p.stored.length}<ul>
			{#each p.stored as one (one.id)}<li
					class="border-rule flex flex-wrap items-center justify-between gap-x-3 border-t py-2"
				>
					<span
						><b>{one.name}</b>{#if one.isDefault}<span class="quiet text-[13px]">, {t('usedFirst')}</span>{/if}<span
							class="quiet block text-[13px]"
							>{t('keptAt', one.processor)}{one.until ? `, ${lower(t('goodUntil', one.until))}` : ''}{one.mandate
								? `, ${t('mandate', one.mandate)}`
								: ''}{one.isAsleep ? `, ${t('asleep')}` : ''}</span
						></span
					>
					<form method="post" action="?/stored" use:enhance={lead as never} class="flex gap-3">
						<input type="hidden" name="id" value={one.id} />
						<input type="hidden" name="name" value={one.name} />
						{#if !one.isDefault && !one.isAsleep}<button class="min-h-8 underline" name="act" value="default"
								>{t('useFirst')}<span class="sr-only">: {one.name}</span></button
							>{/if}
						<button class="min-h-8 underline" name="act" value="end"
							>{t('endStored')}<span class="sr-only">: {one.name}</span></button
						>
					</form>
				</li>{/each}
		</ul>{:else}<p class="quiet text-[14px]">{t('storedHelp')}</p>{/if}
	{#if p.messages.length}<h2>{t('messages')}</h2>
		{#each p.messages as one, at (at)}<details class="border-rule border-t py-2">
				<summary class="cursor-pointer">{one.subject} <span class="quiet text-[13px]">{one.day}</span></summary>
				<p class="mt-2 whitespace-pre-line text-[14px]">{one.body}</p>
			</details>{/each}{/if}
	<h2>{t('receipts')}</h2>
	<ul>
		{#each p.paid as one, at (at)}<li class="border-rule flex justify-between gap-3 border-t py-2">
				<span
					>{#if one.token}<a class="underline" href="/paid/{one.token}">{one.reference}</a
						>{:else}{one.reference}{/if}<span class="quiet block text-[13px]">{one.day}, {one.method}</span></span
				><span>{one.sum}</span>
			</li>{:else}<li class="quiet">{t('none')}</li>{/each}
	</ul>
	<h2>{t('invoices')}</h2>
	<ul>
		{#each p.documents as one (one.token)}<li class="border-rule flex justify-between gap-3 border-t py-2">
				<span
					><a class="underline" href="/invoice/{one.token}">{t(one.kind, one.number)}</a><span
						class="quiet block text-[13px]"
						>{one.day} · <a class="underline" href="/invoice/{one.token}/pdf">PDF</a></span
					></span
				><span>{one.total}</span>
			</li>{:else}<li class="quiet">{t('none')}</li>{/each}
	</ul>
	<h2>{t('details')}</h2>
	<form method="post" action="?/details" use:enhance={lead as never}>
		<label class="mt-2 block text-[13px]"
			>{t('name')}<input name="name" autocomplete="name" value={p.details.name} /></label
		>
		<label class="mt-2 block text-[13px]"
			>{t('phone')}<input name="phone" type="tel" autocomplete="tel" value={p.details.phone} /></label
		>
		<label class="mt-2 block text-[13px]"
			>{t('language')}<select name="language" value={p.details.language}
				><option value=""></option><option value="en">English</option><option value="nl">Nederlands</option><option
					value="fr">Français</option
				><option value="de">Deutsch</option></select
			></label
		>
		<button class="second">{t('save')}</button>
	</form>
	{#if data.isSignedIn}<form method="post" action="/owed?/leave" class="mt-4">
			<button class="underline">{t('signOut')}</button>
		</form>{/if}
</PayerPage>

<style>
	.sum {
		font: 600 32px/1.1 var(--font-display);
	}
	.act,
	.second {
		display: block;
		width: 100%;
		text-align: center;
		padding: 13px;
		border-radius: 3px;
		font-weight: 600;
		margin-top: 12px;
		cursor: pointer;
	}
	.act {
		background: var(--till);
		color: #fff;
	}
	.choice {
		min-height: 40px;
		border: 1px solid var(--rule-strong);
		border-radius: 3px;
		padding: 4px 12px;
		font-size: 14px;
		cursor: pointer;
	}
	.choice[aria-pressed='true'] {
		background: var(--till);
		border-color: var(--till);
		color: #fff;
	}
	.second {
		border: 1px solid var(--rule-strong);
	}
</style>
