<script lang="ts">
	import type { Snippet } from 'svelte';
	import { useMargin, type FieldHelp } from './workings.svelte';

	interface Props {
		label: string;
		/** what is wrong, if anything */
		wrong?: string | string[];
		help?: Omit<FieldHelp, 'title'>;
		hint?: string;
		children: Snippet<[{ id: string; 'aria-invalid': 'true' | undefined; 'aria-describedby': string | undefined }]>;
	}
	const { label, wrong, help, hint, children }: Props = $props();
	const id = $props.id();
	const margin = useMargin();
	const said = $derived(Array.isArray(wrong) ? wrong.join(' ') : wrong);
</script>

<div
	class="field"
	onfocusin={() => margin && (margin.help = help ? { title: label, ...help } : undefined)}
	onfocusout={() => margin && (margin.help = undefined)}
>
	<label class="legend" for={id}>{label}</label>
	{@render children({
		id,
		'aria-invalid': said ? 'true' : undefined,
		'aria-describedby': said || hint ? `${id}-says` : undefined
	})}
	{#if said}<span class="wrong" id="{id}-says" role="alert">{said}</span>
	{:else if hint}<span class="sub" id="{id}-says">{hint}</span>{/if}
</div>
