<script lang="ts">
	import { AREAS, countryName } from '$lib/core/places';
	import { Combobox } from 'bits-ui';
	import X from '@lucide/svelte/icons/x';

	interface Props {
		/** codes of two letters, with spaces between them: what the form is given */
		value: string;
		name: string;
		id?: string;
		'aria-invalid'?: 'true' | undefined;
		'aria-describedby'?: string | undefined;
		'aria-label'?: string;
		/** codes and names to choose from, in the order of the names */
		countries: readonly { readonly code: string; readonly name: string }[];
	}
	/** Countries picked from a list, by typing a part of their names; whole areas in one press. */
	let { value = $bindable(), name, countries, ...attributes }: Props = $props();
	const MOST = 60;
	const chosen = $derived(value.split(/[^A-Z]+/).filter(Boolean));
	let text = $state('');
	const found = $derived(
		countries
			.filter(
				(one) =>
					!chosen.includes(one.code) &&
					(one.name.toLowerCase().includes(text.trim().toLowerCase()) || one.code === text.trim().toUpperCase())
			)
			.slice(0, MOST)
	);
	const set = (codes: readonly string[]) => (value = [...new Set(codes)].join(' '));
	const nameOf = (code: string) => countries.find((one) => one.code === code)?.name ?? countryName(code);
</script>

{#if name}<input type="hidden" {name} {value} />{/if}
{#if chosen.length}
	<ul class="mb-1 flex flex-wrap gap-1" aria-label="Chosen countries">
		{#each chosen as code (code)}
			<li class="chip inline-flex items-center gap-1 !m-0">
				{nameOf(code)}<button
					type="button"
					class="inline-flex min-h-[24px] min-w-[24px] cursor-pointer items-center justify-center"
					aria-label="Take {nameOf(code)} away"
					onclick={() => set(chosen.filter((one) => one !== code))}><X size={12} aria-hidden="true" /></button
				>
			</li>
		{/each}
	</ul>
{/if}
<Combobox.Root
	type="multiple"
	value={chosen}
	onValueChange={(codes: string[]) => {
		set(codes);
		text = '';
	}}
	inputValue={text}
	onOpenChangeComplete={() => (text = '')}
>
	<Combobox.Input
		{...attributes}
		placeholder="Type a country"
		autocomplete="off"
		oninput={(event) => (text = event.currentTarget.value)}
	/>
	<Combobox.Portal>
		<Combobox.Content
			class="border-rule-strong bg-sheet z-50 max-h-64 w-[var(--bits-combobox-anchor-width)] overflow-y-auto rounded-[3px] border py-1 shadow-lg"
			sideOffset={3}
		>
			{#each found as one (one.code)}
				<Combobox.Item
					value={one.code}
					label={one.name}
					class="data-[highlighted]:bg-brass-soft flex min-h-[27px] cursor-pointer items-center px-2"
					>{one.name}</Combobox.Item
				>
			{:else}<p class="quiet px-2 py-1">No country is called so.</p>{/each}
		</Combobox.Content>
	</Combobox.Portal>
</Combobox.Root>
<p class="mt-1 flex flex-wrap gap-x-3 gap-y-1 text-[12px]">
	{#each AREAS as area (area.name)}<button
			type="button"
			class="why inline-flex min-h-[24px] items-center"
			onclick={() => set([...chosen, ...area.codes])}>Add the {area.name}</button
		>{/each}{#if chosen.length}<button
			type="button"
			class="why inline-flex min-h-[24px] items-center"
			onclick={() => set([])}>Take all away</button
		>{/if}
</p>
