<script lang="ts">
	import { Sheet, Workings } from '$lib/ui';
	import TillFields from '$lib/ui/TillFields.svelte';
	import { untrack } from 'svelte';
	import { superForm } from 'sveltekit-superforms';
	const { data } = $props();
	const { form, errors, enhance, message } = superForm(
		untrack(() => data.form),
		{ resetForm: false }
	);
</script>

<Sheet
	title="Settings of {data.till.name}"
	about="A {data.till.mode} till at /pay/{data.till.slug}"
	test={data.till.mode === 'test'}
>
	{#snippet acts()}<a class="button" href="/accept/tills/{data.till.slug}">Back to the line-up</a>{/snippet}
	{#if $message}<p class="note moss mt-4" role="status">{$message}</p>{/if}
	<form method="post" use:enhance class="max-w-[560px]">
		<TillFields
			bind:values={$form}
			errors={$errors}
			choices={data.choices}
			colours={data.colours}
			domains={data.domains}
			fixedMode
		/>
		<button class="button main mt-5" data-save>Save settings</button>
	</form>
</Sheet>
<Workings />
