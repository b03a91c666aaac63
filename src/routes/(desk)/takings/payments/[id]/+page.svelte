<script lang="ts">
	import { enhance } from '$app/forms';
	import { page } from '$app/state';
	import { formatDay, formatMoment, inZone } from '$lib/core/calendar';
	import { DayInput, Figure, Sheet, StageStrip, Workings } from '$lib/ui';
	const { data, form } = $props();
	const p = $derived(data.payment);
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone, 'seconds');
	const figures = $derived(
		p.offline
			? [
					{ name: 'Asked', value: p.amount, working: undefined },
					{ name: 'Received', value: p.taken, working: undefined },
					{ name: p.over > 0 ? 'Too much' : 'Still missing', value: p.overText, working: undefined },
					{ name: 'Net', value: p.net, working: p.workings.net }
				]
			: [
					{ name: 'Captured', value: p.taken, working: undefined },
					{ name: 'Expected fee', value: p.expectedFee, working: p.workings.fee },
					{ name: 'Charged fee', value: p.chargedFee, working: p.workings.charged },
					{ name: 'Net', value: p.net, working: p.workings.net }
				]
	);
	const ACTS = { capture: 'Capture', void: 'Void', refund: 'Refund', record: 'Record a receipt' } as const;
	const can = $derived(new Map(p.acts.map((one) => [one.act, one.can])));
	/** a sum that another page asks to give back */
	const askedBack = $derived(page.url.searchParams.get('refund'));
	let refunding = $state(page.url.searchParams.has('refund'));
	let receiving = $state(false);
	const typed = $derived(form && 'typed' in form ? form.typed : undefined);
</script>

<Sheet
	title={p.reference || p.processorId || 'Payment'}
	about="{p.amount} at {p.till?.name ?? p.source}, {p.method}{p.purpose ? ` · ${p.purpose}` : ''}"
	test={p.mode === 'test'}
>
	{#snippet acts()}
		{#if p.receipt}<a class="button" href={p.receipt} target="_blank">The payer’s receipt</a>{/if}
		{#if p.refund && can.get('refund')}<button
				class="button"
				onclick={() => (refunding = !refunding)}
				aria-expanded={refunding}>Refund…</button
			>{/if}
		{#if p.offline && can.get('record')}<button
				class="button main"
				onclick={() => (receiving = !receiving)}
				aria-expanded={receiving}>Record what was received…</button
			>{/if}
	{/snippet}
	{#if form?.says}
		<div class="note moss mt-4 flex items-center gap-3" role="status">
			<span>{form.says}</span>
			{#if form.undo}<form method="post" action="?/reverse" use:enhance class="ml-auto">
					<input type="hidden" name="event" value={form.undo} /><button class="button small">Reverse it</button>
				</form>{/if}
		</div>
	{/if}
	{#each p.unknown as one, at (at)}
		<p class="note mt-4" role="status">
			<b>The outcome of the {one.act} of {one.sum} is not known.</b>
			{one.isStuck
				? `${p.processorName ?? 'The processor'} was asked many times without an answer.`
				: `${p.processorName ?? 'The processor'} is being asked; nothing else begins before it answers.`}
			{one.says}
		</p>
		{#if one.isStuck}<form method="post" action="?/askAgain" use:enhance class="mt-2">
				<input type="hidden" name="key" value={one.key} /><button class="button">Ask again</button>
			</form>{/if}
	{/each}
	{#if p.overpaid}
		<div class="note clay mt-4" role="status">
			<p>
				<b
					>{p.overpaid.overText} more came for this order than was asked{p.overpaid.times > 1
						? `, by ${p.overpaid.times} payments`
						: ''}.</b
				>
				{p.others.length ? 'The other payments of the order stand below.' : ''}
			</p>
			{#if p.overpaid.refund}<form method="post" action="?/refund" use:enhance class="mt-2">
					<input type="hidden" name="amount" value={p.overpaid.refund.amount} />
					<input type="hidden" name="key" value={p.overpaid.refund.key} />
					<button class="button main">Refund {p.overpaid.refund.text}</button>
				</form>{/if}
		</div>
	{/if}
	{#if p.contradictions.length || p.clashes.length}
		<div class="note clay mt-4">
			<p><b>What was told of this payment does not fit together.</b> The sums below count it all the same.</p>
			<ul class="list-disc pl-5">
				{#each p.contradictions as one, at (at)}<li>It was {one}.</li>{/each}
				{#each p.clashes as one (one.id)}<li>{one.says}</li>{/each}
			</ul>
			{#if !p.isSeen}<form method="post" action="?/seen" use:enhance class="mt-2">
					<button class="button">I have looked at it</button>
				</form>{/if}
		</div>
	{/if}

	{#if p.refund && can.get('refund') && (refunding || form?.refundWrong)}
		<form
			method="post"
			action="?/refund"
			class="note mt-4"
			use:enhance={() =>
				async ({ update, result }) => {
					await update({ reset: false });
					if (result.type === 'success') refunding = false;
				}}
		>
			<label class="block max-w-60">
				<span class="legend">Refund, in {p.currency}</span>
				<input
					name="amount"
					inputmode="decimal"
					value={form?.amount ?? askedBack ?? p.refund.left}
					aria-invalid={form?.refundWrong ? 'true' : undefined}
				/>
			</label>
			{#if form?.refundWrong}<span class="wrong" role="alert">{form.refundWrong}</span>{/if}
			<input type="hidden" name="key" value={p.refund.key} />
			<p class="mt-1">
				At most {p.refund.leftText}. A refund cannot be undone: the money goes back to the payer.
			</p>
			<button class="button main mt-2" data-save>Refund through {p.processorName}</button>
			<button type="button" class="button mt-2" onclick={() => (refunding = false)}>Do not refund</button>
		</form>
	{/if}
	{#if p.held && (can.get('capture') || can.get('void'))}
		<form
			method="post"
			action="?/held"
			class="note mt-4"
			use:enhance={() =>
				async ({ update }) =>
					update({ reset: false })}
		>
			<p>
				<b>{p.held.leftText} is held and not captured yet.</b>
				{#if p.held.until}Capture it by {formatDay(
						inZone(new Date(p.held.until), data.business.timeZone).day,
						data.locale
					)}, {new Date(p.held.until).toLocaleTimeString(data.locale, {
						timeZone: data.business.timeZone,
						timeStyle: 'short'
					})}; after that it goes back to the payer by itself.{/if}
			</p>
			<div class="mt-2 flex items-end gap-2">
				<label class="block max-w-40">
					<span class="legend">Capture, in {p.currency}</span>
					<input
						name="amount"
						inputmode="decimal"
						value={form && 'heldWrong' in form ? (form.amount ?? '') : p.held.left}
						aria-invalid={form && 'heldWrong' in form ? 'true' : undefined}
					/>
				</label>
				<input type="hidden" name="key" value={p.held.key} />
				<button class="button main" name="act" value="capture" data-save>Capture through {p.processorName}</button>
				<button class="button" name="act" value="cancel">Void it</button>
			</div>
			{#if form && 'heldWrong' in form}<span class="wrong" role="alert">{form.heldWrong}</span>{/if}
		</form>
	{/if}
	{#if p.offline && (receiving || form?.receiveWrong)}
		<form
			method="post"
			action="?/receive"
			class="note mt-4"
			use:enhance={() =>
				async ({ update, result }) => {
					await update({ reset: false });
					if (result.type === 'success') receiving = false;
				}}
		>
			<div class="grid max-w-[620px] gap-3 sm:grid-cols-[1fr_1.2fr_1fr]">
				<label
					><span class="legend">Amount, in {p.currency}</span><input
						name="amount"
						inputmode="decimal"
						value={typed?.amount ?? p.missing}
					/></label
				>
				<label
					><span class="legend">How</span><select name="how" value={typed?.how ?? 'credit transfer'}
						>{#each data.ways as way (way)}<option>{way}</option>{/each}</select
					></label
				>
				<label
					><span class="legend">On</span><DayInput
						name="day"
						locale={data.locale}
						value={typed?.day ?? data.today}
					/></label
				>
				<label class="col-span-full"
					><span class="legend">Note</span><input name="note" value={typed?.note ?? ''} /></label
				>
			</div>
			{#if form?.receiveWrong}<span class="wrong" role="alert">{form.receiveWrong}</span>{/if}
			<input type="hidden" name="key" value={p.receiptKey} />
			<button class="button main mt-2" data-save>Record receipt</button>
			<button type="button" class="button mt-2" onclick={() => (receiving = false)}>Record nothing</button>
		</form>
	{/if}

	<p class="mt-5 text-[15px]" aria-live="polite">
		<StageStrip reachedStep={p.reachedStep} brokenStep={p.brokenStep} stage={p.stage} />
		{#if p.failure}<span class="text-clay ml-3">{p.failure}</span>{/if}
		{#if p.certainty?.expected}<span class="quiet ml-3"
				>in the bank on <Figure working={p.certainty.working}>{formatDay(p.certainty.expected, data.locale)}</Figure
				></span
			>{/if}
		{#if p.over > 0}<span class="text-clay ml-3">{p.overText} more than asked</span>{:else if p.overText}<span
				class="ml-3">{p.overText} still missing</span
			>{/if}
	</p>

	{#if p.certainty && p.method && (p.certainty.bankReturnsUntil || !p.certainty.fulfil.now)}
		<p class="note mt-3 {p.certainty.fulfil.now ? 'moss' : ''}">
			<b><Figure working={p.certainty.working}>{p.certainty.working.title}.</Figure></b>
			{p.certainty.fulfil.why}
			{#if p.certainty.payerReturnsUntil}It can come back until {formatDay(
					p.certainty.payerReturnsUntil,
					data.locale
				)}.{/if}
		</p>
	{/if}

	<div class="mt-4 grid grid-cols-4 gap-4">
		{#each figures as one, at (at)}
			<div class="border-rule-strong border-t pt-1.5">
				<span class="sub">{one.name}</span>
				<span class="font-display text-[19px] font-semibold">
					{#if one.working && one.value}<Figure working={one.working}>{one.value}</Figure>{:else}{one.value || '—'}{/if}
				</span>
				{#if one.name === 'Charged fee' && p.differs}<span class="no block text-[12px]">≠ expected</span>{/if}
			</div>
		{/each}
	</div>

	<table class="mt-5">
		<tbody>
			<tr
				><td class="quiet w-36">Payer</td><td
					>{p.payer.name || 'no name given'}<span class="sub"
						>{[p.payer.mail, p.payer.country].filter(Boolean).join(' · ')}</span
					>{#each p.told as [what, text] (what)}<span class="sub">{what}: {text}</span>{/each}</td
				></tr
			>
			<tr
				><td class="quiet">Till</td><td
					>{#if p.till}<a class="underline" href="/accept/tills/{p.till.slug}">{p.till.name}</a
						>{:else}{p.source}{/if}{p.version ? `, line-up version ${p.version}` : ''}{p.origin === 'file'
						? '; told by a settlement file'
						: p.origin === 'console'
							? '; made at the processor’s console'
							: ''}</td
				></tr
			>
			<tr
				><td class="quiet">Route</td><td
					>{#if p.route}<a class="underline" href={p.route.href}>{p.route.name}</a>{/if}{p.standby
						? ', as standby'
						: ''}{#if p.processorId}<span class="sub mono">{p.processorId}</span>{/if}</td
				></tr
			>
			{#if p.card}<tr
					><td class="quiet">Card</td><td
						>{p.card.scheme} {p.card.funding}, ending in {p.card.last4}, issued in {p.card.issuerCountry}</td
					></tr
				>{/if}
			{#if p.stored}<tr
					><td class="quiet">Stored method</td><td
						><a class="underline" href="/bill/payers/{p.stored.payer}">{p.stored.name}</a>, kept from an earlier payment</td
					></tr
				>{/if}
			{#if p.mandate}<tr><td class="quiet">Mandate</td><td>{p.mandate}</td></tr>{/if}
			{#if p.creditorReference}<tr
					><td class="quiet">Creditor reference</td><td class="mono">{p.creditorReference}</td></tr
				>{/if}
			{#if p.refunded}<tr><td class="quiet">Refunded</td><td>{p.refunded}</td></tr>{/if}
		</tbody>
	</table>

	<h2>What can be done now</h2>
	<ul class="mt-1">
		{#each p.acts as one (one.act)}
			<li class="border-rule grid grid-cols-[9rem_1fr] gap-3 border-b py-1">
				<span>{ACTS[one.act]}</span>
				<span class={one.can ? '' : 'quiet'}
					>{#if one.can}<span class="yes" aria-hidden="true">✓</span>
						{one.why || 'now'}{:else}<span aria-hidden="true">–</span> {one.why}{/if}</span
				>
			</li>
		{/each}
	</ul>
	{#if p.order}
		{@const order = p.order}
		<h2>The order</h2>
		{#if form && 'orderWrong' in form}<p class="wrong" role="alert">{form.orderWrong}</p>{/if}
		<table>
			<tbody>
				<tr
					><td class="quiet w-36">Paid</td><td
						>{order.paid} of {p.amount}{order.isPaid ? '' : p.refunded ? ', after refunds' : ', the rest is open'}</td
					></tr
				>
				<tr
					><td class="quiet">Released unpaid</td><td>
						{#if order.released}{when(order.released.at)} by {order.released.by}
							<form method="post" action="?/order" use:enhance class="inline">
								<input type="hidden" name="state" value="release" /><button class="why ml-2">Take it back</button>
							</form>
						{:else if order.isPaid || p.refunded}<span class="quiet">it was paid</span>
						{:else}<form method="post" action="?/order" use:enhance>
								<input type="hidden" name="state" value="release" /><input type="hidden" name="on" value="1" />
								<button class="button small">Release on account</button>
							</form>{/if}
					</td></tr
				>
				<tr
					><td class="quiet">Completed</td><td>
						{#if order.completed}{when(order.completed.at)} by {order.completed.by}
							<form method="post" action="?/order" use:enhance class="inline">
								<input type="hidden" name="state" value="complete" /><button class="why ml-2">Open it again</button>
							</form>
						{:else}<form method="post" action="?/order" use:enhance>
								<input type="hidden" name="state" value="complete" /><input type="hidden" name="on" value="1" />
								<button class="button small">Mark as completed</button>
							</form>{/if}
					</td></tr
				>
				<tr
					><td class="quiet">Outside reference</td><td>
						<form
							method="post"
							action="?/outside"
							class="flex items-center gap-2"
							use:enhance={() =>
								async ({ update }) =>
									update({ reset: false })}
						>
							<input
								name="outside"
								value={form && 'outsideTyped' in form ? form.outsideTyped : order.outside}
								aria-label="What an outside program calls this order"
								class="!w-56"
								maxlength="80"
							/>
							<button class="button small">Set reference</button>
						</form>
						<span class="sub"
							>{order.tells === 'never' ? 'The payer is not told it.' : `The payer’s receipt tells it ${order.tells}.`}
							{#if p.till}<a class="underline" href="/accept/tills/{p.till.slug}/settings">The till decides</a
								>.{/if}</span
						>
					</td></tr
				>
			</tbody>
		</table>
	{/if}

	<h2>What happened</h2>
	<table>
		<thead><tr><th>When</th><th>What</th><th>Told by</th><th class="n">Amount</th></tr></thead>
		<tbody>
			{#each p.events as event (event.id)}
				<tr class:opacity-60={event.impossible}>
					<td class="whitespace-nowrap">{when(event.at)}</td>
					<td
						>{event.what}{#if event.impossible}<span class="sub">does not fit the rest; kept, without effect</span
							>{/if}{#if event.says}<span class="sub">{event.says}</span>{/if}</td
					>
					<td
						>{event.source}{#if event.isReversed && event.kind === 'received'}<span class="sub">reversed</span>{/if}</td
					>
					<td class="n whitespace-nowrap">
						{event.sum}
						{#if event.kind === 'received' && !event.isReversed}<form method="post" action="?/reverse" use:enhance>
								<input type="hidden" name="event" value={event.id} /><button class="why text-[12px]">reverse</button>
							</form>{/if}
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
	{#if p.others.length}
		<h2>Other payments of this order</h2>
		<ul>
			{#each p.others as one (one.id)}<li>
					<a class="underline" href="/takings/payments/{one.id}">{one.method}, {one.amount}</a>
					<span class="quiet">{one.stage}</span>
				</li>{/each}
		</ul>
	{/if}
	{#if p.arrivals.length}
		<p class="quiet mt-2">
			Notifications: {#each p.arrivals as one, i (one.id)}{i ? ', ' : ''}<a
					class="underline"
					href="/watch/arrivals/{one.id}">{one.topic}</a
				>{/each}
		</p>
	{/if}
</Sheet>
<Workings first={p.workings.fee ?? p.workings.net ?? p.certainty?.working} />
