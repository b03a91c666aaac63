<script lang="ts">
	import { Field, Sheet, Workings } from '$lib/ui';
	import BusinessFields from '$lib/ui/BusinessFields.svelte';
	import { untrack } from 'svelte';
	import { superForm } from 'sveltekit-superforms';
	const { data, form: answer } = $props();
	const { form, errors, enhance, message } = superForm(
		untrack(() => data.form),
		{ resetForm: false }
	);
	const moves = $derived($form.country !== data.kept.country || $form.homeCurrency !== data.kept.homeCurrency);
	const asked = (ask: string) => {
		const names = data.askedBy[ask] ?? [];
		return names.length ? `Asked for by ${names.join(', ')}.` : undefined;
	};
	type Line = { name: keyof typeof $form; label: string; ask: string; what: string; looks?: string };
	const LEGAL: Line[] = [
		{
			name: 'legalName',
			label: 'Legal name',
			ask: 'legalName',
			what: 'The name in the register of companies.',
			looks: 'Wren & Alder Strings BV'
		},
		{ name: 'legalForm', label: 'Legal form', ask: 'legalForm', what: 'What kind of company it is.', looks: 'BV' },
		{
			name: 'taxNumber',
			label: 'Tax number',
			ask: 'taxNumber',
			what: 'The number under which the business is taxed.',
			looks: 'BE 0123.456.749'
		},
		{
			name: 'industry',
			label: 'Industry',
			ask: 'industry',
			what: 'In a few words; processors sort it into their own list.',
			looks: 'Musical instruments, retail and repair'
		},
		{ name: 'street', label: 'Street', ask: 'address', what: 'Of the registered office.' },
		{ name: 'postcode', label: 'Postcode', ask: 'address', what: 'Of the registered office.' },
		{ name: 'city', label: 'City', ask: 'address', what: 'Of the registered office.' },
		{
			name: 'representative',
			label: 'Representative',
			ask: 'representative',
			what: 'Who signs for the business. Processors check the person.'
		},
		{
			name: 'representativeRole',
			label: 'Their role',
			ask: 'representative',
			what: 'What lets them sign.',
			looks: 'Managing partner'
		}
	];
	const PAYERS: Line[] = [
		{
			name: 'sells',
			label: 'What is sold',
			ask: 'delivery',
			what: 'Goods and services, as payers would say it.',
			looks: 'Strings, bows, repairs and lessons'
		},
		{
			name: 'delivery',
			label: 'How soon it is delivered',
			ask: 'delivery',
			what: 'From payment to delivery. The later, the longer a processor may hold money.',
			looks: 'Within three business days; lessons over a term'
		},
		{
			name: 'phone',
			label: 'Telephone for payers',
			ask: 'phone',
			what: 'It stands on some statements.',
			looks: '+32 9 555 01 70'
		},
		{
			name: 'mail',
			label: 'Mail for payers',
			ask: 'mail',
			what: 'Where payers ask before they dispute.',
			looks: 'hello@wrenalder.example'
		},
		{
			name: 'social',
			label: 'Social page',
			ask: 'domains',
			what: 'For a business without a web domain.',
			looks: 'https://places.example/wren-alder'
		}
	];
</script>

{#snippet lines(list: Line[])}
	{#each list as line, i (i)}
		<div id={line.name}>
			<Field
				label={line.label}
				wrong={$errors[line.name] as string[] | undefined}
				help={{ what: `${line.what} ${asked(line.ask) ?? ''}`, looks: line.looks }}
			>
				{#snippet children(attributes)}<input
						{...attributes}
						name={line.name}
						bind:value={$form[line.name] as string}
					/>{/snippet}
			</Field>
		</div>
	{/each}
{/snippet}

<Sheet title="Business details" about="Country and currency decide what can be connected and what counts as foreign">
	{#if $message}<p class="note moss mt-4" role="status">{$message}</p>{/if}
	<form method="post" use:enhance>
		<div class="grid max-w-[640px] grid-cols-2 gap-x-5">
			<BusinessFields
				bind:values={$form}
				errors={$errors}
				countries={data.countries}
				currencies={data.currencies}
				zones={data.zones}
				locales={data.locales}
			/>
		</div>
		{#if moves && data.hangs.length}
			<div class="note clay mt-4 max-w-[640px]" role="alert">
				<p><b>These depend on country and home currency:</b></p>
				<ul class="mt-1 list-disc pl-5">
					{#each data.hangs as hang, at (at)}<li>{hang}</li>{/each}
				</ul>
				<label class="mt-2 block"
					><input type="checkbox" name="meant" bind:checked={$form.meant} /> I have read this, and mean to change it all the
					same</label
				>
				{#if answer && 'hangs' in answer && !$form.meant}<span class="wrong"
						>Nothing was changed yet: tick that you mean it.</span
					>{/if}
			</div>
		{/if}
		<h2>The company</h2>
		<div class="grid max-w-[640px] grid-cols-2 gap-x-5">{@render lines(LEGAL)}</div>
		<h2>For payers</h2>
		<div class="grid max-w-[640px] grid-cols-2 gap-x-5">{@render lines(PAYERS)}</div>
		<button class="button main mt-5" data-save>Save details</button>
	</form>
</Sheet>
<Workings
	first={{
		title: 'What depends on these',
		about: data.hangs.length
			? 'Country and home currency change only after this list was seen.'
			: 'Nothing yet: country and home currency can still change freely.',
		steps: data.hangs.map((title) => ({ title })),
		end: {
			tone: 'brass',
			text: 'What else is asked here, processors ask for before they open an account. The catalogue says which asks for what, and what is missing.'
		}
	}}
/>
