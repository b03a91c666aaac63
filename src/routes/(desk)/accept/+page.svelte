<script lang="ts">
	import { Sheet, Workings } from '$lib/ui';
	const { data } = $props();
</script>

<Sheet title="All tills" about="What each till accepts, and through whom">
	{#snippet acts()}<a class="button main" href="/accept/tills/new">Set up a till</a>{/snippet}
	{#each data.tills as till (till.slug)}
		<h2>
			<a data-row class="underline" href="/accept/tills/{till.slug}">{till.name}</a>
			<span class="quiet font-sans text-[12px] font-normal">{till.mode}, {till.state}</span>
		</h2>
		{#if till.offers.length}
			<table>
				<thead
					><tr
						><th class="w-52">Offered as</th>{#each till.currencies as code (code)}<th>{code}</th>{/each}</tr
					></thead
				>
				<tbody>
					{#each till.offers as offer (offer.name)}
						<tr
							><td
								><b>{offer.name}</b>{#if !offer.on}<span class="sub">switched off</span>{/if}</td
							>{#each offer.by as name, i (i)}<td
									>{#if name}{name}{:else}<span class="quiet">not taken</span>{/if}</td
								>{/each}</tr
						>
					{/each}
				</tbody>
			</table>
		{:else}<p class="quiet">
				No offers yet: payers would meet an empty checkout. <a class="why" href="/accept/tills/{till.slug}/offers/new"
					>Add the first offer</a
				>
			</p>{/if}
	{:else}
		<p class="mt-5 max-w-prose">
			A till is any place where someone pays: a web checkout, a counter, an invoice. Here will stand what each of them
			takes, in which currency, through whom.
		</p>
		<p class="mt-3"><a class="button" href="/accept/tills/new">Set up the first till</a></p>
	{/each}
</Sheet>
<Workings />
