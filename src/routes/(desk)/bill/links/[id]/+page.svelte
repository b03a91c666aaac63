<script lang="ts">
	import { enhance } from '$app/forms';
	import { page } from '$app/state';
	import { AmountError, formatNumber, readTypedAmount } from '$lib/core/money';
	import { DayInput, Said, Sheet, Workings } from '$lib/ui';
	import PayerPage from '$lib/ui/PayerPage.svelte';
	import { untrack } from 'svelte';
	const { data, form } = $props();
	const locale = $derived(data.locale as string);
	let s = $state(untrack(() => ({ ...structuredClone(data.settings), title: data.isNew ? '' : data.settings.title })));
	let tillId = $state(untrack(() => data.tillId));
	const say = (minor: number) => (minor ? formatNumber({ minor, currency: s.currency }, locale) : '');
	let fixed = $state(untrack(() => say(data.settings.fixed)));
	let least = $state(untrack(() => say(data.settings.free.least)));
	let most = $state(untrack(() => say(data.settings.free.most)));
	let suggested = $state(untrack(() => data.settings.free.suggested.map(say).join('  ')));
	let width = $state<'phone' | 'desk'>('phone');
	let typedWrong = $state<Record<string, string>>({});
	const till = $derived(data.tills.find((one) => one.id === tillId));
	const told = $derived((form ?? {}) as { errors?: Record<string, string>; prefilled?: string; csv?: string });
	const errors = $derived<Record<string, string>>({ ...(told.errors ?? {}), ...typedWrong });
	const read = (text: string, name: string): number => {
		if (!text.trim()) return 0;
		try {
			return readTypedAmount(text, s.currency, { locale }).amount.minor;
		} catch (error) {
			if (!(error instanceof AmountError)) throw error;
			typedWrong[name] = error.message;
			return 0;
		}
	};
	function settings() {
		typedWrong = {};
		return {
			...$state.snapshot(s),
			fixed: read(fixed, 'fixed'),
			free: {
				least: read(least, 'free'),
				most: read(most, 'free'),
				suggested: suggested
					.split(/\s{2,}|;/)
					.map((one) => one.trim())
					.filter(Boolean)
					.map((one) => read(one, 'free'))
			}
		};
	}
	const fixedShown = $derived.by(() => {
		try {
			return formatNumber(readTypedAmount(fixed, s.currency, { locale }).amount, locale);
		} catch {
			return fixed;
		}
	});
	async function readPicture(file: File | undefined) {
		if (!file) return;
		if (file.size > 90_000) {
			typedWrong = { ...typedWrong, picture: 'The picture is larger than 90 kB.' };
			return;
		}
		const bytes = new Uint8Array(await file.arrayBuffer());
		let text = '';
		for (const one of bytes) text += String.fromCharCode(one);
		s.picture = `data:${file.type};base64,${btoa(text)}`;
	}
	const BUTTONS = { pay: 'Go on to pay', book: 'Book and pay', donate: 'Donate' } as const;
	const inset = $derived(
		data.stand
			? `<script src="${new URL(data.stand.address).origin}/inset/${data.stand.slug}.js" async></${'script'}>`
			: ''
	);
	const template = $derived(
		data.stand ? `${data.stand.address}?sum={{sum}}&reference={{invoice_number}}&name={{name}}&mail={{mail}}` : ''
	);
	const thing = (id: string) => data.items.find((one) => one.id === id);
	const keep =
		() =>
		async ({ update }: { update: (how: { reset: boolean }) => Promise<void> }) =>
			update({ reset: false });
</script>

<Sheet
	title={data.isNew ? 'New pay link' : data.settings.title}
	about={data.stand?.address ?? 'What the payer meets is drawn beside it while you build'}
	test={till?.mode === 'test'}
>
	{#snippet acts()}{#if data.stand}<a class="button" href={data.stand.address} target="_blank">Open it</a
			>{/if}{/snippet}
	{#if page.url.searchParams.has('made')}<p class="note moss mt-3" role="status">
			Made. Send its address, print its code, or put it on a web page.
		</p>{/if}
	<Said form={form as never} />
	{#if data.stand}<p class="verdict">
			{data.stand.visits} visit{data.stand.visits === 1 ? '' : 's'}, {data.stand.starts} start{data.stand.starts === 1
				? ''
				: 's'}, {data.stand.paid} paid{data.stand.sums.length ? `: ${data.stand.sums.join(', ')}` : ''}.
			{#if data.stand.left !== null}{data.stand.left} of {data.stand.cap} places are left.{/if}
			{#each data.stand.unmet as one (one.sum)}<b class="text-clay">{one.count} met no way to pay, {one.sum}.</b>
				<a class="why" href="/accept/tills/{data.stand.tillSlug}/situations">See why</a>{/each}
		</p>{/if}
	<div class="grid gap-6 sm:grid-cols-[1fr_auto]">
		<form
			method="post"
			action="?/save"
			use:enhance={(({ formData, cancel }: { formData: FormData; cancel: () => void }) => {
				formData.set('settings', JSON.stringify(settings()));
				if (Object.keys(typedWrong).length) cancel();
				return keep();
			}) as never}
		>
			<input type="hidden" name="revision" value={data.revision} />
			<label class="field"
				><span class="legend">What is paid for</span><input
					bind:value={s.title}
					aria-invalid={errors.title ? 'true' : undefined}
				/>{#if errors.title}<span class="wrong" role="alert">{errors.title}</span>{/if}</label
			>
			<label class="field"
				><span class="legend">About it</span><textarea rows="2" bind:value={s.about}></textarea></label
			>
			<div class="grid grid-cols-[repeat(auto-fit,minmax(130px,1fr))] gap-x-4">
				<label class="field"
					><span class="legend">Till</span><select name="tillId" bind:value={tillId}
						>{#each data.tills as one (one.id)}<option value={one.id}
								>{one.name}{one.mode === 'test' ? ' (test)' : ''}</option
							>{/each}</select
					>{#if errors.tillId}<span class="wrong" role="alert">{errors.tillId}</span>{/if}</label
				>
				<label class="field"
					><span class="legend">Currency</span><select bind:value={s.currency}
						>{#each [...new Set([s.currency, ...(till?.currencies ?? [])])] as one (one)}<option>{one}</option
							>{/each}</select
					>{#if errors.currency}<span class="wrong" role="alert">{errors.currency}</span>{/if}</label
				>
				<label class="field"
					><span class="legend">Asks for</span><select bind:value={s.asksFor}
						><option>fixed sum</option><option>free sum</option><option>goods</option></select
					></label
				>
			</div>
			{#if s.asksFor === 'fixed sum'}<label class="field"
					><span class="legend">Sum, in {s.currency}</span><input
						class="!w-40"
						inputmode="decimal"
						bind:value={fixed}
						aria-invalid={errors.fixed ? 'true' : undefined}
					/>{#if errors.fixed}<span class="wrong" role="alert">{errors.fixed}</span>{/if}</label
				>
			{:else if s.asksFor === 'free sum'}<div class="grid grid-cols-[repeat(auto-fit,minmax(130px,1fr))] gap-x-4">
					<label class="field"
						><span class="legend">Smallest</span><input inputmode="decimal" bind:value={least} /></label
					>
					<label class="field"><span class="legend">Largest</span><input inputmode="decimal" bind:value={most} /></label
					>
					<label class="field"><span class="legend">Suggested, apart by ;</span><input bind:value={suggested} /></label>
				</div>
				{#if errors.free}<span class="wrong" role="alert">{errors.free}</span>{/if}
			{:else}
				<fieldset class="mt-3">
					<legend class="legend">Goods</legend>
					{#each s.goods as one, at (one.item)}<div class="mb-1 flex items-center gap-2">
							<span class="flex-1"
								>{thing(one.item)?.name ??
									'gone from the price list'}{#if thing(one.item) && !thing(one.item)?.prices.some((price) => price.currency === s.currency)}<span
										class="wrong">no price in {s.currency}</span
									>{/if}</span
							>
							<label class="text-[12px]"
								>at most <input class="n !w-16" type="number" min="1" bind:value={one.most} /></label
							>
							<label class="inline-flex items-center gap-1 text-[12px]"
								><input type="checkbox" bind:checked={one.fixed} /> always</label
							>
							<button type="button" class="why" onclick={() => s.goods.splice(at, 1)}>Remove</button>
						</div>{/each}
					<select
						aria-label="Add a thing"
						value=""
						onchange={(event) => {
							if (event.currentTarget.value) s.goods.push({ item: event.currentTarget.value, most: 1, fixed: false });
							event.currentTarget.value = '';
						}}
						><option value="">Add a thing of the price list</option
						>{#each data.items.filter((item) => !s.goods.some((one) => one.item === item.id)) as item (item.id)}<option
								value={item.id}>{item.name}</option
							>{/each}</select
					>
					<label class="mt-1 inline-flex items-center gap-2"
						><input type="checkbox" bind:checked={s.several} /> several kinds may be chosen</label
					>
					{#if errors.goods}<span class="wrong" role="alert">{errors.goods}</span>{/if}
				</fieldset>
			{/if}
			<details class="mt-4">
				<summary class="cursor-pointer font-semibold">What the payer is asked</summary>
				<div class="grid grid-cols-[repeat(auto-fit,minmax(130px,1fr))] gap-x-4">
					{#each [['asksName', 'Name'], ['asksMail', 'Mail'], ['asksPhone', 'Phone'], ['asksAddress', 'Address'], ['asksTaxNumber', 'Tax number']] as const as [key, label] (key)}<label
							class="field"
							><span class="legend">{label}</span><select bind:value={s[key]}
								><option value="no">not asked</option><option value="may">asked</option><option value="must"
									>required</option
								></select
							></label
						>{/each}
				</div>
				<h3 class="mt-3 font-semibold">Fields of your own</h3>
				{#each s.fields as field, at (field.id)}<div class="mt-1 flex flex-wrap items-center gap-2">
						<input class="!w-48" aria-label="Field {at + 1}" bind:value={field.label} /><select
							class="!w-28"
							aria-label="Kind of field {at + 1}"
							bind:value={field.kind}
							><option>text</option><option>choice</option><option>number</option><option>date</option></select
						>
						{#if field.kind === 'choice'}<input
								class="!w-56"
								aria-label="Choices of field {at + 1}, a comma between"
								value={field.choices.join(', ')}
								onchange={(event) =>
									(field.choices = event.currentTarget.value
										.split(',')
										.map((one) => one.trim())
										.filter(Boolean))}
							/>{/if}
						<label class="inline-flex items-center gap-1"
							><input type="checkbox" bind:checked={field.must} /> required</label
						><button type="button" class="why" onclick={() => s.fields.splice(at, 1)}>Remove</button>
						{#if errors[`field-${at}`]}<span class="wrong" role="alert">{errors[`field-${at}`]}</span>{/if}
					</div>{/each}
				<button
					type="button"
					class="button small mt-2"
					onclick={() =>
						s.fields.push({ id: `f${Date.now().toString(36)}`, label: '', kind: 'text', choices: [], must: false })}
					>Add a field</button
				>
				<label class="mt-3 flex items-center gap-2"
					><input type="checkbox" bind:checked={s.takesCodes} /> takes discount codes</label
				>
			</details>
			<details class="mt-3">
				<summary class="cursor-pointer font-semibold">Ways to pay, until when, and how many</summary>
				<fieldset class="ticks mt-2">
					<legend class="legend"
						>Ways of {till?.name ?? 'the till'}, narrowed to those that are ticked; all where none is</legend
					>{#each till?.ways ?? [] as way (way.id)}<label
							><input
								type="checkbox"
								checked={s.ways.includes(way.id)}
								onchange={(event) =>
									(s.ways = event.currentTarget.checked ? [...s.ways, way.id] : s.ways.filter((one) => one !== way.id))}
							/>
							{way.name}</label
						>{:else}<span class="text-clay">This till has no published line-up: nobody could pay.</span>{/each}
				</fieldset>
				<div class="grid grid-cols-[repeat(auto-fit,minmax(130px,1fr))] gap-x-4">
					<label class="field"
						><span class="legend">Last day</span><DayInput
							name="until"
							value={s.until}
							{locale}
							onday={(day) => (s.until = day)}
						/></label
					>
					<label class="field"
						><span class="legend">Cap</span><input
							type="number"
							min="1"
							value={s.cap ?? ''}
							onchange={(event) => (s.cap = event.currentTarget.value ? Number(event.currentTarget.value) : null)}
						/></label
					>
					<label class="field"
						><span class="legend">A place is held, minutes</span><input
							type="number"
							min="5"
							bind:value={s.holdMinutes}
						/></label
					>
				</div>
			</details>
			<details class="mt-3">
				<summary class="cursor-pointer font-semibold">Look, and after paying</summary>
				<div class="grid grid-cols-2 gap-x-4">
					<label class="field"
						><span class="legend">Button says</span><select bind:value={s.button}
							><option value="pay">Go on to pay</option><option value="book">Book and pay</option><option value="donate"
								>Donate</option
							><option value="own">own words</option></select
						></label
					>
					{#if s.button === 'own'}<label class="field"
							><span class="legend">Own words</span><input bind:value={s.ownButton} />{#if errors.ownButton}<span
									class="wrong"
									role="alert">{errors.ownButton}</span
								>{/if}</label
						>{/if}
					<label class="field"
						><span class="legend">Colour</span><input bind:value={s.colour} placeholder="the till’s own" /></label
					>
					<label class="field"
						><span class="legend">Picture, at most 90 kB</span><input
							type="file"
							accept="image/png,image/jpeg,image/webp"
							onchange={(event) => void readPicture(event.currentTarget.files?.[0])}
						/>{#if errors.picture}<span class="wrong" role="alert">{errors.picture}</span>{/if}</label
					>
					<label class="field"
						><span class="legend">After paying</span><select bind:value={s.landing}
							><option value="receipt">the receipt</option><option value="own words">the receipt with own words</option
							><option value="address">an address of yours</option></select
						></label
					>
					{#if s.landing === 'own words'}<label class="field col-span-2"
							><span class="legend">Own words</span><textarea rows="2" bind:value={s.landingText}
							></textarea>{#if errors.landingText}<span class="wrong" role="alert">{errors.landingText}</span
								>{/if}</label
						>{/if}
					{#if s.landing === 'address'}<label class="field"
							><span class="legend">Address</span><input
								bind:value={s.landingAddress}
							/>{#if errors.landingAddress}<span class="wrong" role="alert">{errors.landingAddress}</span>{/if}</label
						>{/if}
				</div>
				{#if s.picture}<button type="button" class="button small mt-2" onclick={() => (s.picture = '')}
						>Take the picture away</button
					>{/if}
				<label class="mt-3 flex items-center gap-2"
					><input type="checkbox" bind:checked={s.sendsReceipt} /> send a receipt by mail</label
				>
				<label class="mt-1 flex items-center gap-2"
					><input type="checkbox" bind:checked={s.tellsBusiness} /> tell us of each payment</label
				>
			</details>
			<div class="act-bar mt-5">
				<button class="button main" data-save>{data.isNew ? 'Make pay link' : 'Save pay link'}</button>
			</div>
		</form>
		<div>
			<p class="flex gap-2 text-[12px]" role="group" aria-label="Width of the preview">
				<button type="button" class="button small" aria-pressed={width === 'phone'} onclick={() => (width = 'phone')}
					>Phone</button
				><button type="button" class="button small" aria-pressed={width === 'desk'} onclick={() => (width = 'desk')}
					>Desk</button
				>
			</p>
			<div class="preview mt-2" class:desk={width === 'desk'} inert aria-label="Preview">
				<PayerPage
					shop={data.shop}
					colour={s.colour || (till?.colour ?? '#6b2d2a')}
					test={till?.mode === 'test'}
					sum={s.asksFor === 'fixed sum' ? { number: fixedShown, currency: s.currency } : undefined}
					about={s.title}
				>
					{#if s.picture}<img src={s.picture} alt="" class="mb-3 max-h-40 w-full object-cover" />{/if}
					{#if s.about}<p class="mb-3 whitespace-pre-line">{s.about}</p>{/if}
					{#if s.asksFor === 'goods'}<ul>
							{#each s.goods as one (one.item)}{@const item = thing(one.item)}{@const price = item?.prices.find(
									(each) => each.currency === s.currency
								)}{#if item && price}<li class="border-rule grid grid-cols-[1fr_auto] gap-3 border-t py-2.5">
										<span
											><b>{item.name}</b><span class="quiet block text-[13px]">{price.price} {s.currency}</span></span
										>{#if one.fixed}<span>1 ×</span>{:else}<input class="!w-16" />{/if}
									</li>{/if}{/each}
						</ul>
					{:else if s.asksFor === 'free sum'}<label class="block text-[13px]"
							>How much, in {s.currency}<input class="!text-[22px]" /></label
						>{/if}
					{#each [['asksName', 'Name'], ['asksMail', 'Mail address'], ['asksPhone', 'Phone'], ['asksTaxNumber', 'Tax number'], ['asksAddress', 'Address']] as const as [key, label] (key)}{#if s[key] !== 'no'}<label
								class="mt-2 block text-[13px]">{label}{s[key] === 'may' ? ', if you like' : ''}<input /></label
							>{/if}{/each}
					{#each s.fields as field (field.id)}<label class="mt-2 block text-[13px]"
							>{field.label}{field.must ? '' : ', if you like'}<input /></label
						>{/each}
					<span class="act">{s.button === 'own' ? s.ownButton : BUTTONS[s.button]}</span>
				</PayerPage>
			</div>
		</div>
	</div>
	{#if data.stand}
		<h2>Code and page code</h2>
		<div class="flex flex-wrap items-start gap-6">
			<figure class="w-36 bg-white" aria-label="QR code of the link">
				<!-- eslint-disable-next-line svelte/no-at-html-tags (drawn by the server from an address of its own) -->
				{@html data.code}
			</figure>
			<div class="min-w-0 flex-1">
				<p class="flex gap-2">
					<a class="button small" href={data.png} download="{data.stand.slug}.png">Code as PNG</a><a
						class="button small"
						href="data:image/svg+xml;utf8,{encodeURIComponent(data.code)}"
						download="{data.stand.slug}.svg">Code as SVG</a
					>
				</p>
				<label class="field"
					><span class="legend">On a web page: a button, or a card with data-as="card"</span><textarea
						readonly
						rows="2"
						class="mono">{inset}</textarea
					></label
				>
				{#if s.asksFor === 'free sum'}<label class="field"
						><span class="legend">Address template for an outside program, in {s.currency}</span><textarea
							readonly
							rows="2"
							class="mono">{template}</textarea
						></label
					>{/if}
			</div>
		</div>
		<h2>Addresses with fields filled in</h2>
		<form method="post" action="?/prefill" use:enhance={keep as never} class="flex flex-wrap items-end gap-2">
			{#each data.prefilled as name (name)}<label class="text-[12px]"
					><span class="quiet block">{name}</span><input {name} class="!w-32" /></label
				>{/each}
			<button class="button">Make address</button>
		</form>
		{#if told.prefilled}<p class="mono mt-2 break-all" id="prefilled">{told.prefilled}</p>{/if}
		<form
			method="post"
			action="?/prefillMany"
			enctype="multipart/form-data"
			use:enhance={keep as never}
			class="mt-3 flex items-end gap-2 text-[12px]"
		>
			<label
				><span class="quiet block">For many: CSV with columns {data.prefilled.join(', ')}</span><input
					type="file"
					name="file"
					accept=".csv,text/csv"
					class="!w-auto"
				/></label
			><button class="button">Make addresses</button>
		</form>
		{#if told.csv}<p class="mt-2">
				<a
					class="button"
					href="data:text/csv;charset=utf-8,{encodeURIComponent(told.csv)}"
					download="{data.stand.slug}-addresses.csv">Download the addresses</a
				>
			</p>{/if}
		<form method="post" action="?/close" use:enhance class="mt-5">
			<input type="hidden" name="on" value={data.isClosed ? 'no' : 'yes'} /><button class="button"
				>{data.isClosed ? 'Open the link again' : 'Close the link'}</button
			>
		</form>
	{/if}
</Sheet>
<Workings>
	<h2>History</h2>
	{#each data.history as one (one.revision)}<p class="step !block">
			{one.says}<span class="sub">{one.when}, {one.by}</span>
		</p>{:else}<p class="quiet">Nothing is stored yet. The address is made with the link and never changes.</p>{/each}
</Workings>

<style>
	.preview {
		width: 300px;
		max-width: 100%;
		max-height: 620px;
		overflow: hidden auto;
		border: 1px solid var(--rule-strong);
	}
	.preview.desk {
		width: 460px;
		max-width: 100%;
	}
	.preview :global(.payer) {
		min-height: 0;
	}
	.act {
		display: block;
		text-align: center;
		padding: 12px;
		border-radius: 3px;
		font-weight: 600;
		margin-top: 14px;
		background: var(--till);
		color: #fff;
	}
</style>
