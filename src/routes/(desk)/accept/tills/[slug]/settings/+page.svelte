<script lang="ts">
	import { TillSheet, Workings } from '$lib/ui';
	import TillPreview from '$lib/ui/TillPreview.svelte';
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
	<form method="post" use:enhance class="mt-2 max-w-[760px]">
		<TillFields
			bind:values={$form}
			errors={$errors}
			choices={data.choices}
			colours={data.colours}
			domains={data.domains}
			brands={data.brands}
			fixedMode
		/>
		<div class="act-bar"><button class="button main" data-save>Save settings</button></div>
	</form>
</TillSheet>
<Workings><TillPreview shop={data.business.name} values={$form} /></Workings>
