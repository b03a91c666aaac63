<script lang="ts">
	import type { Snippet } from 'svelte';

	interface Props {
		shop: string;
		colour: string;
		test: boolean;
		sum?: { number: string; currency: string };
		about?: string;
		/** a small picture as a data address */
		logo?: string;
		children: Snippet;
	}
	/** The frame of every page a payer sees: sum and purpose first, in the colour of the till. */
	const { shop, colour, test, sum, about, logo, children }: Props = $props();
</script>

<div class="payer" style:--till={colour}>
	<header>
		<div class="in">
			{#if logo}<img src={logo} alt="" class="mb-1 max-h-9" />{/if}
			<b class="font-display text-[17px] font-semibold">{shop}</b>
			{#if test}<span class="testing">Test: nothing is really charged</span>{/if}
			{#if sum}<h1 class="sum">{sum.number} <span>{sum.currency}</span></h1>{/if}
			{#if about}<p class="about">{about}</p>{/if}
		</div>
	</header>
	<main class="in body">{@render children()}</main>
</div>

<style>
	.payer {
		min-height: 100dvh;
		background: var(--sheet);
		font-size: 15px;
	}
	header {
		background: var(--till);
		color: #f6f2e8;
		padding: 18px 0 20px;
	}
	.in {
		max-width: 460px;
		margin: 0 auto;
		padding: 0 22px;
	}
	.sum {
		margin-top: 16px;
		font-size: 40px;
		line-height: 1.1;
	}
	.sum span {
		font-size: 20px;
	}
	.about {
		opacity: 0.92;
		overflow-wrap: anywhere;
	}
	.testing {
		float: right;
		border: 1px solid currentcolor;
		border-radius: 3px;
		padding: 0 6px;
		font-size: 12px;
	}
	@media print {
		/* on paper in black, without the colour of the shop */
		header {
			background: none;
			color: #000;
			padding: 0;
		}
		.payer {
			color: #000;
			background: none;
		}
	}
	.body {
		padding-top: 18px;
		padding-bottom: 40px;
	}
</style>
