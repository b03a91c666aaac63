<script lang="ts">
	import { enhance } from '$app/forms';
	import type { Verdict as VerdictOf, Working } from '$lib/core/workings';
	import { page } from '$app/state';
	import DayInput from './DayInput.svelte';
	import DuesRuler from './DuesRuler.svelte';
	import Figure from './Figure.svelte';
	import Said from './Said.svelte';
	import Sheet from './Sheet.svelte';
	import StageStrip from './StageStrip.svelte';
	import Verdict from './Verdict.svelte';
	import Workings from './Workings.svelte';

	interface View {
		readonly id: number;
		readonly kind: 'invoice' | 'quote' | 'credit note';
		readonly number: string;
		readonly state: string;
		readonly currency: string;
		readonly payer?: { id: string; name: string; mail: string; phone: string; channel: string; isRemoved: boolean };
		readonly till?: { name: string; slug: string; test: boolean };
		readonly day: string;
		readonly approved: string;
		readonly approvedBy: string;
		readonly sent: string;
		readonly opened: number;
		readonly openedDay: string;
		readonly isHeld: boolean;
		readonly isWrittenOff: boolean;
		readonly outside: string;
		readonly creditorReference: string;
		readonly of?: { id: number; number: string; kind: string };
		readonly made?: { id: number; number: string };
		readonly openMinor: number;
		readonly placedMinor: number;
		readonly open: string;
		readonly creditable: boolean;
		readonly verdict: VerdictOf;
		readonly ruler: { day: string; says: string; sum: string; paid: number; coming: number; isLate: boolean }[];
		readonly today: { day: string; says: string };
		readonly sums: {
			content: { noteTop: string; noteFoot: string; terms: string; fields: { name: string; value: string }[] };
			lines: { text: string; quantity: string; unit: string; price: string; rate: string; off: string; sum: string }[];
			discounts: { name: string; sum: string }[];
			net?: string;
			tax?: string;
			total?: string;
			working?: Working;
		};
		readonly payments: {
			id: number;
			day: string;
			method: string;
			route: string;
			stage: string;
			reachedStep: number;
			brokenStep: number;
			placed: string;
			by: string;
			coming: string;
			amount: string;
			gratuity: string;
			fee: string;
		}[];
		readonly proof: { working: Working; text: string; adds: boolean };
		readonly notes: { id: number; number: string; total: string; day: string; isApproved: boolean }[];
		readonly happened: { when: string; says: string; by: string; href: string; bad: boolean }[];
		readonly ways?: {
			till: string;
			slug?: string;
			version: number;
			offered: string[];
			withheld: { name: string; why: string }[];
		};
		readonly debits: {
			id: number;
			state: 'announced' | 'made' | 'called off' | 'not made';
			sum: string;
			says: string;
			account: string;
			mandate: string;
			message: number | null;
			payment: number | null;
			why: string;
			hasBegun: boolean;
		}[];
		readonly collectables: {
			storedId: number;
			name: string;
			reference: string;
			noticeDays: number;
			day: string;
			says: string;
			minor: number;
			sum: string;
			why: string;
		}[];
		readonly link: string;
		readonly owedLink: string;
		readonly credit: string;
	}
	interface Data {
		readonly view: View;
		readonly code: string;
		readonly receiptKey: string;
		readonly ways: readonly string[];
		readonly today: string;
	}
	/** An invoice, a quote or a credit note as it stands: what was asked, what came, what is open, what happened. */
	const { data, form }: { data: Data; form: unknown } = $props();
	const v = $derived(data.view);
	const locale = $derived((page.data.locale as string) ?? 'en-GB');
	const told = $derived(
		(form ?? {}) as { receiving?: { errors: Record<string, string>; values: Record<string, string> } }
	);
	const debit = $derived(v.debits[0]);
	const isOpen = $derived(v.kind === 'invoice' && v.openMinor > 0);
	const title = $derived({ invoice: 'Invoice', quote: 'Quote', 'credit note': 'Credit note' }[v.kind]);
	let collecting = $state(false);
	let copied = $state('');
	async function copy(text: string, what: string) {
		await navigator.clipboard.writeText(text);
		copied = what;
	}
	const about = $derived(
		[
			v.payer?.name,
			v.till?.name,
			v.approved ? `approved ${v.approved} by ${v.approvedBy}` : v.day,
			v.sent ? `sent ${v.sent === v.approved ? 'the same day' : v.sent}` : 'not sent yet',
			v.opened ? `opened ${v.opened === 1 ? 'once' : `${v.opened} times`}` : ''
		]
			.filter(Boolean)
			.join(' · ')
	);
</script>

<Sheet title="{title} {v.number}" {about} test={v.till?.test ?? false}>
	{#snippet acts()}
		<a class="button" href="/bill/invoices/{v.id}/pdf" target="_blank">PDF</a>
		{#if isOpen}<button class="button main" aria-expanded={collecting} onclick={() => (collecting = !collecting)}
				>Collect…</button
			>{/if}
	{/snippet}
	<Verdict verdict={v.verdict} />
	<Said form={form as never} />
	{#if v.isHeld}<p class="note mt-3">Held: nothing is sent for it by itself.</p>{/if}
	{#if v.ruler.length}<DuesRuler dues={v.ruler} today={v.today} />{/if}
	{#if debit && (debit.state === 'announced' || (debit.state === 'not made' && isOpen))}
		<div class="note mt-3 flex flex-wrap items-baseline gap-x-3" class:clay={debit.state === 'not made'}>
			{#if debit.state === 'announced'}
				<p>
					{debit.sum} is collected on {debit.says} from {debit.account}, by mandate
					<span class="mono">{debit.mandate}</span>{#if debit.message}, as
						<a class="underline" href="/bill/messages/{debit.message}">its payer was told</a>{/if}.{debit.why
						? ` It could not be begun yet: ${debit.why}`
						: ''}
				</p>
				{#if !debit.hasBegun}<form method="post" action="?/callOff" use:enhance>
						<input type="hidden" name="debit" value={debit.id} /><button class="why min-h-[24px]"
							>Call off<span class="sr-only"> the debit of {debit.says}</span></button
						>
					</form>{/if}
			{:else}<p>
					The debit of {debit.sum} announced for {debit.says} was not made. {debit.why}
					{#if debit.payment}<a class="underline" href="/takings/payments/{debit.payment}">See the payment</a>.{/if} Announce
					it again under Collect, or ask for the money another way.
				</p>{/if}
		</div>
	{/if}

	{#if collecting || told.receiving}
		<section class="border-rule-strong mt-3 border p-4" aria-label="Collect">
			<h2 class="!mt-0">Collect {v.open}</h2>
			<form method="post" action="?/send" use:enhance class="flex flex-wrap items-center gap-3">
				<input type="hidden" name="event" value={v.sent ? 'reminder' : ''} />
				<label class="inline-flex min-h-[24px] items-center gap-1"
					><input type="checkbox" name="mail" checked={v.payer?.channel !== 'text'} disabled={!v.payer?.mail} /> by mail{v
						.payer?.mail
						? `, ${v.payer.mail}`
						: ' (no address)'}</label
				>
				<label class="inline-flex min-h-[24px] items-center gap-1"
					><input type="checkbox" name="text" checked={v.payer?.channel === 'text'} disabled={!v.payer?.phone} /> by
					text{v.payer?.phone ? `, ${v.payer.phone}` : ' (no phone)'}</label
				>
				<button class="button main">{v.sent ? 'Send a reminder' : 'Send the link'}</button>
			</form>
			<div class="mt-3 flex flex-wrap items-start gap-5">
				<div>
					<p class="quiet text-[12px]">The payer’s address</p>
					<p class="mono max-w-[340px] break-all" id="invoice-link">{v.link}</p>
					<button type="button" class="button small mt-1" onclick={() => copy(v.link, 'The address')}
						>Copy address</button
					>
					{#if v.owedLink}<button
							type="button"
							class="button small mt-1"
							onclick={() => copy(v.owedLink, 'The address for all that is owed')}
							>Copy address for all that is owed</button
						>{/if}
					<span role="status" class="text-[12px]">{copied ? `${copied} is copied.` : ''}</span>
				</div>
				<figure class="w-32 bg-white" aria-label="QR code of the payer’s address">
					<!-- eslint-disable-next-line svelte/no-at-html-tags (drawn by the server from an address of its own) -->
					{@html data.code}
				</figure>
			</div>
			<h3 class="mt-4 font-semibold">Take money offline</h3>
			<form method="post" action="?/receive" use:enhance class="mt-1 flex flex-wrap items-end gap-2">
				<input type="hidden" name="key" value={data.receiptKey} />
				<label
					><span class="quiet block text-[12px]">Amount, in {v.currency}</span><input
						name="amount"
						inputmode="decimal"
						class="!w-32"
						value={told.receiving?.values.amount ?? v.open.replace(` ${v.currency}`, '')}
						aria-invalid={told.receiving?.errors.amount ? 'true' : undefined}
					/></label
				>
				<label
					><span class="quiet block text-[12px]">How</span><select
						name="how"
						class="!w-40"
						value={told.receiving?.values.how ?? 'cash'}
						>{#each data.ways as way (way)}<option>{way}</option>{/each}</select
					></label
				>
				<label
					><span class="quiet block text-[12px]">Day</span><DayInput
						name="day"
						value={told.receiving?.values.day ?? data.today}
						{locale}
						class="!w-32"
					/></label
				>
				<label
					><span class="quiet block text-[12px]">Note</span><input
						name="note"
						class="!w-48"
						value={told.receiving?.values.note ?? ''}
					/></label
				>
				<button class="button">Record receipt</button>
			</form>
			{#each Object.values(told.receiving?.errors ?? {}) as one, at (at)}<p class="wrong" role="alert">{one}</p>{/each}
			{#if v.collectables.length && debit?.state !== 'announced'}
				<h3 class="mt-4 font-semibold">Collect by bank debit</h3>
				{#each v.collectables as one (one.storedId)}
					<form method="post" action="?/debit" use:enhance class="mt-1 flex flex-wrap items-center gap-3">
						<input type="hidden" name="storedId" value={one.storedId} /><input
							type="hidden"
							name="day"
							value={one.day}
						/><input type="hidden" name="minor" value={one.minor} />
						<p class="max-w-prose">
							<b>{one.name}</b>, mandate <span class="mono">{one.reference}</span>:
							{#if one.why}<span class="text-clay">{one.why}</span>{:else}{one.sum} on {one.says}, what is due by then. {v
									.payer?.name} is told now, {one.noticeDays === 1 ? 'a day' : `${one.noticeDays} days`} before.{/if}
						</p>
						{#if !one.why}<button class="button">Announce the debit</button>{/if}
					</form>
				{/each}
			{/if}
			{#if v.credit}<form method="post" action="?/credit" use:enhance class="mt-3">
					<button class="button">Use the payer’s credit of {v.credit}</button>
				</form>{/if}
		</section>
	{/if}

	{#if v.sums.content.noteTop}<p class="mt-3 whitespace-pre-line">{v.sums.content.noteTop}</p>{/if}
	{#if v.sums.content.fields.some((one) => one.value)}<dl class="mt-3 flex flex-wrap gap-x-6">
			{#each v.sums.content.fields.filter((one) => one.value) as one, at (at)}<div>
					<dt class="quiet text-[12px]">{one.name}</dt>
					<dd>{one.value}</dd>
				</div>{/each}
		</dl>{/if}
	<h2>Lines</h2>
	<table>
		<thead
			><tr
				><th>What</th><th class="n">Quantity</th><th class="n">Price</th><th class="n">Tax</th><th class="n">Sum</th
				></tr
			></thead
		>
		<tbody>
			{#each v.sums.lines as line, at (at)}<tr
					><td class="whitespace-pre-line font-semibold"
						>{line.text}{#if line.off}<span class="sub">less {line.off.replace('-', '')}</span>{/if}</td
					><td class="n">{line.quantity} {line.unit}</td><td class="n">{line.price}</td><td class="n">{line.rate}</td
					><td class="n">{line.sum}</td></tr
				>{/each}
			{#each v.sums.discounts as one, at (at)}<tr
					><td colspan="4" class="quiet">{one.name}</td><td class="n">{one.sum}</td></tr
				>{/each}
			<tr class="total"
				><td colspan="4">{v.sums.net} net + {v.sums.tax} tax</td><td class="n font-semibold"
					>{#if v.sums.working}<Figure working={v.sums.working}>{v.sums.total} {v.currency}</Figure>{/if}</td
				></tr
			>
		</tbody>
	</table>

	{#if v.kind === 'invoice'}
		<h2>Paid, and on its way</h2>
		<table>
			<thead
				><tr
					><th>When</th><th>How</th><th>How far</th><th class="n">Placed</th><th class="n">Fee</th><th
						><span class="sr-only">Acts</span></th
					></tr
				></thead
			>
			<tbody>
				{#each v.payments as one (one.id)}<tr
						><td>{one.day}</td><td
							><a class="font-semibold underline" href="/takings/payments/{one.id}">{one.method}</a><span class="sub"
								>{[
									one.route,
									one.by && one.by !== 'itself' ? `placed by ${one.by}` : '',
									one.gratuity ? `and ${one.gratuity} gratuity` : ''
								]
									.filter(Boolean)
									.join(' · ')}</span
							></td
						><td><StageStrip reachedStep={one.reachedStep} brokenStep={one.brokenStep} stage={one.stage} /></td><td
							class="n">{one.placed || (one.coming ? `${one.coming} on its way` : '')}</td
						><td class="n">{one.fee}</td><td class="n"
							>{#if one.placed}<form method="post" action="?/unplace" use:enhance>
									<input type="hidden" name="payment" value={one.id} /><button
										class="why"
										aria-label="Take back {one.placed} by {one.method}">Take back</button
									>
								</form>{/if}</td
						></tr
					>{:else}<tr><td colspan="6" class="quiet">Nothing has come yet.</td></tr>{/each}
				<tr class="total"
					><td colspan="3">{v.proof.text}</td><td class="n font-semibold" colspan="3"
						><Figure working={v.proof.working}>{v.proof.adds ? 'adds up' : 'does not add up'}</Figure></td
					></tr
				>
			</tbody>
		</table>
	{/if}
	{#if v.notes.length}
		<h2>Credit notes</h2>
		<table>
			<tbody
				>{#each v.notes as one (one.id)}<tr
						><td><a class="underline" href="/bill/invoices/{one.id}">{one.number}</a></td><td>{one.day}</td><td
							class="n">{one.total}</td
						></tr
					>{/each}</tbody
			>
		</table>
	{/if}
	{#if v.of}<p class="mt-4">
			{v.kind === 'credit note' ? 'Corrects' : 'Made of'}
			<a class="underline" href="/bill/invoices/{v.of.id}">{v.of.kind} {v.of.number}</a>.
		</p>{/if}
	{#if v.made}<p class="mt-4">
			Became <a class="underline" href="/bill/invoices/{v.made.id}">invoice {v.made.number}</a>.
		</p>{/if}

	<h2>What can be done</h2>
	<div class="flex flex-wrap items-end gap-2">
		{#if v.kind === 'invoice' && !v.sent}<form method="post" action="?/send" use:enhance>
				<input type="hidden" name={v.payer?.channel ?? 'mail'} value="on" /><button class="button"
					>Send by {v.payer?.channel ?? 'mail'}</button
				>
			</form>{/if}
		{#if v.kind === 'quote' && ['sent', 'opened'].includes(v.state)}
			<form method="post" action="?/answer" use:enhance class="flex items-end gap-2">
				<label><span class="quiet block text-[12px]">Answered by</span><input name="who" class="!w-44" /></label>
				<button class="button" name="answer" value="accepted">Note as accepted</button>
				<button class="button" name="answer" value="declined">Note as declined</button>
			</form>
		{/if}
		<form method="post" action="?/duplicate" use:enhance><button class="button">Duplicate</button></form>
		{#if v.creditable}<form method="post" action="?/creditNote" use:enhance>
				<button class="button">Write a credit note</button>
			</form>{/if}
		{#if v.kind !== 'quote'}<a class="button" href="/bill/invoices/{v.id}/ubl" download>UBL</a>{/if}
		<a class="button" href="/bill/invoices/{v.id}/csv" download>Lines as CSV</a>
		{#if v.kind === 'invoice' && (isOpen || v.isWrittenOff)}<form method="post" action="?/writeOff" use:enhance>
				<input type="hidden" name="on" value={v.isWrittenOff ? 'no' : 'yes'} /><button class="button"
					>{v.isWrittenOff ? 'Take the write-off back' : `Write off ${v.open}`}</button
				>
			</form>{/if}
		{#if isOpen}<form method="post" action="?/hold" use:enhance>
				<input type="hidden" name="on" value={v.isHeld ? 'no' : 'yes'} /><button class="button"
					>{v.isHeld ? 'Hold no more' : 'Hold'}</button
				>
			</form>{/if}
	</div>
	<div class="mt-3 flex flex-wrap items-end gap-x-6 gap-y-2">
		<form method="post" action="?/outside" use:enhance class="flex items-end gap-2">
			<label
				><span class="quiet block text-[12px]">Reference of an outside program</span><input
					name="outside"
					class="!w-44"
					value={v.outside}
				/></label
			>
			<button class="button">Set reference</button>
		</form>
		{#if v.kind === 'invoice' && v.state !== 'void' && !v.isWrittenOff}<form
				method="post"
				action="?/void"
				use:enhance
				class="flex items-end gap-2"
			>
				<label><span class="quiet block text-[12px]">Void it because</span><input name="reason" class="!w-56" /></label>
				<button class="button">Void {v.number}</button>
			</form>{/if}
	</div>
</Sheet>
<Workings>
	<h2>What happened</h2>
	{#each v.happened as one, at (at)}<p class="step !block">
			{#if one.href}<a class="why" class:text-clay={one.bad} href={one.href}>{one.says}</a>{:else}{one.says}{/if}<span
				class="sub">{one.when}{one.by && one.by !== 'itself' ? `, ${one.by}` : ''}</span
			>
		</p>{/each}
	{#if v.ways}
		<h2 class="!mt-5">Ways to pay this invoice</h2>
		{#if !v.ways.version}<p>{v.ways.till || 'Its till'} has no published line-up: nobody can pay.</p>
		{:else}
			<p class="quiet">{v.ways.till}, version {v.ways.version}, for this payer and sum</p>
			{#if v.ways.offered.length}<p class="step !grid-cols-[16px_1fr]">
					<span class="yes" aria-hidden="true">✓</span><span>{v.ways.offered.join(' · ')}</span>
				</p>
			{:else}<p class="note clay mt-2">
					Nothing is offered for it.
					<a
						class="why"
						href="/accept/tills/{v.ways.slug}/ask?currency={v.currency}&amount={v.open.replace(` ${v.currency}`, '')}"
						>See the least change</a
					>
				</p>{/if}
			{#each v.ways.withheld as one, at (at)}<p class="step !grid-cols-[16px_1fr]">
					<span class="no" aria-hidden="true">✕</span><span><b>{one.name}</b><span class="sub">{one.why}</span></span>
				</p>{/each}
		{/if}
	{/if}
	{#if v.creditorReference}<p class="quiet mt-4 text-[12px]">
			A transfer for it carries <span class="mono">{v.creditorReference}</span>.
		</p>{/if}
</Workings>

<style>
	.total td {
		border-top: 1px solid var(--ink);
		border-bottom: 3px double var(--ink);
	}
</style>
