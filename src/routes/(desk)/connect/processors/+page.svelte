<script lang="ts">
	import { formatDay } from '$lib/core/calendar';
	import { Sheet, Workings } from '$lib/ui';
	const { data } = $props();
	let form = $state<HTMLFormElement>();
	const filtered = $derived(Object.values(data.filter).some(Boolean));
</script>

<Sheet
	title="Catalogue"
	about="The processors that Just Purse can talk to: what each carries, how it is connected, where to apply"
>
	<form method="get" bind:this={form} data-sveltekit-keepfocus class="mt-4 flex flex-wrap items-end gap-3">
		{#snippet choose(name: 'country' | 'method' | 'currency' | 'way', label: string, options: [string, string][])}
			<label class="text-[12px]"
				><span class="quiet block">{label}</span>
				<select {name} value={data.filter[name]} onchange={() => form?.requestSubmit()} class="!w-auto">
					<option value="">any</option>
					{#each options as [value, text] (value)}<option {value}>{text}</option>{/each}
				</select></label
			>
		{/snippet}
		{@render choose(
			'country',
			'Business in',
			data.countries.map((one) => [one.code, one.name])
		)}
		{@render choose(
			'method',
			'Method',
			data.methods.map((one) => [one.method, one.name])
		)}
		{@render choose(
			'currency',
			'Currency',
			data.currencies.map((one) => [one, one])
		)}
		{@render choose(
			'way',
			'Connects by',
			data.ways.map((one) => [one, one])
		)}
		<noscript><button class="button">Filter</button></noscript>
		{#if filtered}<a class="underline" href="/connect/processors">Show all {data.count}</a>{/if}
	</form>
	<ul class="mt-3">
		{#each data.processors as one (one.processor)}
			<li class="border-rule grid gap-x-5 gap-y-2 sm:grid-cols-[150px_1fr_190px] border-t py-3">
				<div>
					<b class="font-display text-[16px]">{one.name}</b>
					<span class="sub">by {one.way}</span>
					<span class="sub">{one.currencies.join(' ')}</span>
					{#if !one.here}<span class="sub text-clay">not for businesses in {data.country}</span>{/if}
				</div>
				<div>
					<p>{one.carries}</p>
					<p class="quiet">{one.paysOut} {one.charges}</p>
					<p class="sub">
						{one.support}
						<a class="underline" href={one.console} target="_blank" rel="noreferrer">Its console</a>
					</p>
					{#each one.applications as application (application.number)}
						<p class="mt-1">
							<a class="why" href="/connect/processors/{one.processor}#application"
								>Application {application.number}: {application.state}</a
							>{#if application.papers.length}<span class="sub text-clay">wants: {application.papers.join(', ')}</span
								>{/if}
						</p>
					{/each}
				</div>
				<div class="sm:text-right">
					{#each one.connections as { id, mode, accountId, heldUntil } (id)}<a
							class="block underline"
							href="/connect/connections/{id}">Connected, {mode}<span class="sub">account {accountId}</span></a
						>{#if heldUntil}<span class="sub">first payouts held until {formatDay(heldUntil, data.locale)}</span
							>{/if}{/each}
					<a
						class="button small mt-1"
						data-row
						href="/connect/processors/{one.processor}{one.draft ? `?mode=${one.draft}` : ''}"
						>{one.draft
							? `Finish connecting ${one.name}`
							: one.connections.length
								? 'Connect another account'
								: `Connect ${one.name}`}</a
					>
					{#if !one.connections.length}<a class="sub underline" href="/connect/processors/{one.processor}#ready"
							>{one.missing
								? `${one.missing} detail${one.missing === 1 ? '' : 's'} missing`
								: 'you have all it asks for'}</a
						>{/if}
				</div>
			</li>
		{:else}
			<li class="note">
				No processor is like that. <a class="why" href="/connect/processors">Show all {data.count}</a>
			</li>
		{/each}
	</ul>
</Sheet>
<Workings
	how={{
		title: 'Before you connect a processor',
		steps: [
			{
				title: 'Have an account there',
				sub: 'Keys are made in the processor’s own console. No account yet: apply there, and follow the application here.'
			},
			{ title: 'Test and live are two connections', sub: 'A test connection can never carry a live till.' },
			{ title: 'Nothing is kept before it is verified', sub: 'Keys are tried with the processor on the spot.' },
			{ title: 'Leave and return', sub: 'What was begun waits where it was.' }
		]
	}}
/>
