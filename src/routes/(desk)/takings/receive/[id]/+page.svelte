<script lang="ts">
	import { enhance } from '$app/forms';
	import { DayInput, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const p = $derived(data.payment);
	const typed = $derived(form && 'typed' in form ? (form.typed as Record<string, string>) : undefined);
	const says = $derived(form && 'says' in form ? form.says : undefined);
	let how = $state('');
	const isWhole = $derived(p.over >= 0 && p.taken !== '');
</script>

<Sheet title={p.payer.name || p.reference} about="{p.reference} · {p.method} · asked {p.amount}">
	{#if says}
		<div class="note moss mt-3" role="status">
			<p>{says}</p>
			<div class="mt-2 flex flex-wrap gap-2">
				{#if form && 'undo' in form && form.undo}<form method="post" action="?/reverse" use:enhance>
						<input type="hidden" name="event" value={form.undo} /><button class="button">Reverse it</button>
					</form>{/if}
				<a class="button" href="/takings/receive">Next order</a>
			</div>
		</div>
	{/if}
	{#if isWhole && !says}<p class="note moss mt-3">
			It is paid in full. What comes beyond it is recorded all the same.
		</p>{/if}
	<form
		method="post"
		action="?/record"
		class="mt-3"
		use:enhance={() =>
			async ({ update, result }) => {
				await update({ reset: result.type === 'success' });
				if (result.type === 'success') how = '';
			}}
	>
		<input type="hidden" name="key" value={p.receiptKey} />
		<input type="hidden" name="how" value={how || typed?.how || ''} />
		<fieldset>
			<legend class="legend">How was it paid?</legend>
			<div class="ways">
				{#each data.ways as way (way)}
					<button
						type="button"
						class="button"
						class:main={(how || typed?.how) === way}
						aria-pressed={(how || typed?.how) === way}
						onclick={() => (how = way)}>{way[0]!.toUpperCase() + way.slice(1)}</button
					>
				{/each}
			</div>
		</fieldset>
		<label class="mt-3 block"
			><span class="legend">Amount, in {p.currency}</span><input
				name="amount"
				inputmode="decimal"
				class="!py-2.5 !text-[17px]"
				value={typed?.amount ?? p.missing}
				aria-invalid={form && 'wrong' in form ? 'true' : undefined}
			/></label
		>
		<details class="mt-3">
			<summary class="why inline-block">Another day, or a note</summary>
			<label class="mt-2 block"
				><span class="legend">On</span><DayInput
					name="day"
					locale={data.locale}
					value={typed?.day ?? data.today}
				/></label
			>
			<label class="mt-2 block"
				><span class="legend">Note</span><input name="note" maxlength="300" value={typed?.note ?? ''} /></label
			>
		</details>
		{#if form && 'wrong' in form}<p class="wrong mt-2" role="alert">{form.wrong}</p>{/if}
		<button class="button main wide mt-4" data-save disabled={!(how || typed?.how)}>Record receipt</button>
		{#if !(how || typed?.how)}<p class="quiet mt-1 text-center">Choose how it was paid first.</p>{/if}
	</form>
	<p class="mt-4"><a class="why" href="/takings/payments/{p.id}">All about this payment</a></p>
</Sheet>
<Workings
	first={{
		title: 'What has come',
		steps: [
			{ title: 'Asked', sum: p.amount },
			{ title: 'Received', sum: p.taken || '—' },
			{ title: p.over > 0 ? 'Too much' : 'Still missing', sum: p.overText || (p.taken ? '—' : p.amount), total: true }
		]
	}}
/>

<style>
	.ways {
		display: grid;
		grid-template-columns: 1fr 1fr;
		gap: 8px;
	}
	.ways .button {
		min-height: 48px;
		text-align: center;
		justify-content: center;
	}
</style>
