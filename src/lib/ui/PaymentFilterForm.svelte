<script lang="ts" module>
	interface Choice {
		readonly value: string;
		readonly name: string;
	}
	export interface FilterData {
		readonly choices: {
			readonly stages: readonly string[];
			readonly tills: readonly Choice[];
			readonly methods: readonly Choice[];
			readonly via: readonly Choice[];
			readonly schemes: readonly Choice[];
			readonly fundings: readonly Choice[];
			readonly currencies: readonly Choice[];
			readonly troubles: readonly Choice[];
		};
		readonly chips: readonly { name: string; says: string; without: string }[];
		readonly wrong: Readonly<Record<string, string | undefined>>;
		readonly typed: Readonly<Record<string, string | undefined>>;
		readonly query: string;
	}
</script>

<script lang="ts">
	import { PAYMENT_LIST_COLUMNS } from '$lib/takings';
	import { untrack } from 'svelte';
	import DayInput from './DayInput.svelte';

	interface Props {
		path: string;
		data: FilterData;
		columns: readonly string[];
		locale: string;
	}
	/** The filter of the list of payments: a search, boxes that open, and what is filtered as words that can be taken away. */
	const { path, data, columns, locale }: Props = $props();
	let open = $state(untrack(() => Object.keys(data.wrong).length > 0));
</script>

{#snippet pick(name: string, label: string, all: string, choices: readonly Choice[])}
	<label
		><span class="legend">{label}</span><select {name} value={data.typed[name] ?? ''}
			><option value="">{all}</option>{#each choices as one (one.value)}<option value={one.value}>{one.name}</option
				>{/each}</select
		>{#if data.wrong[name]}<span class="wrong" role="alert">{data.wrong[name]}</span>{/if}</label
	>
{/snippet}

<form method="get" action={path} class="mt-4" role="search" aria-label="Filter payments">
	<div class="flex flex-wrap items-center gap-2">
		<input
			name="q"
			type="search"
			value={data.typed.q ?? ''}
			placeholder="Reference, payer, id, last four, RF…"
			aria-label="Search payments"
			class="!w-72"
		/>
		<button class="button">Search payments</button>
		<details class="contents" bind:open>
			<summary class="button">Filter and columns…</summary>
			<div class="note mt-1 w-full">
				<div class="grid grid-cols-2 gap-x-3 gap-y-2 sm:grid-cols-4">
					{@render pick(
						'stage',
						'Stage',
						'every stage',
						data.choices.stages.map((one) => ({ value: one, name: one }))
					)}
					{@render pick('till', 'Till', 'every till', data.choices.tills)}
					{@render pick('method', 'Method', 'every method', data.choices.methods)}
					{@render pick('via', 'Connection or offline method', 'all', data.choices.via)}
					{@render pick('scheme', 'Card scheme', 'every scheme', data.choices.schemes)}
					{@render pick('funding', 'Funding', 'every funding', data.choices.fundings)}
					{@render pick('currency', 'Currency', 'every currency', data.choices.currencies)}
					{@render pick('trouble', 'Trouble', 'with and without', data.choices.troubles)}
					<label
						><span class="legend">Payer’s mail</span><input
							name="payer"
							type="email"
							value={data.typed.payer ?? ''}
						/></label
					>
					<label
						><span class="legend">Amount from</span><input
							name="least"
							inputmode="decimal"
							value={data.typed.least ?? ''}
							aria-invalid={data.wrong.least ? 'true' : undefined}
						/>{#if data.wrong.least}<span class="wrong" role="alert">{data.wrong.least}</span>{/if}</label
					>
					<label
						><span class="legend">Amount to</span><input
							name="most"
							inputmode="decimal"
							value={data.typed.most ?? ''}
							aria-invalid={data.wrong.most ? 'true' : undefined}
						/>{#if data.wrong.most}<span class="wrong" role="alert">{data.wrong.most}</span>{/if}</label
					>
					<label
						><span class="legend">Day from</span><DayInput
							name="from"
							value={data.typed.from ?? ''}
							{locale}
						/>{#if data.wrong.from}<span class="wrong" role="alert">{data.wrong.from}</span>{/if}</label
					>
					<label
						><span class="legend">Day to</span><DayInput
							name="to"
							value={data.typed.to ?? ''}
							{locale}
						/>{#if data.wrong.to}<span class="wrong" role="alert">{data.wrong.to}</span>{/if}</label
					>
				</div>
				{#if data.typed.trials}<input type="hidden" name="trials" value={data.typed.trials} />{/if}
				<fieldset class="mt-3">
					<legend class="legend">Columns beside reference and payer</legend>
					<div class="flex flex-wrap gap-x-4 gap-y-1">
						{#each PAYMENT_LIST_COLUMNS as one (one.id)}<label class="flex items-center gap-1.5"
								><input type="checkbox" name="col" value={one.id} checked={columns.includes(one.id)} />{one.name}</label
							>{/each}
					</div>
				</fieldset>
				<button class="button main mt-3" data-save>Show these payments</button>
			</div>
		</details>
	</div>
</form>
{#if data.chips.length}
	<p class="mt-3 flex flex-wrap items-center gap-2">
		{#each data.chips as one (one.name)}<a class="chip" href="{path}{one.without}" aria-label="Take away: {one.says}"
				>{one.says} ×</a
			>{/each}
		<a class="why" href={path}>Show all</a>
	</p>
{/if}
