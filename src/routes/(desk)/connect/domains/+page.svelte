<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { Field, Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const errors = $derived((form && 'errors' in form ? form.errors : {}) as Record<string, string>);
	const typed = $derived((form && 'values' in form ? form.values : {}) as Record<string, string>);
	const when = (ms: number | null) => (ms ? formatMoment(ms, data.locale, data.business.timeZone) : '');
</script>

<Sheet
	title="Domains"
	about="The web domains of the business: proofs that device wallets ask for, and code that some methods want on a page"
>
	<Said form={form as never} />
	{#each data.domains as one (one.domain)}
		<section class="border-rule mt-4 border-t pt-3" aria-label={one.domain}>
			<div class="flex items-baseline gap-3">
				<h2 class="!mt-0 mono">{one.domain}</h2>
				<span class="quiet">page {one.page}</span>
				<form method="post" action="?/remove" use:enhance class="ml-auto">
					<input type="hidden" name="domain" value={one.domain} /><button class="why">Remove {one.domain}</button>
				</form>
			</div>
			<table class="mt-1">
				<tbody>
					{#each one.proofs as proof (proof.connectionId)}
						<tr>
							<td class="w-56"
								>Proof for {proof.name}{#if proof.mode === 'test'}, test{/if}</td
							>
							<td>
								{#if proof.state === 'proven'}<b class="yes">✓ Proven</b>{:else if proof.state === 'failing'}<b
										class="no">✕ Failing</b
									>{:else}<b class="quiet">– Missing</b>{/if}
								<span class="sub"
									>{proof.says}
									{#if proof.lookedAt}Looked at {when(proof.lookedAt)}.{/if}
									{#if proof.path}Served at <span class="mono">{proof.path}</span>.{/if}</span
								>
							</td>
							<td class="n">
								<form method="post" action="?/prove" use:enhance>
									<input type="hidden" name="domain" value={one.domain} />
									<input type="hidden" name="connection" value={proof.connectionId} />
									<button class="button small">{proof.state === 'missing' ? 'Have it proven' : 'Look again'}</button>
								</form>
							</td>
						</tr>
					{/each}
					{#each one.codes as code (code.connectionId)}
						<tr>
							<td class="w-56"
								>Page code for {code.name}{#if code.mode === 'test'}, test{/if}</td
							>
							<td>
								{#if code.state === 'present'}<b class="yes">✓ On the page</b>{:else}<b class="quiet">– Not there</b
									>{/if}
								<span class="sub"
									>{code.says}
									{#if code.lookedAt}Looked at {when(code.lookedAt)}.{/if}</span
								>
							</td>
							<td class="n whitespace-nowrap">
								<a class="underline" href="?code={code.connectionId}" data-sveltekit-noscroll>See the code</a>
								<form method="post" action="?/look" use:enhance class="ml-2 inline">
									<input type="hidden" name="domain" value={one.domain} />
									<input type="hidden" name="connection" value={code.connectionId} />
									<button class="button small">Look at the page</button>
								</form>
							</td>
						</tr>
					{/each}
					{#if !one.proofs.length && !one.codes.length}
						<tr><td class="quiet">No connected account asks anything of a domain.</td></tr>
					{/if}
				</tbody>
			</table>
		</section>
	{:else}
		<p class="note mt-4">No domain yet. Add the one on which payers see your shop.</p>
	{/each}
	{#if data.code}
		<section class="note mt-4">
			{#if 'trouble' in data.code}<p>{data.code.trouble}</p>
			{:else}
				<p><b>Put this on the shop’s page for {data.code.name}:</b></p>
				<textarea class="mono mt-2 w-full" rows="3" readonly aria-label="Code for the shop’s page"
					>{data.code.html}</textarea
				>
				<p class="quiet">
					Then look at the page: its presence is checked by <span class="mono">{data.code.mark}</span>.
				</p>
			{/if}
		</section>
	{/if}
	<h2 id="domain">Add a domain</h2>
	<form
		method="post"
		action="?/add"
		use:enhance
		class="grid max-w-[560px] items-end gap-x-4 gap-y-2 sm:grid-cols-[1fr_200px_auto]"
	>
		<Field
			label="Domain"
			wrong={errors.domain}
			help={{ what: 'The domain alone, without https and path.', looks: 'shop.wrenalder.example' }}
		>
			{#snippet children(attributes)}<input
					{...attributes}
					name="domain"
					class="mono"
					value={typed.domain ?? ''}
				/>{/snippet}
		</Field>
		<Field
			label="Page with the code"
			wrong={errors.page}
			help={{ what: 'Where methods that want code on the page are looked for.', looks: '/cart' }}
		>
			{#snippet children(attributes)}<input
					{...attributes}
					name="page"
					class="mono"
					value={typed.page ?? '/'}
				/>{/snippet}
		</Field>
		<button class="button main" data-save>Add domain</button>
	</form>
</Sheet>
<Workings
	how={{
		title: 'How a domain is proven',
		about: data.provers.length
			? `Asked for by ${data.provers.map((one) => one.name).join(', ')}.`
			: 'No connected account asks for a proof.',
		steps: [
			{ title: 'The processor gives a file', sub: 'to this application' },
			{ title: 'This application serves it', sub: 'for every domain that leads here' },
			{ title: 'The processor looks', sub: 'and says proven, or why not' },
			{ title: 'Until then the wallet is withheld', sub: 'at tills of that domain; the reason stands in the answer' }
		]
	}}
/>
