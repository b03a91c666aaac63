<script lang="ts">
	import { page } from '$app/state';
</script>

<svelte:head><title>{page.status} · Just Purse</title></svelte:head>
<main class="mx-auto mt-[18vh] max-w-md p-6">
	<h1>{page.error?.message ?? 'Something went wrong.'}</h1>
	<p class="quiet mt-2">{page.error?.help ?? 'Check the address, or start from the beginning.'}</p>
	<p class="mt-4"><a class="button" href="/">Go to Needs you</a></p>
</main>
