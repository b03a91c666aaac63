<script lang="ts">
	import Field from './Field.svelte';

	interface Values {
		name: string;
		mode: 'test' | 'live';
		currencies: string[];
		colour: string;
		domain: string;
		kind: 'web checkout' | 'counter' | 'invoice sheet' | 'pay link' | 'plan';
		brandId: string;
		fulfil: 'on promise' | 'when settled' | 'when it can no longer come back';
		domains: string[];
		asksAddress: 'no' | 'may' | 'must';
		asksPhone: 'no' | 'may' | 'must';
		asksNote: 'no' | 'may' | 'must';
		delivers: boolean;
		tellsOutside: 'never' | 'at once' | 'once it is paid';
		gratuityShares: string;
		gratuityOwn: boolean;
		landing: string;
		heading: string;
		button: string;
		languages: ('en' | 'nl' | 'fr' | 'de')[];
		logo: string;
	}
	interface Props {
		values: Values;
		errors: {
			name?: string[];
			currencies?: { _errors?: string[] };
			landing?: string[];
			gratuityShares?: string[];
			heading?: string[];
			button?: string[];
			logo?: string[];
		};
		brands: readonly { id: string; name: string }[];
		choices: readonly string[];
		colours: readonly { value: string; name: string }[];
		/** web domains of the business */
		domains: readonly string[];
		/** the mode is fixed once the till is there */
		fixedMode?: boolean;
	}
	let { values = $bindable(), errors, choices, colours, domains, brands, fixedMode = false }: Props = $props();
	let logoSays = $state('');

	/** Takes a small picture over as it is; what is too large stays out. */
	async function takeLogo(event: Event & { currentTarget: HTMLInputElement }) {
		const [file] = event.currentTarget.files ?? [];
		if (!file) return;
		if (!['image/png', 'image/jpeg', 'image/webp'].includes(file.type) || file.size > 60_000) {
			logoSays = 'PNG, JPEG or WebP of at most 60 kB. The picture before stays.';
			return;
		}
		logoSays = '';
		const reader = new FileReader();
		reader.onload = () => (values.logo = String(reader.result));
		reader.readAsDataURL(file);
	}
	const ASKS = [
		['asksAddress', 'Address'],
		['asksPhone', 'Phone'],
		['asksNote', 'A note']
	] as const;
</script>

<section class="till-group">
	<div class="about">
		<h2>What it is</h2>
		<p class="quiet">
			Its name is for you, and its address is made of it. The kind decides how cards come: present at a counter, typed
			on a page, again and again in a plan.
		</p>
	</div>
	<div>
		<Field
			label="Name"
			wrong={errors.name}
			help={{ what: 'What you call this place. Its address is made of it.', looks: 'Web shop' }}
		>
			{#snippet children(attributes)}<input {...attributes} name="name" bind:value={values.name} />{/snippet}
		</Field>
		<div class="grid grid-cols-2 gap-x-4">
			<Field
				label="Kind"
				help={{
					what: 'How payers come to it. At a counter the card is present; a plan is paid again and again.'
				}}
			>
				{#snippet children(attributes)}<select {...attributes} name="kind" bind:value={values.kind}>
						{#each ['web checkout', 'counter', 'invoice sheet', 'pay link', 'plan'] as kind (kind)}<option
								>{kind}</option
							>{/each}
					</select>{/snippet}
			</Field>
			{#if brands.length}
				<Field label="Brand" help={{ what: 'The face of the business that payers see here.' }}>
					{#snippet children(attributes)}<select {...attributes} name="brandId" bind:value={values.brandId}>
							<option value="">the business itself</option>
							{#each brands as brand (brand.id)}<option value={brand.id}>{brand.name}</option>{/each}
						</select>{/snippet}
				</Field>
			{:else}<input type="hidden" name="brandId" value={values.brandId} />{/if}
		</div>
		{#if fixedMode}
			<input type="hidden" name="mode" value={values.mode} />
		{:else}
			<fieldset class="mt-3">
				<legend class="legend">For</legend>
				<div class="ticks">
					<label><input type="radio" name="mode" value="live" bind:group={values.mode} /> Live payments</label>
					<label><input type="radio" name="mode" value="test" bind:group={values.mode} /> Test payments only</label>
				</div>
				<span class="sub">It stays so: test and live payments never mix at one till.</span>
			</fieldset>
		{/if}
	</div>
</section>
<section class="till-group">
	<div class="about">
		<h2>What it takes</h2>
		<p class="quiet">
			Payers see only offers in these currencies. An order in another one is refused before anything is shown.
		</p>
	</div>
	<div>
		<fieldset class="mt-3">
			<legend class="legend">Currencies it takes</legend>
			<div class="ticks">
				{#each choices as code (code)}<label
						><input type="checkbox" name="currencies" value={code} bind:group={values.currencies} /> {code}</label
					>{/each}
			</div>
			{#if errors.currencies?._errors}<span class="wrong" role="alert">{errors.currencies._errors.join(' ')}</span>{/if}
		</fieldset>
	</div>
</section>
<section class="till-group">
	<div class="about">
		<h2>What payers see</h2>
		<p class="quiet">
			Name, colour, logo and languages of the page on which they pay. The margin shows it as it becomes.
		</p>
	</div>
	<div>
		<div class="grid grid-cols-2 gap-x-4">
			<Field
				label="Name on the page"
				wrong={errors.heading}
				help={{ what: 'Stands at the head of the payer’s page. Empty: the name of the business or brand.' }}
			>
				{#snippet children(attributes)}<input {...attributes} name="heading" bind:value={values.heading} />{/snippet}
			</Field>
			<Field
				label="Button text"
				wrong={errors.button}
				help={{ what: 'Empty: the button says what it does, such as “Pay by card”.', looks: 'Pay for the repair' }}
			>
				{#snippet children(attributes)}<input {...attributes} name="button" bind:value={values.button} />{/snippet}
			</Field>
		</div>
		<fieldset class="mt-3">
			<legend class="legend">Colour of the payer’s page</legend>
			<div class="ticks">
				{#each colours as { value, name } (value)}
					<label
						><input type="radio" name="colour" {value} bind:group={values.colour} /><span
							class="inline-block h-4 w-6 rounded-[3px]"
							style:background={value}
						></span>
						{name}</label
					>
				{/each}
			</div>
		</fieldset>
		<fieldset class="mt-3">
			<legend class="legend">Languages of the page</legend>
			<div class="ticks">
				{#each [['en', 'English'], ['nl', 'Nederlands'], ['fr', 'Français'], ['de', 'Deutsch']] as const as [code, name] (code)}
					<label><input type="checkbox" name="languages" value={code} bind:group={values.languages} /> {name}</label>
				{/each}
			</div>
			<span class="sub">The payer’s browser chooses among them; the first one where it asks for none.</span>
		</fieldset>
		<Field label="Logo" wrong={logoSays || errors.logo} help={{ what: 'PNG, JPEG or WebP, at most 60 kB.' }}>
			{#snippet children(attributes)}<input
					{...attributes}
					type="file"
					accept="image/png,image/jpeg,image/webp"
					onchange={takeLogo}
				/>{/snippet}
		</Field>
		<input type="hidden" name="logo" value={values.logo} />
		{#if values.logo}<p class="mt-1 flex items-center gap-3">
				<img src={values.logo} alt="The logo" class="max-h-10" /><button
					type="button"
					class="why"
					onclick={() => (values.logo = '')}>Remove the logo</button
				>
			</p>{/if}
	</div>
</section>
{#if domains.length || values.domain || values.domains.length}<section class="till-group">
		<div class="about">
			<h2>Where they see it</h2>
			<p class="quiet">Device wallets want a proof of the domain, and some methods a code on its page.</p>
		</div>
		<div>
			{#if domains.length || values.domain}
				<Field
					label="Web domain"
					help={{
						what: 'The domain on which payers see this till. Device wallets want a proof there, and some methods a code on its page.',
						where: 'Domains are added under Connect, Domains.'
					}}
				>
					{#snippet children(attributes)}
						<select {...attributes} name="domain" bind:value={values.domain}>
							<option value="">this address</option>
							{#each [...new Set([...domains, ...(values.domain ? [values.domain] : [])])] as domain (domain)}<option
									>{domain}</option
								>{/each}
						</select>
					{/snippet}
				</Field>
			{/if}
			{#if domains.length > 1 || values.domains.length}
				<fieldset class="mt-3">
					<legend class="legend">Also seen on</legend>
					<div class="ticks">
						{#each [...new Set( [...domains, ...values.domains] )].filter((one) => one !== values.domain) as domain (domain)}
							<label><input type="checkbox" name="domains" value={domain} bind:group={values.domains} /> {domain}</label
							>
						{/each}
					</div>
				</fieldset>
			{/if}
		</div>
	</section>{/if}
<section class="till-group">
	<div class="about">
		<h2>What payers are asked</h2>
		<p class="quiet">Asked on the page before they pay, where your shop did not tell it already.</p>
	</div>
	<div>
		<fieldset class="mt-3">
			<legend class="legend">It asks the payer for</legend>
			<div class="grid grid-cols-3 gap-x-4">
				{#each ASKS as [name, title] (name)}
					<label class="text-[12px]"
						><span class="quiet block">{title}</span><select {name} bind:value={values[name]}>
							<option value="no">not asked</option><option value="may">if they like</option><option value="must"
								>always</option
							>
						</select></label
					>
				{/each}
			</div>
			<label class="mt-2 block"
				><input type="checkbox" name="delivers" bind:checked={values.delivers} /> What it sells is delivered to an address</label
			>
			{#if values.delivers && values.asksAddress === 'no'}<span class="wrong" role="status"
					>It sells what must be delivered, and asks for no address.</span
				>{/if}
		</fieldset>
	</div>
</section>
<section class="till-group">
	<div class="about">
		<h2>After paying</h2>
		<p class="quiet">From when you may deliver, what the receipt says, and where it leads.</p>
	</div>
	<div>
		<Field
			label="When to fulfil"
			help={{
				what: 'From when on the goods may leave. On promise: as soon as the payer has paid or promised. When settled: the processor has the money. When it can no longer come back: after the last day of a return.'
			}}
		>
			{#snippet children(attributes)}<select {...attributes} name="fulfil" bind:value={values.fulfil}>
					<option>on promise</option><option>when settled</option><option>when it can no longer come back</option>
				</select>{/snippet}
		</Field>
		<Field
			label="Tell the payer an outside reference"
			help={{
				what: 'What an outside program calls the order, such as a booking number. Once it is set, the payer’s receipt shows it: never, at once, or once the order is paid.'
			}}
		>
			{#snippet children(attributes)}<select {...attributes} name="tellsOutside" bind:value={values.tellsOutside}>
					<option>never</option><option>at once</option><option>once it is paid</option>
				</select>{/snippet}
		</Field>
		<Field
			label="A gratuity, in per cent"
			wrong={errors.gratuityShares}
			help={{
				what: 'Shares of the total that the payer may add for whoever served them. It is no part of the order, and is refunded last. Empty: none is offered.',
				looks: '5 10 12.5'
			}}
		>
			{#snippet children(attributes)}<input
					{...attributes}
					name="gratuityShares"
					bind:value={values.gratuityShares}
				/>{/snippet}
		</Field>
		<label class="mt-2 inline-flex min-h-[24px] items-center gap-2"
			><input type="checkbox" name="gratuityOwn" bind:checked={values.gratuityOwn} /> The payer may name a gratuity of their
			own</label
		>
		<Field
			label="After paying, on to"
			wrong={errors.landing}
			help={{
				what: 'An address the receipt leads on to. Empty: the payer stays at the receipt.',
				looks: 'https://shop.wrenalder.example/thanks'
			}}
		>
			{#snippet children(attributes)}<input
					{...attributes}
					name="landing"
					class="mono"
					bind:value={values.landing}
				/>{/snippet}
		</Field>
	</div>
</section>

<style>
	.till-group {
		display: grid;
		grid-template-columns: 190px minmax(0, 1fr);
		gap: 0 26px;
		border-top: 1px solid var(--rule);
		padding: 14px 0 18px;
	}
	.till-group:first-of-type {
		border-top: 0;
	}
	.about h2 {
		margin: 0 0 4px;
	}
	.about p {
		font-size: 12px;
	}
	@media (max-width: 1100px) {
		.till-group {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
