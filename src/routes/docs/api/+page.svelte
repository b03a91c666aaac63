<script lang="ts">
	const { data } = $props();
</script>

<svelte:head><title>API · Just Purse</title></svelte:head>

<div class="read">
	<nav aria-label="Parts of the document">
		<p class="font-display text-[16px] font-semibold">Just Purse: the API</p>
		<p class="mt-1"><a class="why" href="/api/v1/openapi.json">As OpenAPI 3.1</a></p>
		{#each data.tags as tag (tag.name)}
			<h2>{tag.name}</h2>
			<ul>
				{#each tag.operations as one (one.id)}<li><a href="#{one.id}">{one.summary}</a></li>{/each}
			</ul>
		{/each}
		<h2>Also</h2>
		<ul>
			<li><a href="#schemas">What is sent and told</a></li>
			<li><a href="#changes">Changes</a></li>
		</ul>
	</nav>
	<main>
		<h1>The API of this installation</h1>
		<p class="mt-2 max-w-[66ch]">
			Send a token with each request, <code>Authorization: Bearer jpt_…</code>; it is made under
			<a class="why" href="/accept/tokens">Accept, API tokens</a>. Amounts are whole minor units beside their currency.
			Problems are told as RFC 9457 says, each with a stable <code>code</code>. A request with an
			<code>Idempotency-Key</code> is done once, however often it is sent.
		</p>
		{#each data.tags as tag (tag.name)}
			<h2 class="part">{tag.name} <span class="quiet font-sans text-[13px] font-normal">{tag.description}</span></h2>
			{#each tag.operations as one (one.id)}
				<section id={one.id} aria-labelledby="{one.id}-title">
					<h3 id="{one.id}-title">{one.summary}</h3>
					<p class="mono mt-1"><b>{one.method}</b> {one.path}</p>
					<p class="mt-1 max-w-[66ch]">{one.description}</p>
					{#if one.parameters.length}
						<table class="mt-2">
							<thead><tr><th>Parameter</th><th>In</th><th>What it is</th></tr></thead>
							<tbody>
								{#each one.parameters as each (each.where + each.name)}<tr
										><td class="mono">{each.name}{each.must ? ' *' : ''}</td><td>{each.where}</td><td
											>{each.says} <span class="quiet">{each.type}</span></td
										></tr
									>{/each}
							</tbody>
						</table>
					{/if}
					<p class="mt-2">
						{#if one.sends}Send <a class="why" href="#schema-{one.sends}">{one.sends}</a>.{/if}
						{#if one.gives}You get <a class="why" href="#schema-{one.gives}">{one.gives}</a>.{/if}
					</p>
					<!-- svelte-ignore a11y_no_noninteractive_tabindex (what scrolls must be reachable by keyboard) -->
					<pre tabindex="0">{one.curl}</pre>
					{#if one.example}
						<!-- svelte-ignore a11y_no_noninteractive_tabindex (what scrolls must be reachable by keyboard) -->
						<pre tabindex="0">{one.example}</pre>
					{/if}
					<details class="mt-2">
						<summary>What can be answered</summary>
						<ul class="mt-1">
							{#each one.answers as each (each.status)}<li><b>{each.status}</b> {each.says}</li>{/each}
						</ul>
					</details>
				</section>
			{/each}
		{/each}
		<h2 class="part" id="schemas">What is sent and told</h2>
		{#each data.schemas as schema (schema.name)}
			<section id="schema-{schema.name}" aria-labelledby="schema-{schema.name}-title">
				<h3 id="schema-{schema.name}-title">
					{schema.name}
					<a class="why font-sans text-[12px] font-normal" href="/api/v1/schemas/{schema.name}.json">JSON Schema</a>
				</h3>
				<table class="mt-1">
					<thead><tr><th>Field</th><th>Type</th><th>What it is</th></tr></thead>
					<tbody>
						{#each schema.fields as field, at (at)}<tr
								><td class="mono" style:padding-left="{field.depth * 16}px">{field.name}{field.must ? ' *' : ''}</td><td
									class="mono"
									>{#if field.leads}<a class="why" href="#schema-{field.leads}">{field.type}</a
										>{:else}{field.type}{/if}</td
								><td>{field.says}</td></tr
							>{:else}<tr><td colspan="3" class="quiet">Nothing.</td></tr>{/each}
					</tbody>
				</table>
			</section>
		{/each}
		<h2 class="part" id="changes">Changes</h2>
		{#each data.changes as one (one.day)}
			<p class="mt-2"><b>{one.day}</b></p>
			<ul class="list-disc pl-5">
				{#each one.says as says (says)}<li>{says}</li>{/each}
			</ul>
		{/each}
	</main>
</div>

<style>
	.read {
		display: grid;
		grid-template-columns: 250px minmax(0, 1fr);
		min-height: 100dvh;
	}
	nav {
		position: sticky;
		top: 0;
		height: 100dvh;
		overflow-y: auto;
		padding: 20px 16px;
	}
	nav h2 {
		font: 500 12px var(--font-sans);
		color: var(--quiet);
		margin: 16px 0 4px;
	}
	nav li a {
		display: block;
		padding: 3px 0;
		text-decoration: none;
	}
	nav li a:hover {
		text-decoration: underline;
	}
	main {
		background: var(--sheet);
		border-left: 3px double var(--margin);
		padding: 24px 32px 60px;
	}
	.part {
		margin-top: 34px;
		font-size: 19px;
	}
	section {
		border-top: 1px solid var(--rule);
		padding: 14px 0 18px;
		max-width: 860px;
	}
	h3 {
		font-size: 15px;
	}
	pre {
		margin-top: 8px;
		padding: 10px 12px;
		background: var(--paper);
		border: 1px solid var(--rule);
		font: 11.5px/1.5 var(--font-mono);
		overflow-x: auto;
		max-height: 320px;
	}
	td.mono {
		font-size: 11.5px;
	}
	summary {
		cursor: pointer;
	}
	@media (max-width: 760px) {
		.read {
			grid-template-columns: minmax(0, 1fr);
		}
		nav {
			position: static;
			height: auto;
		}
		main {
			padding: 20px 16px;
		}
	}
</style>
