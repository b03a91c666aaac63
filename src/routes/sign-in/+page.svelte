<script lang="ts">
	import { enhance } from '$app/forms';
	import Purse from '$lib/ui/Purse.svelte';
	const { form } = $props();
	const PARTS = [
		['Connect', 'processors and offline methods, what each can do and what it costs'],
		['Accept', 'what each checkout, counter and invoice offers, to whom'],
		['Bill', 'what is owed, asked for and paid'],
		['Takings', 'how far each payment has come, what it cost, what is stuck'],
		['Watch', 'fees as charged, and every notification']
	];
</script>

<svelte:head><title>Sign in · Just Purse</title></svelte:head>

<div class="grid min-h-dvh grid-rows-[48px_1fr]">
	<div class="flap"><span class="mark"><Purse />Just Purse</span></div>
	<div class="mx-auto grid w-full max-w-[920px] content-start gap-x-16 gap-y-8 p-5 pt-[9vh] md:grid-cols-[340px_1fr]">
		<main>
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
					><span>Password</span><input
						name="password"
						type="password"
						autocomplete="current-password"
						required
					/></label
				>
				{#if form?.says}<p class="wrong mt-3" role="alert">{form.says}</p>{/if}
				<button class="button main mt-4">Sign in</button>
			</form>
		</main>
		<aside class="border-rule md:border-l md:pl-10" aria-label="What this is">
			<h2 class="!mt-0">What you find here</h2>
			<ul>
				{#each PARTS as [name, says] (name)}<li class="border-rule border-b py-2.5">
						<b>{name}</b><span class="sub">{says}</span>
					</li>{/each}
			</ul>
			<p class="quiet mt-4">
				No sign-in yet, or the password is lost? Whoever runs this installation makes one. After several wrong tries it
				waits a while before it takes another.
			</p>
		</aside>
	</div>
</div>
