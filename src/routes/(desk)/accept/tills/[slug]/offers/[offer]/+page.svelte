<script lang="ts">
	import { answer, isWhoeverPays, nameKey, readOfferForm, sayFact, type CoverageInput } from '$lib/core/lineup';
	import { exponentOf } from '$lib/core/money';
	import { Bare, CountryPicker, Coverage, Field, Rule, Sheet, Ticks, Workings } from '$lib/ui';
	import { untrack } from 'svelte';
	import { superForm } from 'sveltekit-superforms';
	const { data } = $props();
	const { form, errors, enhance } = superForm(
		untrack(() => data.form),
		{ resetForm: false }
	);
	const choice = $derived(data.choices.find((one) => one.value === $form.carrier));
	const standbys = $derived(data.choices.filter((one) => one.method === choice?.method && one.value !== choice?.value));
	const twin = $derived(data.others.find((name) => nameKey(name) === nameKey($form.name)));
	const FUNDING = { debit: 'Debit', credit: 'Credit', prepaid: 'Prepaid', commercial: 'Commercial' } as Record<
		string,
		string
	>;
	const REGION = { domestic: 'Domestic', regional: 'Regional', international: 'International' } as Record<
		string,
		string
	>;

	const carried = $derived(
		new Set(data.choices.filter((one) => one.method === choice?.method).flatMap((one) => [...one.currencies]))
	);
	const currencyChoices = $derived(
		data.till.currencies.map((code) => {
			const isOff = !carried.has(code);
			const why = choice?.currencies.includes(code) ? '' : `, not carried by ${choice?.name}`;
			return { value: code, isOff, name: `${code}${why}${why && !isOff ? ': choose another route below' : ''}` };
		})
	);
	const named = (names: Record<string, string>, values: readonly string[]) =>
		values.map((value) => ({ value, name: names[value] ?? value }));
	/** what an offer says to payers, in one language: its fields there, and in the others */
	const TEXTS = [
		{ field: 'textNames', of: 'name', label: 'Name' },
		{ field: 'textNotes', of: 'note', label: 'What happens next' },
		{ field: 'textNotesAfter', of: 'noteAfter', label: 'After paying' }
	] as const;
	/** the route that was chosen for one currency, and changes of it */
	const overrideOf = (code: string, side: 'first' | 'standby') =>
		$form.overrides.find((one) => one.startsWith(`${code} ${side} `)) ?? '';
	const setOverride = (code: string, side: 'first' | 'standby', value: string) =>
		($form.overrides = [
			...$form.overrides.filter((one) => one && !one.startsWith(`${code} ${side} `)),
			...(value ? [value] : [])
		]);
	const fit = (code: string) =>
		data.choices.filter((one) => one.method === choice?.method && one.currencies.includes(code));
	// a draft that is being edited is asked about while it is edited: what is typed, among the other offers
	const input = $derived.by((): CoverageInput | undefined => {
		const read = readOfferForm($form, data.till.currencies, data.choices, data.id, data.locale);
		if (!('offer' in read)) return undefined;
		const lineUp = data.isNew
			? [...data.lineUp, read.offer]
			: data.lineUp.map((one) => (one.id === data.id ? read.offer : one));
		return { lineUp, states: data.states, base: data.base, domains: data.domains };
	});
	const CHECKS = {
		title: 'When a payer meets an offer',
		steps: [
			{ title: 'It is on', sub: 'and its method is not paused' },
			{ title: 'Its route works', sub: 'verified, in the till’s mode, not paused; else its standby' },
			{ title: 'The account can carry it', sub: 'method, currency and amount' },
			{ title: 'Till and offer take the currency' },
			{ title: 'The amount is within the limits', sub: 'both ends included' },
			{ title: 'The conditions on the payer hold' },
			{ title: 'The domain is proven', sub: 'where a wallet asks for it' },
			{ title: 'Some card type is left' },
			{ title: 'Nothing offered above stands in its way' }
		]
	};
	const CONDITIONS = $derived(
		[
			$form.groupRule !== 'any',
			$form.goodsRule !== 'any',
			$form.deliveryRule !== 'any',
			$form.domainRule !== 'any',
			!!$form.recurrence,
			!!$form.orderedBy,
			$form.withoutOnlineMethod
		].filter(Boolean).length
	);

	const freeCurrency = $derived(
		data.till.currencies.find((code) => code !== $form.boundCurrency && !$form.moreCurrencies.includes(code))
	);
	function addLimit() {
		if (!freeCurrency) return;
		$form.moreCurrencies = [...$form.moreCurrencies, freeCurrency];
		$form.moreFrom = [...$form.moreFrom, ''];
		$form.moreTo = [...$form.moreTo, ''];
	}
	function removeLimit(at: number) {
		const without = (list: string[]) => list.filter((_, n) => n !== at);
		$form.moreCurrencies = without($form.moreCurrencies);
		$form.moreFrom = without($form.moreFrom);
		$form.moreTo = without($form.moreTo);
	}
	/** the checks of what is typed that fail for every payer: the rest need not be read */
	const failing = $derived.by(() => {
		if (!input) return [];
		const typed = data.isNew ? input.lineUp.at(-1) : input.lineUp.find((one) => one.id === data.id);
		if (!typed) return [];
		const found: { says: string; currency: string }[] = [];
		for (const currency of Object.keys(typed.routes)) {
			const bound = typed.conditions.amounts.find((one) => one.currency === currency);
			const minor = bound?.minimum ?? bound?.maximum ?? 50 * 10 ** exponentOf(currency);
			const { withheld } = answer(input.lineUp, { ...input.base, currency, minor }, input.states);
			for (const check of withheld.find((one) => one.offer.id === typed.id)?.checks ?? []) {
				const says = sayFact(check.fact, data.locale);
				if (!check.ok && isWhoeverPays(check.fact) && !found.some((one) => one.says === says))
					found.push({ says, currency });
			}
		}
		return found;
	});

	let before = untrack(() => data.choices.find((one) => one.value === data.form.data.carrier));
	function changeCarrier() {
		if (!choice) return;
		// a name that nobody typed goes along
		if (!$form.name || $form.name === before?.payerName) $form.name = choice.payerName;
		before = choice;
		$form.currencies = data.till.currencies.filter((code) => choice.currencies.includes(code));
		$form.schemes = choice.schemes.map((one) => one.id);
		$form.fundings = [...choice.fundings] as typeof $form.fundings;
		$form.regions = [...choice.regions] as typeof $form.regions;
		$form.standby = '';
		$form.overrides = [];
	}
</script>

<Sheet
	title={data.isNew ? 'New offer' : data.name}
	about="{data.till.name}: a change makes a draft; payers meet it once it is published"
	test={data.till.mode === 'test'}
>
	{#if data.choices.length === 0}
		<p class="note mt-4">
			Nothing can carry an offer yet. <a class="why" href="/connect/processors">Connect a processor</a> in {data.till
				.mode} mode, or <a class="why" href="/connect/offline/new">add a credit transfer</a>, first.
		</p>
	{:else}
		<form method="post" action="?/save" use:enhance>
			{#if $errors._errors}<p class="note clay mt-4" role="alert">{$errors._errors.join(' ')}</p>{/if}
			<input type="hidden" name="revision" bind:value={$form.revision} />
			<div class="grid max-w-[660px] grid-cols-2 gap-x-5">
				<Field
					label="Carried by"
					wrong={$errors.carrier}
					help={{
						what: 'The route: the connection or offline method that takes the money. Only those of this till’s mode are listed.'
					}}
				>
					{#snippet children(attributes)}
						<select {...attributes} name="carrier" bind:value={$form.carrier} onchange={changeCarrier}>
							{#each data.choices as one (one.value)}<option value={one.value}>{one.name}</option>{/each}
						</select>
					{/snippet}
				</Field>
				<Field
					label="Standby"
					wrong={$errors.standby}
					help={{ what: 'Steps in by itself while the route is paused or failing. It carries the same method.' }}
				>
					{#snippet children(attributes)}
						<select {...attributes} name="standby" bind:value={$form.standby} disabled={standbys.length === 0}>
							<option value="">{standbys.length ? 'none' : 'nothing else carries this'}</option>
							{#each standbys as one (one.value)}<option value={one.value}>{one.name}</option>{/each}
						</select>
					{/snippet}
				</Field>
				<Field
					label="Name for payers"
					wrong={$errors.name ??
						(twin
							? `“${twin}” stands in this line-up already. Where both meet, the lower one is withheld.`
							: undefined)}
					help={{ what: 'What the payer reads. Two offers that can meet must differ.', looks: 'Card' }}
				>
					{#snippet children(attributes)}<input {...attributes} name="name" bind:value={$form.name} />{/snippet}
				</Field>
				<Field
					label="What happens next, for the payer"
					wrong={$errors.note}
					help={{
						what: 'One line under the name: how certain the money is, and what you do then.',
						looks: 'Sure at once. We pack tomorrow.'
					}}
				>
					{#snippet children(attributes)}<input {...attributes} name="note" bind:value={$form.note} />{/snippet}
				</Field>
				<Field
					label="After paying"
					wrong={$errors.noteAfter}
					help={{ what: 'One line on the receipt.', looks: 'Your strings leave us tomorrow.' }}
				>
					{#snippet children(attributes)}<input
							{...attributes}
							name="noteAfter"
							bind:value={$form.noteAfter}
						/>{/snippet}
				</Field>
			</div>
			{#if $form.textLanguages.length}
				<details class="mt-4 max-w-[660px]" open={$form.textNames.some(Boolean) || $form.textNotes.some(Boolean)}>
					<summary class="cursor-pointer">The same in other languages</summary>
					<table class="mt-1">
						<thead
							><tr
								><th class="w-28">Language</th>{#each TEXTS as text (text.field)}<th>{text.label}</th>{/each}</tr
							></thead
						>
						<tbody>
							{#each $form.textLanguages as language, at (language)}
								{@const spoken = data.languageNames[language]}
								<tr>
									<td>{spoken}<input type="hidden" name="textLanguages" value={language} /></td>
									{#each TEXTS as text (text.field)}<td
											><input
												name={text.field}
												aria-label="{text.label}, {spoken}"
												lang={language}
												placeholder={$form[text.of]}
												bind:value={$form[text.field][at]}
											/></td
										>{/each}
								</tr>
							{/each}
						</tbody>
					</table>
				</details>
			{/if}
			<Ticks
				class="mt-4"
				legend="Currencies"
				name="currencies"
				inLine
				options={currencyChoices}
				bind:chosen={$form.currencies}
				wrong={$errors.currencies?._errors}
			/>
			{#if choice && $form.currencies.length > 1 && standbys.length}
				<details
					class="mt-3 max-w-[660px]"
					open={$form.overrides.some(Boolean) || $form.currencies.some((code) => !choice.currencies.includes(code))}
				>
					<summary class="cursor-pointer">Another route for one currency</summary>
					<table class="mt-1">
						<thead><tr><th class="w-20">Currency</th><th>First</th><th>Standby</th></tr></thead>
						<tbody>
							{#each data.till.currencies.filter((code) => $form.currencies.includes(code)) as code (code)}
								<tr>
									<td>{code}</td>
									{#each ['first', 'standby'] as const as side (side)}
										<td
											><select
												name="overrides"
												aria-label="{side === 'first' ? 'First route' : 'Standby'} for {code}"
												value={overrideOf(code, side)}
												onchange={(event) => setOverride(code, side, event.currentTarget.value)}
											>
												<option value="">as above</option>
												{#if side === 'standby'}<option value="{code} standby none">none</option>{/if}
												{#each fit(code) as one (one.value)}<option value="{code} {side} {one.value}">{one.name}</option
													>{/each}
											</select></td
										>
									{/each}
								</tr>
							{/each}
						</tbody>
					</table>
					{#if $errors.overrides?._errors}<span class="wrong" role="alert">{$errors.overrides._errors.join(' ')}</span
						>{/if}
				</details>
			{/if}
			{#if choice && choice.schemes.length > 0}
				<div class="mt-4 grid max-w-[660px] grid-cols-3 gap-5">
					<Ticks
						legend="Schemes"
						name="schemes"
						options={choice.schemes.map(({ id, name }) => ({ value: id, name }))}
						bind:chosen={$form.schemes}
						wrong={$errors.schemes?._errors}
					/>
					<Ticks
						legend="Funding"
						name="fundings"
						options={named(FUNDING, choice.fundings)}
						bind:chosen={$form.fundings}
						wrong={$errors.fundings?._errors}
					/>
					<Ticks
						legend="Region"
						name="regions"
						options={named(REGION, choice.regions)}
						bind:chosen={$form.regions}
						wrong={$errors.regions?._errors}
					/>
				</div>
				<p class="sub mt-1">
					What {choice.name} does not carry is not listed. A card that is not taken is refused before any charge.
				</p>
			{/if}
			<fieldset class="mt-4 max-w-[660px]">
				<legend class="legend">Limits</legend>
				<table class="limits">
					<thead
						><tr><th>Currency</th><th>Offered from</th><th>Offered to</th><th class="sr-only">Remove</th></tr></thead
					>
					<tbody>
						<tr>
							<td
								><Bare
									label="Currency of the limit"
									wrong={$errors.boundCurrency}
									help={{
										what: 'A limit counts in its own currency. For payments in another one, the home currency’s limit counts, at the day’s rate.'
									}}
									>{#snippet children(attributes)}<select
											{...attributes}
											name="boundCurrency"
											bind:value={$form.boundCurrency}
											>{#each data.till.currencies as code (code)}<option>{code}</option>{/each}</select
										>{/snippet}</Bare
								></td
							>
							<td
								><Bare
									label="Offered from"
									wrong={$errors.minimum}
									help={{ what: 'The smallest amount, included. Empty: any.', looks: '20.00' }}
									>{#snippet children(attributes)}<input
											{...attributes}
											name="minimum"
											inputmode="decimal"
											placeholder="any"
											bind:value={$form.minimum}
										/>{/snippet}</Bare
								></td
							>
							<td
								><Bare
									label="Offered to"
									wrong={$errors.maximum}
									help={{ what: 'The largest amount, included. Empty: any.' }}
									>{#snippet children(attributes)}<input
											{...attributes}
											name="maximum"
											inputmode="decimal"
											placeholder="any"
											bind:value={$form.maximum}
										/>{/snippet}</Bare
								></td
							>
							<td></td>
						</tr>
						{#each $form.moreCurrencies as code, at (at)}
							<tr>
								<td
									><select
										name="moreCurrencies"
										aria-label="Currency of limit {at + 2}"
										bind:value={$form.moreCurrencies[at]}
										>{#each [...new Set([...data.till.currencies, code])] as one (one)}<option>{one}</option
											>{/each}</select
									></td
								>
								<td
									><input
										name="moreFrom"
										inputmode="decimal"
										placeholder="any"
										aria-label="Offered from, in {code}"
										bind:value={$form.moreFrom[at]}
									/></td
								>
								<td
									><input
										name="moreTo"
										inputmode="decimal"
										placeholder="any"
										aria-label="Offered to, in {code}"
										bind:value={$form.moreTo[at]}
									/></td
								>
								<td
									><button
										type="button"
										class="button small"
										aria-label="Remove the limit in {code}"
										onclick={() => removeLimit(at)}>Remove</button
									></td
								>
							</tr>
						{/each}
					</tbody>
				</table>
				{#if $errors.moreCurrencies?._errors}<span class="wrong" role="alert"
						>{$errors.moreCurrencies._errors.join(' ')}</span
					>{/if}
				{#if freeCurrency}<button type="button" class="button small mt-2" onclick={addLimit}
						>Add a limit in another currency</button
					>{/if}
			</fieldset>
			<div class="grid max-w-[660px] gap-x-5 sm:grid-cols-[160px_1fr]">
				<Field
					label="Payer’s country"
					wrong={$errors.countryRule}
					help={{
						what: 'Where the payer is, as the address tells. A payer of an unknown country does not meet an offer that asks for one.'
					}}
				>
					{#snippet children(attributes)}
						<select {...attributes} name="countryRule" bind:value={$form.countryRule}>
							<option value="any">any</option><option value="only">only these</option><option value="except"
								>all but these</option
							>
						</select>
					{/snippet}
				</Field>
				{#if $form.countryRule !== 'any'}
					<Field
						label="Countries"
						wrong={$errors.countries}
						help={{ what: 'Type a part of a country’s name and choose it, or add a whole area.' }}
					>
						{#snippet children(attributes)}<CountryPicker
								{...attributes}
								name="countries"
								countries={data.countries}
								bind:value={$form.countries}
							/>{/snippet}
					</Field>
				{/if}
			</div>
			<details class="mt-4 max-w-[660px]" open={CONDITIONS > 0}>
				<summary class="cursor-pointer">Further conditions{CONDITIONS ? `: ${CONDITIONS} set` : ''}</summary>
				<div class="mt-2 grid grid-cols-2 gap-x-5 gap-y-3">
					<Rule
						label="Payer’s group"
						name="groupRule"
						bind:value={$form.groupRule}
						wrong={$errors.groups?._errors?.join(' ')}
					>
						<div class="ticks">
							{#each Object.entries(data.groups) as [id, name] (id)}<label
									><input type="checkbox" name="groups" value={id} bind:group={$form.groups} /> {name}</label
								>{:else}<a class="why" href="/bill/payers">Make a group of payers first</a>{/each}
						</div>
					</Rule>
					<Rule
						label="Web domain"
						name="domainRule"
						bind:value={$form.domainRule}
						wrong={$errors.domains?._errors?.join(' ')}
					>
						<div class="ticks">
							{#each [...new Set([...data.domains, ...$form.domains])] as name (name)}<label
									><input type="checkbox" name="domains" value={name} bind:group={$form.domains} /> {name}</label
								>{:else}<span class="quiet">The till is shown on no domain.</span>{/each}
						</div>
					</Rule>
					<Rule label="Goods" name="goodsRule" bind:value={$form.goodsRule} wrong={$errors.goods?.join(' ')}>
						<input name="goods" aria-label="Kinds of goods" placeholder="strings, repairs" bind:value={$form.goods} />
					</Rule>
					<Rule
						label="Delivery"
						name="deliveryRule"
						bind:value={$form.deliveryRule}
						wrong={$errors.delivery?.join(' ')}
					>
						<input
							name="delivery"
							aria-label="Kinds of delivery"
							placeholder="post, pick-up"
							bind:value={$form.delivery}
						/>
					</Rule>
					<label
						><span class="legend">Paid</span><select name="recurrence" bind:value={$form.recurrence}>
							<option value="">once or again and again</option><option value="one-time">once only</option><option
								value="recurring">again and again only</option
							>
						</select></label
					>
					<label
						><span class="legend">Ordered</span><select name="orderedBy" bind:value={$form.orderedBy}>
							<option value="">on the page or through the API</option><option value="page">on the page only</option
							><option value="interface">through the API only</option>
						</select></label
					>
					<label class="col-span-2"
						><input type="checkbox" name="withoutOnlineMethod" bind:checked={$form.withoutOnlineMethod} /> Only for payers
						without an online method</label
					>
				</div>
			</details>
			<div class="mt-3 grid max-w-[660px] grid-cols-2 gap-x-5">
				<Field
					label="Captured"
					help={{
						what: 'At once: the money is taken as soon as it is authorised. Later: you capture it before the authorisation lapses.'
					}}
				>
					{#snippet children(attributes)}<select {...attributes} name="capture" bind:value={$form.capture}>
							<option>as the account</option><option>at once</option><option>later</option>
						</select>{/snippet}
				</Field>
				<Field
					label="The payer meets it"
					help={{
						what: 'In the page, at the processor, or on the basket already. The interface tells it to your shop.'
					}}
				>
					{#snippet children(attributes)}<select {...attributes} name="place" bind:value={$form.place}>
							<option>in the page</option><option>at the processor</option><option>on the basket</option>
						</select>{/snippet}
				</Field>
			</div>
			<label class="mt-3 block"
				><input type="checkbox" name="storing" bind:checked={$form.storing} /> The payer may have it stored for the next time</label
			>
			{#if $form.storing && choice && !data.keepers.includes($form.carrier)}<p class="quiet max-w-prose text-[13px]">
					{choice.name} keeps nothing for payers, so nobody is asked here.
				</p>{/if}
			<label class="mt-4 block"><input type="checkbox" name="on" bind:checked={$form.on} /> The offer is on</label>
			<div class="mt-5 flex gap-2">
				<button class="button main" data-save
					>{data.isNew ? 'Add offer to the draft' : 'Save offer in the draft'}</button
				>
				{#if !data.isNew}<button class="button" formaction="?/remove">Remove offer</button>{/if}
				<a class="button" href="/accept/tills/{data.till.slug}">Leave it as it was</a>
			</div>
		</form>
	{/if}
</Sheet>
<Workings how={CHECKS}>
	{#if failing.length}
		<h2>Nobody meets this offer</h2>
		<ul class="mb-4">
			{#each failing as one, at (at)}<li class="border-rule border-t py-1.5">
					<span class="no" aria-hidden="true">✕</span>
					{one.says} <span class="quiet">{one.currency}</span>
				</li>{/each}
		</ul>
	{/if}
	<h2>What payers meet, as typed</h2>
	<Coverage {input} before={data.lineUp} locale={data.locale} names={data.names} slug={data.till.slug} brief />
</Workings>

<style>
	.limits {
		width: auto;
	}
	.limits td {
		padding: 3px 10px 3px 0;
		border: 0;
	}
	.limits :is(th, td):nth-child(2),
	.limits :is(th, td):nth-child(3) {
		width: 150px;
	}
	.limits :is(th, td):first-child {
		width: 96px;
	}
</style>
