<script lang="ts">
	import { page } from '$app/state';
</script>

<svelte:head><title>This address</title></svelte:head>
<main class="mx-auto mt-[16vh] max-w-[420px] p-6 text-[15px]">
	<h1>{page.error?.message}</h1>
	<p class="quiet mt-2">{page.error?.help ?? 'Ask the shop for a new address. Nothing was charged.'}</p>
</main>
