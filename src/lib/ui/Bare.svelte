<script lang="ts">
	import type { Snippet } from 'svelte';
	import { useMargin, type FieldHelp } from './workings.svelte';

	interface Props {
		label: string;
		wrong?: string | string[];
		help?: Omit<FieldHelp, 'title'>;
		children: Snippet<
			[{ 'aria-label': string; 'aria-invalid': 'true' | undefined; 'aria-describedby': string | undefined }]
		>;
	}
	/** A field of a table, whose heading is its label: with help in the margin, and what is wrong below it. */
	const { label, wrong, help, children }: Props = $props();
	const id = $props.id();
	const margin = useMargin();
	const said = $derived(Array.isArray(wrong) ? wrong.join(' ') : wrong);
</script>

<div
	onfocusin={() => margin && (margin.help = help ? { title: label, ...help } : undefined)}
	onfocusout={() => margin && (margin.help = undefined)}
>
	{@render children({
		'aria-label': label,
		'aria-invalid': said ? 'true' : undefined,
		'aria-describedby': said ? `${id}-says` : undefined
	})}
	{#if said}<span class="wrong" id="{id}-says" role="alert">{said}</span>{/if}
</div>
