<script lang="ts">
	import { page } from '$app/state';

	/** The pages of one object, below its title. */
	const { pages, label }: { pages: readonly { name: string; href: string; mark?: string }[]; label: string } = $props();
</script>

<nav class="border-rule mt-3 flex flex-wrap gap-x-5 border-b" aria-label={label}>
	{#each pages as one (one.href)}
		<a
			href={one.href}
			aria-current={page.url.pathname === one.href ? 'page' : undefined}
			class="-mb-px border-b-2 pb-1.5 {page.url.pathname === one.href
				? 'border-ink font-semibold'
				: 'quiet border-transparent'}"
			>{one.name}
			{#if one.mark}<span class="text-clay ml-1 text-[12px]">{one.mark}</span>{/if}</a
		>
	{/each}
</nav>
