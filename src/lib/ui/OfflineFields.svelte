<script lang="ts">
	import { readIban, RECEIPT, receiptLines } from '$lib/core/references';
	import Field from './Field.svelte';
	import RichText from './RichText.svelte';

	interface Values {
		kind: string;
		name: string;
		holder: string;
		iban: string;
		bic: string;
		currencies: string[];
		instructions: string;
		afterNote: string;
		pictureCode: string;
		referenceStyle: string;
		transferCode: boolean;
		termDays: number;
		threshold: string;
		followUp: string;
	}
	interface Props {
		values: Values;
		errors: Partial<Record<keyof Values, unknown>>;
		choices: readonly string[];
		homeCurrency: string;
		/** the threshold that all offline methods share, as a text; empty for none */
		common: string;
	}
	let { values = $bindable(), errors, choices, homeCurrency, common }: Props = $props();
	const wrong = (name: keyof Values) => {
		const given = errors[name];
		return Array.isArray(given)
			? given.join(' ')
			: given && typeof given === 'object' && '_errors' in given
				? String(given._errors)
				: undefined;
	};
	const transfers = $derived(values.kind === 'credit-transfer');
	const iban = $derived(values.iban.replace(/\s/g, '').length >= 15 ? readIban(values.iban) : undefined);
	const lines = $derived(receiptLines(values.afterNote).length);
</script>

<input type="hidden" name="kind" value={values.kind} />
<div class="grid max-w-[640px] grid-cols-2 gap-x-5">
	<Field
		label="Name for payers"
		wrong={wrong('name')}
		help={{
			what: 'What payers read at the checkout. It must differ from the other ways there.',
			looks: transfers ? 'Credit transfer' : 'Cash when you collect'
		}}
	>
		{#snippet children(attributes)}<input {...attributes} name="name" bind:value={values.name} />{/snippet}
	</Field>
	{#if transfers}
		<Field
			label="Account holder"
			wrong={wrong('holder')}
			help={{
				what: 'The name the account is held in. Banks compare it with what the payer types.',
				where: 'On your bank’s statement'
			}}
		>
			{#snippet children(attributes)}<input {...attributes} name="holder" bind:value={values.holder} />{/snippet}
		</Field>
		<Field
			label="IBAN"
			wrong={wrong('iban') ?? (iban && 'problem' in iban ? iban.problem : undefined)}
			hint={iban && 'iban' in iban ? 'Length, form and check digits fit.' : undefined}
			help={{
				what: 'The account that payers transfer to. Its check digits are tried as you type (ISO 13616).',
				where: 'On your bank’s statement, or in its app',
				looks: 'BE68 5390 0754 7034'
			}}
		>
			{#snippet children(attributes)}<input
					{...attributes}
					name="iban"
					class="mono"
					autocomplete="off"
					spellcheck="false"
					bind:value={values.iban}
				/>{/snippet}
		</Field>
		<Field
			label="BIC, if payers abroad ask for it"
			wrong={wrong('bic')}
			help={{ what: 'The code of your bank. Within the euro area nobody needs it.', looks: 'GKCCBEBB' }}
		>
			{#snippet children(attributes)}<input {...attributes} name="bic" class="mono" bind:value={values.bic} />{/snippet}
		</Field>
	{/if}
</div>
<fieldset class="mt-3">
	<legend class="legend">Currencies</legend>
	<div class="ticks">
		{#each choices as code (code)}<label
				><input type="checkbox" name="currencies" value={code} bind:group={values.currencies} /> {code}</label
			>{/each}
	</div>
	{#if wrong('currencies')}<span class="wrong" role="alert">{wrong('currencies')}</span>{/if}
</fieldset>
<div class="max-w-[640px]">
	<Field
		label="Instructions"
		wrong={wrong('instructions')}
		help={{
			what: 'Read by the payer on the page, in the mail and on paper. Links of your own, a handle, a page of yours: all may stand in it.',
			looks: 'Please give the reference exactly as it stands here. We pack when the money has come.'
		}}
	>
		{#snippet children(attributes)}<RichText
				id={attributes.id}
				label="Instructions"
				name="instructions"
				bind:value={values.instructions}
			/>{/snippet}
	</Field>
	<Field
		label="Message after ordering"
		wrong={lines > RECEIPT.lines
			? `Too long for the receipt: ${lines} lines, and there is room for ${RECEIPT.lines}.`
			: wrong('afterNote')}
		hint="{lines} of {RECEIPT.lines} lines on the receipt"
		help={{
			what: `Stands on the receipt, which has room for ${RECEIPT.lines} lines of ${RECEIPT.columns} characters.`,
			looks: 'We hold the order for ten days.'
		}}
	>
		{#snippet children(attributes)}<textarea {...attributes} name="afterNote" rows="2" bind:value={values.afterNote}
			></textarea>{/snippet}
	</Field>
	<Field
		label="Picture code of your own"
		wrong={wrong('pictureCode')}
		help={{
			what: 'A link or a handle that is shown as a code to scan. Empty: none.',
			looks: 'https://pay.example/wren-alder'
		}}
	>
		{#snippet children(attributes)}<input
				{...attributes}
				name="pictureCode"
				class="mono"
				bind:value={values.pictureCode}
			/>{/snippet}
	</Field>
	<div class="grid grid-cols-2 gap-x-5">
		<Field
			label="Terms, in days"
			wrong={wrong('termDays')}
			help={{ what: 'How long an order waits for its money. The receipt names the day. 0: no day is named.' }}
		>
			{#snippet children(attributes)}<input
					{...attributes}
					name="termDays"
					type="number"
					min="0"
					max="365"
					bind:value={values.termDays}
				/>{/snippet}
		</Field>
		<Field
			label="Offered from, in {homeCurrency}"
			wrong={wrong('threshold')}
			hint={common ? `All offline methods: from ${common}. The higher of the two counts.` : undefined}
			help={{
				what: 'Below it, no till offers this method. An offer can set a higher one of its own. Empty: any amount.',
				looks: '20.00'
			}}
		>
			{#snippet children(attributes)}<input
					{...attributes}
					name="threshold"
					inputmode="decimal"
					bind:value={values.threshold}
				/>{/snippet}
		</Field>
		<Field
			label="Reference"
			wrong={wrong('referenceStyle')}
			help={{
				what: 'What the payer gives so that the money finds its order. A creditor reference has check digits (ISO 11649).'
			}}
		>
			{#snippet children(attributes)}<select {...attributes} name="referenceStyle" bind:value={values.referenceStyle}>
					<option value="structured">creditor reference, with check digits</option>
					<option value="plain">the order’s own reference</option>
					<option value="none">none is asked for</option>
				</select>{/snippet}
		</Field>
		<Field
			label="Who follows up"
			wrong={wrong('followUp')}
			help={{ what: 'Who asks when the money does not come. Shown beside what is awaited.', looks: 'Front desk' }}
		>
			{#snippet children(attributes)}<input {...attributes} name="followUp" bind:value={values.followUp} />{/snippet}
		</Field>
	</div>
</div>
{#if transfers}
	<label class="mt-4 block"
		><input type="checkbox" name="transferCode" bind:checked={values.transferCode} /> Show a transfer QR for EUR</label
	>
{/if}
