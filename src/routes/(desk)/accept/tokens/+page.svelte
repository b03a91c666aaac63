<script lang="ts">
	import { enhance } from '$app/forms';
	import { Said, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const when = (ms: number | null) =>
		ms === null
			? 'never'
			: new Date(ms).toLocaleString(data.locale, {
					timeZone: data.business.timeZone,
					dateStyle: 'medium',
					timeStyle: 'short'
				});
</script>

<Sheet title="Tokens of the interface" about="For your shop’s own programs, at {data.address}">
	{#snippet acts()}<a class="button" href="/api/v1/openapi.json">Its document, OpenAPI</a>{/snippet}
	<Said form={form as never} />
	{#if form && 'token' in form && form.token}
		<section class="note moss mt-4" role="status">
			<p><b>The token {form.name}.</b> It is shown this once: copy it now.</p>
			<p class="mono mt-1 break-all text-[13px]" id="token">{form.token}</p>
		</section>
	{/if}
	<form method="post" action="?/make" use:enhance class="mt-4 flex items-end gap-2">
		<label class="text-[12px]"
			><span class="quiet block">What it is for</span><input name="name" class="!w-64" placeholder="Web shop" /></label
		><button class="button main" data-save>Make a token</button>
	</form>
	<table class="mt-4">
		<thead
			><tr><th>Token</th><th>Made</th><th>Last used</th><th><span class="sr-only">What can be done</span></th></tr
			></thead
		>
		<tbody>
			{#each data.tokens as one (one.id)}
				<tr
					><td><b>{one.name}</b><span class="sub mono">jpt_…{one.last4}</span></td><td
						>{when(one.createdAt)}<span class="sub">{one.by}</span></td
					><td>{when(one.usedAt)}</td><td class="n"
						>{#if one.revokedAt}<span class="quiet">revoked {when(one.revokedAt)}</span>{:else}<form
								method="post"
								action="?/revoke"
								use:enhance
							>
								<input type="hidden" name="id" value={one.id} /><button class="button small">Revoke {one.name}</button>
							</form>{/if}</td
					></tr
				>
			{:else}<tr><td colspan="4" class="quiet">No tokens yet: nobody can use the interface.</td></tr>{/each}
		</tbody>
	</table>
</Sheet>
<Workings
	first={{
		title: 'What a token may do',
		steps: [
			{ title: 'Ask', sub: 'what any payer would be offered at a till, with every reason' },
			{ title: 'Read, draft and publish', sub: 'line-ups, under the same checks as here' },
			{ title: 'Make checkouts', sub: 'for orders; it gets the signed address' },
			{ title: 'Nothing else', sub: 'it sees no secret, and takes no money' }
		]
	}}
/>
