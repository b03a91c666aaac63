<script lang="ts">
	import Workings from './Workings.svelte';
	import { page } from '$app/state';
	import Sheet from './Sheet.svelte';

	/** What went wrong within a section, which stays around it. */
	const { section, href }: { section: string; href: string } = $props();
</script>

<Sheet title={page.error?.message ?? 'Something went wrong.'}>
	<p class="quiet mt-2">{page.error?.help ?? 'Check the address, or choose from the list beside it.'}</p>
	<p class="mt-4 flex gap-2">
		<a class="button" {href}>Go to {section}</a>
		{#if href !== '/needs-you'}<a class="button" href="/needs-you">Go to Needs you</a>{/if}
	</p>
</Sheet>
<Workings />
