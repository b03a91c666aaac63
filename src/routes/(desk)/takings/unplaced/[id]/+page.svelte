<script lang="ts">
	import { enhance } from '$app/forms';
	import { formatDay } from '$lib/core/calendar';
	import { Said, Sheet, Workings } from '$lib/ui';
	import PayerPicker from '$lib/ui/PayerPicker.svelte';
	const { data, form } = $props();
	const m = $derived(data.money);
	let payer = $state<{ id: string; name: string; mail: string }>();
	const typed = $derived(((form as { typed?: Record<string, string> } | null)?.typed ?? {}) as Record<string, string>);
</script>

<Sheet
	title={m.isOpen ? `${m.unplaced} to place` : `${m.came}, placed`}
	about={[m.day, m.from, m.iban].filter(Boolean).join(' · ')}
>
	{#snippet acts()}<a class="button" href="/takings/payments/{m.id}">The payment</a>{/snippet}
	{#if data.says && !form}<p class="note moss mt-3" role="status">{data.says}</p>{/if}
	<Said form={form as never} />
	<p class="verdict">
		{#if m.setAside}Set aside by {m.setAside.by}: {m.setAside.reason}.
		{:else if m.isOpen}{m.came} came{m.text ? `, saying “${m.text}”` : ''}. {m.suggestions.length
				? 'It looks like:'
				: 'Nothing that is open fits by itself: look for the invoice, or keep it as a payer’s credit.'}
		{:else}All of it is placed.{/if}
	</p>
	{#if m.setAside}<form method="post" action="?/aside" use:enhance class="mt-2">
			<button class="button">Take that back</button>
		</form>{/if}
	{#each m.suggestions as one, at (at)}
		<form
			method="post"
			action="?/suggested"
			use:enhance
			class="border-rule-strong mt-3 flex items-center justify-between gap-3 border p-3"
		>
			<div>
				{#each one.parts as part (part.invoiceId)}<input
						type="hidden"
						name="part"
						value="{part.invoiceId}:{part.minor}"
					/>
					<p>
						<b>{part.sum}</b> on <a class="underline" href="/bill/invoices/{part.invoiceId}">{part.number}</a>, {part.payer}
					</p>{/each}
				<p class="sub">{one.isSure ? 'Sure: ' : ''}{one.reasons.join(', ')}</p>
			</div>
			<button class="button" class:main={at === 0}>Place it so</button>
		</form>
	{/each}
	{#if m.isOpen}
		<h2>Place it by hand</h2>
		<form method="get" class="flex items-end gap-2">
			<label class="text-[12px]"
				><span class="quiet block">Number or payer begins with</span><input
					name="q"
					value={data.q}
					class="!w-56"
				/></label
			><button class="button">Find open invoices</button>
		</form>
		{#if data.found.length}<form
				method="post"
				action="?/place"
				use:enhance={() =>
					async ({ update }) =>
						update({ reset: false })}
			>
				<table class="mt-2">
					<thead
						><tr
							><th>Invoice</th><th>Payer</th><th>Due</th><th class="n">Open</th><th class="n">Place, in {m.currency}</th
							></tr
						></thead
					><tbody
						>{#each data.found as one (one.id)}<tr
								><td>{one.number}</td><td>{one.payer}</td><td>{one.due ? formatDay(one.due, data.locale) : ''}</td><td
									class="n">{one.open}</td
								><td class="n"
									><input
										name="part-{one.id}"
										class="n !w-28"
										inputmode="decimal"
										aria-label="Place on {one.number}"
										value={typed[`part-${one.id}`] ?? ''}
									/></td
								></tr
							>{/each}</tbody
					>
				</table>
				<button class="button mt-2">Place these parts</button>
			</form>{:else if data.q}<p class="quiet mt-2">No open invoice in {m.currency} begins so.</p>{/if}
		<h2>Or keep it</h2>
		<form method="post" action="?/credit" use:enhance class="flex items-end gap-2">
			<div class="w-72"><PayerPicker value={payer} onpick={(one) => (payer = one)} label="As the credit of" /></div>
			<input type="hidden" name="payer" value={payer?.id ?? ''} /><button class="button" disabled={!payer}
				>Keep as credit</button
			>
		</form>
		{#if m.payer}<p class="mt-1">
				It is <a class="underline" href="/bill/payers/{m.payer.id}">{m.payer.name}</a>’s credit.
			</p>{/if}
		<form method="post" action="?/aside" use:enhance class="mt-3 flex items-end gap-2">
			<input type="hidden" name="on" value="yes" /><label class="text-[12px]"
				><span class="quiet block">Ours, but for nothing here, because</span><input
					name="reason"
					class="!w-72"
				/></label
			><button class="button">Set aside</button>
		</form>
	{/if}
	{#if m.placed.length}<h2>Placed</h2>
		<table>
			<tbody
				>{#each m.placed as one, at (at)}<tr
						><td><a class="underline" href="/bill/invoices/{one.invoiceId}">{one.number}</a></td><td
							>{one.by === 'itself' ? 'by itself' : `by ${one.by}`}</td
						><td class="n">{one.sum}</td><td class="n"
							><form method="post" action="?/back" use:enhance>
								<input type="hidden" name="invoice" value={one.invoiceId} /><button
									class="why"
									aria-label="Take {one.sum} back from {one.number}">Take back</button
								>
							</form></td
						></tr
					>{/each}</tbody
			>
		</table>{/if}
</Sheet>
<Workings>
	<h2>Every step</h2>
	{#each m.steps as one, at (at)}<p class="step !grid-cols-[1fr_auto]">
			<span>{one.number}<span class="sub">{one.why}{one.by === 'itself' ? '' : `, ${one.by}`}</span></span><span
				>{one.sum}</span
			>
		</p>{:else}<p class="quiet">It was placed nowhere yet.</p>{/each}
	{#if m.reference}<p class="quiet mt-3">It carries <span class="mono">{m.reference}</span>.</p>{/if}
</Workings>
