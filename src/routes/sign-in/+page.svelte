<script lang="ts">
	import { enhance } from '$app/forms';
	import Purse from '$lib/ui/Purse.svelte';
	const { form } = $props();
</script>

<svelte:head><title>Sign in · Just Purse</title></svelte:head>

<div class="grid min-h-dvh grid-rows-[48px_1fr]">
	<div class="flap"><span class="mark"><Purse />Just Purse</span></div>
	<main class="mx-auto mt-[12vh] w-full max-w-[340px] p-5">
		<h1>Sign in</h1>
		<p class="quiet">Every way you get paid, in one place.</p>
		<form
			method="post"
			use:enhance={() =>
				async ({ update }) =>
					update({ reset: false })}
		>
			<label class="field"
				><span>Mail address</span><input
					name="mail"
					type="email"
					autocomplete="username"
					required
					value={form?.mail ?? ''}
				/></label
			>
			<label class="field"
				><span>Password</span><input name="password" type="password" autocomplete="current-password" required /></label
			>
			{#if form?.says}<p class="wrong mt-3" role="alert">{form.says}</p>{/if}
			<button class="button main mt-4">Sign in</button>
		</form>
	</main>
</div>
