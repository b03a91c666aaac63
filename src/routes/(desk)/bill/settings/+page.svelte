<script lang="ts">
	import { enhance } from '$app/forms';
	import { Field, Said, Sheet, Workings } from '$lib/ui';
	import { untrack } from 'svelte';
	const { data, form } = $props();
	const s = $derived(data.settings);
	let taxes = $state(untrack(() => data.settings.taxes.map((one) => ({ ...one, percent: String(one.rate / 10_000) }))));
	const KINDS = { invoice: 'Invoices', quote: 'Quotes', 'credit note': 'Credit notes' } as const;
	const keep =
		() =>
		async ({ update }: { update: (how: { reset: boolean }) => Promise<void> }) =>
			update({ reset: false });
</script>

<Sheet
	title="How we bill"
	about="What new documents begin with, how they are numbered, how they look, and how messages leave the house"
>
	<Said form={form as never} />
	<nav class="parts" aria-label="Parts of this page">
		<a href="#documents">Documents</a><a href="#numbers">Numbers</a><a href="#mail">Mail and texts</a>
	</nav>
	<form method="post" action="?/billing" enctype="multipart/form-data" use:enhance={keep as never} id="documents">
		<h2>Documents</h2>
		<div class="grid max-w-[720px] grid-cols-2 gap-x-4">
			<Field
				label="An invoice is approved"
				help={{ what: 'By sending it, or by somebody first: then a draft waits under Needs you until it is approved.' }}
				>{#snippet children(attributes)}<select {...attributes} name="approval" value={s.approval}
						><option value="on sending">when it is sent</option><option value="first">by somebody first</option></select
					>{/snippet}</Field
			>
			<Field label="Prices are"
				>{#snippet children(attributes)}<select {...attributes} name="pricing" value={s.pricing}
						><option value="with tax">with tax</option><option value="without tax">without tax</option></select
					>{/snippet}</Field
			>
			<Field label="Days to pay"
				>{#snippet children(attributes)}<input
						{...attributes}
						name="days"
						inputmode="numeric"
						value={s.days}
					/>{/snippet}</Field
			>
			<Field label="Days that a quote is good"
				>{#snippet children(attributes)}<input
						{...attributes}
						name="quoteDays"
						inputmode="numeric"
						value={s.quoteDays}
					/>{/snippet}</Field
			>
			<Field
				label="Days of notice before a bank debit"
				help={{
					what: 'A payer is told sum and day of a debit so many days before it is made. Who keeps an account at a payment agrees to these days; fewer are never given than somebody agreed to.'
				}}
				>{#snippet children(attributes)}<input
						{...attributes}
						name="noticeDays"
						inputmode="numeric"
						value={s.noticeDays}
					/>{/snippet}</Field
			>
			<Field
				label="Instructions on an invoice"
				help={{ what: 'How to pay by the offline ways of its till: all of them, or only the payer’s own way.' }}
				>{#snippet children(attributes)}<select {...attributes} name="instructions" value={s.instructions}
						><option value="all">of all offline ways</option><option value="preferred">of the payer’s own way</option
						></select
					>{/snippet}</Field
			>
			<Field label="Told of what was paid" hint="mail addresses, a comma between"
				>{#snippet children(attributes)}<input
						{...attributes}
						name="tellPaid"
						value={s.tellPaid.join(', ')}
					/>{/snippet}</Field
			>
			<Field label="Accent colour" hint="such as #6b2d2a"
				>{#snippet children(attributes)}<input {...attributes} name="accent" value={s.accent} />{/snippet}</Field
			>
			<Field label="Logo" hint="PNG or JPEG, at most 60 kB"
				>{#snippet children(attributes)}<input
						{...attributes}
						type="file"
						name="file"
						accept="image/png,image/jpeg"
					/>{/snippet}</Field
			>
			{#if s.logo}<label class="col-span-2 mt-2 inline-flex items-center gap-2"
					><input type="checkbox" name="keepLogo" value={s.logo} checked /><img src={s.logo} alt="" class="max-h-9" /> keep
					this logo</label
				>{/if}
			<div class="col-span-2">
				<Field label="Terms"
					>{#snippet children(attributes)}<textarea {...attributes} name="terms" rows="3" value={s.terms}
						></textarea>{/snippet}</Field
				>
			</div>
			<div class="col-span-2">
				<Field label="Note at the foot"
					>{#snippet children(attributes)}<textarea {...attributes} name="noteFoot" rows="2" value={s.noteFoot}
						></textarea>{/snippet}</Field
				>
			</div>
			<Field label="Why something is exempt" hint="stands on invoices with exempt lines"
				>{#snippet children(attributes)}<input {...attributes} name="reason" value={s.reason} />{/snippet}</Field
			>
			<Field label="Header fields of your own" hint="one a line, such as Instrument"
				>{#snippet children(attributes)}<textarea {...attributes} name="fields" rows="2" value={s.fields.join('\n')}
					></textarea>{/snippet}</Field
			>
		</div>
		<label class="mt-3 inline-flex items-center gap-2"
			><input type="checkbox" name="placesSure" checked={s.placesSure} /> Place money with a right creditor reference by itself</label
		>
		<h3 class="mt-4 font-semibold">Taxes</h3>
		<table class="max-w-[560px]">
			<thead
				><tr><th>Name</th><th>Kind</th><th class="n">Per cent</th><th><span class="sr-only">Remove</span></th></tr
				></thead
			>
			<tbody
				>{#each taxes as tax, at (at)}<tr
						><td><input name="taxName" aria-label="Name of tax {at + 1}" bind:value={tax.name} /></td><td
							><select name="taxCategory" aria-label="Kind of tax {at + 1}" bind:value={tax.category}
								>{#each data.categories as one (one)}<option>{one}</option>{/each}</select
							></td
						><td
							><input
								class="n !w-20"
								name="taxRate"
								aria-label="Per cent of tax {at + 1}"
								bind:value={tax.percent}
							/></td
						><td
							><button type="button" class="why" aria-label="Remove tax {at + 1}" onclick={() => taxes.splice(at, 1)}
								>Remove</button
							></td
						></tr
					>{/each}</tbody
			>
		</table>
		<p class="mt-2 flex gap-2">
			<button
				type="button"
				class="button"
				onclick={() => taxes.push({ name: '', category: 'standard', rate: 0, percent: '' })}>Add a tax</button
			><button class="button main" data-save>Save how we bill</button>
		</p>
	</form>
	<h2 id="numbers">Numbers</h2>
	<p class="quiet max-w-prose">
		A number is given when an invoice is approved, without gaps and never twice. A number once given stays, void or not.
	</p>
	{#each data.series as one (one.brandId + one.kind)}
		<form method="post" action="?/series" use:enhance={keep as never} class="mt-2 flex flex-wrap items-end gap-2">
			<input type="hidden" name="kind" value={one.kind} /><input type="hidden" name="brandId" value={one.brandId} />
			<b class="w-32 self-center">{KINDS[one.kind]}{one.brand ? `, ${one.brand}` : ''}</b>
			<label class="text-[12px]"
				><span class="quiet block">Begins with</span><input
					name="prefix"
					class="!w-24"
					value={one.form.prefix}
				/></label
			>
			<label class="text-[12px]"
				><span class="quiet block">Year</span><select name="year" class="!w-32" value={one.form.year}
					><option>none</option><option>two digits</option><option>four digits</option></select
				></label
			>
			<label class="text-[12px]"
				><span class="quiet block">Digits</span><input name="digits" class="n !w-16" value={one.form.digits} /></label
			>
			<label class="text-[12px]"
				><span class="quiet block">From</span><input name="start" class="n !w-20" value={one.form.start} /></label
			>
			<button class="button">Save numbers</button>
			<span class="quiet self-center">next {one.next}{one.given ? `, ${one.given} given` : ''}</span>
		</form>
	{/each}
	<h2 id="mail">Mail and texts</h2>
	<form method="post" action="?/sending" use:enhance={keep as never} class="grid max-w-[720px] grid-cols-3 gap-x-4">
		<Field
			label="Mail server"
			help={{
				what: 'The host that takes your mail by SMTP.',
				where: 'At your mail provider, under sending or SMTP.',
				looks: 'smtp.yourprovider.example'
			}}>{#snippet children(attributes)}<input {...attributes} name="host" value={data.sending.host} />{/snippet}</Field
		>
		<Field label="Port"
			>{#snippet children(attributes)}<input
					{...attributes}
					name="port"
					inputmode="numeric"
					value={data.sending.port}
				/>{/snippet}</Field
		>
		<Field label="Security"
			>{#snippet children(attributes)}<select {...attributes} name="security" value={data.sending.security}
					><option value="starttls">STARTTLS</option><option value="tls">TLS from the start</option><option value="none"
						>none</option
					></select
				>{/snippet}</Field
		>
		<Field label="User"
			>{#snippet children(attributes)}<input
					{...attributes}
					name="user"
					autocomplete="off"
					value={data.sending.user}
				/>{/snippet}</Field
		>
		<Field label="Password" hint={data.sending.hasPassword ? 'one is kept, sealed; leave empty to keep it' : ''}
			>{#snippet children(attributes)}<input
					{...attributes}
					name="password"
					type="password"
					autocomplete="new-password"
				/>{/snippet}</Field
		>
		<span></span>
		<Field label="Mails come from"
			>{#snippet children(attributes)}<input
					{...attributes}
					name="fromMail"
					value={data.sending.fromMail}
				/>{/snippet}</Field
		>
		<Field label="With the name"
			>{#snippet children(attributes)}<input
					{...attributes}
					name="fromName"
					value={data.sending.fromName}
				/>{/snippet}</Field
		>
		<span></span>
		<Field label="Text gateway" help={{ what: 'An address that takes a text as JSON: to, from, text.' }}
			>{#snippet children(attributes)}<input
					{...attributes}
					name="textAddress"
					value={data.sending.textAddress}
				/>{/snippet}</Field
		>
		<Field label="Key of the gateway" hint={data.sending.hasKey ? 'one is kept, sealed; leave empty to keep it' : ''}
			>{#snippet children(attributes)}<input
					{...attributes}
					name="key"
					type="password"
					autocomplete="new-password"
				/>{/snippet}</Field
		>
		<Field label="Texts come from"
			>{#snippet children(attributes)}<input
					{...attributes}
					name="textFrom"
					value={data.sending.textFrom}
				/>{/snippet}</Field
		>
		<div class="col-span-3 mt-3"><button class="button main">Save mail and texts</button></div>
	</form>
	<form method="post" action="?/test" use:enhance={keep as never} class="mt-3 flex items-end gap-2">
		<label class="text-[12px]"
			><span class="quiet block">Send a test mail to</span><input name="to" class="!w-64" /></label
		><button class="button">Send test mail</button>
		{#if data.sending.testedAt}<span
				class="self-center"
				class:text-clay={!!data.sending.says}
				class:text-moss={!data.sending.says}>{data.sending.says || 'The last test went out.'}</span
			>{/if}
	</form>
</Sheet>
<Workings />
