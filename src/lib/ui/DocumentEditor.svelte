<script lang="ts">
	import { deserialize, enhance } from '$app/forms';
	import { invalidate } from '$app/navigation';
	import type { BillContent } from '$lib/core/billing';
	import { formatDay } from '$lib/core/calendar';
	import { onMount, untrack } from 'svelte';
	import { page } from '$app/state';
	import { BillDraft, type ListedItem } from './billDraft.svelte';
	import DayInput from './DayInput.svelte';
	import DuesRuler from './DuesRuler.svelte';
	import Figure from './Figure.svelte';
	import PayerPicker from './PayerPicker.svelte';
	import Said from './Said.svelte';
	import Sheet from './Sheet.svelte';
	import Workings from './Workings.svelte';
	import WorkingSteps from './WorkingSteps.svelte';

	interface Payer {
		readonly id: string;
		readonly name: string;
		readonly mail: string;
		readonly phone: string;
		readonly channel: string;
	}
	interface Data {
		readonly id: number;
		readonly kind: 'invoice' | 'quote' | 'credit note';
		readonly locale: string;
		readonly today: string;
		readonly approves: boolean;
		readonly draft: {
			readonly revision: number;
			readonly currency: string;
			readonly tillId: string;
			readonly until: string;
			readonly content: BillContent;
			readonly payer?: Payer;
			readonly askedBy: string;
			readonly of?: { readonly id: number; readonly number: string };
			readonly problems: readonly string[];
		};
		readonly taxes: readonly { readonly name: string; readonly category: string; readonly rate: number }[];
		readonly items: readonly ListedItem[];
		readonly tills: readonly {
			readonly id: string;
			readonly name: string;
			readonly mode: string;
			readonly kind: string;
			readonly currencies: readonly string[];
		}[];
		readonly waysToPay?: {
			readonly till: string;
			readonly slug: string;
			readonly version: number;
			readonly offered: readonly string[];
			readonly withheld: readonly { readonly name: string; readonly why: string }[];
		};
	}
	/** An invoice, a quote or a credit note while it is written: lines by keyboard, the running sum at the side. */
	const { data, form }: { data: Data; form: unknown } = $props();
	const locale = $derived((page.data.locale as string) ?? 'en-GB');
	const bill = untrack(
		() => new BillDraft(data.draft.content, data.draft.currency, (page.data.locale as string) ?? 'en-GB')
	);
	let payer = $state(untrack(() => data.draft.payer));
	let tillId = $state(untrack(() => data.draft.tillId));
	let until = $state(untrack(() => data.draft.until));
	let revision = $state(untrack(() => data.draft.revision));
	let kept = $state<'stored' | 'writing' | 'storing' | 'failed'>('stored');
	let trouble = $state('');
	let conflict = $state<number>();
	const name = $derived({ invoice: 'invoice', quote: 'quote', 'credit note': 'credit note' }[data.kind]);
	const tills = $derived(data.tills.filter((one) => one.currencies.includes(bill.currency)));
	const currencies = $derived([...new Set([bill.currency, ...data.tills.flatMap((one) => one.currencies)])].sort());
	const taxes = $derived.by(() => {
		const known = data.taxes.map((one) => ({
			key: `${one.category} ${one.rate}`,
			name: `${one.name}${one.rate ? ` ${one.rate / 10_000} %` : ''}`
		}));
		for (const line of bill.lines)
			if (!known.some((one) => one.key === line.tax))
				known.push({ key: line.tax, name: line.tax.replace(/ (\d+)$/, (_, rate) => ` ${Number(rate) / 10_000} %`) });
		return known;
	});
	const dues = $derived(bill.dues(data.today));
	const problems = $derived([
		...new Set([
			...bill.problems,
			...('problem' in dues && data.kind === 'invoice' ? [dues.problem] : []),
			...(kept === 'stored' ? data.draft.problems : [])
		])
	]);

	const stored = () =>
		JSON.stringify({
			revision,
			payerId: payer?.id ?? null,
			tillId: tillId || null,
			currency: bill.currency,
			until,
			content: bill.store()
		});
	let last = untrack(() => stored());
	let timer: ReturnType<typeof setTimeout> | undefined;
	$effect(() => {
		const now = stored();
		if (now === last || conflict) return;
		kept = 'writing';
		clearTimeout(timer);
		timer = setTimeout(() => void store(), 700);
	});
	async function store(over?: number): Promise<boolean> {
		clearTimeout(timer);
		const mine = over === undefined ? stored() : stored().replace(/^\{"revision":\d+/, `{"revision":${over}`);
		if (mine === last && over === undefined) return true;
		kept = 'storing';
		trouble = '';
		try {
			const body = new FormData();
			body.set('draft', mine);
			const answer = await fetch('?/save', { method: 'POST', body, headers: { 'x-sveltekit-action': 'true' } });
			const result = deserialize(await answer.text());
			const told = (result.type === 'success' || result.type === 'failure' ? result.data : {}) as {
				revision?: number;
				trouble?: string;
				conflict?: string;
			};
			if (result.type === 'success') {
				revision = told.revision!;
				conflict = undefined;
				last = stored();
				kept = 'stored';
				await invalidate('live:bill');
				return true;
			}
			if (told.conflict) conflict = told.revision;
			trouble =
				told.conflict ??
				told.trouble ??
				'It could not be stored just now. What you typed stays here; it is tried again as you go on.';
		} catch {
			trouble = 'It could not be stored: the server does not answer. What you typed stays here.';
		}
		kept = 'failed';
		return false;
	}
	onMount(() => {
		const leave = (event: BeforeUnloadEvent) => {
			if (kept !== 'stored') event.preventDefault();
		};
		addEventListener('beforeunload', leave);
		return () => removeEventListener('beforeunload', leave);
	});
	/** Acts go by what is stored: what was typed last is stored first. */
	const afterStoring =
		() =>
		async ({
			formElement,
			cancel,
			formData
		}: {
			formElement: HTMLFormElement;
			cancel: () => void;
			formData: FormData;
		}) => {
			if (kept !== 'stored') {
				cancel();
				if (await store()) formElement.requestSubmit();
				return;
			}
			formData.set('revision', String(revision));
		};

	function onLineKey(event: KeyboardEvent, at: number, isLast: boolean) {
		if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
			event.preventDefault();
			bill.move(at, event.key === 'ArrowUp' ? -1 : 1);
			focusLine(at + (event.key === 'ArrowUp' ? -1 : 1));
		} else if (event.key === 'Enter') {
			event.preventDefault();
			if (isLast || at < bill.lines.length - 1) {
				if (at === bill.lines.length - 1) bill.add();
				focusLine(at + 1);
			} else {
				bill.add();
				focusLine(at + 1);
			}
		} else if (event.key === 'Backspace' && event.ctrlKey) {
			event.preventDefault();
			bill.remove(at);
			focusLine(Math.max(0, at - 1));
		}
	}
	const focusLine = (at: number) =>
		setTimeout(() => document.querySelector<HTMLElement>(`[data-line="${at}"] input`)?.focus());
	function picked(one: Payer & Record<string, string>) {
		payer = one;
		const { billTo } = bill.content;
		Object.assign(billTo, {
			name: one.person ?? one.name,
			company: one.company ?? '',
			street: one.street ?? '',
			postcode: one.postcode ?? '',
			city: one.city ?? '',
			country: one.country ?? '',
			mail: one.mail,
			taxNumber: one.taxNumber ?? ''
		});
	}
	const problemOfTill = $derived(
		tillId && !tills.some((one) => one.id === tillId)
			? `${data.tills.find((one) => one.id === tillId)?.name ?? 'This till'} does not take ${bill.currency}.`
			: ''
	);
</script>

<Sheet
	title={data.kind === 'credit note' && data.draft.of ? `Credit note for ${data.draft.of.number}` : `New ${name}`}
	about={payer
		? `for ${payer.name}`
		: 'Choose the payer, then the lines: a code or a name of the price list fills a line in'}
>
	{#snippet acts()}
		<span class="quiet self-center text-[12px]" role="status" data-stored={kept === 'stored' ? '' : undefined}
			>{kept === 'stored' ? 'Stored' : kept === 'failed' ? 'Not stored' : 'Storing…'}</span
		>
		<a class="button" href="/bill/invoices/{data.id}/pdf" target="_blank">Preview</a>
	{/snippet}
	<Said form={form as never} />
	{#if trouble}<div class="note clay mt-3" role="alert">
			<p>{trouble}</p>
			{#if conflict}<div class="mt-2 flex gap-2">
					<button class="button" onclick={() => location.reload()}>Look at theirs</button>
					<button class="button" onclick={() => void store(conflict)}>Store mine over it</button>
				</div>{/if}
		</div>{/if}
	{#if data.draft.askedBy}<p class="note mt-3">
			{data.draft.askedBy} asked for approval. Any change takes that back.
		</p>{/if}

	<div class="mt-3 grid items-start gap-x-4 sm:grid-cols-[1.4fr_1fr_0.6fr]">
		<PayerPicker value={payer} onpick={picked as never} />
		<label
			><span class="legend">Paid at</span><select bind:value={tillId} aria-invalid={problemOfTill ? 'true' : undefined}>
				<option value="">choose a till</option>
				{#each data.tills as one (one.id)}<option value={one.id} disabled={!one.currencies.includes(bill.currency)}
						>{one.name}{one.mode === 'test' ? ' (test)' : ''}{one.currencies.includes(bill.currency)
							? ''
							: `, not in ${bill.currency}`}</option
					>{/each}
			</select>{#if problemOfTill}<span class="wrong" role="alert">{problemOfTill}</span>{/if}</label
		>
		<label
			><span class="legend">Currency</span><select bind:value={bill.currency}>
				{#each currencies as code (code)}<option>{code}</option>{/each}
			</select></label
		>
	</div>

	<h2>Lines</h2>
	<datalist id="things">
		{#each data.items as item (item.id)}<option value={item.code}>{item.name}</option>{/each}
	</datalist>
	<table class="lines">
		<thead
			><tr
				><th>What</th><th class="n">Quantity</th><th>Unit</th><th class="n">Price</th><th class="n">Off</th><th>Tax</th
				><th class="n">Sum</th><th><span class="sr-only">Remove</span></th></tr
			></thead
		>
		<tbody>
			{#each bill.lines as line, at (line.key)}
				{@const wrong = bill.wrongOf(line)}
				<tr data-line={at}>
					<td
						><input
							list="things"
							aria-label="What, line {at + 1}"
							bind:value={line.text}
							onchange={() => bill.fill(at, data.items)}
							onkeydown={(event) => onLineKey(event, at, false)}
							aria-invalid={wrong.text ? 'true' : undefined}
						/></td
					>
					<td data-label="Quantity"
						><input
							class="n"
							inputmode="decimal"
							aria-label="Quantity, line {at + 1}"
							bind:value={line.quantity}
							onkeydown={(event) => onLineKey(event, at, false)}
							aria-invalid={wrong.quantity ? 'true' : undefined}
						/></td
					>
					<td data-label="Unit"
						><input
							aria-label="Unit, line {at + 1}"
							bind:value={line.unit}
							onkeydown={(event) => onLineKey(event, at, false)}
						/></td
					>
					<td data-label="Price"
						><input
							class="n"
							inputmode="decimal"
							aria-label="Price, line {at + 1}"
							bind:value={line.price}
							onkeydown={(event) => onLineKey(event, at, false)}
							aria-invalid={wrong.price ? 'true' : undefined}
						/></td
					>
					<td data-label="Off"
						><input
							class="n"
							aria-label="Off, line {at + 1}"
							placeholder="5 %"
							bind:value={line.off}
							onkeydown={(event) => onLineKey(event, at, false)}
							aria-invalid={wrong.off ? 'true' : undefined}
						/></td
					>
					<td data-label="Tax"
						><select
							aria-label="Tax, line {at + 1}"
							bind:value={line.tax}
							onkeydown={(event) => onLineKey(event, at, true)}
						>
							{#each taxes as tax (tax.key)}<option value={tax.key}>{tax.name}</option>{/each}
						</select></td
					>
					<td class="n sum" data-label="Sum">{bill.sumOf(at)}</td>
					<td
						><button
							type="button"
							class="why min-h-[24px] min-w-[24px]"
							aria-label="Remove line {at + 1}"
							onclick={() => bill.remove(at)}>×</button
						></td
					>
				</tr>
				{#if Object.keys(wrong).length}<tr
						><td colspan="8" class="!pt-0"><span class="wrong" role="alert">{Object.values(wrong).join(' ')}</span></td
						></tr
					>{/if}
			{/each}
		</tbody>
	</table>
	<div class="mt-2 flex flex-wrap items-center justify-between gap-3">
		<button type="button" class="button" onclick={() => (bill.add(), focusLine(bill.lines.length - 1))}
			>Add a line (Enter)</button
		>
		<label class="quiet inline-flex items-center gap-2 text-[12px]"
			>Prices are<select bind:value={bill.pricing} class="!w-auto"
				><option value="with tax">with tax</option><option value="without tax">without tax</option></select
			></label
		>
	</div>
	<table class="mt-2" aria-label="Sums">
		<tbody>
			<tr
				><td class="flex gap-2"
					><input
						class="!w-56"
						aria-label="Name of the discount"
						placeholder="Discount"
						bind:value={bill.offName}
					/><input
						class="n !w-24"
						aria-label="Discount of all"
						placeholder="5 %"
						bind:value={bill.off}
						aria-invalid={bill.offWrong ? 'true' : undefined}
					/></td
				><td class="n"
					>{#if 'sums' in bill.sums && bill.sums.sums.discount}{bill.say(-bill.sums.sums.discount)}{/if}</td
				></tr
			>
			{#if 'sums' in bill.sums}<tr class="total"
					><td
						>{bill.say(bill.sums.sums.net)} net + {bill.say(bill.sums.sums.tax)} tax{bill.hasWrong
							? ', without what is marked'
							: ''}</td
					><td class="n text-[17px] font-semibold"
						>{#if bill.working}<Figure working={bill.working}
								><span data-total>{bill.say(bill.total)} {bill.currency}</span></Figure
							>{/if}</td
					></tr
				>{/if}
		</tbody>
	</table>

	{#if data.kind === 'quote'}
		<h2>Good until</h2>
		<DayInput
			name="until"
			value={until}
			{locale}
			class="!w-40"
			aria-label="Good until"
			onday={(day) => (until = day)}
		/>
	{/if}
	{#if data.kind !== 'credit note'}
		<h2>When it is paid</h2>
		<div class="flex flex-wrap items-end gap-3">
			<label
				><span class="quiet block text-[12px]">Asked for</span><select bind:value={bill.duePlan.kind} class="!w-48">
					<option value="all at once">all at once</option><option value="deposit">a deposit, then the rest</option
					><option value="instalments">instalments</option><option value="by hand">days and sums by hand</option>
				</select></label
			>
			{#if bill.duePlan.kind === 'deposit'}<label
					><span class="quiet block text-[12px]">Deposit</span><input
						class="!w-24"
						bind:value={bill.duePlan.deposit}
					/></label
				>{/if}
			{#if bill.duePlan.kind === 'instalments'}<label
					><span class="quiet block text-[12px]">Parts</span><input
						class="!w-16"
						bind:value={bill.duePlan.count}
					/></label
				><label
					><span class="quiet block text-[12px]">Days apart</span><input
						class="!w-20"
						bind:value={bill.duePlan.every}
					/></label
				>{/if}
			{#if bill.duePlan.kind !== 'by hand'}<label
					><span class="quiet block text-[12px]"
						>{bill.duePlan.kind === 'all at once' ? 'Days to pay' : 'First after days'}</span
					><input class="!w-20" bind:value={bill.duePlan.days} /></label
				>{/if}
			{#if bill.duePlan.kind === 'deposit'}<label
					><span class="quiet block text-[12px]">Rest after days</span><input
						class="!w-20"
						bind:value={bill.duePlan.rest}
					/></label
				>{/if}
		</div>
		{#if bill.duePlan.kind === 'by hand'}
			{#each bill.duePlan.byHand as due, at (at)}<div class="mt-2 flex gap-2">
					<DayInput
						name="due-{at}"
						value={due.day}
						{locale}
						class="!w-36"
						aria-label="Day of due {at + 1}"
						onday={(day) => (due.day = day)}
					/>
					<input class="n !w-32" aria-label="Sum of due {at + 1}" bind:value={due.sum} />
					<button type="button" class="why" onclick={() => bill.duePlan.byHand.splice(at, 1)}>Remove</button>
				</div>{/each}
			<button type="button" class="button mt-2" onclick={() => bill.duePlan.byHand.push({ day: '', sum: '' })}
				>Add a due</button
			>
		{/if}
		{#if 'problem' in dues}<p class="wrong" role="alert">{dues.problem}</p>
		{:else if bill.total > 0}<DuesRuler
				today={{ day: data.today, says: formatDay(data.today, locale) }}
				dues={dues.dues.map((due) => ({
					day: due.day,
					says: formatDay(due.day, locale),
					sum: bill.say(due.minor),
					paid: 0,
					coming: 0,
					isLate: false
				}))}
			/>{/if}
	{/if}

	<details class="mt-5" open={!bill.content.billTo.name && !bill.content.billTo.company && !!payer}>
		<summary class="cursor-pointer font-semibold">Made out to</summary>
		<div class="grid grid-cols-2 gap-x-4">
			{#each [['name', 'Name'], ['company', 'Company'], ['street', 'Street and number'], ['postcode', 'Postcode'], ['city', 'City'], ['country', 'Country, two letters'], ['taxNumber', 'Tax number'], ['mail', 'Mail']] as const as [key, label] (key)}
				<label class="field"><span class="legend">{label}</span><input bind:value={bill.content.billTo[key]} /></label>
			{/each}
		</div>
	</details>
	<details class="mt-3">
		<summary class="cursor-pointer font-semibold">Notes, terms and fields of your own</summary>
		{#each bill.content.fields as field, at (at)}<div class="mt-2 flex gap-2">
				<input class="!w-48" aria-label="Field {at + 1}" bind:value={field.name} /><input
					aria-label="Value of field {at + 1}"
					bind:value={field.value}
				/>
			</div>{/each}
		{#if bill.content.fields.length < 8}<button
				type="button"
				class="button small mt-2"
				onclick={() => bill.content.fields.push({ name: 'Field', value: '' })}>Add a field</button
			>{/if}
		<label class="field"
			><span class="legend">Note at the top</span><textarea rows="2" bind:value={bill.content.noteTop}
			></textarea></label
		>
		<label class="field"
			><span class="legend">Note at the foot</span><textarea rows="2" bind:value={bill.content.noteFoot}
			></textarea></label
		>
		<label class="field"
			><span class="legend">Terms</span><textarea rows="3" bind:value={bill.content.terms}></textarea></label
		>
		<label class="field"
			><span class="legend">Why it is exempt, or the tax reverse charged</span><input
				bind:value={bill.content.reason}
			/></label
		>
	</details>

	<div class="act-bar mt-6 items-center">
		{#if data.kind === 'quote'}
			<form method="post" action="?/send" use:enhance={afterStoring() as never}>
				<input type="hidden" name={payer?.channel ?? 'mail'} value="on" />
				<button class="button main" disabled={problems.length > 0}>Send quote by {payer?.channel ?? 'mail'}</button>
			</form>
		{:else if data.kind === 'credit note'}
			<form method="post" action="?/approve" use:enhance={afterStoring() as never}>
				<button class="button main" disabled={problems.length > 0}>Approve credit note</button>
			</form>
		{:else}
			{#if data.approves}<form method="post" action="?/send" use:enhance={afterStoring() as never}>
					<input type="hidden" name={payer?.channel ?? 'mail'} value="on" />
					<button class="button main" disabled={problems.length > 0}
						>Approve and send by {payer?.channel ?? 'mail'}</button
					>
				</form>
			{:else if !data.draft.askedBy}<form method="post" action="?/ask" use:enhance={afterStoring() as never}>
					<button class="button main" disabled={problems.length > 0}>Ask for approval</button>
				</form>{/if}
			<form method="post" action="?/approve" use:enhance={afterStoring() as never}>
				<button class="button" class:main={!data.approves && !!data.draft.askedBy} disabled={problems.length > 0}
					>Approve invoice</button
				>
			</form>
		{/if}
		<button type="button" class="button" data-save onclick={() => void store()}>Store draft</button>
		<form method="post" action="?/remove" use:enhance class="ml-auto">
			<button class="button">Remove draft</button>
		</form>
	</div>
</Sheet>
<Workings>
	{#if problems.length}
		<h2>Before it can be {data.kind === 'quote' ? 'sent' : 'approved'}</h2>
		<ul class="mt-1">
			{#each problems as problem (problem)}<li class="step !grid-cols-[16px_1fr]">
					<span class="no" aria-hidden="true">✕</span>{problem}
				</li>{/each}
		</ul>
	{/if}
	{#if bill.working}<div class:mt-5={problems.length > 0}><WorkingSteps working={bill.working} /></div>{/if}
	{#if data.waysToPay && bill.total > 0}
		<h2 class="!mt-5">Ways to pay this {name}</h2>
		{#if !data.waysToPay.version}<p class="mt-1">
				{data.waysToPay.till || 'No till'} has no published line-up: nobody could pay.
			</p>
		{:else}
			<p class="quiet">{data.waysToPay.till}, version {data.waysToPay.version}, for this payer and sum</p>
			{#if data.waysToPay.offered.length}<p class="step !grid-cols-[16px_1fr]">
					<span class="yes" aria-hidden="true">✓</span><span>{data.waysToPay.offered.join(' · ')}</span>
				</p>
			{:else}<p class="note clay mt-2">
					Nothing is offered for this sum in {bill.currency}.
					<a
						class="why"
						href="/accept/tills/{data.waysToPay.slug}/ask?currency={bill.currency}&amount={bill.say(bill.total)}"
						>See the least change</a
					>
				</p>{/if}
			{#each data.waysToPay.withheld as one, at (at)}<p class="step !grid-cols-[16px_1fr]">
					<span class="no" aria-hidden="true">✕</span><span><b>{one.name}</b><span class="sub">{one.why}</span></span>
				</p>{/each}
		{/if}
	{/if}
</Workings>

<style>
	.lines td {
		padding: 3px 4px 3px 0;
	}
	.lines input,
	.lines select {
		padding: 4px 6px;
	}
	.lines th:nth-child(2),
	.lines td:nth-child(2) {
		width: 74px;
	}
	.lines td:nth-child(3) {
		width: 64px;
	}
	.lines td:nth-child(4),
	.lines td:nth-child(5) {
		width: 82px;
	}
	.lines td:nth-child(6) {
		width: 128px;
	}
	.lines .sum {
		width: 84px;
		padding-top: 8px;
	}
	/* on a phone a line is a block: what it is above, its numbers below */
	@media (max-width: 760px) {
		.lines,
		.lines tbody {
			display: block;
		}
		.lines thead {
			position: absolute;
			width: 1px;
			height: 1px;
			overflow: hidden;
			clip-path: inset(50%);
		}
		.lines tr {
			display: grid;
			grid-template-columns: repeat(4, minmax(0, 1fr));
			gap: 6px 8px;
			padding: 10px 0;
			border-top: 1px solid var(--rule);
		}
		.lines td:nth-child(n) {
			display: block;
			width: auto;
			padding: 0;
			border: 0;
		}
		.lines td:first-child {
			grid-column: 1 / -1;
		}
		.lines td:nth-child(6) {
			grid-column: span 2;
		}
		.lines td:last-child {
			align-self: end;
			justify-self: end;
		}
		.lines td[data-label]::before {
			content: attr(data-label);
			display: block;
			color: var(--quiet);
			font-size: 12px;
		}
	}
	.total td {
		border-top: 1px solid var(--ink);
		border-bottom: 3px double var(--ink);
	}
</style>
