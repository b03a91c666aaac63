<script lang="ts">
	import { enhance } from '$app/forms';
	import { page } from '$app/state';
	import { DuesRuler, Field, Figure, Said, Sheet, StageStrip, Verdict, Workings } from '$lib/ui';
	import NewDocument from '$lib/ui/NewDocument.svelte';
	const { data, form } = $props();
	type Typed = Record<string, string> & { groups: string[] };
	const isNew = $derived(!data.id);
	const typed = $derived(
		((form as { typed?: Typed } | null)?.typed ?? {
			...data.payer,
			name: isNew ? '' : data.payer.name
		}) as unknown as Typed
	);
	const errors = $derived(
		((form as { errors?: Record<string, string> } | null)?.errors ?? {}) as Record<string, string>
	);
	const v = $derived(data.view);
	let copied = $state(false);
	const BOXES = [
		['name', 'Name'],
		['company', 'Company'],
		['mail', 'Mail'],
		['phone', 'Phone'],
		['street', 'Street and number'],
		['postcode', 'Postcode'],
		['city', 'City'],
		['taxNumber', 'Tax number'],
		['number', 'Your number of them']
	] as const;
</script>

<Sheet
	title={isNew ? 'Add a payer' : data.name}
	about={isNew
		? 'A person, a company, or both'
		: [data.payer.company ? data.payer.name : '', data.payer.mail, data.payer.phone].filter(Boolean).join(' · ')}
>
	{#snippet acts()}{#if !isNew && !data.isRemoved}<NewDocument kind="quote" payer={data.id} /><NewDocument
				payer={data.id}
				main
			/>{/if}{/snippet}
	{#if page.url.searchParams.has('added')}<p class="note moss mt-3" role="status">{data.name} is added.</p>{/if}
	<Said form={form as never} />
	{#if v}
		<Verdict verdict={v.verdict} />
		{#if v.ruler.length}<DuesRuler dues={v.ruler} today={v.today} />{/if}
		{#if v.credit.length}<div class="note mt-3">
				<p>Holds credit: {v.credit.join(', ')}. Use it at an open invoice, under Collect, or give it back.</p>
				<ul>
					{#each v.creditFrom as one (one.id)}<li>
							{one.says} of <a class="underline" href="/takings/unplaced/{one.id}">{one.reference}</a>:
							<a class="underline" href="/takings/payments/{one.id}?refund={encodeURIComponent(one.typed)}"
								>Give it back</a
							>
						</li>{/each}
				</ul>
			</div>{/if}
		{#if v.sums.length}
			<table class="mt-3" aria-label="Owed and paid">
				<thead
					><tr
						><th>In all</th><th class="n">Invoices</th><th class="n">Asked</th><th class="n">Placed</th><th class="n"
							>Credited</th
						><th class="n">Open</th></tr
					></thead
				>
				<tbody
					>{#each v.sums as one (one.currency)}<tr
							><td>{one.currency}</td><td class="n">{one.count}</td><td class="n">{one.asked}</td><td class="n"
								>{one.placed}</td
							><td class="n">{one.credited}</td><td class="n font-semibold"
								><Figure working={one.working}>{one.open}</Figure></td
							></tr
						>{/each}</tbody
				>
			</table>
		{/if}
		<h2>Documents</h2>
		<table>
			<thead><tr><th>Number</th><th>Day</th><th>State</th><th class="n">Total</th><th class="n">Open</th></tr></thead>
			<tbody
				>{#each v.invoices as one (one.id)}<tr
						><td
							><a data-row class="font-semibold underline" href="/bill/invoices/{one.id}">{one.number}</a><span
								class="sub">{one.kind}</span
							></td
						><td>{one.day}</td><td
							>{one.state}{#if one.late}<span class="sub text-clay">overdue</span>{/if}</td
						><td class="n">{one.total}</td><td class="n">{one.open}</td></tr
					>{:else}<tr><td colspan="5" class="quiet">Nothing was billed to them yet.</td></tr>{/each}</tbody
			>
		</table>
		{#if v.moreInvoices}<p class="quiet mt-2">
				These are the latest. <a class="underline" href="/bill/invoices?payer={data.id}">All their invoices</a>
			</p>{/if}
		{#if v.payments.length}
			<h2>Payments</h2>
			<table>
				<thead
					><tr
						><th>Day</th><th>Reference</th><th>How</th><th>How far</th><th class="n">Sum</th><th class="n"
							>Not placed</th
						></tr
					></thead
				>
				<tbody
					>{#each v.payments as one (one.id)}<tr
							><td>{one.day}</td><td
								><a class="underline" href="/takings/payments/{one.id}">{one.reference || one.id}</a></td
							><td>{one.method}</td><td
								><StageStrip reachedStep={one.reachedStep} brokenStep={one.brokenStep} stage={one.stage} /></td
							><td class="n">{one.sum}</td><td class="n">{one.unplaced}</td></tr
						>{/each}</tbody
				>
			</table>
			{#if v.morePayments && data.payer?.mail}<p class="quiet mt-2">
					These are the latest.
					<a class="underline" href="/takings?payer={encodeURIComponent(data.payer.mail)}">All their payments</a>
				</p>{/if}
		{/if}
	{/if}
	{#if v && (v.stored.open.length || v.stored.asked.length || v.stored.ended.length)}
		<h2>Stored methods</h2>
		{#each v.stored.asked as one (one.payment)}<p class="note mt-2">
				A {one.method.toLowerCase()} to be kept is asked for since {one.since}:
				<a class="underline" href="/takings/payments/{one.payment}">{one.reference}</a>. It is stored once the payer
				signs.
			</p>{/each}
		{#if v.stored.open.length}
			<table aria-label="Stored methods">
				<thead
					><tr
						><th>Method</th><th>Can be used at</th><th>Used last</th><th>State</th><th
							><span class="sr-only">Acts</span></th
						></tr
					></thead
				>
				<tbody
					>{#each v.stored.open as one (one.id)}<tr
							><td
								><b>{one.name}</b>{one.isDefault ? ', stands first' : ''}<span class="sub"
									>{one.method} at
									<a class="underline" href="/connect/connections/{one.connection}">{one.processor}</a>{one.until
										? `, until ${one.until}`
										: ''}{one.mode === 'test' ? ', trial payments only' : ''}</span
								>{#if one.mandate}<span class="sub"
										>Mandate <span class="mono">{one.mandate.reference}</span>, {one.mandate.use}, for {one.mandate
											.creditor}, signed {one.mandate.signed}.
										{one.notice === null
											? 'Its payer begins each debit.'
											: `You may collect by it too, told ${one.notice === 1 ? 'a day' : `${one.notice} days`} before at least.`}</span
									>{/if}{#each one.debits as debit (debit.id)}<span class="sub"
										>Collects {debit.sum} on {debit.says} for
										<a class="underline" href="/bill/invoices/{debit.invoiceId}">{debit.number}</a></span
									>{/each}
								<details class="text-[13px]">
									<summary class="cursor-pointer underline">What they agreed to</summary>
									<p class="max-w-prose">“{one.consent.words}”</p>
									<p class="quiet">
										{one.consent.when}, from {one.consent.from || 'an address that was removed'}, words of {one.consent
											.version}{#if one.payment}, at <a class="underline" href="/takings/payments/{one.payment}"
												>this payment</a
											>{/if}
									</p>
								</details></td
							><td
								>{#each one.tills as till, at (till.slug)}{at ? ', ' : ''}<a
										class="underline"
										href="/accept/tills/{till.slug}">{till.name}</a
									>{:else}<span class="text-clay">no till: none leads to this account</span>{/each}</td
							><td>{one.used}<span class="sub">stored {one.stored}</span></td><td
								>{one.state}{#if one.asked}<span class="sub">asked to renew {one.asked}</span>{/if}</td
							><td
								><form method="post" action="?/stored" use:enhance class="flex flex-wrap justify-end gap-2">
									<input type="hidden" name="id" value={one.id} />
									<input type="hidden" name="name" value={one.name} />
									{#if one.isUsable && !one.isDefault}<button class="button small" name="act" value="default"
											>Put first</button
										>{/if}
									{#if one.state === 'suspended'}<button class="button small" name="act" value="resume">Resume</button
										>{:else if one.isUsable}<button class="button small" name="act" value="suspend">Suspend</button
										>{/if}
									<button class="button small" name="act" value="end">End it</button>
								</form></td
							></tr
						>{/each}</tbody
				>
			</table>
		{/if}
		{#if v.stored.ended.length}<details class="mt-2">
				<summary class="cursor-pointer underline">Ended: {v.stored.ended.length}</summary>
				<ul>
					{#each v.stored.ended as one (one.id)}<li class="border-rule border-b py-1">
							{one.name}, {one.method.toLowerCase()} at {one.processor}. Ended {one.ended}.{one.isForgotten
								? ''
								: ' Its processor has not confirmed that it forgot it; it is asked again.'}
						</li>{/each}
				</ul>
			</details>{/if}
	{/if}
	{#if data.isRemoved}<p class="note mt-4">
			This payer was removed: what is personal is gone, the books keep their documents.
		</p>
	{:else}
		<h2>{isNew ? 'Who' : 'Details'}</h2>
		{#key data.id}
			<form
				method="post"
				action="?/save"
				use:enhance={() =>
					async ({ update }) =>
						update({ reset: false })}
				class="grid max-w-[720px] grid-cols-2 gap-x-4"
			>
				{#each BOXES as [name, label] (name)}
					<Field {label} wrong={errors[name]}>
						{#snippet children(attributes)}<input {...attributes} {name} value={typed[name] ?? ''} />{/snippet}
					</Field>
				{/each}
				<Field label="Country" wrong={errors.country}>
					{#snippet children(attributes)}<select {...attributes} name="country" value={typed.country}>
							<option value="">not known</option>
							{#each data.countries as { code, name } (code)}<option value={code}>{name}</option>{/each}
						</select>{/snippet}
				</Field>
				<Field label="Language" wrong={errors.language} help={{ what: 'Messages and their payer page speak it.' }}>
					{#snippet children(attributes)}<select {...attributes} name="language" value={typed.language}>
							<option value="">the business’s own</option>
							{#each data.languages as one (one.value)}<option value={one.value}>{one.name}</option>{/each}
						</select>{/snippet}
				</Field>
				<Field
					label="Written to by"
					wrong={errors.channel}
					help={{
						what: 'How invoices and reminders reach them. Whatever it is, all of it stands at their payer page.'
					}}
				>
					{#snippet children(attributes)}<select {...attributes} name="channel" value={typed.channel}>
							<option value="mail">mail</option><option value="text">text message</option><option value="page"
								>payer page only</option
							>
						</select>{/snippet}
				</Field>
				<Field
					label="Prefers to pay"
					wrong={errors.prefers}
					help={{ what: 'Which ways stand first for them, and whose instructions an invoice carries.' }}
				>
					{#snippet children(attributes)}<select {...attributes} name="prefers" value={typed.prefers}>
							<option value="">not known</option><option value="online">online</option><option value="offline"
								>offline</option
							>
						</select>{/snippet}
				</Field>
				<Field
					label="Online method"
					wrong={errors.online}
					help={{ what: 'Offers can ask for it: a payer who has one need not be offered a transfer.' }}
				>
					{#snippet children(attributes)}<select {...attributes} name="online" value={typed.online}>
							<option value="">not known</option><option value="yes">has one</option><option value="no">has none</option
							>
						</select>{/snippet}
				</Field>
				<Field
					label="Templates"
					wrong={errors.template}
					help={{
						what: 'A variant of your message templates that they are written to by; the usual ones where it is empty.'
					}}
				>
					{#snippet children(attributes)}<input
							{...attributes}
							name="template"
							list="variants"
							value={typed.template ?? ''}
						/>{/snippet}
				</Field>
				<datalist id="variants"
					>{#each data.variants as one (one)}<option value={one}></option>{/each}</datalist
				>
				<div class="col-span-2">
					<Field label="Notes, for the desk only" wrong={errors.notes}>
						{#snippet children(attributes)}<textarea {...attributes} name="notes" rows="2" value={typed.notes ?? ''}
							></textarea>{/snippet}
					</Field>
				</div>
				{#if data.groups.length}<fieldset class="ticks col-span-2 mt-3">
						<legend class="legend">Groups</legend>
						{#each data.groups as one (one.id)}<label
								><input type="checkbox" name="groups" value={one.id} checked={typed.groups.includes(one.id)} />
								{one.name}</label
							>{/each}
					</fieldset>{/if}
				<div class="col-span-2 mt-3 flex gap-2">
					<button class="button main" data-save>{isNew ? 'Add payer' : 'Save payer'}</button>
				</div>
			</form>
		{/key}
		{#if !isNew}<details class="mt-6">
				<summary class="why">Remove this payer</summary>
				<form method="post" action="?/remove" use:enhance class="mt-2">
					<p class="quiet max-w-prose">
						Removing takes the person out of their details, orders, payments, messages and the audit trail. Documents
						that were approved stay in the books as they were made out. It cannot be undone.
					</p>
					<button class="button mt-1">Remove payer</button>
				</form>
			</details>{/if}
	{/if}
</Sheet>
{#if v}<Workings>
		<h2>How they paid before</h2>
		{#each v.methods as one, at (at)}<p class="step !grid-cols-[1fr_auto]">
				<span><b>{one.name}</b><span class="sub">last {one.last}</span></span><span>{one.count}</span>
			</p>
		{:else}<p class="quiet">They have not paid anything yet.</p>{/each}
		{#if v.ages.length}<h2 class="!mt-5">Open by age</h2>
			{#each v.ages as one, at (at)}<p class="step !grid-cols-[1fr_auto]">
					<span>{one.name}</span><span>{one.sum}</span>
				</p>{/each}{/if}
		{#if !data.isRemoved}
			<h2 class="!mt-5">Their own page</h2>
			<p class="quiet">What is owed, receipts, their details; reached by this address without a password.</p>
			<p class="mono mt-1 break-all">{v.link}</p>
			<p class="mt-1 flex gap-2">
				<a class="button small" href={v.link} target="_blank">Open it</a>
				<button
					class="button small"
					onclick={async () => {
						await navigator.clipboard.writeText(v.link);
						copied = true;
					}}>{copied ? 'Copied' : 'Copy address'}</button
				>
			</p>
		{/if}
		{#if v.messages.length}<h2 class="!mt-5">What was said to them</h2>
			{#each v.messages as one (one.id)}<p class="step !block">
					<a class="why" href="/bill/messages/{one.id}">{one.says}</a><span class="sub">{one.day}, {one.state}</span>
				</p>{/each}{/if}
	</Workings>{:else}<Workings />{/if}
