<script lang="ts">
	import { cardForm, cardInput, cardRows, readCardRows, RateCard, sayPlace, type CardForm } from '$lib/core/fees';
	import { parse } from 'csv-parse/browser/esm/sync';
	import { stringify } from 'csv-stringify/browser/esm/sync';
	import { untrack } from 'svelte';
	import { countriesIn } from '$lib/core/places';
	import CostTable from './CostTable.svelte';
	import CountryPicker from './CountryPicker.svelte';
	import Field from './Field.svelte';
	import RateLines from './RateLines.svelte';
	import TryRateCard from './TryRateCard.svelte';

	interface Props {
		card: RateCard;
		locale: string;
		/** name of the hidden box that carries the card as JSON */
		name?: string;
	}
	/** A rate card to read and change like the contract it stands for. */
	const { card, locale, name = 'card' }: Props = $props();
	let form = $state<CardForm>(untrack(() => cardForm(card, locale)));
	const input = $derived(cardInput(form));
	const read = $derived(RateCard.safeParse(input));
	const troubles = $derived(
		read.success ? [] : read.error.issues.map((issue) => `${sayPlace(issue.path, input)}: ${sayIssue(issue.message)}`)
	);
	const sayIssue = (message: string) => (/>=0|too small/i.test(message) ? 'not a number, or below zero' : message);
	const json = $derived(JSON.stringify(read.success ? read.data : input, null, '\t'));
	/** countries of each area, with spaces between them; an empty one is being added */
	const areas = $derived(form.areas.split(';').map((area) => area.trim().toUpperCase()));
	const setArea = (at: number, codes: string) =>
		(form.areas = areas.map((area, n) => (n === at ? codes : area)).join('; '));
	const countries = $derived(countriesIn(locale));
	let jsonText = $state('');
	let jsonWrong = $state('');
	let fileWrong = $state<string[]>([]);
	/** Hands the card over as a file, made here from what stands in the form. */
	function save(kind: 'json' | 'csv') {
		const text = kind === 'json' ? json : stringify(cardRows(read.success ? cardForm(read.data) : form), { bom: true });
		const link = document.createElement('a');
		link.href = URL.createObjectURL(new Blob([text], { type: kind === 'json' ? 'application/json' : 'text/csv' }));
		link.download = `rate-card.${kind}`;
		link.click();
		URL.revokeObjectURL(link.href);
	}
	/** Takes a card over from a file, CSV or JSON; what is wrong with it is told and the form stays. */
	async function takeFile(event: Event & { currentTarget: HTMLInputElement }) {
		const [file] = event.currentTarget.files ?? [];
		if (!file) return;
		const text = await file.text();
		event.currentTarget.value = '';
		fileWrong = [];
		if (file.name.toLowerCase().endsWith('.json')) {
			jsonText = text;
			takeJson();
			if (jsonWrong) fileWrong = [jsonWrong];
			return;
		}
		try {
			const rows = parse(text, { bom: true, relax_column_count: true, skip_empty_lines: true }) as string[][];
			const taken = readCardRows(rows);
			if ('troubles' in taken) {
				fileWrong = taken.troubles;
				return;
			}
			const given = cardInput(taken.form);
			const valid = RateCard.safeParse(given);
			if (!valid.success) {
				fileWrong = valid.error.issues.map((issue) => `${sayPlace(issue.path, given)}: ${sayIssue(issue.message)}`);
				return;
			}
			form = cardForm(valid.data, locale);
		} catch (error) {
			fileWrong = [`It is not CSV: ${(error as Error).message}`];
		}
	}

	function takeJson() {
		try {
			const given = RateCard.safeParse(JSON.parse(jsonText));
			if (!given.success) {
				jsonWrong = given.error.issues.map((issue) => `${issue.path.join('.') || 'card'}: ${issue.message}`).join('; ');
				return;
			}
			form = cardForm(given.data, locale);
			jsonWrong = '';
			jsonText = '';
		} catch {
			jsonWrong = 'That is not JSON.';
		}
	}
</script>

<input type="hidden" {name} value={json} />
<div class="grid max-w-[700px] grid-cols-4 gap-x-4">
	<Field label="Settles in" help={{ what: 'All sums of the card are in it.' }}>
		{#snippet children(attributes)}<input {...attributes} bind:value={form.settlement} class="mono" />{/snippet}
	</Field>
	<Field
		label="Rounding"
		help={{
			what: 'Once: the exact sum is rounded once. Each part: percentage, fixed and the rest are rounded by themselves, then added.'
		}}
	>
		{#snippet children(attributes)}<select {...attributes} bind:value={form.rounding}
				><option value="total">once</option><option value="each">each part</option></select
			>{/snippet}
	</Field>
	<Field label="Halves" help={{ what: 'What becomes of half a minor unit.' }}>
		{#snippet children(attributes)}<select {...attributes} bind:value={form.mode}
				><option value="half-up">up</option><option value="half-even">to even</option><option value="up"
					>everything up</option
				></select
			>{/snippet}
	</Field>
</div>
<h3 class="mt-4 font-semibold">Regional within</h3>
<p class="sub">
	A card issued in another country of the same area counts as regional, one from elsewhere as international.
</p>
{#each areas as area, at (at)}
	<div class="mt-2 max-w-[560px]">
		<CountryPicker
			id="area-{at}"
			name=""
			{countries}
			bind:value={() => area, (codes) => setArea(at, codes)}
			aria-label="Countries of area {at + 1}"
		/>
	</div>
{/each}
<button type="button" class="button small mt-1" onclick={() => (form.areas = [...areas, ''].join('; '))}
	>Add an area</button
>
<h3 class="mt-4 font-semibold">Lines</h3>
<p class="sub">The line with the most conditions that fit a payment prices it. Sums in {form.settlement}.</p>
<RateLines bind:lines={form.lines} currency={form.settlement} label="Lines" />

<h3 class="mt-4 font-semibold">Tiers by the month’s volume</h3>
{#if form.tiers.length}
	<div class="ticks">
		<label
			><input type="radio" value="band" bind:group={form.tierWay} /> each payment by the volume before it, split at a limit</label
		>
		<label><input type="radio" value="whole" bind:group={form.tierWay} /> the whole month by the tier it reaches</label>
	</div>
{/if}
{#each form.tiers as tier, i (tier)}
	<div class="border-rule mt-2 border-l-2 pl-3">
		<label
			>From <input bind:value={tier.from} class="!w-28" aria-label="Tier {i + 1} begins at" />
			{form.settlement} a month
			<button type="button" class="why" onclick={() => (form.tiers = form.tiers.filter((one) => one !== tier))}
				>Remove tier {i + 1}</button
			></label
		>
		<RateLines bind:lines={tier.lines} currency={form.settlement} label="Lines of tier {i + 1}" />
	</div>
{/each}
<button
	type="button"
	class="button small mt-1"
	onclick={() => (form.tiers = [...form.tiers, { from: '', lines: form.lines.map((line) => ({ ...line })) }])}
	>Add a tier</button
>

<h3 class="mt-4 font-semibold">Around the payment</h3>
<div class="grid max-w-[700px] grid-cols-4 gap-x-4">
	{#each [['conversion', 'Another currency, %'], ['intermediary', 'An intermediary, %'], ['monthlyFee', 'A month'], ['monthlyMinimum', 'A month, at least'], ['refundFee', 'A refund'], ['disputeFee', 'A dispute'], ['declined', 'A declined attempt'], ['payout', 'A payout']] as const as [part, text] (part)}
		<Field
			label={text}
			help={{
				what:
					part === 'conversion' || part === 'intermediary'
						? 'On top, of the converted amount.'
						: `In ${form.settlement}.`
			}}
		>
			{#snippet children(attributes)}<input {...attributes} inputmode="decimal" bind:value={form[part]} />{/snippet}
		</Field>
	{/each}
	<Field label="When refunded it keeps" help={{ what: 'What of the fee does not come back.' }}>
		{#snippet children(attributes)}<select {...attributes} bind:value={form.keeps}
				><option value="all">the whole fee</option><option value="fixed">the fixed part</option><option value="nothing"
					>nothing</option
				></select
			>{/snippet}
	</Field>
</div>
<label class="mt-2 block"
	><input type="checkbox" bind:checked={form.disputeReturned} /> The dispute fee comes back when it is won</label
>
<h3 class="mt-4 font-semibold">Interchange and scheme fees that are passed on</h3>
<p class="sub">
	With a cost table, the lines are the markup. A cell without figures is no cost: such cards stay unpriced.
</p>
<CostTable bind:costs={form.costs} />
<div class="mt-3 flex flex-wrap items-center gap-2">
	<button type="button" class="button small" onclick={() => save('csv')}>Export as CSV</button>
	<button type="button" class="button small" onclick={() => save('json')}>Export as JSON</button>
	<label class="text-[12px]"
		>Take a card over from a file <input
			type="file"
			accept=".csv,.json"
			class="!w-auto text-[12px]"
			onchange={takeFile}
		/></label
	>
</div>
{#if fileWrong.length}
	<ul class="wrong" role="alert">
		{#each fileWrong.slice(0, 10) as one, at (at)}<li>{one}</li>{/each}
	</ul>
{/if}
<details class="mt-2">
	<summary class="cursor-pointer font-semibold">As JSON</summary>
	<textarea class="mono w-full max-w-[700px] text-[11px]" rows="6" readonly aria-label="The card as JSON"
		>{json}</textarea
	>
	<label class="block"
		><span class="legend">Take another over</span><textarea
			class="mono w-full max-w-[700px] text-[11px]"
			rows="3"
			bind:value={jsonText}></textarea></label
	>
	{#if jsonWrong}<span class="wrong" role="alert">{jsonWrong}</span>{/if}
	<button type="button" class="button small" onclick={takeJson}>Take this card over</button>
	<a class="why ml-2" href="/connect/rate-card-schema">Its JSON Schema</a>
</details>

<TryRateCard card={read.success ? read.data : undefined} {locale} />
{#if troubles.length}
	<ul class="note clay mt-3 max-w-[700px]" role="alert">
		{#each troubles as one, at (at)}<li>{one}</li>{/each}
	</ul>
{/if}
