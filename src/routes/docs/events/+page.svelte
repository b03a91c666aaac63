<script lang="ts">
	const { data } = $props();
</script>

<svelte:head><title>Events · Just Purse</title></svelte:head>
<main class="mx-auto max-w-3xl p-6">
	<h1>Events</h1>
	<p class="mt-2">
		What endpoints are told. Each event is one POST with a JSON body, signed by Standard Webhooks. Sums are whole minor
		units beside their currency. An event may come more than once, with the same id; of two about one object the larger
		sequence is the later.
	</p>
	<nav class="mt-4 columns-2 text-[13px]" aria-label="Events">
		{#each data.events as one (one.kind)}<a class="why mono flex min-h-[27px] items-center" href="#{one.kind}"
				>{one.kind}</a
			>{/each}
	</nav>
	{#each data.events as one (one.kind)}
		<section class="mt-6" id={one.kind}>
			<h2 class="mono !text-[16px]">{one.kind}</h2>
			<p>{one.says}</p>
			{#if one.fields.length}
				<table class="mt-2">
					<thead><tr><th>Field of data</th><th>Type</th><th>What it is</th></tr></thead>
					<tbody
						>{#each one.fields as field (field.name)}<tr
								><td class="mono text-[13px]">{field.name}</td><td>{field.type}</td><td>{field.says}</td></tr
							>{/each}</tbody
					>
				</table>
			{/if}
			<!-- svelte-ignore a11y_no_noninteractive_tabindex (what scrolls must be reachable by keyboard) -->
			<pre tabindex="0" class="mono note mt-2 overflow-x-auto text-[13px]">{one.example}</pre>
		</section>
	{/each}
</main>
