<script lang="ts">
	import { enhance } from '$app/forms';
	import PayerPage from '$lib/ui/PayerPage.svelte';
	import { billWord, type BillWord } from '$lib/ui/billWords';
	const { data, form } = $props();
	const t = (word: BillWord, ...fill: string[]) => billWord(data.language, word, ...fill);
	const told = $derived((form ?? {}) as { says?: string; sent?: string; mail?: string });
</script>

<svelte:head><title>{t('signIn')} · {data.shop}</title></svelte:head>

<PayerPage shop={data.shop} colour={data.colour} test={false} logo={data.logo}>
	<h1 class="!text-[22px]">{t('signIn')}</h1>
	{#if told.says}<p class="note clay mt-3" role="alert">{told.says}</p>{/if}
	{#if told.sent}
		<p class="mt-3" role="status">{t('codeSent', told.sent)}</p>
		<form method="post" action="?/enter" use:enhance class="mt-3">
			<input type="hidden" name="mail" value={told.sent} />
			<input type="hidden" name="back" value={data.back} />
			<label class="block text-[13px]"
				>{t('code')}<input
					name="code"
					inputmode="numeric"
					autocomplete="one-time-code"
					maxlength="8"
					class="!text-[20px]"
				/></label
			>
			<button class="act">{t('enter')}</button>
		</form>
	{:else}
		<p class="quiet mt-2">{t('signInHelp')}</p>
		<form method="post" action="?/code" use:enhance class="mt-3">
			<label class="block text-[13px]"
				>{t('mail')}<input name="mail" type="email" autocomplete="email" value={told.mail ?? ''} /></label
			>
			<button class="act">{t('sendCode')}</button>
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
		margin-top: 12px;
		cursor: pointer;
		background: var(--till);
		color: #fff;
	}
</style>
