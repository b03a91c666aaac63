<script lang="ts">
	import { enhance } from '$app/forms';
	import { Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const m = $derived(data.message);
</script>

<Sheet
	title={m.subject || m.event}
	about="{m.event} by {m.channel} to {m.toName ? `${m.toName}, ` : ''}{m.to} · {m.stateSays}"
>
	{#snippet acts()}<form method="post" use:enhance>
			<button class="button main">{m.state === 'waiting' ? 'Try now' : 'Send again'}</button>
		</form>{/snippet}
	<Said form={form as never} />
	{#if m.says && m.state !== 'sent'}<p class="note clay mt-3">{m.says}</p>{/if}
	<p class="mt-4 max-w-[66ch] whitespace-pre-line">{m.body}</p>
	<p class="mt-5 flex gap-3">
		{#if m.invoiceId}<a class="underline" href="/bill/invoices/{m.invoiceId}">The document</a>{/if}{#if m.payerId}<a
				class="underline"
				href="/bill/payers/{m.payerId}">The payer</a
			>{/if}{#if m.paymentId}<a class="underline" href="/takings/payments/{m.paymentId}">The payment</a>{/if}
	</p>
</Sheet>
<Workings
	first={{
		title: 'What became of it',
		steps: [
			{ title: 'Written', sub: `${m.when}, ${m.by === 'itself' ? 'by itself' : m.by}` },
			{
				title: `${m.tries} ${m.tries === 1 ? 'try' : 'tries'}`,
				sub: m.sent ? `sent ${m.sent}` : m.next ? `next try ${m.next}` : m.stateSays
			}
		]
	}}
/>
