<script lang="ts">
	/** What became of an action: done, or what stood in its way. */
	const { form }: { form: { says?: string; trouble?: string } | null | undefined } = $props();
</script>

{#if form?.trouble}<p class="note clay mt-4" role="alert">{form.trouble}</p>{/if}
{#if form?.says}<p class="note moss mt-4" role="status">{form.says}</p>{/if}
