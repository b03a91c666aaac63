<script lang="ts">
	import { enhance } from '$app/forms';
	import { Sheet, Workings } from '$lib/ui';
	import EndpointFields from '../EndpointFields.svelte';
	const { form } = $props();
	const made = $derived(form && 'secret' in form ? form : undefined);
	const errors = $derived<Record<string, string>>(
		form && 'errors' in form ? (form.errors as Record<string, string>) : {}
	);
	const typed = $derived(
		(form && 'typed' in form && form.typed) || { address: '', description: '', kinds: [] as string[] }
	);
</script>

<Sheet title="Add an endpoint" about="A program of yours that is told of what happens">
	{#if made}
		<section class="note moss mt-4" role="status">
			<p><b>The endpoint is on.</b> Its secret is shown this once: copy it now.</p>
			<p class="mono mt-2 text-[13px] break-all" id="secret">{made.secret}</p>
		</section>
		<p class="mt-4">
			<a class="button main" href="/watch/endpoints/{made.id}">Send a test and see its log</a>
		</p>
	{:else}
		<form
			method="post"
			class="mt-4"
			use:enhance={() =>
				({ update }) =>
					update({ reset: false })}
		>
			{#if errors.kinds}<p class="wrong" role="alert">{errors.kinds}</p>{/if}
			<EndpointFields start={typed} {errors} />
			<p class="mt-4"><button class="button main" data-save>Add the endpoint</button></p>
		</form>
	{/if}
</Sheet>
<Workings
	how={{
		title: 'Checking that it is us',
		steps: [
			{ title: 'webhook-id', sub: 'the event; the same at every try' },
			{ title: 'webhook-timestamp', sub: 'seconds since 1970, of this try' },
			{ title: 'webhook-signature', sub: 'v1, then base64 of HMAC-SHA-256 over id.timestamp.body' },
			{ title: 'The secret', sub: 'whsec_ and base64 of the key, as Standard Webhooks has it' }
		]
	}}
/>
