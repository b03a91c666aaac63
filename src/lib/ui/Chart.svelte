<script lang="ts">
	import type { ECharts, EChartsCoreOption } from 'echarts/core';
	import { onMount } from 'svelte';

	interface Props {
		/** what the chart says, for those who cannot see it; the table beside it has the figures */
		label: string;
		height?: number;
		/** built from the colours of the page, so that it is right in both themes */
		option: (colours: { ink: string; quiet: string; rule: string; series: string[] }) => EChartsCoreOption;
	}
	const { label, height = 240, option }: Props = $props();
	let place = $state<HTMLDivElement>();
	let chart = $state.raw<ECharts>();
	let theme = $state(0);

	onMount(() => {
		let isGone = false;
		void import('./echarts').then(({ init }) => {
			if (!isGone && place) chart = init(place, undefined, { renderer: 'svg' });
		});
		const sized = new ResizeObserver(() => chart?.resize());
		sized.observe(place!);
		const dark = matchMedia('(prefers-color-scheme: dark)');
		const turn = () => theme++;
		dark.addEventListener('change', turn);
		const attribute = new MutationObserver(turn);
		attribute.observe(document.documentElement, { attributes: true, attributeFilter: ['data-theme'] });
		return () => {
			isGone = true;
			sized.disconnect();
			attribute.disconnect();
			dark.removeEventListener('change', turn);
			chart?.dispose();
		};
	});
	$effect(() => {
		void theme;
		if (!chart || !place) return;
		// a colour with two sides is resolved where the page says which one holds
		const box = place;
		const colour = (name: string) => {
			box.style.color = `var(--${name})`;
			return getComputedStyle(box).color;
		};
		const colours = {
			ink: colour('ink'),
			quiet: colour('quiet'),
			rule: colour('rule'),
			series: ['chart', 'brass', 'inkblue', 'moss', 'clay', 'quiet', 'ink', 'rule-strong'].map(colour)
		};
		box.style.color = '';
		chart.setOption(
			{ animation: false, textStyle: { fontFamily: 'inherit', color: colours.ink }, ...option(colours) },
			true
		);
	});
</script>

<div bind:this={place} role="img" aria-label={label} style:height="{height}px" class="w-full"></div>
