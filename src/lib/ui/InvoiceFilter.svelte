<script lang="ts">
	interface Props {
		typed: Readonly<Record<string, string>>;
		wrong: Readonly<Record<string, string>>;
		chips: readonly { readonly name: string; readonly says: string; readonly without: string }[];
		shows: readonly { readonly value: string; readonly name: string }[];
		tills: readonly { readonly value: string; readonly name: string }[];
		names: Readonly<Record<string, string>>;
		columns: readonly string[];
	}
	/** What a list is narrowed to; all of it stands in the address. */
	const { typed, wrong, chips, shows, tills, names, columns }: Props = $props();
</script>

<form method="get" data-sveltekit-keepfocus class="mt-3 flex flex-wrap items-end gap-2 text-[12px]">
	<label
		><span class="quiet block">Number or payer begins with</span><input
			name="q"
			value={typed.q ?? ''}
			class="!w-44"
		/></label
	>
	{#if shows.length}<label
			><span class="quiet block">Show</span><select name="show" value={typed.show ?? ''} class="!w-36"
				><option value="">all of this list</option>{#each shows as one (one.value)}<option value={one.value}
						>{one.name}</option
					>{/each}</select
			></label
		>{/if}
	<label
		><span class="quiet block">Till</span><select name="till" value={typed.till ?? ''} class="!w-36"
			><option value="">any</option>{#each tills as one (one.value)}<option value={one.value}>{one.name}</option
				>{/each}</select
		></label
	>
	<label
		><span class="quiet block">Currency</span><input
			name="currency"
			value={typed.currency ?? ''}
			class="!w-16"
			maxlength="3"
		/></label
	>
	<label
		><span class="quiet block">From</span><input
			name="from"
			value={typed.from ?? ''}
			class="!w-28"
			aria-invalid={wrong.from ? 'true' : undefined}
		/></label
	>
	<label
		><span class="quiet block">To</span><input
			name="to"
			value={typed.to ?? ''}
			class="!w-28"
			aria-invalid={wrong.to ? 'true' : undefined}
		/></label
	>
	{#if typed.payer}<input type="hidden" name="payer" value={typed.payer} />{/if}
	{#if typed.state}<input type="hidden" name="state" value={typed.state} />{/if}
	<button class="button">Filter</button>
	{#if Object.keys(names).length}
		<details class="basis-full">
			<summary class="quiet cursor-pointer">Columns</summary>
			<div class="ticks mt-1">
				{#each Object.entries(names) as [value, name] (value)}<label
						><input
							type="checkbox"
							checked={columns.includes(value)}
							onchange={(event) => {
								const next = event.currentTarget.checked ? [...columns, value] : columns.filter((one) => one !== value);
								const address = new URL(location.href);
								address.searchParams.set('cols', next.join(','));
								location.href = address.toString();
							}}
						/>
						{name}</label
					>{/each}
			</div>
		</details>
	{/if}
</form>
{#each Object.values(wrong) as one, at (at)}<p class="wrong" role="alert">{one}</p>{/each}
{#if chips.length}<p class="mt-2 flex flex-wrap gap-1">
		{#each chips as chip (chip.name)}<a class="chip no-underline" href={chip.without} aria-label="Without {chip.says}"
				>{chip.says} ×</a
			>{/each}
	</p>{/if}
