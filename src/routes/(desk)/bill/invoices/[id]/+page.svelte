<script lang="ts">
	import DocumentEditor from '$lib/ui/DocumentEditor.svelte';
	import DocumentSheet from '$lib/ui/DocumentSheet.svelte';
	const { data, form } = $props();
</script>

{#key data.id}
	{#if data.view}<DocumentSheet data={data as never} {form} />{:else}<DocumentEditor data={data as never} {form} />{/if}
{/key}
