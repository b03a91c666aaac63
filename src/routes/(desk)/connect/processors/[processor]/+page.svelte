<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { goto } from '$app/navigation';
	import { Field, Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	let busy = $state(false);
	const errors = $derived((form?.errors ?? {}) as Record<string, string>);
	const applied = $derived(
		(form && 'application' in form ? form.application : { errors: {}, values: {} }) as {
			errors: Record<string, string>;
			values: Record<string, string>;
		}
	);
	const when = (ms: number) => formatMoment(ms, data.locale, data.business.timeZone);
	/** choosing comes once what opens the accounts is there */
	const choosing = $derived(!!data.choices?.length);
	const needsFields = $derived(data.fields.length > 0);
	const canConnect = $derived(!data.hasConsent || data.draft.consented);
	const missing = $derived(data.readiness.filter((one) => !one.there));
	const steps = $derived.by(() => {
		let count = 0;
		const next = (is: boolean) => (is ? ++count : 0);
		const numbers = {
			consent: next(data.hasConsent),
			hand: next(!!data.byHand && data.hasConsent),
			fields: next(needsFields),
			choose: next(!!data.chooser)
		};
		return { ...numbers, count };
	});
	const many = $derived(steps.count > 1);
</script>

<Sheet
	title="Connect {data.name}"
	about="By {data.way}. Everything is tried at once; nothing is connected before it is right."
	test={data.mode === 'test'}
>
	{#snippet acts()}
		<a class="button" href={data.console} target="_blank" rel="noreferrer">Open {data.name}’s console</a>
		{#if data.begun}
			<form method="post" action="?/forget" use:enhance>
				<input type="hidden" name="mode" value={data.mode} /><button class="button">Forget what was begun</button>
			</form>
		{/if}
	{/snippet}
	<Said form={form as never} />
	{#if !form && data.says}<p class="note moss mt-4" role="status">{data.says}</p>{/if}
	{#if !form && !data.says && data.draft.says}<p class="note clay mt-4" role="alert">{data.draft.says}</p>{/if}
	{#if !form && data.begun && data.draft.changedAt && !data.says && !data.draft.says}
		<p class="note mt-4">Begun {when(data.draft.changedAt)}. It goes on where it was.</p>
	{/if}

	<fieldset class="mt-4">
		<legend class="legend">For</legend>
		<div class="ticks">
			{#each [['live', 'Live: real payments'], ['test', 'Test: nothing is really charged']] as const as [value, text] (value)}
				<label
					><input
						type="radio"
						name="for"
						{value}
						checked={data.mode === value}
						onchange={() => goto(`?mode=${value}`, { keepFocus: true, noScroll: true })}
					/>
					{text}</label
				>
			{/each}
		</div>
	</fieldset>

	{#if data.hasConsent}
		<h2>{many ? `${steps.consent}. ` : ''}Consent on {data.name}’s page</h2>
		{#if data.draft.consented}
			<p><b class="yes">✓ Given</b> <span class="quiet">access ending in {data.draft.kept.access}</span></p>
		{:else}
			<p>You go to {data.name}, sign in there, and agree to:</p>
			<ul class="mt-1 list-disc pl-5">
				{#each data.scopes as [scope, breaks] (scope)}<li>
						<span class="mono">{scope}</span> <span class="quiet">without it, {breaks}</span>
					</li>{/each}
			</ul>
		{/if}
		<form method="post" action="?/consent" class="mt-2">
			<input type="hidden" name="mode" value={data.mode} />
			<button class="button" class:main={!data.draft.consented} data-save={data.draft.consented ? undefined : ''}
				>{data.draft.consented ? 'Give it once more' : `Go to ${data.name} and give consent`}</button
			>
		</form>
	{/if}

	{#if data.byHand && data.draft.hook}
		<h2>{steps.hand ? `${steps.hand}. ` : ''}Switch notifications on</h2>
		<p class="max-w-[560px]">{data.byHand.where}</p>
		<p class="mt-1">Address <span class="mono break-all select-all">{data.draft.hook}</span></p>
		<p class="mt-1">
			Events {#each data.byHand.names as name, at (at)}<span class="chip mono">{name}</span>{/each}
		</p>
	{/if}

	<form
		method="post"
		action="?/connect"
		class="max-w-[560px]"
		use:enhance={() => {
			busy = true;
			return async ({ update }) => {
				await update({ reset: false });
				busy = false;
			};
		}}
	>
		<input type="hidden" name="mode" value={data.mode} />
		{#if needsFields && (!data.hasConsent || data.draft.consented)}
			{#if many}<h2>{steps.fields}. {data.fields.map((one) => one.label).join(' and ')}</h2>{/if}
			{#each data.fields as field, at (at)}
				<Field
					label={field.label}
					wrong={errors[field.name]}
					hint={field.secret && data.draft.kept[field.name]
						? `Kept, sealed: •••• ${data.draft.kept[field.name]}. Leave it empty to use that.`
						: undefined}
					help={{
						what: field.secret ? 'It lets us act for your account.' : 'It names your account.',
						where: field.where,
						looks: field.looks
					}}
				>
					{#snippet children(attributes)}
						<input
							{...attributes}
							name={field.name}
							type={field.secret ? 'password' : 'text'}
							class="mono"
							autocomplete="off"
							spellcheck="false"
							value={field.secret ? '' : (data.draft.values[field.name] ?? '')}
						/>
					{/snippet}
				</Field>
			{/each}
		{/if}
		{#if data.chooser && choosing}
			<fieldset>
				<legend><h2>{many ? `${steps.choose}. ` : ''}Choose the {data.chooser.what}</h2></legend>
				<p class="quiet">{data.chooser.help}</p>
				{#each data.choices ?? [] as choice, i (choice.id)}
					<label class="mt-2 block"
						><input
							type="radio"
							name={data.chooser.name}
							value={choice.id}
							checked={data.draft.choice ? data.draft.choice === choice.id : i === 0}
						/> <b>{choice.name}</b> <span class="mono">{choice.id}</span><span class="sub">{choice.says}</span></label
					>
				{/each}
				{#if errors[data.chooser.name]}<span class="wrong" role="alert">{errors[data.chooser.name]}</span>{/if}
				<p class="sub">It can be changed later, with what that does to tills shown first.</p>
			</fieldset>
		{:else if data.choiceTrouble}
			<p class="note clay mt-4" role="alert">{data.choiceTrouble}</p>
		{/if}
		{#if canConnect}
			<button class="button main mt-5" data-save disabled={busy}
				>{busy
					? `Asking ${data.name}…`
					: data.chooser && !choosing
						? `Go on to the ${data.chooser.what}s`
						: `Connect ${data.name}`}</button
			>
		{/if}
	</form>

	<section id="ready">
		<h2>
			What {data.name} asks of you
			<span class="quiet font-sans text-[12px] font-normal"
				>{missing.length ? `${missing.length} of ${data.readiness.length} missing` : 'all there'}</span
			>
		</h2>
		<ul class="columns-2">
			{#each data.readiness as one, nth (nth)}
				<li>
					<span class={one.there ? 'yes' : 'no'} aria-hidden="true">{one.there ? '✓' : '✕'}</span>
					{one.name}{#if !one.there}, <a class="why" href={one.href}>give it</a>{/if}
				</li>
			{/each}
		</ul>
		<p class="quiet mt-2">
			No account there yet? <a class="underline" href={data.apply} target="_blank" rel="noreferrer"
				>Apply at {data.name}</a
			>.
		</p>
	</section>

	{#if data.application}
		<section id="application">
			<h2>Application</h2>
			{#each data.applications as one (one.id)}
				<div class="flex items-baseline gap-3">
					<p>
						<span class="mono">{one.number}</span> <b>{one.state}</b>
						<span class="quiet">asked {when(one.askedAt)}{one.says ? `; ${one.says}` : ''}</span>
						{#if one.papers.length}<span class="text-clay block"
								>{data.name} wants: {one.papers.join(', ')}. Send them in its console.</span
							>{/if}
					</p>
					<form method="post" action="?/ask" use:enhance class="ml-auto"><button class="why">Ask again</button></form>
					<form method="post" action="?/unfollow" use:enhance>
						<input type="hidden" name="id" value={one.id} /><button class="why">Stop following</button>
					</form>
				</div>
			{/each}
			<form
				method="post"
				action="?/follow"
				use:enhance
				class="grid max-w-[560px] grid-cols-[1fr_1fr_auto] items-end gap-x-4"
			>
				<Field
					label="Application number"
					wrong={applied.errors.number}
					help={{
						what: 'Its state is asked after, and shown here and in the catalogue.',
						where: `In ${data.name}’s answer to the application`,
						looks: data.application.looks
					}}
				>
					{#snippet children(attributes)}<input
							{...attributes}
							name="number"
							class="mono"
							value={applied.values.number ?? ''}
						/>{/snippet}
				</Field>
				<Field
					label="Mail"
					wrong={applied.errors.mail}
					help={{ what: 'The address with which the application was made.' }}
				>
					{#snippet children(attributes)}<input
							{...attributes}
							name="mail"
							value={applied.values.mail ?? ''}
						/>{/snippet}
				</Field>
				<button class="button">Follow it</button>
			</form>
		</section>
	{/if}
</Sheet>
<Workings
	how={{
		title: 'What happens when you press it',
		steps: [
			{ title: 'What you gave is looked at', sub: 'swapped, cut short, test where live is meant' },
			{ title: `${data.name} is asked whose it is`, sub: 'wrong and revoked ones end here' },
			{ title: 'What the account can do is read', sub: 'currencies, card types, limits, prices' },
			{
				title: data.byHand ? 'Notifications are looked for' : 'Notifications are set up there',
				sub: data.byHand ? 'what is still missing stands on a list to tick off' : 'and a test notification is asked for'
			},
			{ title: 'Secrets are sealed', sub: 'and from then on shown by their last four characters' }
		]
	}}
/>
