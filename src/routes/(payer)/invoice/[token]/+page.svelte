<script lang="ts">
	import { enhance } from '$app/forms';
	import PayerPage from '$lib/ui/PayerPage.svelte';
	import { billWord, type BillWord } from '$lib/ui/billWords';
	const { data, form } = $props();
	const d = $derived(data.document);
	const t = (word: BillWord, ...fill: string[]) => billWord(data.language, word, ...fill);
	const told = $derived((form ?? {}) as { says?: string; asksAgain?: boolean; declined?: boolean });
	const canPay = $derived(d.kind === 'invoice' && !!d.payNow && data.canBePaid);
	/** Another site: the browser goes there itself. */
	const lead =
		() =>
		async ({ result, update }: { result: { type: string; location?: string }; update: () => Promise<void> }) => {
			if (result.type === 'redirect' && result.location) location.href = result.location;
			else await update();
		};
</script>

<svelte:head><title>{t(d.kind, d.number)} · {data.shop}</title></svelte:head>

<PayerPage
	shop={data.shop}
	colour={data.colour}
	test={data.test}
	logo={data.logo}
	sum={d.sum}
	about="{t(d.kind, d.number)}{d.purpose ? `, ${d.purpose}` : ''}"
>
	{#if told.says}<p class="note clay mb-4" role="alert">{told.says}</p>{/if}
	{#if d.to}<p class="quiet mb-2 text-[13px]">{t('forWhom', d.to)}</p>{/if}
	{#if d.kind === 'invoice'}
		{#if d.state === 'void'}<p class="note">{t('void')}</p>
		{:else if d.state === 'paid'}<p class="note moss" role="status">{t('paid')}</p>
		{:else}
			{#if d.came}<p>{t('came', d.came)}</p>{/if}
			{#if d.coming}<p class="note moss mt-2" role="status">{t('coming', d.coming)}</p>{/if}
			{#if d.debit}<p class="note moss mt-2" role="status">{t('debitComes', d.debit.sum, d.debit.day)}</p>{/if}
			{#if !data.canBePaid}<p class="note clay mt-3">{t('nothingNow')}</p>
			{:else if d.isComing || told.asksAgain}
				<p class="mt-3">{t('comingAsk')}</p>
				<form method="post" action="?/pay" use:enhance={lead as never} class="mt-2">
					<input type="hidden" name="insists" value="yes" /><button class="second">{t('paySecond')}</button>
				</form>
			{:else if canPay}
				<form method="post" action="?/pay" use:enhance={lead as never}>
					<button class="act">{t('payNow', d.payNow)}</button>
				</form>
				{#if d.payAll}<form method="post" action="?/pay" use:enhance={lead as never}>
						<input type="hidden" name="all" value="yes" /><button class="second">{t('payAll', d.payAll)}</button>
					</form>{/if}
			{/if}
		{/if}
	{:else if d.kind === 'quote'}
		{#if d.state === 'accepted'}
			<p class="note moss" role="status">
				{t('accepted', d.answeredBy, d.answered)}
				{#if d.made}{t('acceptedPay', d.made.number)}{/if}
			</p>
			{#if d.made}<a class="act" href="/invoice/{d.made.token}">{t('seeInvoice')}</a>{/if}
		{:else if d.state === 'declined' || told.declined}<p class="note" role="status">{t('declined', d.answeredBy)}</p>
		{:else if d.state === 'expired'}<p class="note clay">{t('expired', d.until)}</p>
		{:else}
			<p class="quiet">{t('goodUntil', d.until)}</p>
			<form method="post" action="?/answer" use:enhance class="mt-2">
				<label class="block text-[13px]"
					>{t('yourName')}<input name="name" autocomplete="name" value={d.to} maxlength="120" required /></label
				>
				<button class="act" name="answer" value="accepted">{t('accept', d.total)}</button>
				<button class="second" name="answer" value="declined" formnovalidate>{t('decline')}</button>
			</form>
		{/if}
	{/if}
	{#if d.noteTop}<p class="mt-4 whitespace-pre-line">{d.noteTop}</p>{/if}
	<ul class="mt-4 text-[14px]">
		{#each d.lines as line, at (at)}<li class="border-rule flex justify-between gap-3 border-t py-1.5">
				<span class="whitespace-pre-line"
					>{line.quantity === '1' ? '' : `${line.quantity} ${line.unit || '×'} `}{line.text}</span
				><span class="whitespace-nowrap">{line.sum}</span>
			</li>{/each}
		{#each d.discounts as one, at (at)}<li class="border-rule flex justify-between gap-3 border-t py-1.5">
				<span>{one.name}</span><span>{one.sum}</span>
			</li>{/each}
		<li class="border-rule flex justify-between gap-3 border-y py-1.5 font-semibold">
			<span>{t('total')}</span><span>{d.total}</span>
		</li>
	</ul>
	{#if d.dues.length > 1}<ul class="mt-3 text-[14px]">
			{#each d.dues as due, at (at)}<li class:text-clay={due.isLate}>
					{due.isPaid ? '✓ ' : ''}{t('dueBy', due.sum, due.day)}
				</li>{/each}
		</ul>{:else if d.dues[0] && d.state !== 'paid'}<p class="mt-3" class:text-clay={d.dues[0].isLate}>
			{t('dueBy', d.open, d.dues[0].day)}
		</p>{/if}
	<p class="mt-4"><a class="underline" href="/invoice/{data.token}/pdf">{t('download')}</a></p>
	{#if d.noteFoot}<p class="mt-4 whitespace-pre-line text-[13px]">{d.noteFoot}</p>{/if}
	{#if d.terms}<p class="quiet mt-3 whitespace-pre-line text-[12px]">{d.terms}</p>{/if}
</PayerPage>

<style>
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
		text-decoration: none;
	}
	.act {
		background: var(--till);
		color: #fff;
	}
	.second {
		border: 1px solid var(--rule-strong);
	}
</style>
