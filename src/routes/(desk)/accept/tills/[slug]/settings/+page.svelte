<script lang="ts">
	import { TillSheet, Workings } from '$lib/ui';
	import TillFields from '$lib/ui/TillFields.svelte';
	import { untrack } from 'svelte';
	import { superForm } from 'sveltekit-superforms';
	const { data } = $props();
	const { form, errors, enhance, message } = superForm(
		untrack(() => data.form),
		{ resetForm: false }
	);
</script>

<TillSheet
	till={data.till}
	title="Settings of {data.till.name}"
	about="A {data.till.mode} till at /pay/{data.till.slug}"
>
	{#if $message}<p class="note moss mt-4" role="status">{$message}</p>{/if}
	<form method="post" use:enhance class="max-w-[560px]">
		<TillFields
			bind:values={$form}
			errors={$errors}
			choices={data.choices}
			colours={data.colours}
			domains={data.domains}
			brands={data.brands}
			fixedMode
		/>
		<button class="button main mt-5" data-save>Save settings</button>
	</form>
</TillSheet>
<Workings />
