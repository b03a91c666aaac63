<script lang="ts">
	import { formatDay, inZone } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { descriptorProblems } from '$lib/core/references';
	import { ConnectionSheet, Field, Said, Workings } from '$lib/ui';
	import { untrack } from 'svelte';
	const { data, form } = $props();
	const c = $derived(data.connection);
	const errors = $derived((form && 'errors' in form ? form.errors : {}) as Record<string, string>);
	const typed = $derived((form && 'values' in form ? form.values : {}) as Record<string, string>);
	let descriptor = $state(untrack(() => data.connection.descriptor));
	let short = $state(untrack(() => data.connection.shortDescriptor));
	const wrong = $derived(descriptorProblems(descriptor, data.limits).join(' '));
	const shortWrong = $derived(data.shortLimits ? descriptorProblems(short, data.shortLimits).join(' ') : '');
	const value = (name: keyof typeof data.values) => typed[name] ?? data.values[name];
	const today = $derived(formatDay(inZone(new Date(), data.business.timeZone).day, data.locale));
	const looks = (limits: typeof data.limits) =>
		`${limits.min} to ${limits.max} Latin letters, digits and plain punctuation, a letter among them; not ${[...limits.forbidden].join(' ')}`;
</script>

<ConnectionSheet connection={c} chooser={data.chooser}>
	<Said form={form as never} />
	<h2>Statement line</h2>
	<form
		method="post"
		action="?/descriptor"
		use:enhance={() =>
			async ({ update }) =>
				update({ reset: false })}
		class="max-w-[640px]"
	>
		<div class="grid grid-cols-2 gap-x-5">
			<Field
				label="What payers read on their statement"
				wrong={wrong || errors.descriptor}
				hint="{descriptor.length} of {data.limits.max}"
				help={{
					what: 'The line that a payer finds on their card or account statement. One that they know saves disputes.',
					looks: looks(data.limits)
				}}
			>
				{#snippet children(attributes)}<input
						{...attributes}
						name="descriptor"
						class="mono"
						bind:value={descriptor}
					/>{/snippet}
			</Field>
			{#if data.shortLimits}
				<Field
					label="Short form"
					wrong={shortWrong || errors.shortDescriptor}
					hint="{short.length} of {data.shortLimits.max}"
					help={{
						what: 'Where a bank shows fewer characters, this stands before the order’s reference.',
						looks: looks(data.shortLimits)
					}}
				>
					{#snippet children(attributes)}<input
							{...attributes}
							name="shortDescriptor"
							class="mono"
							bind:value={short}
						/>{/snippet}
				</Field>
			{/if}
		</div>
		<div class="mt-2" aria-label="Preview of the statement line">
			<p class="border-rule flex justify-between border-y py-1.5">
				<span class="mono">{descriptor || ' '}</span><span class="quiet mono">{today} −84.50</span>
			</p>
			{#if data.shortLimits}
				<p class="border-rule flex justify-between border-b py-1.5">
					<span class="mono">{short ? `${short} WAS-4175`.slice(0, 22) : ' '}</span><span class="quiet mono"
						>{today} −84.50</span
					>
				</p>
			{/if}
		</div>
		<button class="button mt-3" data-save>Save statement line</button>
	</form>

	<form
		method="post"
		action="?/money"
		use:enhance={() =>
			async ({ update }) =>
				update({ reset: false })}
		class="max-w-[640px]"
	>
		<h2>When money is taken</h2>
		<div class="ticks">
			<label><input type="radio" name="capture" value="at once" checked={value('capture') !== 'later'} /> At once</label
			>
			<label class:quiet={!data.authorisationDays}
				><input
					type="radio"
					name="capture"
					value="later"
					checked={value('capture') === 'later'}
					disabled={!data.authorisationDays}
				/>
				Later: it is only held first{data.authorisationDays
					? `, and lapses after ${data.authorisationDays} days`
					: `; ${c.name} cannot`}</label
			>
		</div>
		{#if errors.capture}<span class="wrong" role="alert">{errors.capture}</span>{/if}

		<h2>Payouts</h2>
		<div class="grid grid-cols-2 gap-x-5">
			<Field
				label="Paid out to"
				wrong={errors.bankAccountId}
				help={{
					what: `The bank account that ${c.name} pays out to. It must be in ${c.settlement}, which the account settles in.`,
					where: 'Bank accounts are added under Connect, Bank accounts.'
				}}
			>
				{#snippet children(attributes)}<select {...attributes} name="bankAccountId" value={value('bankAccountId')}>
						<option value="">not chosen</option>
						{#each data.banks as one (one.id)}<option value={one.id} disabled={!one.fits}>{one.name}</option>{/each}
					</select>{/snippet}
			</Field>
			{#if data.payout.rhythms}
				<Field label="Payout schedule" help={{ what: `How often ${c.name} pays out. It is changed there at once.` }}>
					{#snippet children(attributes)}<select {...attributes} name="schedule" value={data.payout.rhythm}>
							{#each data.payout.rhythms ?? [] as one (one)}<option>{one}</option>{/each}
						</select>{/snippet}
				</Field>
			{:else}<div class="field">
					<span class="legend">Payout schedule</span><span class="quiet">as {c.name} does it</span>
				</div>{/if}
			<Field
				label="Expected after, in bank days"
				wrong={errors.expectedDays}
				hint="{c.name} says {data.payout.bankDays}"
				help={{ what: 'When you expect the money. Past it, a payment counts as late. Empty: what the processor says.' }}
			>
				{#snippet children(attributes)}<input
						{...attributes}
						name="expectedDays"
						inputmode="numeric"
						value={value('expectedDays')}
					/>{/snippet}
			</Field>
			<Field
				label="Cut-off"
				wrong={errors.cutOff}
				hint="{c.name} says {data.payout.cutOff}, {c.timeZone}"
				help={{ what: 'What comes after it counts for the next day.', looks: '18:00' }}
			>
				{#snippet children(attributes)}<input
						{...attributes}
						name="cutOff"
						placeholder={data.payout.cutOff}
						value={value('cutOff')}
					/>{/snippet}
			</Field>
			<Field
				label="Bank calendar"
				wrong={errors.bankCalendar}
				help={{
					what: 'Which days count when money is expected: TARGET leaves out the holidays on which euro transfers rest.'
				}}
			>
				{#snippet children(attributes)}<select {...attributes} name="bankCalendar" value={value('bankCalendar')}>
						{#each data.calendars as one (one)}<option>{one}</option>{/each}
					</select>{/snippet}
			</Field>
		</div>

		<h2>In the books</h2>
		<div class="grid grid-cols-2 gap-x-5">
			<Field
				label="Clearing account"
				wrong={errors.clearingAccount}
				help={{
					what: 'Money that payers paid and that has not come to the bank yet.',
					where: 'From the chart of accounts, under Connect.'
				}}
			>
				{#snippet children(attributes)}<select {...attributes} name="clearingAccount" value={value('clearingAccount')}>
						<option value="">not chosen</option>
						{#each data.ledger.filter((one) => one.kind === 'asset' || one.kind === 'liability') as one (one.number)}<option
								value={one.number}>{one.number} {one.name}</option
							>{/each}
					</select>{/snippet}
			</Field>
			<Field label="Fee account" wrong={errors.feeAccount} help={{ what: 'What the processor keeps.' }}>
				{#snippet children(attributes)}<select {...attributes} name="feeAccount" value={value('feeAccount')}>
						<option value="">not chosen</option>
						{#each data.ledger.filter((one) => one.kind === 'expense') as one (one.number)}<option value={one.number}
								>{one.number} {one.name}</option
							>{/each}
					</select>{/snippet}
			</Field>
		</div>
		<button class="button main mt-5">Save settings</button>
	</form>
</ConnectionSheet>
<Workings
	how={{
		title: 'What these change',
		steps: [
			{ title: 'Statement line', sub: 'sent with every charge from now on' },
			{
				title: 'Taken later',
				sub: data.authorisationDays
					? `A payment is authorised first and taken under Takings; after ${data.authorisationDays} days the authorisation lapses and the money goes back by itself.`
					: 'Not at this processor.'
			},
			{ title: 'Expected days, cut-off, calendar', sub: 'from when a payout counts as late' },
			{ title: 'Ledger accounts', sub: 'where payments and fees are booked' }
		]
	}}
/>
