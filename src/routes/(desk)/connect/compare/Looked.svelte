<script lang="ts">
	import { addressWith, type Ready } from './address';
	const { looked }: { looked: NonNullable<Ready['looked']> } = $props();
	const PAGE = 25;
	let section = $state<HTMLElement>();
	// what was asked for stands below the figure that was pressed: it comes into sight, and is read from its head
	$effect(() => {
		void looked.look;
		void looked.skip;
		section?.scrollIntoView({ block: 'nearest' });
		section?.focus({ preventScroll: true });
	});
</script>

<section class="note mt-3" bind:this={section} tabindex="-1" aria-label={looked.title}>
	<b>{looked.title}</b> <span class="quiet">{looked.about}</span>
	<a class="why float-right" href={addressWith({ look: '', skip: '' })} data-sveltekit-noscroll>Close</a>
	<table class="mt-1">
		<thead
			><tr
				><th>Day</th><th>Payment</th><th><span class="sr-only">More</span></th><th class="n">Amount</th><th
					class:n={looked.columns !== 'Why'}>{looked.columns}</th
				></tr
			></thead
		>
		<tbody
			>{#each looked.rows as one (`${one.row} ${one.day}`)}<tr
					><td>{one.day}</td><td class="mono"
						>{#if one.own}<a class="underline" href="/takings/payments/{one.own}">{one.id}</a>{:else}{one.id}{/if}</td
					><td class="quiet">{one.what}</td><td class="n">{one.amount}</td><td class:n={looked.columns !== 'Why'}
						>{one.told}</td
					></tr
				>{:else}<tr><td colspan="5" class="quiet">None in this time.</td></tr>{/each}</tbody
		>
	</table>
	<p class="mt-2 flex gap-4">
		{#if looked.skip}<a
				class="why"
				href={addressWith({ skip: looked.skip > PAGE ? String(looked.skip - PAGE) : '' })}
				data-sveltekit-noscroll>Later ones</a
			>{/if}
		{#if looked.more}<a class="why" href={addressWith({ skip: String(looked.skip + PAGE) })} data-sveltekit-noscroll
				>Earlier ones</a
			>{/if}
	</p>
</section>
