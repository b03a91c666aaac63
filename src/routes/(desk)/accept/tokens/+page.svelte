<script lang="ts">
	import { formatMoment } from '$lib/core/calendar';
	import { enhance } from '$app/forms';
	import { DayInput, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const when = (ms: number | null) => (ms === null ? 'never' : formatMoment(ms, data.locale, data.business.timeZone));
	const typed = $derived(form && 'typed' in form ? form.typed : undefined);
	const SCOPES: Record<string, string> = {
		tills: 'read tills, and ask what a payer is offered',
		'line-ups': 'draft and publish line-ups',
		checkouts: 'make, read and cancel checkouts',
		payments: 'read payments and their fees',
		money: 'capture, void and refund, record receipts',
		payers: 'read and change payers and their groups',
		fees: 'read rate cards and settlement files',
		billing: 'write, send and read invoices, read the price list'
	};
	let copied = $state(false);
	async function copy(text: string) {
		await navigator.clipboard.writeText(text);
		copied = true;
	}
	const inUse = $derived(data.tokens.filter((one) => !one.revokedAt && !one.isExpired).length);
</script>

<Sheet title="API tokens" about="For your shop’s own programs, at {data.address}">
	{#snippet acts()}<a class="button" href="/docs/api">Read the API document</a>{/snippet}
	{#if form && 'trouble' in form && form.trouble}<p class="wrong mt-4" role="alert">{form.trouble}</p>{/if}
	{#if form && 'says' in form && form.says}<div class="note moss mt-4 flex items-center gap-3" role="status">
			<span>{form.says}</span>
			{#if 'undo' in form && form.undo}<form method="post" action="?/restore" use:enhance class="ml-auto">
					<input type="hidden" name="id" value={form.undo} /><button class="button small">Take it back</button>
				</form>{/if}
		</div>{/if}
	{#if form && 'token' in form && form.token}
		{@const token = form.token}
		<section class="note moss mt-4" role="status">
			<p><b>The token {form.name}.</b> It is shown this once: copy it now.</p>
			<p class="mt-1 flex items-center gap-3">
				<span class="mono break-all text-[13px]" id="token">{token}</span>
				<button type="button" class="button small" onclick={() => copy(token)}
					>{copied ? 'Copied' : 'Copy token'}</button
				>
			</p>
		</section>
	{/if}
	<form
		method="post"
		action="?/make"
		class="mt-4"
		use:enhance={() =>
			async ({ update, result }) => {
				copied = false;
				await update({ reset: result.type === 'success' });
			}}
	>
		<div class="flex flex-wrap items-end gap-3">
			<label
				><span class="legend">What it is for</span><input
					name="name"
					class="!w-56"
					placeholder="Web shop"
					value={typed?.name ?? ''}
				/></label
			>
			<label
				><span class="legend">Tills of</span><select name="mode" value={typed?.mode ?? ''}
					><option value="">both modes</option><option value="test">test mode</option><option value="live"
						>live mode</option
					></select
				></label
			>
			<label
				><span class="legend">Good until</span><DayInput
					name="until"
					value={typed?.until ?? ''}
					locale={data.locale}
				/></label
			>
		</div>
		<fieldset class="mt-3">
			<legend class="legend">It may</legend>
			{#each data.scopes as scope (scope)}<label class="mr-4 flex min-h-[27px] items-center gap-1.5"
					><input
						type="checkbox"
						name="scope"
						value={scope}
						checked={typed ? typed.scopes.includes(scope) : scope === 'tills' || scope === 'checkouts'}
					/>{SCOPES[scope]}</label
				>{/each}
		</fieldset>
		<details class="mt-2">
			<summary class="why inline-block">Only at some tills</summary>
			<div class="ticks mt-1">
				{#each data.tills as till (till.id)}<label
						><input
							type="checkbox"
							name="till"
							value={till.id}
							checked={typed?.tills.includes(till.id)}
						/>{till.name}</label
					>{/each}
			</div>
		</details>
		<button class="button main mt-3" data-save>Make token</button>
	</form>
	<table class="mt-5">
		<thead
			><tr><th>Token</th><th>It may</th><th>Last used</th><th><span class="sr-only">What can be done</span></th></tr
			></thead
		>
		<tbody>
			{#each data.tokens as one (one.id)}
				<tr class:quiet={!!one.revokedAt || one.isExpired}
					><td
						><b>{one.name}</b><span class="sub mono">jpt_…{one.last4}</span><span class="sub"
							>{when(one.createdAt)}, {one.by}</span
						></td
					><td
						>{one.scopes.join(', ')}<span class="sub"
							>{one.tills.length ? one.tills.join(', ') : 'all tills'}{one.mode
								? `, ${one.mode} mode`
								: ''}{one.expiresAt ? `, ${one.isExpired ? 'ended' : 'until'} ${when(one.expiresAt)}` : ''}</span
						>{#if one.oldUntil}<span class="sub">the token before is good until {when(one.oldUntil)}</span>{/if}</td
					><td>{when(one.usedAt)}</td><td class="n"
						>{#if one.revokedAt}<span class="quiet">revoked {when(one.revokedAt)}</span>{:else if !one.isExpired}
							<form method="post" action="?/rotate" use:enhance class="inline">
								<input type="hidden" name="id" value={one.id} /><button class="button small">Rotate {one.name}</button>
							</form>
							<form method="post" action="?/revoke" use:enhance class="mt-1">
								<input type="hidden" name="id" value={one.id} /><button class="button small">Revoke {one.name}</button>
							</form>{/if}</td
					></tr
				>
			{:else}<tr><td colspan="4" class="quiet">No tokens yet: no program can use the API.</td></tr>{/each}
		</tbody>
	</table>
</Sheet>
<Workings
	how={{
		title: `${inUse} token${inUse === 1 ? '' : 's'} in use`,
		steps: [
			{ title: 'As little as it needs', sub: 'a shop that only takes orders needs tills and checkouts' },
			{ title: 'Test first', sub: 'a token of test mode sees no live till and moves no money' },
			{ title: 'Rotating', sub: 'the old and the new one are both good for a week' },
			{ title: 'No secrets', sub: 'no token reads a key, a password or a card number' }
		]
	}}
/>
